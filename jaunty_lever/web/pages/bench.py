"""The Bench: stage, layers, chain and levers."""

from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse, RedirectResponse, Response

from jaunty_lever.core.document.layers import ArrayLayer
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.space import CameraLayer
from jaunty_lever.core.evaluation.depth import camera_of, uses_depth
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.storage.store import State

from ..site import site_of
from ..templating import page
from .array_views import gauge_views
from .layer_parts import FILTER_KINDS
from .sent_rows import closed_row, sent_rows
from .views import chain_view, lever_groups, rows, scene_on_page

router = APIRouter()


@router.get("/projects/{project}")
def first_scene(project: str, request: Request) -> Response:
    """The Bench of the project's first scene, or the Shelf when it has none."""
    state = site_of(request).store.state(project)
    if not state.project.scenes:
        return RedirectResponse("/")
    return RedirectResponse(f"/projects/{project}/scenes/{state.project.scenes[0].id}/bench")


def _first_value(scene: Scene, layer: str) -> str:
    """The value whose chain is open when a layer is chosen: of an array, where its copies stand."""
    found = scene.index.layers[layer]
    if isinstance(found, CameraLayer):
        return f"{layer}.around"
    if not found.drawn:
        return f"{layer}.position"
    return f"{layer}.copy_position" if isinstance(found, ArrayLayer) else f"{layer}.rotation"


def panel_values(state: State, scene: Scene, request: Request) -> dict[str, Any]:
    """What the panels need, from the state and the query: layer (several), parameter."""
    chosen = tuple(layer for layer in request.query_params.getlist("layer") if layer in scene.index.layers)
    parameter = request.query_params.get("parameter")
    if parameter not in scene.index.parameters:
        parameter = _first_value(scene, chosen[-1]) if chosen else None
    sent_before = site_of(request).sent_rows
    sent = sent_rows(rows(scene, chosen, parameter), sent_before.told(request.query_params.get("rows")))
    sent_before.remember(sent)
    return {
        "project": state.project,
        "scene": scene,
        "state": state,
        "sent": sent,
        "closed_row": closed_row,
        "filter_kinds": FILTER_KINDS,
        "chain": chain_view(scene, parameter) if parameter else None,
        "groups": lever_groups(scene, parameter),
        "deep": uses_depth(scene.index),
        "camera": camera_of(scene),
        "gauges": gauge_views(scene, chosen, parameter),
        "chosen": chosen,
        "parameter": parameter,
        "scene_list": [[other.id, other.name] for other in state.project.scenes],
    }


@router.get("/projects/{project}/scenes/{scene}/bench")
def bench(project: str, scene: str, request: Request) -> HTMLResponse:
    """The whole page."""
    site = site_of(request)
    state = site.store.state(project)
    here = scene_on_page(state, scene)
    site.foreseen.begin((project, scene, state.revision), here)
    return page("bench.html", **panel_values(state, here, request))


@router.get("/projects/{project}/scenes/{scene}/panels")
def panels(project: str, scene: str, request: Request) -> HTMLResponse:
    """The panels alone, to be swapped in after a change."""
    state = site_of(request).store.state(project)
    return page("panels.html", **panel_values(state, scene_in(state.project, scene), request))
