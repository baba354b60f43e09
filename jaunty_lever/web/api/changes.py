"""Changing a project: edits, undo and redo."""

from typing import Any

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field

from jaunty_lever.core.edits import AnyEdit, Batch

from .. import lasting
from ..bringing import Coming
from ..lasting import told
from ..site import site_of

router = APIRouter(prefix="/api/projects/{project}")


class Change(BaseModel):
    """Edits as one step. `by` names the tab, `revision` the state it was looking at.

    Edits that last are worked out beside the server. With `aside` the answer does not wait for them: it names what is
    `working`, and `/api/bringing/{working}` tells how far it is and at last what `came` of it; deleting that stops it.
    """

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [
                {
                    "edits": [
                        {"kind": "set value", "scene": "evening-quay", "parameter": "dusk.value", "text": "20 + 30"},
                        {
                            "kind": "add modifier",
                            "scene": "evening-quay",
                            "parameter": "sign.rotation",
                            "modifier": "wiggle",
                        },
                    ],
                    "label": "Dusk falls, the sign sways",
                }
            ]
        }
    )

    edits: list[AnyEdit] = Field(min_length=1, max_length=2000)
    label: str = Field(default="", max_length=200)
    by: str = Field(default="", max_length=40)
    revision: int | None = None
    aside: bool = False


class Step(BaseModel):
    """Which tab steps through the history."""

    model_config = ConfigDict(json_schema_extra={"examples": [{}]})

    by: str = Field(default="", max_length=40)


@router.post("/edits")
def edit(project: str, change: Change, request: Request) -> dict[str, Any]:
    """Apply edits to the newest state; all of them or none."""
    site = site_of(request)
    step = (
        change.edits[0]
        if len(change.edits) == 1 and not change.label
        else Batch(edits=tuple(change.edits), named=change.label)
    )
    before = site.store.state(project)
    if not step.lasts(before.project):
        state, label = site.store.edit(project, step)
    elif change.aside:
        return lasting.begin(site, project, step, change.by)
    else:
        state, label = lasting.edit(site, project, step, Coming())
    site.announce(project, state, label, change.by)
    return told(state, label, before)


@router.post("/undo")
def undo(project: str, step: Step, request: Request) -> dict[str, Any]:
    """Back to the state before the last edit."""
    return _stepped(project, step, request, back=True)


@router.post("/redo")
def redo(project: str, step: Step, request: Request) -> dict[str, Any]:
    """Forward again."""
    return _stepped(project, step, request, back=False)


def _stepped(project: str, step: Step, request: Request, back: bool) -> dict[str, Any]:
    site = site_of(request)
    before = site.store.state(project)
    done = (site.store.undo if back else site.store.redo)(project)
    if done is None:
        return told(site.store.state(project), "")
    state, label = done
    site.announce(project, state, f"{'Undone' if back else 'Redone'}: {label}", step.by)
    # Where it is seen, for pages that show another scene.
    where = before.undo_in if back else before.redo_in
    scene = (state.project.scene(where) or before.project.scene(where)) if where is not None else None
    return told(state, label) | {"scene": where, "scene_name": scene.name if scene is not None else ""}
