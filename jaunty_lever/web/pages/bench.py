"""The Bench: stage, layers, chain and levers."""

from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse, RedirectResponse, Response

from jaunty_lever.core.document.counterparts import counterparts
from jaunty_lever.core.document.layers import ArrayLayer
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.space import CameraLayer
from jaunty_lever.core.evaluation.depth import camera_of, uses_depth
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.storage.store import State

from ..site import site_of
from ..templating import page
from .fields import of_several
from .gauge_views import gauge_views
from .layer_parts import FILTER_KINDS
from .moving import what_moves
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


def others_of(scene: Scene, parameter: str | None, chosen: tuple[str, ...]) -> tuple[str, str] | None:
    """Of how many chosen layers besides its own a chain's values are changed, in words and by name; None where it is
    its own alone."""
    index = scene.index
    node = index.parameters.get(parameter or "")
    if node is None or node.top not in chosen or len(chosen) < 2:
        return None
    having = [index.parameters[one].top for one in counterparts(index, node.id, chosen)]
    without = [layer for layer in chosen if layer != node.top and layer not in having]
    words = f"and {len(having)} {'other' if len(having) == 1 else 'others'}" if having else "alone"
    told = (
        "What is changed here is changed on each: " + ", ".join(index.layers[one].name for one in having)
        if having
        else ""
    )
    if without:
        told += ". " if told else ""
        told += "Without it: " + ", ".join(index.layers[one].name for one in without)
    return words, f"{told}."


def panel_values(state: State, scene: Scene, request: Request) -> dict[str, Any]:
    """What the panels need, from the state and the query: layer (several), parameter."""
    chosen = tuple(layer for layer in request.query_params.getlist("layer") if layer in scene.index.layers)
    parameter = request.query_params.get("parameter")
    if parameter not in scene.index.parameters:
        parameter = _first_value(scene, chosen[-1]) if chosen else None
    sent_before = site_of(request).sent_rows
    listed, chain = rows(scene, chosen, parameter), chain_view(scene, parameter) if parameter else None
    if len(chosen) > 1:
        opened = next(k for k, row in enumerate(listed) if row.id == chosen[-1])
        listed[opened] = of_several(scene.index, chosen, listed[opened])
        chain = of_several(scene.index, chosen, chain)
    sent = sent_rows(listed, sent_before.told(request.query_params.get("rows")))
    sent_before.remember(sent)
    return {
        "project": state.project,
        "scene": scene,
        "state": state,
        "sent": sent,
        "closed_row": closed_row,
        "filter_kinds": FILTER_KINDS,
        "chain": chain,
        "moving": what_moves(scene) if chain is None else None,
        "others": others_of(scene, parameter, chosen),
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
