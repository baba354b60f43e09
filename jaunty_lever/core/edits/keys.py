"""Edits of several keys at once: move and scale, copy and paste, align, distribute, reverse, close."""

from typing import Annotated, Literal

from pydantic import Field

from ..document.keys import NAMED, Ease, Finite, Frame, Key, Value
from ..document.model import Model
from ..document.nodes import ParameterNode
from ..document.scene import Scene
from ..document.specs import components, value_of
from .base import Refused, SceneEdit, place_of, with_parameter
from .values import inside

NEAR = 1e-4
"""Two frames that are closer than this are one and the same key's."""


class Picked(Model):
    """Some keys of one parameter, by their frames."""

    parameter: str
    frames: tuple[Finite, ...] = Field(min_length=1, max_length=10_000)


def _bucket(frame: float) -> int:
    return round(frame / NEAR)


def _near(table: dict[int, Key], frame: float) -> int | None:
    """Where in a table by buckets a key stands that is as good as at the frame."""
    here = _bucket(frame)
    return next((k for k in (here - 1, here, here + 1) if k in table and abs(table[k].frame - frame) < NEAR), None)


def _picked(scene: Scene, picked: Picked) -> tuple[ParameterNode, list[Key], list[Key]]:
    """The place, the keys that are meant, and the others. Refused when none of them is left."""
    node = place_of(scene, picked.parameter)
    table = {_bucket(key.frame): key for key in node.parameter.keys}
    found = {k for frame in picked.frames if (k := _near(table, frame)) is not None}
    if not found:
        raise Refused(f"These keys of {node.label} are no longer there.", picked.parameter)
    meant: list[Key] = []
    others: list[Key] = []
    for key in node.parameter.keys:
        (meant if _bucket(key.frame) in found else others).append(key)
    return node, meant, others


def _with(scene: Scene, node: ParameterNode, moved: list[Key], others: list[Key]) -> Scene:
    """The scene with keys put back; one that lands on another key replaces it."""
    table = {_bucket(key.frame): key for key in others}
    for key in moved:
        at = inside(scene, key.frame, node.id)
        while (there := _near(table, at)) is not None:
            del table[there]
        table[_bucket(at)] = key.changed(frame=at)
    return with_parameter(scene, node.id, keys=tuple(sorted(table.values(), key=lambda key: key.frame)))


def _moved_value(
    node: ParameterNode, value: Value, scale: float, about: float, by: float, component: int | None
) -> Value:
    spec = node.spec
    if spec.stepped or spec.kind in ("colour", "text") or (scale == 1 and by == 0):
        return value
    numbers = components(value, spec)
    meant = range(len(numbers)) if component is None else [component]
    made = tuple(round(about + (n - about) * scale + by, 6) if k in meant else n for k, n in enumerate(numbers))
    if any(abs(number) > 1e9 for number in made):
        raise Refused("That number is too large.", node.id)
    return value_of(made, spec)


class MoveKeys(SceneEdit):
    """Move keys of any parameters in time and value, and scale them about a frame and a value."""

    kind: Literal["move keys"] = "move keys"
    keys: tuple[Picked, ...] = Field(min_length=1, max_length=500)
    by: Finite = 0.0
    stretch: Finite = Field(default=1.0, gt=0, le=1000)
    about: Frame = 0.0
    rise: Finite = 0.0
    scale: Finite = Field(default=1.0, ge=-1000, le=1000)
    level: Finite = 0.0
    component: int | None = Field(default=None, ge=0, le=3)

    def apply_to(self, scene: Scene) -> Scene:
        for picked in self.keys:
            node, meant, others = _picked(scene, picked)
            frames = [self.about + (key.frame - self.about) * self.stretch + self.by for key in meant]
            moved = [
                key.changed(
                    frame=frame,
                    value=_moved_value(node, key.value, self.scale, self.level, self.rise, self.component),
                )
                for key, frame in zip(meant, frames, strict=True)
            ]
            scene = _with(scene, node, moved, others)
        return scene

    def label_in(self, scene: Scene) -> str:
        done = "set" if self.scale == 0 else "moved" if self.stretch == self.scale == 1 else "scaled"
        return f"{_counted(self.keys)} {done}"


def _counted(keys: tuple[Picked, ...]) -> str:
    count = sum(len(picked.frames) for picked in keys)
    return "One key" if count == 1 else f"{count} keys"


class RemoveKeys(SceneEdit):
    """Take several keys away. A parameter that loses its last one rests at that one's value."""

    kind: Literal["remove keys"] = "remove keys"
    keys: tuple[Picked, ...] = Field(min_length=1, max_length=500)

    def apply_to(self, scene: Scene) -> Scene:
        for picked in self.keys:
            node, meant, others = _picked(scene, picked)
            rest = node.parameter.rest if others else meant[0].value
            scene = with_parameter(scene, node.id, keys=tuple(others), rest=rest)
        return scene

    def label_in(self, scene: Scene) -> str:
        return f"{_counted(self.keys)} removed"


