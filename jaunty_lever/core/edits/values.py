"""Edits of single values: the resting value, and keys."""

from typing import ClassVar, Literal

import numpy as np
from pydantic import Field

from ..document.keys import Ease, Finite, Frame, Key, Value
from ..document.nodes import ParameterNode
from ..document.protocols import Values
from ..document.scene import Scene
from ..document.specs import components, value_of
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from ..formula.quantity import Unreadable, read_number, read_step
from ..motion.limit import Limit
from ..words import said
from .base import Refused, SceneEdit, place_of, with_parameter
from .fresh import fresh_value


class SetValue(SceneEdit):
    """Set a value by number or by what was typed: the resting value, or a key at `frame` when there are keys.

    What is typed with `+`, `*` or `/` before it acts on the value that is there: `+20`, `*1.1`, `/2`, `+10%`.

    `component` sets only that one; `by` adds to the value that the keys (or rest) give at the frame.
    """

    kind: Literal["set value"] = "set value"
    parameter: str
    value: Value | None = None
    text: str | None = None
    by: tuple[Finite, ...] | None = None
    component: int | None = Field(default=None, ge=0, le=3)
    frame: Frame | None = None
    key: bool = Field(default=False, description="Set a key at the frame even where there are none yet.")
    by_hand: bool = Field(default=False, description="Pulled by hand: a Limit in the chain stops it at its ends.")
    held: bool = Field(
        default=False, description="Set by somebody it was handed to: a lever with firm ends stops it there."
    )

    def apply_to(self, scene: Scene) -> Scene:
        node = place_of(scene, self.parameter)
        own = node.parameter
        value, typed = self._value(scene, node)
        if self.held:
            value, typed = self._held(scene, node, value, typed)
        if own.keys or self.key:
            return with_parameter(scene, self.parameter, keys=self._keys(scene, node, value), typed=())
        marks = list(own.typed) or [""] * node.spec.components
        if self.component is None or len(marks) != node.spec.components:
            marks = [typed] * node.spec.components
        else:
            marks[self.component] = typed
        return with_parameter(scene, self.parameter, rest=value, typed=tuple(marks) if any(marks) else ())

    def _value(self, scene: Scene, node: ParameterNode) -> tuple[Value, str]:
        spec = node.spec
        typed = ""
        if self.component is not None and self.component >= spec.components:
            raise Refused(f"{spec.label} has no such component.", self.parameter)
        value = self.value
        if self.by is not None:
            if len(self.by) != spec.components or not spec.numeric:
                raise Refused(f"{spec.label} cannot be shifted by that.", self.parameter)
            moved = tuple(round(n + d, 6) for n, d in zip(self._now(scene, node), self.by, strict=True))
            value = moved if len(moved) > 1 else moved[0]
        if self.text is not None and spec.kind not in ("text", "colour", "choice"):
            try:
                step = read_step(self.text, spec, scene.fps) if spec.numeric else None
                value = self._stepped(scene, node, *step) if step else read_number(self.text, spec, scene.fps)
            except Unreadable as error:
                raise Refused(str(error), self.parameter) from None
            plain = self.text.strip().replace("−", "-")
            sums = step is None and any(mark in plain[1:] for mark in "+-*/^")
            typed = plain if sums and "e" not in plain.lower() else ""
        elif self.text is not None:
            value = self.text
        if value is None:
            raise Refused("Nothing was given.", self.parameter)
        try:
            numbers = components(value, spec)
            if any(abs(number) > 1e9 for number in numbers):
                raise Refused("That number is too large.", self.parameter)
            if self.component is not None:
                if spec.components > 1 and spec.kind == "colour" and isinstance(value, str):
                    raise Refused("A colour is set whole.", self.parameter)
                now = list(self._now(scene, node))
                now[self.component] = numbers[0]
                return tuple(now) if len(now) > 1 else now[0], typed
        except ValueError as error:
            raise Refused(f"{error}.".replace("..", "."), self.parameter) from None
        if self.by_hand and spec.numeric and not spec.stepped:
            stopped = within_limits(scene, node, numbers, self.frame or 0.0)
            if stopped != numbers:
                value = stopped if len(stopped) > 1 else stopped[0]
        return value, typed

    def _held(self, scene: Scene, node: ParameterNode, value: Value, typed: str) -> tuple[Value, str]:
        """The value within a lever's firm ends, and how it was typed where that is what it is."""
        lever = scene.index.levers.get(node.top)
        if (
            lever is None
            or lever.soft
            or not isinstance(value, int | float)
            or not node.spec.numeric
            or node.spec.stepped
        ):
            return value, typed
        within = min(max(float(value), lever.low), lever.high)
        return (value, typed) if within == value else (within, "")

    def _stepped(self, scene: Scene, node: ParameterNode, factor: float, more: float) -> Value:
        """What it is now, times a factor and more: all its components, or the number of the one that is meant."""
        now = self._now(scene, node)
        made = tuple(round(n * factor + more, 0 if node.spec.whole else 6) for n in now)
        if self.component is not None:
            return made[self.component]
        return made if len(made) > 1 else made[0]

    def _now(self, scene: Scene, node: ParameterNode) -> tuple[float, ...]:
        own = node.parameter
        if own.keys:
            return source_at(scene, node, self.frame or 0.0)
        return components(own.rest, node.spec)

    def _keys(self, scene: Scene, node: ParameterNode, value: Value) -> tuple[Key, ...]:
        frame = inside(scene, self.frame if self.frame is not None else 0.0, self.parameter)
        return with_key(node.parameter.keys, frame, value, node.spec.stepped)

    def label_in(self, scene: Scene) -> str:
        node = place_of(scene, self.parameter)
        own = node.parameter
        shown = ""
        if self.text is not None:
            shown = f" {self.text.strip()[:24]}"
        elif self.value is not None and self.by is None:
            value = self.value[:24] if node.spec.kind == "text" and isinstance(self.value, str) else self.value
            shown = f" {said(value, node.spec)}" if self.component is None else f" {self.value}"
        axis = f" {node.spec.component_names[self.component]}" if self.component and node.spec.component_names else ""
        at = f" at frame {self.frame or 0:g}" if own.keys or self.key else ""
        return f"{node.title}{axis}{shown}{at}"


