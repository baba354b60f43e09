"""Where the levers of a visitor's own copy stand."""

from typing import Any

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field

from jaunty_lever.core.document.quantity import with_unit
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import AnyEdit
from jaunty_lever.core.edits.snapshots import known_values, standing_values
from jaunty_lever.core.edits.values import SetValue
from jaunty_lever.core.view.scene_view import scene_in, tried

from ..site import site_of

router = APIRouter()


class Own(BaseModel):
    """A visitor's own copy: edits on top of the scene as it is kept."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {"edits": [{"kind": "set value", "scene": "evening-quay", "parameter": "dusk.value", "value": 90}]}
            ]
        }
    )

    edits: list[AnyEdit] = Field(default_factory=list, max_length=2000)
    frame: float = 0.0


@router.post("/api/projects/{project}/scenes/{scene}/levers")
def levers(project: str, scene: str, own: Own, request: Request) -> dict[str, Any]:
    """What the levers of a visitor's copy stand at, by id; and the snapshots that there are now."""
    whole = site_of(request).store.state(project).project
    here = scene_in(whole, scene)
    mine = scene_in(tried(whole, own.edits), scene)
    return {
        "values": standing_values(mine, own.frame),
        "stopped": stopped(here, own.edits),
        "snapshots": [[one.id, one.name, sorted(known_values(here, one))] for one in here.snapshots],
    }


def stopped(scene: Scene, edits: list[AnyEdit]) -> dict[str, str]:
    """Where what a visitor asked for lies beyond a lever's firm ends, by lever: between which it goes."""
    told = {}
    for edit in edits:
        node = scene.index.parameters.get(edit.parameter) if isinstance(edit, SetValue) and edit.held else None
        if node is None or node.top not in scene.index.levers or not isinstance(edit, SetValue):
            continue
        lever = scene.index.levers[node.top]
        free = edit.changed(held=False).apply_to(scene).index.parameters[node.id].parameter
        held = edit.apply_to(scene).index.parameters[node.id].parameter
        if free.keys != held.keys or free.rest != held.rest:
            ends = with_unit(lever.low, lever.spec.unit), with_unit(lever.high, lever.spec.unit)
            told[lever.id] = f"{lever.name} goes from {ends[0]} to {ends[1]}."
    return told
