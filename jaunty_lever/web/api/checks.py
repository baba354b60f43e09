"""What the program notices about a scene: the list behind the count in the head, and how a perfect loop is made."""

from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import JSONResponse

from jaunty_lever.core.checks.seam import jumps, length_edit, perfect, rounding, told
from jaunty_lever.core.evaluation.periods import moving
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.view.scene_view import scene_in

from ..looking import Looked
from ..site import site_of

router = APIRouter(prefix="/api/projects/{project}/scenes/{scene}")


@router.get("/checks")
def checks(project: str, scene: str, request: Request, wait: bool = False) -> JSONResponse:
    """What was found so far in the scene as it is stored now; `x-looked-at` tells how many of its frames were drawn.

    All of it is found once these are all frames. Pages hear by their news of more (`looked`); `wait`: a program that
    has no ear for those gets its answer when it is whole.
    """
    found = looked(project, scene, request)
    while wait and not found.finished.wait(1.0):
        # Changed meanwhile: what is kept now is asked for.
        found = looked(project, scene, request)
    done = found.total if found.finished.is_set() else min(found.done, found.total - 1)
    return JSONResponse(found.found, headers={"x-looked-at": f"{done}/{found.total}"})


def looked(project: str, scene: str, request: Request) -> Looked:
    """What is known of the scene as it is stored now."""
    site = site_of(request)
    state = site.store.state(project)
    return site.looking.of(project, scene, scene_in(state.project, scene).length, state.revision)


@router.get("/loop")
def loop(project: str, scene: str, request: Request) -> dict[str, Any]:
    """Whether the scene comes back to its start, when all that repeats does, and what would make it fit."""
    site = site_of(request)
    here = scene_in(site.store.state(project).project, scene)
    sampler = Sampler(here, site.cache)
    found, whole = list(jumps(sampler)), perfect(here)
    fitting = rounding(here)
    said = []
    for jump in found:
        said.append([jump.node.id, jump.node.label, told(jump).rstrip(",")])
    return {
        "jumps": said,
        "length": here.length,
        "frames": whole.frames,
        "periodic": whole.count,
        "moves": bool(moving(here.index)),
        "loops": here.loops,
        # Keyed motion that ends as it began is back, though nothing makes it repeat.
        "never": [[node.id, node.label] for node in whole.never if node.id in {jump.node.id for jump in found}],
        "set": [length_edit(whole.frames)] if whole.frames and whole.frames != here.length else [],
        "round": list(fitting),
    }