def within_limits(scene: Scene, node: ParameterNode, numbers: tuple[float, ...], frame: float) -> tuple[float, ...]:
    """The numbers, stopped at the ends of the Limits in the parameter's own chain."""
    at = SampleTimes(np.array([frame / scene.fps]))
    for modifier in () if node.parameter.bypassed else node.parameter.chain:
        if isinstance(modifier, Limit) and not modifier.bypassed and not modifier.windows:
            sampler = Sampler(scene)
            low, high = (sampler.track(f"{modifier.id}.{name}", at)[0] for name in ("low", "high"))
            if (low <= high).all():
                numbers = tuple(float(v) for v in np.clip(numbers, low, high))
    return numbers


def inside(scene: Scene, frame: float, at: str) -> float:
    """A key's frame, refused when it lies outside the scene. At the end of the last frame, where the next round begins,
    a key may stand: what goes round comes to it as it began."""
    if not 0 <= frame <= scene.length:
        last = f"has frames 0 to {scene.length - 1}; a key may also stand at its end, {scene.length}"
        raise Refused(f"Frame {frame:g} lies outside the scene, which {last}.", at)
    return round(frame, 6)


def with_key(keys: tuple[Key, ...], frame: float, value: Value, stepped: bool = False) -> tuple[Key, ...]:
    """The keys with one set at a frame; it keeps the ease of the key it replaces, or takes its left neighbour's."""
    old = next((key for key in keys if abs(key.frame - frame) < 1e-6), None)
    left = [key for key in keys if key.frame < frame]
    ease: Ease = old.ease if old else left[-1].ease if left else ("hold" if stepped else "ease-in-out")
    rest = [key for key in keys if key is not old]
    return tuple(sorted([*rest, Key(frame=old.frame if old else frame, value=value, ease=ease)], key=lambda k: k.frame))


def given_at(scene: Scene, parameter: str, position: int, frame: float) -> Values:
    """What a parameter's chain gives at a frame before the modifier at a position, (components,); of many copies, the
    first one's."""
    sampler = Sampler(scene)
    at = sampler.of_first(parameter, SampleTimes.frames(scene.fps, frame, frame + 1))
    found: Values = sampler.after(parameter, position, at)[0, 0]
    return found


def source_at(scene: Scene, node: ParameterNode, frame: float) -> tuple[float, ...]:
    """What the keys (or the resting value) give at a frame, before the chain."""
    return tuple(float(v) for v in given_at(scene, node.id, 0, frame))


