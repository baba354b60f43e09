"""Edits of levers."""

from typing import Any, Literal

from pydantic import Field, ValidationError

from ..document.ids import Id, OneLine, new_id
from ..document.keys import Finite, Frame, Value
from ..document.lever import Lever, LeverKind, default_value, sensible_range
from ..document.parameter import Parameter
from ..document.scene import Scene
from ..document.specs import components
from ..motion import Follow
from ..motion.formula import Formula
from .base import (
    Refused,
    SceneEdit,
    free_name,
    fresh_id,
    lever_of,
    place_of,
    with_modifier_fields,
    with_node,
    with_parameter,
)
from .chains import with_modifier
from .deleting import without_links_to


def _names(scene: Scene) -> list[str]:
    return [lever.name for lever in scene.levers]


def _with_lever(scene: Scene, lever: Lever) -> Scene:
    fresh_id(scene, lever.id)
    return scene.changed(levers=(*scene.levers, lever))


def _checked(fields: dict[str, Any], at: str) -> Lever:
    try:
        return Lever(**fields)
    except ValidationError as error:
        first = error.errors()[0]
        where = str(first["loc"][0]) if first["loc"] else "lever"
        told = {"name": "A lever needs a name of at most 80 letters."}.get(where)
        raise Refused(told or f"{first['msg'].removeprefix('Value error, ').capitalize()}.", at) from None


class AddLever(SceneEdit):
    """Put a new lever on the board."""

    kind: Literal["add lever"] = "add lever"
    id: Id = Field(default_factory=lambda: new_id("lever"))
    name: OneLine = "Lever"
    lever: LeverKind = "number"
    group: str = ""
    low: Finite = 0.0
    high: Finite = 100.0
    options: tuple[str, ...] = ()
    value: Value | None = None

    def apply_to(self, scene: Scene) -> Scene:
        options = self.options or (("First", "Second") if self.lever == "choice" else ())
        low, high = (
            (-180.0, 180.0) if self.lever == "angle" and (self.low, self.high) == (0, 100) else (self.low, self.high)
        )
        rest = default_value(self.lever, options) if self.value is None else self.value
        lever = _checked(
            {
                "id": self.id,
                "name": free_name(self.name.strip(), _names(scene), 80),
                "kind": self.lever,
                "group": self.group,
                "low": low,
                "high": high,
                "options": options,
                "value": Parameter(rest=rest),
            },
            self.id,
        )
        try:
            components(rest, lever.spec)
        except ValueError as error:
            raise Refused(str(error), self.id) from None
        return _with_lever(scene, lever)

    def label_in(self, scene: Scene) -> str:
        return f"Lever {self.name} added"


class MakeLever(SceneEdit):
    """Turn a number (with its keys) into a lever that drives it; nothing changes on the stage."""

    kind: Literal["make lever"] = "make lever"
    parameter: str
    id: Id = Field(default_factory=lambda: new_id("lever"))
    link: Id = Field(default_factory=lambda: new_id("m"))
    name: OneLine | None = None
    component: int | None = Field(default=None, ge=0, le=3)
    group: str = ""

    def apply_to(self, scene: Scene) -> Scene:
        node = place_of(scene, self.parameter)
        own, spec = node.parameter, node.spec
        if spec.kind == "text":
            raise Refused("A text cannot be a lever; numbers, colours, switches and choices can.", self.parameter)
        if spec.components > 1 and spec.kind != "colour":
            if len(set(components(own.rest, spec))) > 1 or own.keys:
                raise Refused(
                    f"{spec.label} has {spec.components} different components; set them equal first, "
                    "or make a lever and link it.",
                    self.parameter,
                )
        # The units of a vector are pixels or percent; a lever for it is a single number of that unit.
        kind: Any = spec.kind if spec.kind != "vector" else {"px": "length", "%": "percentage"}.get(spec.unit, "number")
        value: Value = own.rest
        if spec.kind not in ("colour", "choice", "switch"):
            numbers = components(own.rest, spec)
            value = numbers[0]
            low, high = sensible_range(numbers[0], spec)
            if own.keys:
                keyed = [components(key.value, spec)[0] for key in own.keys]
                low, high = min(low, *keyed), max(high, *keyed)
        else:
            low, high = 0.0, 100.0
        name = (self.name or "").strip() or f"{node.trail[-1][1]}".capitalize()
        typed = own.typed[:1] if spec.kind not in ("colour", "choice", "switch") else ()
        lever = _checked(
            {
                "id": self.id,
                "name": free_name(name, _names(scene), 80),
                "kind": kind,
                "group": self.group,
                "low": low,
                "high": high,
                "options": spec.options,
                "value": Parameter(rest=value, keys=own.keys, typed=typed),
            },
            self.parameter,
        )
        scene = _with_lever(scene, lever)
        scene = with_parameter(scene, self.parameter, keys=())
        return with_modifier(scene, self.parameter, Follow(id=self.link, driver=f"{self.id}.value"), 0)

    def label_in(self, scene: Scene) -> str:
        return f"{place_of(scene, self.parameter).title} made a lever{f' named {self.name}' if self.name else ''}"


