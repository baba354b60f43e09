"""Where the levers of a visitor's own copy stand."""

from typing import Any

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field

from jaunty_lever.core.edits import AnyEdit
from jaunty_lever.core.edits.snapshots import known_values, standing_values
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
        "snapshots": [[one.id, one.name, sorted(known_values(here, one))] for one in here.snapshots],
    }
