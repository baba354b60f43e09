"""Bake: what a chain gives becomes ordinary keys."""

from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.keys import Ease, Finite, Key, Value
from ..document.nodes import ParameterNode
from ..document.quantity import with_unit
from ..document.scene import Project, Scene
from ..document.specs import value_of
from ..evaluation.fit import fitted
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from .base import Refused, SceneEdit, place_of, with_parameter

_MANY = 2_000
"""Frames from which on it lasts longer than a person should wait."""


class Bake(SceneEdit):
    """Write the result of a chain as keys over a range of frames; the chain stays, switched off.

    With a tolerance, as few keys as stay within it, else one a frame. Keys outside the range stay.
    """

    kind: Literal["bake"] = "bake"
    parameter: str
    start: int | None = None
    end: int | None = None
    tolerance: Finite | None = Field(default=None, ge=0)

    def apply_to(self, scene: Scene) -> Scene:
        node = bakeable(scene, self.parameter)
        start, end = self._range(scene)
        keys = self._keys(scene, node)
        outside = tuple(key for key in node.parameter.keys if not start <= key.frame <= end)
        whole = tuple(sorted([*outside, *keys], key=lambda key: key.frame))
        return with_parameter(scene, self.parameter, keys=whole, bypassed=True, typed=())

    def lasts(self, project: Project) -> bool:
        scene = project.scene(self.scene)
        return scene is not None and (self.end or scene.length) - (self.start or 0) > _MANY

    def doing(self, project: Project) -> str:
        return f"Baking {place_of(self.found(project), self.parameter).title}"

    def _range(self, scene: Scene) -> tuple[int, int]:
        start = 0 if self.start is None else self.start
        end = scene.length - 1 if self.end is None else self.end
        if not 0 <= start < end < scene.length:
            raise Refused(
                f"The range must lie within the frames 0 to {scene.length - 1} and end after it starts.", self.parameter
            )
        return start, end

    def _keys(self, scene: Scene, node: ParameterNode) -> list[Key]:
        start, end = self._range(scene)
        samples = SampleTimes.frames(scene.fps, start, end + 1)
        sampler, count = Sampler(scene), end + 1 - start
        if node.spec.kind == "text":
            texts, which = sampler.texts(self.parameter, samples)
            rows = np.broadcast_to(which, (count,))
            return [_held(start + k, texts[rows[k]]) for k in _changes(rows[:, None])]
        values = np.broadcast_to(sampler.track(self.parameter, samples), (count, node.spec.components))
        if node.spec.stepped:
            values = np.rint(values)
            return [_held(start + k, value_of(_numbers(values[k]), node.spec)) for k in _changes(values)]
        spots: list[tuple[int, Ease]]
        spots = [(k, "linear") for k in range(count)] if self.tolerance is None else fitted(values, self.tolerance)
        return [Key(frame=start + k, value=value_of(_numbers(values[k]), node.spec), ease=ease) for k, ease in spots]

    def label_in(self, scene: Scene) -> str:
        node = place_of(scene, self.parameter)
        count = len(self._keys(scene, node))
        made = self.apply_to(scene)
        said = f"{node.title} baked to {count} key{'' if count == 1 else 's'}"
        if node.spec.kind in ("text", "choice", "switch") or self.tolerance is None:
            return said
        start, end = self._range(scene)
        samples = SampleTimes.frames(scene.fps, start, end + 1)
        error = np.abs(Sampler(made).track(self.parameter, samples) - Sampler(scene).track(self.parameter, samples))
        return f"{said}, off by at most {with_unit(float(error.max()), node.spec.unit, 4)}"


def bakeable(scene: Scene, parameter: str) -> ParameterNode:
    """A parameter whose chain keys can tell. Raises Refused for one without a chain, or with a value for each copy."""
    node = place_of(scene, parameter)
    if not node.parameter.chain:
        raise Refused(f"{node.label} has no chain to bake.", parameter)
    if Sampler(scene).axes.of(node.id).elements:
        raise Refused(
            f"{node.label} differs from copy to copy, and keys are the same for all. Take the array apart with "
            "its motion "
            "as keys: each copy then has keys of its own.",
            parameter,
        )
    return node


def _numbers(row: NDArray[Any]) -> tuple[float, ...]:
    return tuple(float(v) for v in row)


def _held(frame: int, value: Value) -> Key:
    return Key(frame=frame, value=value, ease="hold")


def _changes(rows: NDArray[Any]) -> list[int]:
    """The first row, and every row that differs from the one before it."""
    moved = np.any(rows[1:] != rows[:-1], axis=1)
    return [0, *(int(k) + 1 for k in np.flatnonzero(moved))]