class ChangeLever(SceneEdit):
    """A lever's name, range, group, help or options."""

    kind: Literal["change lever"] = "change lever"
    lever: str
    name: OneLine | None = None
    low: Finite | None = None
    high: Finite | None = None
    soft: bool | None = None
    group: str | None = None
    help: str | None = None
    options: tuple[str, ...] | None = None

    def apply_to(self, scene: Scene) -> Scene:
        lever = lever_of(scene, self.lever)
        given = {k: v for k, v in self if v is not None and k not in ("kind", "scene", "lever")}
        if "name" in given:
            given["name"] = str(given["name"]).strip()
            if any(o.name.casefold() == given["name"].casefold() and o.id != lever.id for o in scene.levers):
                raise Refused(f"There is already a lever named {given['name']}.", self.lever)
        if self.options is not None and lever.kind == "choice":
            return self._with_options(scene, lever, given)
        fields = {name: getattr(lever, name) for name in Lever.model_fields} | given
        return with_node(scene, self.lever, _checked(fields, self.lever))

    def _with_options(self, scene: Scene, lever: Lever, given: dict[str, Any]) -> Scene:
        """The scene with other options: what used one that is called otherwise now uses it by its new name."""
        table = renamed_options(lever.options, given["options"])
        gone = [option for option in lever.options if option not in table]
        for option in gone:
            users = option_users(scene, lever, option)
            if users:
                raise Refused(
                    f"“{option}” is still used: {', '.join(users[:4])}. Set those to another option first.", self.lever
                )
        own = lever.value
        moved = own.changed(
            rest=table.get(str(own.rest), given["options"][0]),
            keys=tuple(key.changed(value=table.get(str(key.value), key.value)) for key in own.keys),
        )
        fields = {name: getattr(lever, name) for name in Lever.model_fields} | given | {"value": moved}
        scene = with_node(scene, self.lever, _checked(fields, self.lever))
        shots = tuple(
            one.changed(values=one.values | {lever.id: table.get(str(one.values[lever.id]), one.values[lever.id])})
            if lever.id in one.values
            else one
            for one in scene.snapshots
        )
        scene = scene.changed(snapshots=shots)
        for entry in list(scene.index.modifiers.values()):
            if isinstance(entry.modifier, Formula) and f"{lever.id}.value" in entry.modifier.references():
                text = entry.modifier.text
                for old, new in table.items():
                    text = text.replace(f'"{old}"', f'"{new}"') if old != new else text
                if text != entry.modifier.text:
                    scene = with_modifier_fields(scene, entry.modifier.id, text=text)
        return scene

    def label_in(self, scene: Scene) -> str:
        lever = lever_of(scene, self.lever)
        return f"Lever {lever.name} renamed {self.name}" if self.name else f"Lever {lever.name} changed"


def renamed_options(old: tuple[str, ...], new: tuple[str, ...]) -> dict[str, str]:
    """What each old option is called now: the same where it is still there, else the new one in its place."""
    table = {option: option for option in old if option in new}
    for k, option in enumerate(old):
        if option not in table and len(old) == len(new) and new[k] not in old:
            table[option] = new[k]
    return table


def option_users(scene: Scene, lever: Lever, option: str) -> list[str]:
    """What still stands at an option of a choice lever, in words."""
    users = [f"the key at frame {key.frame:g}" for key in lever.value.keys if key.value == option]
    if not lever.value.keys and lever.value.rest == option:
        users.append("where the lever stands now")
    users += [f"the snapshot {one.name}" for one in scene.snapshots if one.values.get(lever.id) == option]
    for entry in scene.index.modifiers.values():
        listens = isinstance(entry.modifier, Formula) and f"{lever.id}.value" in entry.modifier.references()
        if listens and f'"{option}"' in entry.modifier.text:  # type: ignore[attr-defined]
            users.append(f"the formula of {scene.index.parameters[entry.parameter].label}")
    return users


class MoveLever(SceneEdit):
    """A lever's place on the board."""

    kind: Literal["move lever"] = "move lever"
    lever: str
    position: int
    group: str | None = None

    def apply_to(self, scene: Scene) -> Scene:
        lever = lever_of(scene, self.lever)
        if self.group is not None:
            lever = _checked({n: getattr(lever, n) for n in Lever.model_fields} | {"group": self.group}, self.lever)
        rest = [other for other in scene.levers if other.id != self.lever]
        rest.insert(min(max(self.position, 0), len(rest)), lever)
        return scene.changed(levers=tuple(rest))

    def label_in(self, scene: Scene) -> str:
        return f"Lever {lever_of(scene, self.lever).name} moved"


class RemoveLever(SceneEdit):
    """Take a lever off the board; what it drove rests where it stood at `frame`."""

    kind: Literal["remove lever"] = "remove lever"
    lever: str
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        lever = lever_of(scene, self.lever)
        inside = {node.id for node in scene.index.parameters.values() if node.top == lever.id}
        scene = without_links_to(scene, inside, self.frame)
        return scene.changed(levers=tuple(other for other in scene.levers if other.id != self.lever))

    def label_in(self, scene: Scene) -> str:
        lever = lever_of(scene, self.lever)
        count = len(scene.index.followers.get(f"{lever.id}.value", []))
        return f"Lever {lever.name} deleted" + (f", which drove {count}" if count else "")