class EaseKeys(SceneEdit):
    """Give several keys the same ease."""

    kind: Literal["ease keys"] = "ease keys"
    keys: tuple[Picked, ...] = Field(min_length=1, max_length=500)
    ease: Ease

    def apply_to(self, scene: Scene) -> Scene:
        for picked in self.keys:
            node, meant, others = _picked(scene, picked)
            scene = _with(scene, node, [key.changed(ease=self.ease) for key in meant], others)
        return scene

    def label_in(self, scene: Scene) -> str:
        return f"{_counted(self.keys)}: {self.ease if isinstance(self.ease, str) else 'a curve of their own'}"


class ArrangeKeys(SceneEdit):
    """Align keys at a frame or a value, distribute them evenly in time, or reverse them in time."""

    kind: Literal["arrange keys"] = "arrange keys"
    keys: tuple[Picked, ...] = Field(min_length=1, max_length=500)
    how: Literal["align in time", "align in value", "distribute", "reverse"]
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        everything = [_picked(scene, picked) for picked in self.keys]
        frames = [key.frame for _, meant, _ in everything for key in meant]
        first, last = min(frames), max(frames)
        for node, _, _ in everything:
            # Read again: an earlier round may have changed the scene, never this parameter's keys.
            here, meant, others = _picked(scene, next(one for one in self.keys if one.parameter == node.id))
            scene = _with(scene, here, self._arranged(here, meant, first, last), others)
        return scene

    def _arranged(self, node: ParameterNode, keys: list[Key], first: float, last: float) -> list[Key]:
        if self.how == "align in time":
            # The whole group lands with its first key at the frame.
            return [key.changed(frame=key.frame - keys[0].frame + self.frame) for key in keys]
        if self.how == "align in value":
            return [key.changed(value=keys[0].value) for key in keys]
        if self.how == "distribute":
            step = (keys[-1].frame - keys[0].frame) / max(len(keys) - 1, 1)
            return [key.changed(frame=round(keys[0].frame + k * step, 4)) for k, key in enumerate(keys)]
        turned = [key.changed(frame=first + last - key.frame) for key in reversed(keys)]
        # The ease belongs to the way from a key to the next: turned round, it starts at the other end.
        eases = [backwards(key.ease) for key in reversed(keys[:-1])]
        return [key.changed(ease=ease) for key, ease in zip(turned, [*eases, keys[-1].ease], strict=True)]

    def label_in(self, scene: Scene) -> str:
        done = {
            "align in time": "aligned in time",
            "align in value": "aligned in value",
            "distribute": "distributed",
            "reverse": "reversed in time",
        }
        return f"{_counted(self.keys)} {done[self.how]}"


def backwards(ease: Ease) -> Ease:
    """The ease of the same way, travelled backwards."""
    named: dict[str, Ease] = {"ease-in": "ease-out", "ease-out": "ease-in"}
    if isinstance(ease, str):
        if ease == "ease":
            x1, y1, x2, y2 = NAMED["ease"]
            return (1 - x2, 1 - y2, 1 - x1, 1 - y1)
        return named.get(ease, ease)
    x1, y1, x2, y2 = ease
    return (1 - x2, 1 - y2, 1 - x1, 1 - y1)


class PasteKeys(SceneEdit):
    """Put copies of keys at a frame: on the parameter they came from, or on others of the same kind."""

    kind: Literal["paste keys"] = "paste keys"
    keys: dict[str, Annotated[tuple[Key, ...], Field(min_length=1)]] = Field(min_length=1, max_length=500)
    frame: Frame

    def apply_to(self, scene: Scene) -> Scene:
        start = min(key.frame for keys in self.keys.values() for key in keys)
        for parameter, keys in self.keys.items():
            node = place_of(scene, parameter)
            for key in keys:
                try:
                    components(key.value, node.spec)
                except ValueError as error:
                    raise Refused(f"{error}.", parameter) from None
            moved = [key.changed(frame=key.frame - start + self.frame) for key in keys]
            kept = [key for key in moved if key.frame <= scene.length]
            if not kept:
                raise Refused("There is no room for these keys before the scene ends.", parameter)
            scene = _with(scene, node, kept, list(node.parameter.keys))
        return scene

    def label_in(self, scene: Scene) -> str:
        frames = [key.frame for keys in self.keys.values() for key in keys]
        count = len(frames)
        beyond = sum(frame - min(frames) + self.frame > scene.length for frame in frames)
        said = f"{'One key' if count == 1 else f'{count} keys'} pasted at frame {self.frame:g}"
        return f"{said}, {beyond} beyond the end left out" if beyond else said


class CloseKeys(SceneEdit):
    """Make the last key equal the first, so that a loop has no jump."""

    kind: Literal["close keys"] = "close keys"
    parameter: str

    def apply_to(self, scene: Scene) -> Scene:
        keys = place_of(scene, self.parameter).parameter.keys
        if len(keys) < 2:
            raise Refused("A loop needs two keys or more.", self.parameter)
        return with_parameter(scene, self.parameter, keys=(*keys[:-1], keys[-1].changed(value=keys[0].value)))

    def label_in(self, scene: Scene) -> str:
        return f"{place_of(scene, self.parameter).title}: last key made equal to the first"
