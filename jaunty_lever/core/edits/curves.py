"""Edits of curves over a passage: all points of one at once, and those that a project keeps by name."""

from typing import Literal

from pydantic import Field

from ..document.curves import MOST_POINTS, Curve, Points
from ..document.ids import Id, OneLine, new_id
from ..document.keys import Key
from ..document.nodes import ParameterNode
from ..document.scene import Project, Scene
from ..document.specs import components
from ..motion import Cam
from .base import Edit, Gone, Refused, SceneEdit, free_name, modifier_of, place_of, with_parameter


def curve_in(project: Project, curve: str) -> Curve:
    """A curve that a project keeps, or Gone."""
    found = next((one for one in project.curves if one.id == curve), None)
    if found is None:
        raise Gone("This curve has been deleted.", curve)
    return found


def passage_of(scene: Scene, parameter: str) -> ParameterNode:
    """A value that plays a curve over a passage, or Refused."""
    node = place_of(scene, parameter)
    if not node.spec.passage:
        raise Refused(f"{node.title} plays no curve over a passage.", parameter)
    return node


class DrawCurve(SceneEdit):
    """All points of a curve over a passage, in place of those that it has."""

    kind: Literal["draw curve"] = "draw curve"
    parameter: str
    points: Points
    named: OneLine = Field(default="", max_length=120)
    """What the curve is called where it was kept; only told."""

    def apply_to(self, scene: Scene) -> Scene:
        node = passage_of(scene, self.parameter)
        for point in self.points:
            try:
                components(point.value, node.spec)
            except ValueError as error:
                raise Refused(f"At {point.frame:g} %: {error}.", self.parameter) from None
        return with_parameter(scene, self.parameter, keys=self.points)

    def label_in(self, scene: Scene) -> str:
        title = place_of(scene, self.parameter).title
        return f"{title}: {self.named}" if self.named else f"{title}: curve of {_many(self.points)}"


class TakeKeys(SceneEdit):
    """What a value is keyed to becomes the curve of a Cam in its chain, from the first key to the last; it is keyed no
    longer, and rests where the first key stood."""

    kind: Literal["take keys"] = "take keys"
    modifier: str

    def apply_to(self, scene: Scene) -> Scene:
        found = modifier_of(scene, self.modifier)
        cam, node = found.modifier, scene.index.parameters[found.parameter]
        if not isinstance(cam, Cam):
            raise Refused(f"{cam.title} plays no curve.", self.modifier)
        keys = node.parameter.keys
        if len(keys) < 2:
            raise Refused(f"{node.title} has no two keys that a curve could be taken from.", node.id)
        if len(keys) > MOST_POINTS:
            raise Refused(f"{node.title} has {len(keys)} keys; a curve has at most {MOST_POINTS} points.", node.id)
        # The component that it reaches, of those that move the one that moves most.
        numbers = [components(key.value, node.spec) for key in keys]
        mine = [k for k in range(node.spec.components) if cam.reaches(k)] or [0]
        axis = max(mine, key=lambda k: max(n[k] for n in numbers) - min(n[k] for n in numbers))
        first, span = keys[0].frame, keys[-1].frame - keys[0].frame
        points = tuple(
            key.changed(frame=100 * (key.frame - first) / span, value=number[axis] - numbers[0][axis])
            for key, number in zip(keys, numbers, strict=True)
        )
        scene = with_parameter(scene, f"{cam.id}.profile", keys=points)
        return with_parameter(scene, node.id, keys=(), rest=keys[0].value)

    def label_in(self, scene: Scene) -> str:
        return f"{place_of(scene, modifier_of(scene, self.modifier).parameter).title}: keys become a curve"


class KeepCurve(Edit):
    """A curve kept in the project, to be put on other values. One of the same name is replaced."""

    kind: Literal["keep curve"] = "keep curve"
    id: Id = Field(default_factory=lambda: new_id("curve"))
    name: OneLine = Field(min_length=1, max_length=120)
    points: Points
    replace: bool = False
    """Whether one of the same name gives way; else this one gets a free name."""

    def made_of(self, project: Project) -> Project:
        if any(one.id == self.id for one in project.curves):
            raise Refused(f"The id “{self.id}” is taken already; every id must be its own.", self.id)
        same = next((one for one in project.curves if one.name == self.name), None)
        if same is not None and self.replace:
            new = same.changed(points=self.points)
            return project.changed(curves=tuple(new if one is same else one for one in project.curves))
        name = free_name(self.name, [one.name for one in project.curves])
        return project.changed(curves=(*project.curves, Curve(id=self.id, name=name, points=self.points)))

    def label(self, project: Project) -> str:
        again = self.replace and any(one.name == self.name for one in project.curves)
        return f"Curve {self.name} {'kept anew' if again else 'kept'}"


class RemoveCurve(Edit):
    """Delete a curve that is kept. Values that it was put on stay as they are."""

    kind: Literal["remove curve"] = "remove curve"
    curve: str

    def made_of(self, project: Project) -> Project:
        gone = curve_in(project, self.curve)
        return project.changed(curves=tuple(one for one in project.curves if one is not gone))

    def label(self, project: Project) -> str:
        return f"Curve {curve_in(project, self.curve).name} deleted"


def _many(points: tuple[Key, ...]) -> str:
    return "one point" if len(points) == 1 else f"{len(points)} points"
