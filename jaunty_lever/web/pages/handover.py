"""Handover: the stage and the levers for somebody else, and nothing of the rig."""

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse, RedirectResponse, Response

from jaunty_lever.core.edits.snapshots import known_values
from jaunty_lever.storage.store import NotThere

from ..site import site_of
from ..templating import page
from .exports import asked_here, uses
from .views import lever_groups, scene_on_page

router = APIRouter()


@router.get("/handover/{project}")
def first(project: str, request: Request) -> Response:
    """The Handover page of the project's first scene."""
    state = site_of(request).store.state(project)
    if not state.project.scenes:
        raise NotThere("This project has no scene to hand over yet.")
    return RedirectResponse(f"/handover/{project}/{state.project.scenes[0].id}")


@router.get("/handover/{project}/{scene}")
def handover(project: str, scene: str, request: Request) -> HTMLResponse:
    """The whole page."""
    state = site_of(request).store.state(project)
    here = scene_on_page(state, scene)
    snapshots = [[one.id, one.name, sorted(known_values(here, one))] for one in here.snapshots]
    moves = here.plays and any(node.parameter.moves for node in here.index.parameters.values())
    return page(
        "handover.html",
        state=state,
        groups=lever_groups(here, None),
        snapshots=snapshots,
        moves=moves,
        uses=[one for one in uses() if one[1].draws],
        **asked_here(here, state.project, request) | {"own": True},
    )
