"""Edits of formulas."""

from typing import Literal

from pydantic import Field

from ..document.ids import Id, new_id
from ..document.nodes import ParameterNode
from ..document.parameter import Parameter
from ..document.scene import Scene
from ..document.specs import ParameterSpec
from ..formula.names import bind
from ..formula.nodes import MOST_LETTERS
from ..motion.fits import offered
from ..motion.formula import Formula
from .base import Refused, SceneEdit, barred_to, modifier_of, place_of, with_modifier_fields
from .chains import with_modifier


def _alone(component: int, spec: ParameterSpec) -> tuple[float, ...]:
    """Shares of which one component has all."""
    return tuple(float(k == component) for k in range(spec.components))


def formula_of(node: ParameterNode, component: int | None = None) -> Formula | None:
    """The last formula of a value as a whole, or of one of its components alone."""
    single = component is None or node.spec.components == 1
    for modifier in reversed(node.parameter.chain):
        if isinstance(modifier, Formula):
            reached = [k for k in range(node.spec.components) if modifier.reaches(k)]
            if (len(reached) == node.spec.components) if single else (reached == [component]):
                return modifier
    return None


class WriteFormula(SceneEdit):
    """Write a formula: the text of a Formula modifier, or of a parameter, which gets one when it has none.

    Names are bound to what they mean. A text with a mistake in it is kept as it was typed. `component` writes it for
    that one alone: the others are as they were.
    """

    kind: Literal["write formula"] = "write formula"
    parameter: str | None = None
    modifier: str | None = None
    component: int | None = Field(default=None, ge=0, le=3)
    text: str
    id: Id = Field(default_factory=lambda: new_id("m"))

    def apply_to(self, scene: Scene) -> Scene:
        text = self.text.strip().removeprefix("=").strip()
        if len(text) > MOST_LETTERS:
            raise Refused(f"A formula has at most {MOST_LETTERS:,} characters; this has {len(text):,}.", self._at())
        if not text:
            raise Refused("Nothing was written. A formula is a line such as base * 2.", self._at())
        modifier = self._modifier(scene)
        parameter = modifier_of(scene, modifier).parameter if modifier else str(self.parameter)
        target = place_of(scene, parameter)
        old = modifier_of(scene, modifier).modifier if modifier else None
        was = old.text if isinstance(old, Formula) else ""
        bound = bind(text, scene.index, barred_to(scene, parameter), was)
        if modifier:
            return with_modifier_fields(scene, modifier, text=bound)
        if not offered(Formula, target.spec):
            raise Refused(
                f"{target.spec.label} is a {target.spec.kind}, which cannot be written as a formula.", parameter
            )
        made = Formula(id=self.id, text=bound)
        if self.component is not None and target.spec.components > 1:
            made = made.changed(weights=Parameter(rest=_alone(self.component, target.spec)))
        return with_modifier(scene, parameter, made, None)

    def _at(self) -> str:
        return self.modifier or self.parameter or ""

    def _modifier(self, scene: Scene) -> str | None:
        """The formula that is meant: the one named, or the parameter's last."""
        if self.modifier is not None:
            if not isinstance(modifier_of(scene, self.modifier).modifier, Formula):
                raise Refused("This modifier is no formula.", self.modifier)
            return self.modifier
        if self.parameter is None:
            raise Refused("Name a parameter or a formula.")
        found = formula_of(place_of(scene, self.parameter), self.component)
        return found.id if found is not None else None

    def label_in(self, scene: Scene) -> str:
        modifier = self._modifier(scene)
        parameter = modifier_of(scene, modifier).parameter if modifier else str(self.parameter)
        return f"{place_of(scene, parameter).title}: formula written"
