"""Linkage: who drives whom in a scene, drawn from driver to follower."""

from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.index import SceneIndex
from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.trains import fraction_words, train_of
from jaunty_lever.core.ties import ties
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.storage.store import State

from ..site import site_of
from ..templating import page
from .fields import fields_unit
from .views import scene_on_page

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/linkage")


def _box(index: SceneIndex, node: ParameterNode) -> dict[str, Any]:
    lever = node.top in index.levers
    names = [label for _, label in node.trail[1:]]
    inner = f"{names[0]} · {names[-1]}" if len(names) > 2 else " ".join(names)
    train = train_of(index, node.id)
    told = ""
    if train is not None and train.first != node.id:
        told = f"{fraction_words(train.wheels[node.id])} of {index.parameters[train.first].label}"
    return {
        "id": node.id,
        "owner": node.top,
        "label": inner or ("value" if lever else node.label),
        "unit": fields_unit(node.spec),
        "wide": node.spec.kind == "vector",
        "kind": node.spec.kind,
        "options": list(node.spec.options),
        "train": told,
        "within": node.within,
        "name": node.label,
    }


def graph(scene: Scene) -> dict[str, Any]:
    """Boxes (parameters that a tie leads from or to), cards (what they belong to, in order), and ties."""
    index = scene.index
    found = list(ties(index))
    wanted = {tie.driver for tie in found} | {tie.follower for tie in found}
    boxes = [_box(index, node) for node in index.parameters.values() if node.id in wanted]
    owners = list(dict.fromkeys(box["owner"] for box in boxes))
    cards = [
        {
            "id": owner,
            "name": index.levers[owner].name
            if owner in index.levers
            else index.layers[owner].name
            if owner in index.layers
            else scene.name,
            "lever": owner in index.levers,
            "group": index.levers[owner].group if owner in index.levers else "",
        }
        for owner in owners
    ]
    lines = [
        {
            "driver": tie.driver,
            "follower": tie.follower,
            "modifier": tie.modifier,
            "does": tie.does,
            "words": tie.words,
            "written": tie.written,
        }
        for tie in found
    ]
    # A setting that is driven has its part in the value whose modifier it belongs to.
    hosts = [{"from": box["id"], "to": box["within"]} for box in boxes if box["within"] in wanted]
    return {"boxes": boxes, "cards": cards, "ties": lines, "hosts": hosts}


def _values(state: State, scene: Scene, request: Request) -> dict[str, Any]:
    return {
        "project": state.project,
        "scene": scene,
        "state": state,
        "graph": graph(scene),
        "chosen": request.query_params.getlist("layer"),
        "parameter": request.query_params.get("parameter"),
        "scene_list": [[other.id, other.name] for other in state.project.scenes],
    }


@router.get("")
def linkage(project: str, scene: str, request: Request) -> HTMLResponse:
    """The whole page."""
    state = site_of(request).store.state(project)
    return page("linkage.html", **_values(state, scene_on_page(state, scene), request))


@router.get("/panels")
def panels(project: str, scene: str, request: Request) -> HTMLResponse:
    """The parts that change with the document."""
    state = site_of(request).store.state(project)
    return page("linkage_panels.html", **_values(state, scene_in(state.project, scene), request))