class SetKey(SceneEdit):
    """Key what the value is at a frame, without changing it."""

    kind: Literal["set key"] = "set key"
    parameter: str
    frame: Frame

    def apply_to(self, scene: Scene) -> Scene:
        node = place_of(scene, self.parameter)
        frame = inside(scene, self.frame, self.parameter)
        own = node.parameter
        value: Value
        if not own.keys:
            value = own.rest
        elif node.spec.kind == "text":
            value = next((key.value for key in reversed(own.keys) if key.frame <= frame), own.keys[0].value)
        else:
            value = value_of(source_at(scene, node, frame), node.spec)
        return with_parameter(scene, self.parameter, keys=with_key(own.keys, frame, value, node.spec.stepped))

    def label_in(self, scene: Scene) -> str:
        return f"{place_of(scene, self.parameter).title} keyed at frame {self.frame:g}"


def _key_at(node: ParameterNode, frame: float) -> Key:
    for key in node.parameter.keys:
        if abs(key.frame - frame) < 1e-4:
            return key
    raise Refused(f"There is no key at frame {frame:g} any more.", node.id)


class MoveKey(SceneEdit):
    """Move one key to another frame, and to another value when one is given. A key it lands on is replaced."""

    kind: Literal["move key"] = "move key"
    parameter: str
    frame: Frame
    to: Frame
    value: Value | None = None

    def apply_to(self, scene: Scene) -> Scene:
        node = place_of(scene, self.parameter)
        key = _key_at(node, self.frame)
        to = inside(scene, self.to, self.parameter)
        value = key.value if self.value is None else self.value
        try:
            components(value, node.spec)
        except ValueError as error:
            raise Refused(str(error), self.parameter) from None
        rest = [other for other in node.parameter.keys if other is not key and abs(other.frame - to) > 1e-6]
        keys = sorted([*rest, key.changed(frame=to, value=value)], key=lambda k: k.frame)
        return with_parameter(scene, self.parameter, keys=tuple(keys))

    def label_in(self, scene: Scene) -> str:
        return f"{place_of(scene, self.parameter).title}: key to frame {self.to:g}"


class RemoveKey(SceneEdit):
    """Take a key away. With the last key gone, the parameter rests at that key's value."""

    kind: Literal["remove key"] = "remove key"
    parameter: str
    frame: Frame

    def apply_to(self, scene: Scene) -> Scene:
        node = place_of(scene, self.parameter)
        key = _key_at(node, self.frame)
        keys = tuple(other for other in node.parameter.keys if other is not key)
        if not keys:
            return with_parameter(scene, self.parameter, keys=(), rest=key.value)
        return with_parameter(scene, self.parameter, keys=keys)

    def label_in(self, scene: Scene) -> str:
        return f"{place_of(scene, self.parameter).title}: key at frame {self.frame:g} removed"


class SetEase(SceneEdit):
    """How the value travels from a key to the next one."""

    kind: Literal["set ease"] = "set ease"
    parameter: str
    frame: Frame
    ease: Ease

    def apply_to(self, scene: Scene) -> Scene:
        node = place_of(scene, self.parameter)
        key = _key_at(node, self.frame)
        keys = tuple(k.changed(ease=self.ease) if k is key else k for k in node.parameter.keys)
        return with_parameter(scene, self.parameter, keys=keys)

    def label_in(self, scene: Scene) -> str:
        ease = self.ease if isinstance(self.ease, str) else "a curve of its own"
        return f"{place_of(scene, self.parameter).title}: {ease} from frame {self.frame:g}"


class ClearKeys(SceneEdit):
    """Remove all keys; the parameter rests at the value it had at `frame`."""

    title: ClassVar[str] = "Keys cleared"
    kind: Literal["clear keys"] = "clear keys"
    parameter: str
    frame: Frame = 0.0

    def apply_to(self, scene: Scene) -> Scene:
        node = place_of(scene, self.parameter)
        value: Value = node.parameter.keys[0].value if node.parameter.keys else node.parameter.rest
        if node.spec.kind != "text":
            value = value_of(source_at(scene, node, self.frame), node.spec)
        return with_parameter(scene, self.parameter, keys=(), rest=value)

    def label_in(self, scene: Scene) -> str:
        return f"{place_of(scene, self.parameter).title}: all keys removed"


class ResetValue(SceneEdit):
    """Back to the value that a new layer, modifier or lever has: no keys, no chain."""

    kind: Literal["reset value"] = "reset value"
    parameter: str

    def apply_to(self, scene: Scene) -> Scene:
        node = place_of(scene, self.parameter)
        return with_parameter(
            scene, self.parameter, rest=fresh_value(scene, node), keys=(), chain=(), typed=(), bypassed=False
        )

    def label_in(self, scene: Scene) -> str:
        return f"{place_of(scene, self.parameter).title} reset"
