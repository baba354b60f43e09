"""Linkage: who drives whom in a scene, drawn from driver to follower."""

from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.index import Place, SceneIndex
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.trains import fraction_words, train_of
from jaunty_lever.core.ties import ties
from jaunty_lever.storage.store import State

from ..api.evaluate import scene_in
from ..site import page, site_of
from .views import fields_unit, scene_on_page

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/linkage")


def _box(index: SceneIndex, place: Place) -> dict[str, Any]:
    lever = place.top in index.levers
    names = [label for _, label in place.trail[1:]]
    inner = f"{names[0]} · {names[-1]}" if len(names) > 2 else " ".join(names)
    train = train_of(index, place.id)
    told = ""
    if train is not None and train.first != place.id:
        told = f"{fraction_words(train.wheels[place.id])} of {index.places[train.first].label}"
    return {
        "id": place.id, "owner": place.top, "label": inner or ("value" if lever else place.label), "unit": fields_unit(place.slot),
        "kind": place.slot.kind, "options": list(place.slot.options), "train": told, "within": place.within, "name": place.label,
    }  # fmt: skip


def graph(scene: Scene) -> dict[str, Any]:
    """Boxes (parameters that a tie leads from or to), cards (what they belong to, in order), and ties."""
    index = scene.index
    found = list(ties(index))
    wanted = {tie.driver for tie in found} | {tie.follower for tie in found}
    boxes = [_box(index, place) for place in index.places.values() if place.id in wanted]
    owners = list(dict.fromkeys(box["owner"] for box in boxes))
    cards = [
        {"id": owner, "name": index.levers[owner].name if owner in index.levers else index.layers[owner].name if owner in index.layers else scene.name,
         "lever": owner in index.levers, "group": index.levers[owner].group if owner in index.levers else ""}
        for owner in owners
    ]  # fmt: skip
    lines = [
        {"driver": tie.driver, "follower": tie.follower, "modifier": tie.modifier, "does": tie.does, "words": tie.words, "written": tie.written}
        for tie in found
    ]  # fmt: skip
    # A setting that is driven has its part in the value whose modifier it belongs to.
    hosts = [{"from": box["id"], "to": box["within"]} for box in boxes if box["within"] in wanted]
    return {"boxes": boxes, "cards": cards, "ties": lines, "hosts": hosts}


def _values(state: State, scene: Scene, request: Request) -> dict[str, Any]:
    return {
        "project": state.project, "scene": scene, "state": state, "graph": graph(scene),
        "chosen": request.query_params.getlist("layer"), "parameter": request.query_params.get("parameter"),
        "scene_list": [[other.id, other.name] for other in state.project.scenes],
    }  # fmt: skip


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
