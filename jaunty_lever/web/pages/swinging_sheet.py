"""The sheet that lets copies go round at paces of their own, and what it tells of where they meet again."""

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.refused import Refused
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits.base import modifier_of
from jaunty_lever.core.edits.swinging import (
    MOST_ROUNDS,
    SwingOutOfStep,
    begins_together,
    paced,
    rounds_of,
    swings,
    together,
)
from jaunty_lever.core.view.scene_view import scene_in

from ..site import site_of
from ..templating import page

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/sheets")

MOST_TOLD = 6
_MOST_DIGITS = 12


@router.get("/swing-out")
def swing_out(project: str, scene: str, modifier: str, request: Request) -> HTMLResponse:
    """How many rounds the copies of a value make in the scene, at the least and at the most."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    pace, _ = paced(here, modifier)
    rounds = rounds_of(here, modifier)
    least, most = min(rounds, default=0), max(rounds, default=0)
    own = pace.parameter
    ours, by = swings(own), "most"
    if ours and len(own.chain) == 1 and len(rounds) > 1:
        by, most = "step", abs(rounds[1] - rounds[0])
    elif least == most:
        # Neighbours differ by one, if there is room for that.
        least = max(1, least)
        most = min(least + max(len(rounds) - 1, 1), MOST_ROUNDS)
    has = [*(["keys"] if own.keys else []), *dict.fromkeys(step.title for step in own.chain)]
    return page(
        "sheets/swing_out.html",
        modifier=modifier_of(here, modifier).modifier,
        pace=pace,
        scene=here,
        least=least,
        most=most,
        by=by,
        has="" if ours else " and ".join(has),
        told=_told(here, modifier, least, most, by),
        told_at=f"/projects/{project}/scenes/{scene}/sheets/swing-out/told?modifier={modifier}",
    )


@router.get("/swing-out/told")
def told(
    project: str, scene: str, modifier: str, request: Request, least: str = "", most: str = "", by: str = "most"
) -> HTMLResponse:
    """What numbers of rounds come to."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    given = [one.strip() for one in (least, most)]
    if not all(one.isdecimal() for one in given):
        return HTMLResponse("Both are whole numbers of rounds, such as 12 and 40.")
    if any(len(one) > _MOST_DIGITS or int(one) > MOST_ROUNDS for one in given):
        return HTMLResponse(f"At most {MOST_ROUNDS:,} rounds in a scene.")
    return HTMLResponse(_told(here, modifier, int(least), int(most), by))


def _told(scene: Scene, modifier: str, least: int, most: int, by: str) -> str:
    """How many numbers of rounds there are, and where all copies are together again, in words."""
    try:
        asked = {"scene": scene.id, "modifier": modifier, "least": least, "step" if by == "step" else "most": most}
        made = SwingOutOfStep.model_validate(asked).apply_to(scene)
    except Refused as refused:
        return str(refused.message)
    except ValueError:
        return "At least one round more for the last than for the first."
    rounds = rounds_of(made, modifier)
    if len(rounds) < 2:
        return "There is one copy: it has nobody to be out of step with."
    many, frames = len(set(rounds)), together(rounds, scene.length)
    shared = "each another number of rounds" if many == len(rounds) else f"{many} numbers of rounds among them"
    places = [f"{frame:g}" for frame in frames[:MOST_TOLD]]
    more = " and so on" if len(frames) > MOST_TOLD else ""
    where = f"frame {places[0]}, where the scene ends" if len(frames) == 1 else f"frames {', '.join(places)}{more}"
    found = modifier_of(scene, modifier)
    begun = begins_together(scene, scene.index.parameters[found.parameter], found.modifier)
    again = "all together again" if begun else "all again as they begin, each at its own moment,"
    return f"{len(rounds):,} copies, {shared}; {again} at {where}."
