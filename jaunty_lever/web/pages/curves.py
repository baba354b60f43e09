"""Curves: all that moves in a scene, over time, on one sheet."""

from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import components
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.storage.store import State

from ..site import site_of
from ..templating import page
from .views import scene_on_page

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/curves")

FILTERS = (("layer", "Chosen layer"), ("moving", "All that moves"), ("rigged", "Rigged"), ("levers", "Levers"))
MOST_LANES = 130


def _wanted(scene: Scene, node: ParameterNode, which: str, layers: set[str], words: list[str]) -> bool:
    own = node.parameter
    if not (own.keys or own.chain) or node.spec.kind == "text":
        return False
    lever = node.top in scene.index.levers
    fits = {
        "layer": node.top in layers,
        "moving": True,
        "rigged": bool(own.chain),
        "levers": lever,
    }.get(which, True)
    return fits and all(word in node.label.casefold() for word in words)


def lanes(scene: Scene, request: Request) -> tuple[str, list[dict[str, Any]], int]:
    """Which filter is on, the lanes it lets through (at most MOST_LANES), and how many there are."""
    index = scene.index
    chosen = [layer for layer in request.query_params.getlist("layer") if layer in index.layers]
    parameter = request.query_params.get("parameter")
    if not chosen and parameter is not None and parameter in index.parameters:
        chosen = [index.parameters[parameter].top]
    which = request.query_params.get("show") or ("layer" if chosen else "moving")
    words = request.query_params.get("named", "").casefold().split()
    found = [node for node in index.parameters.values() if _wanted(scene, node, which, set(chosen), words)]
    return which, [_lane(node) for node in found[:MOST_LANES]], len(found)


def _lane(node: ParameterNode) -> dict[str, Any]:
    own, spec = node.parameter, node.spec
    keys = [
        [
            key.frame,
            key.ease if isinstance(key.ease, str) else list(key.ease),
            list(components(key.value, spec)),
            key.value,
        ]
        for key in own.keys
    ]
    idle = bool(own.chain) and (own.bypassed or any(modifier.bypassed for modifier in own.chain))
    return {
        "parameter": node.id,
        "label": node.label,
        "name": node.trail[-1][1],
        "owner": " / ".join(label for _, label in node.trail[:-1]),
        "unit": spec.unit,
        "kind": spec.kind,
        "stepped": spec.stepped,
        "keys": keys,
        "rigged": bool(own.chain),
        "idle": idle,
    }


def _values(state: State, scene: Scene, request: Request) -> dict[str, Any]:
    which, shown, count = lanes(scene, request)
    return {
        "project": state.project,
        "scene": scene,
        "state": state,
        "which": which,
        "lanes": shown,
        "count": count,
        "filters": FILTERS,
        "named": request.query_params.get("named", ""),
        "most": MOST_LANES,
        "chosen": request.query_params.getlist("layer"),
        "parameter": request.query_params.get("parameter"),
        "scene_list": [[other.id, other.name] for other in state.project.scenes],
    }


@router.get("")
def curves(project: str, scene: str, request: Request) -> HTMLResponse:
    """The whole page."""
    state = site_of(request).store.state(project)
    return page("curves.html", **_values(state, scene_on_page(state, scene), request))


@router.get("/panels")
def panels(project: str, scene: str, request: Request) -> HTMLResponse:
    """The parts that change with the document, to be swapped in."""
    state = site_of(request).store.state(project)
    return page("curves_panels.html", **_values(state, scene_in(state.project, scene), request))
