"""What a formula editor asks while its text is typed: is it whole, and which words could come next."""

from typing import Any

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field

from jaunty_lever.core.document.quantity import with_unit
from jaunty_lever.core.document.specs import components
from jaunty_lever.core.edits.base import barred_to, modifier_of, place_of
from jaunty_lever.core.edits.formulas import formula_of
from jaunty_lever.core.evaluation.graph import path_between
from jaunty_lever.core.formula.library import FUNCTIONS, VALUES
from jaunty_lever.core.formula.names import mistake_in, shown, spelled
from jaunty_lever.core.formula.nodes import MOST_LETTERS
from jaunty_lever.core.motion.formula import Formula
from jaunty_lever.core.view.scene_view import scene_in

from ..site import site_of

router = APIRouter(prefix="/api/projects/{project}/scenes/{scene}/formula")


class Draft(BaseModel):
    """A text as it stands in the editor, for a parameter or for a formula that is there."""

    model_config = ConfigDict(
        json_schema_extra={"examples": [{"parameter": "lantern3.rotation", "text": "base + 8 * osc(0.5 * t)"}]}
    )

    parameter: str
    modifier: str | None = None
    text: str = Field(max_length=4 * MOST_LETTERS)


@router.post("/check")
def check(project: str, scene: str, draft: Draft, request: Request) -> dict[str, Any]:
    """The first mistake with its characters (UTF-16 code units, as browsers count), or null."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    node = place_of(here, draft.parameter)
    was = modifier_of(here, draft.modifier).modifier if draft.modifier else None
    stored = was.text if isinstance(was, Formula) else ""
    wrong = mistake_in(draft.text, node.spec, here.index, barred_to(here, node.id), stored)
    if wrong is None:
        return {"mistake": None}
    units = [len(draft.text[:at].encode("utf-16-le")) // 2 for at in (wrong.start, wrong.end)]
    return {"mistake": {"message": wrong.message, "start": units[0], "end": units[1]}}


@router.get("/words")
def words(project: str, scene: str, parameter: str, request: Request, component: int | None = None) -> dict[str, Any]:
    """The formula as it is shown now, and everything that may stand in one for this parameter."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    index = here.index
    node = place_of(here, parameter)
    formula = formula_of(node, component)
    axes = node.spec.component_names
    axis = f" {axes[component]}" if component is not None and component < len(axes) else ""
    names = []
    for other in index.parameters.values():
        deep = other.within is not None and other.top not in index.levers
        if other.spec.kind == "text" or deep or path_between(index, other.id, parameter) is not None:
            continue
        value = other.parameter.keys[0].value if other.parameter.keys else other.parameter.rest
        numbers = components(value, other.spec)
        said = ", ".join(with_unit(n, other.spec.unit) for n in numbers[:3]) if other.spec.numeric else str(value)
        names.append({"name": spelled(other), "kind": "lever" if other.top in index.levers else "value", "now": said})
    return {
        "text": shown(formula.text, index) if formula else "",
        "modifier": formula.id if formula else None,
        "label": f"{node.label}{axis}",
        "names": names[:4000],
        "functions": [{"name": f.name, "signature": f.signature, "help": f.help} for f in FUNCTIONS.values()],
        "values": [{"name": name, "help": told} for name, told in VALUES.items()],
    }
