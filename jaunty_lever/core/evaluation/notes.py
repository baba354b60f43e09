"""What stations tell about themselves, worked out over a whole scene."""

from typing import Any

import numpy as np

from ..document.ids import drawn_id
from ..document.modifier import Modifier
from ..document.nodes import ParameterNode
from ..document.notes import Mend, Note
from ..document.parameter import Parameter
from ..document.protocols import KeyedLike, Values
from ..document.quantity import with_unit
from ..document.references import CIRCLE
from ..document.specs import specs_of
from . import trains
from .readings import stands_moved
from .sample_times import SampleTimes
from .sampler import Sampler

_NEAR = 1e-6
"""Within which a value is at its end."""


class _Seen:
    """A modifier at work, over all frames of its scene."""

    def __init__(self, sampler: Sampler, node: ParameterNode, position: int) -> None:
        self._sampler, self._node = sampler, node
        self._modifier: Modifier = node.parameter.chain[position]
        self._samples = sampler.of_first(node.id, SampleTimes.frames(sampler.scene.fps, 0, sampler.scene.length))
        self.spec, self.parameter, self.position = node.spec, node.id, position
        self.fps, self.length = sampler.scene.fps, sampler.scene.length
        self.own: Parameter = node.parameter

    @property
    def keys(self) -> KeyedLike | None:
        return self._sampler.table(self._node)

    @property
    def incoming(self) -> Values:
        values: Values = self._sampler.after(self.parameter, self.position, self._samples)[0]
        return values

    def number(self, name: str) -> Values:
        values: Values = self._sampler.evaluate(f"{self._modifier.id}.{name}", self._samples)[0]
        return values

    def choice(self, name: str) -> str:
        options = specs_of(type(self._modifier))[name].options
        return options[min(max(int(np.rint(self.number(name)[0, 0])), 0), len(options) - 1)]

    def said(self, value: float) -> str:
        return with_unit(value, self.spec.unit)

    def closes(self) -> bool:
        arrays = self._sampler.index.arrays_of(self._node)
        circle = None if not arrays else self._sampler.track(f"{arrays[-1]}.{CIRCLE}", self._samples)
        return circle is not None and bool(circle[0, 0] >= 0)

    def ends_in_depth(self, zone: str) -> bool:
        return self._sampler.index.solid_zone(zone)

    def stands_moved(self) -> bool:
        return stands_moved(self._sampler.index, self._node.top)

    def train(self) -> tuple[str, ...]:
        return trains.told(self._sampler, self._node.id)


def notes(sampler: Sampler, parameter: str) -> list[tuple[Note, ...]]:
    """The notes of each modifier of a parameter's chain, in the chain's order."""
    node = sampler.index.parameters[parameter]
    return [modifier.notes(_Seen(sampler, node, k)) for k, modifier in enumerate(node.parameter.chain)]


def beyond_ends(sampler: Sampler, parameter: str) -> Note | None:
    """How much of the time a value lies beyond what can be drawn of it, and a Limit that keeps it there; None:
    never."""
    node = sampler.index.parameters[parameter]
    spec, ends = node.spec, _ends_of(node)
    if ends is None or not node.parameter.moves or node.within is not None:
        return None
    values = sampler.track(
        parameter, sampler.of_first(parameter, SampleTimes.frames(sampler.scene.fps, 0, sampler.scene.length))
    )
    low, high = ends
    under = (values < low - _NEAR).any(axis=1) if low is not None else np.zeros(len(values), dtype=bool)
    over = (values > high + _NEAR).any(axis=1) if high is not None else np.zeros(len(values), dtype=bool)
    share = 100 * float(np.mean(under | over))
    if share == 0:
        return None
    sides = [
        f"{word} {with_unit(end, spec.unit)}"
        for beyond, word, end in ((under, "under", low), (over, "over", high))
        if beyond.any() and end is not None
    ]
    how = "less than 1" if share < 1 else f"{share:.0f}"
    text = (
        f"It lies {' or '.join(sides)} in {how} % of the frames; there it is drawn as at "
        f"{'its ends' if len(sides) > 1 else 'that end'}."
    )
    edits = _limit_edits(sampler, node, ends, float(values.max()))
    return Note(text, mends=(Mend("Add a Limit", edits),))


def _ends_of(node: ParameterNode) -> tuple[float | None, float | None] | None:
    return (0.0, 1.0) if node.spec.kind == "colour" and node.parameter.chain else node.spec.ends


def _limit_edits(
    sampler: Sampler, node: ParameterNode, ends: tuple[float | None, float | None], most: float
) -> tuple[dict[str, Any], ...]:
    """A Limit at the end of a chain, between the ends; an open one is as far away as the value goes, and at its useful
    range."""
    known = len(node.parameter.chain)
    new = drawn_id(f"{node.id} {known}")
    low, high = ends
    shown: tuple[Any, Any] = (
        low if low is not None else -1e6,
        high if high is not None else max(node.spec.high or 0.0, most),
    )
    if node.spec.kind == "colour":
        shown = "#00000000", "#ffffff"
    add = {"kind": "add modifier", "scene": sampler.scene.id, "parameter": node.id, "modifier": "limit", "id": new}
    sets = (
        {"kind": "set value", "scene": sampler.scene.id, "parameter": f"{new}.{name}", "value": value}
        for name, value in zip(("low", "high"), shown, strict=True)
    )
    return (add, *sets)
