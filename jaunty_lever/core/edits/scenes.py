"""Edits of projects and scenes."""

from fractions import Fraction
from typing import Any, ClassVar, Literal

from pydantic import Field, ValidationError

from ..document.ids import Id, OneLine, new_id
from ..document.keys import Finite, Value
from ..document.model import Model
from ..document.modifier import Window
from ..document.parameter import Parameter
from ..document.periodicity import as_fraction
from ..document.scene import Project, Scene
from ..document.specs import specs_of
from .base import Edit, Refused, SceneEdit, free_name, pruned
from .renumber import renumbered


def _checked(fields: dict[str, Any]) -> Scene:
    try:
        return Scene(**fields)
    except ValidationError as error:
        first = error.errors()[0]
        field = str(first["loc"][0]) if first["loc"] else ""
        told = first["msg"].removeprefix("Value error, ")
        if field == "name":
            told = "A scene needs a name of at most 120 letters."
        elif first["type"] != "value_error":
            told = f"The {field} must be a number: {told.lower()}."
        raise Refused(told, field) from None


class RenameProject(Edit):
    """The project's name."""

    kind: Literal["rename project"] = "rename project"
    name: OneLine

    def made_of(self, project: Project) -> Project:
        name = self.name.strip()
        if not 0 < len(name) <= 120:
            raise Refused("A project needs a name of at most 120 letters.", "name")
        return project.changed(name=name)

    def label(self, project: Project) -> str:
        return f"Project renamed {self.name.strip()}"


class DescribeProject(Edit):
    """Who made the project, what it is, under which licence, and where there is more."""

    title: ClassVar[str] = "Project described"
    kind: Literal["describe project"] = "describe project"
    author: str = ""
    description: str = ""
    licence: str = ""
    link: str = ""

    def made_of(self, project: Project) -> Project:
        given = {name: getattr(self, name).strip() for name in ("author", "description", "licence", "link")}
        fields = {name: getattr(project, name) for name in ("id", "name")}
        try:
            Project(**fields, **given)
        except ValidationError as error:
            first = error.errors()[0]
            where = str(first["loc"][0])
            told = first["msg"].removeprefix("Value error, ").replace("String", "It")
            raise Refused(f"{where.capitalize()}: {told}.", where) from None
        return project.changed(**given)


class AddScene(Edit):
    """A new, empty scene."""

    kind: Literal["add scene"] = "add scene"
    id: Id = Field(default_factory=lambda: new_id("scene"))
    name: OneLine = "Scene"
    width: int = 1280
    height: int = 720
    fps: Finite = 30.0
    length: int = 300
    background: str = "#fffdf8"

    def made_of(self, project: Project) -> Project:
        fields = {name: getattr(self, name) for name in ("id", "width", "height", "fps", "length", "background")}
        scene = _checked(fields | {"name": free_name(self.name.strip(), _names(project))})
        return project.changed(scenes=(*project.scenes, scene))

    def label(self, project: Project) -> str:
        return f"Scene {self.name.strip()} added"


def _names(project: Project) -> list[str]:
    return [scene.name for scene in project.scenes]


class DuplicateScene(SceneEdit):
    """A copy of a scene, with its levers, after it."""

    kind: Literal["duplicate scene"] = "duplicate scene"
    salt: str = Field(default_factory=lambda: new_id("copy"))

    def made_of(self, project: Project) -> Project:
        scene = self.found(project)
        copy = renumbered(scene, self.salt, new_seeds=False).changed(name=free_name(scene.name, _names(project)))
        at = [other.id for other in project.scenes].index(scene.id) + 1
        return project.changed(scenes=(*project.scenes[:at], copy, *project.scenes[at:]))

    def label_in(self, scene: Scene) -> str:
        return f"Scene {scene.name} duplicated"


class RemoveScene(SceneEdit):
    """Delete a scene."""

    kind: Literal["remove scene"] = "remove scene"

    def made_of(self, project: Project) -> Project:
        scene = self.found(project)
        return pruned(project.changed(scenes=tuple(other for other in project.scenes if other.id != scene.id)))

    def label_in(self, scene: Scene) -> str:
        return f"Scene {scene.name} deleted"


class ChangeScene(SceneEdit):
    """A scene's name, size, length, frame rate or motion blur. A new rate leaves every key and window at its time in
    seconds."""

    kind: Literal["change scene"] = "change scene"
    name: OneLine | None = None
    width: int | None = None
    height: int | None = None
    fps: Finite | None = None
    length: int | None = None
    loops: bool | None = None
    plays: bool | None = None
    motion_blur: bool | None = None
    least_samples: int | None = None
    most_samples: int | None = None

    def apply_to(self, scene: Scene) -> Scene:
        fields = {name: getattr(scene, name) for name in Scene.model_fields}
        given = {k: v for k, v in self if v is not None and k not in ("kind", "scene")}
        if isinstance(given.get("name"), str):
            given["name"] = given["name"].strip()
        made = _checked(fields | given)
        if made.fps != scene.fps:
            length = made.length if self.length is not None else max(1, round(scene.length * made.fps / scene.fps))
            made = _checked(fields | given | {"length": length})
            made = retimed(made, scene.fps, made.fps)
        return made

    def label_in(self, scene: Scene) -> str:
        if self.name is not None and self.name.strip() != scene.name:
            return f"Scene {scene.name} renamed {self.name.strip()}"
        if self.motion_blur is not None and self.motion_blur != scene.motion_blur:
            return f"Scene {scene.name}: motion blur {'on' if self.motion_blur else 'off'}"
        return f"Scene {scene.name}: size, rate or length changed"


def _at_rate(frame: float, old: float, new: float) -> float:
    """A frame's number at another rate: whole where it is whole but for its rounding."""
    ratio = (as_fraction(new) or Fraction(1)) / (as_fraction(old) or Fraction(1))
    made = frame * ratio.numerator / ratio.denominator
    return float(round(made)) if abs(made - round(made)) < 1e-9 * max(1.0, abs(made)) else made


def retimed(node: Any, old: float, new: float) -> Any:
    """A copy with every key, window and setting that is given in frames at the same time at another frame rate."""
    if isinstance(node, tuple):
        return tuple(retimed(part, old, new) for part in node)
    if isinstance(node, Window):
        names = ("start", "end", "fade_in", "fade_out")
        return node.changed(**{name: _at_rate(getattr(node, name), old, new) for name in names})
    if not isinstance(node, Model):
        return node
    if isinstance(node, Parameter) and not node.keys and not node.chain:
        return node
    updates = {
        n: retimed(v, old, new) for n in type(node).model_fields if isinstance(v := getattr(node, n), Model | tuple)
    }
    for name, spec in specs_of(type(node)).items():
        if spec.passage:
            # Its keys stand at percents of a passage, however long a frame is.
            updates.pop(name, None)
        elif spec.unit == "frames":
            setting: Parameter = updates.get(name, getattr(node, name))
            keys = tuple(key.changed(value=_frames(key.value, new / old)) for key in setting.keys)
            updates[name] = setting.changed(rest=_frames(setting.rest, new / old), keys=keys, typed=())
    if isinstance(node, Parameter):
        updates["keys"] = tuple(key.changed(frame=_at_rate(key.frame, old, new)) for key in node.keys)
    return node.changed(**updates)


def _frames(value: Any, factor: float) -> Value:
    """A number of whole frames at another frame rate."""
    return float(round(float(value) * factor))
