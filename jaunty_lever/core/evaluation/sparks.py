"""The sparks of emitters: which are alive at some moments, and what each knows of itself.

A spark is numbered by its birth, and all that decides about it is taken at its birth: any spark at any moment is worked
out alone, with no step before it.
"""

from collections.abc import Iterator
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document.arrangement import Emitter, leads_out
from ..document.layers import ArrayLayer
from ..document.limits import MOST_SPARKS
from ..document.protocols import Values
from ..document.references import ALL_TOLD, CIRCLE, LENGTH, PLAN
from ..document.specs import specs_of
from ..kernels.flight import fly, headed
from ..kernels.parallel import over
from .cache import Fault
from .elements import Elements
from .sample_times import SampleTimes
from .sampling import Sampling
from .spark_source import Source

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]


@dataclass(frozen=True)
class Flock:
    """The sparks alive at some moments: the position of the moment, of the copy of the array around, and the number of
    each, (p,), moment after moment in the order in which they are drawn."""

    when: Whole
    outer: Whole
    numbers: Whole


def is_emitter(sampler: Sampling, array: str) -> bool:
    """Whether an array's copies come and go."""
    layer = sampler.index.layers[array]
    return isinstance(layer, ArrayLayer) and isinstance(layer.arrangement, Emitter)


class Sparks:
    """The sparks of one scene's emitters."""

    def __init__(self, sampler: Sampling) -> None:
        self._sampler = sampler

    def alive(self, array: str, outer: SampleTimes) -> Flock:
        """Those alive at samples of what stands around the emitter, the limit of how many kept to."""
        key = ("sparks", self._sampler.key(f"{array}.place"), outer.key)
        return self._sampler.remembered(key, lambda: self._alive(array, outer), lambda made: made.when.nbytes * 3 + 200)

    def count(self, array: str, outer: SampleTimes) -> Whole:
        """How many are alive: (outer copies, times)."""
        flock = self.alive(array, outer)
        many, each = outer.shape
        where = flock.when if many == 1 else flock.outer * each + flock.when
        return np.bincount(where, minlength=many * each).reshape(many, each).astype(np.int64)

    def born(self, array: str, samples: SampleTimes) -> int:
        """How many have been born at the last of some moments, as many as there may be at the most."""
        last = SampleTimes(np.array([samples.times.max(initial=0.0)]))
        return max((source.last(last.times, MOST_SPARKS * 4) for source, _ in self._sources(array, last)), default=0)

    def there(self, array: str, samples: SampleTimes) -> NDArray[np.bool_]:
        """Which sparks, by number, are alive: (elements, times)."""
        return np.asarray(self._flown(array, samples)[7] > 0)

    def known(self, array: str, what: str, samples: SampleTimes) -> Values:
        """What sparks know of themselves: (elements, times or 1, components)."""
        elements = samples.elements
        assert elements is not None
        if what == "i":
            return elements.numbers.astype(np.float64)[:, None, None]
        if what == CIRCLE:
            return np.array([[ALL_TOLD[CIRCLE]]])
        if what in ("rank", "row", "col", "height", "across", LENGTH):
            return np.zeros((1, 1, 2 if what == "across" else 1))
        if what == "n":
            return self._neighbours(array, elements, samples)
        flown = self._flown(array, samples)
        if what == "place":
            return np.moveaxis(flown[2:4], 0, -1)
        if what == PLAN:
            near = flown[8] if len(flown) > 8 else np.zeros(flown[2].shape)
            return np.stack([flown[2], flown[3], near], axis=-1)
        if what == "z":
            return flown[8][..., None] if len(flown) > 8 else np.zeros((1, 1, 1))
        if what == "facing":
            return self._facing(array, flown)[..., None]
        return np.asarray(flown[{"age": 0, "life": 1, "u": 1, "x": 2, "y": 3}[what]][..., None])

    def flight(self, array: str, outer: SampleTimes, points: int = 28) -> Floats:
        """The way of a spark that is thrown at each moment with nothing left to chance, in the emitter's own
        coordinates: (times, points, 2)."""
        source, _ = next(self._sources(array, outer))
        return source.flight(outer.times if outer.times.ndim == 1 else outer.times[0], points)

    def _facing(self, array: str, flown: Floats) -> Floats:
        layer: Any = self._sampler.index.layers[array]
        turn: Floats = flown[6]
        if layer.arrangement.facing.constant_value is True:
            made = np.empty(turn.size)
            over(turn.size, headed, *(part.reshape(-1) for part in (turn, flown[4], flown[5])), made)
            turn = made.reshape(turn.shape)
        return turn

    def _neighbours(self, array: str, elements: Elements, samples: SampleTimes) -> Values:
        """How many are alive beside each."""
        if elements.aged:
            return self._neighbours_of_aged(array, elements, samples)
        moments, back = np.unique(samples.times, return_inverse=True)
        if elements.outer is None or elements.parents is None:
            counts = self.count(array, SampleTimes(moments))[0]
            made = counts[back.reshape(samples.times.shape)]
            return np.broadcast_to(made, samples.shape).astype(np.float64)[..., None]
        counts = self.count(array, SampleTimes(moments, None, elements.outer))
        where = np.broadcast_to(back.reshape(samples.times.shape), samples.shape)
        return counts[elements.parents[:, None], where].astype(np.float64)[..., None]

    def _neighbours_of_aged(self, array: str, elements: Elements, samples: SampleTimes) -> Values:
        births = np.zeros(len(elements))
        for source, rows in self._sources(
            array, None if elements.outer is None else SampleTimes(np.zeros(1), None, elements.outer)
        ):
            mine = _thrown_by(elements, rows)
            distinct, back = np.unique(elements.numbers[mine], return_inverse=True)
            births[mine] = source.of(distinct)[0][back]
        times = np.broadcast_to(samples.times, samples.shape) + births[:, None]
        return self._neighbours(array, replace(elements, aged=False), SampleTimes(times, None, elements))

    def _flown(self, array: str, samples: SampleTimes) -> Floats:
        """What `fly` tells of sparks at samples, (8, elements, times). Place, turn, age and life are asked for one
        after the other: the last answer is kept at hand."""
        key, last = (array, samples.key), self._sampler.memory.get("flown")
        if last is None or last[0] != key:
            last = self._sampler.memory["flown"] = (key, self._fly(array, samples))
        return last[1]

    def _fly(self, array: str, samples: SampleTimes) -> Floats:
        elements = samples.elements
        assert elements is not None
        many, each = samples.shape
        layer: Any = self._sampler.index.layers[array]
        out = np.empty((9 if leads_out(layer.arrangement) else 8, many, each))
        times = np.broadcast_to(samples.times, (many, each))
        around = None if elements.outer is None else SampleTimes(np.zeros(1), None, elements.outer)
        for source, rows in self._sources(array, around):
            mine = _thrown_by(elements, rows)
            if not len(mine):
                continue
            numbers = elements.numbers[mine]
            low, high = int(numbers.min()), int(numbers.max())
            if high - low < 4 * len(mine) + 20_000:
                born, first = source.table(low, high)
                which = numbers - first
            else:
                distinct, which = np.unique(numbers, return_inverse=True)
                born = source.of(distinct)
            whole = len(mine) == many
            part = out.reshape(len(out), -1) if whole else np.empty((len(out), len(mine) * each))
            when = np.ascontiguousarray(times if whole else times[mine]).ravel()
            if elements.aged:
                # What a pattern asks is counted from the birth on.
                born = np.concatenate([np.zeros((1, born.shape[1])), born[1:]])
            which = which if each == 1 else np.repeat(which, each)
            over(part.shape[1], fly, which, when, born, 0.0 if elements.aged else source.again, part)
            if not whole:
                out[:, mine] = part.reshape(len(out), len(mine), each)
        return out

    def _alive(self, array: str, outer: SampleTimes) -> Flock:
        many, each = outer.shape
        times = np.broadcast_to(outer.times, (many, each))
        layer: Any = self._sampler.index.layers[array]
        most = MOST_SPARKS // min(max(many, 1), 64)
        parts: list[tuple[Whole, Whole, Whole]] = []
        for source, rows in self._sources(array, outer):
            mine = np.arange(many) if rows is None else rows
            flat = np.ascontiguousarray(times[mine]).ravel()
            when, numbers, crowded = source.alive(flat, most)
            if crowded is not None:
                message = f"An emitter has at most {MOST_SPARKS:,} sparks alive; the oldest are left out"
                self._sampler.note(Fault(f"{array}.arrangement.rate", "", message, crowded))
            if len(mine) == 1:
                parts.append((when, np.full(len(when), mine[0]), numbers))
            else:
                parts.append((when % each, mine[when // each], numbers))
        when, around, numbers = parts[0] if len(parts) == 1 else map(np.concatenate, zip(*parts, strict=True))
        if layer.arrangement.on_top.constant_value == "oldest":
            order = np.lexsort((-numbers, when, around))
            when, around, numbers = when[order], around[order], numbers[order]
        return Flock(when, around, numbers)

    def _sources(self, array: str, outer: SampleTimes | None) -> "Iterator[tuple[Source, Whole | None]]":
        """What sparks come from: one for all copies of what stands around, or one for each of them where that
        differs."""
        elements = None if outer is None else outer.elements
        layer: Any = self._sampler.index.layers[array]
        names = [f"{array}.arrangement.{name}" for name in specs_of(Emitter)]
        # Copies of an array throw sparks of their own; sparks that throw sparks all throw the same ones, unless they
        # differ.
        inside = any(is_emitter(self._sampler, one) for one in self._sampler.index.arrays.get(array, ()))
        differs = not inside or any(self._sampler.axes.of(name).elements for name in names)
        if not differs or elements is None:
            yield Source(self._sampler, array, layer.arrangement, None), None
            return
        streams, back = np.unique(elements.streams, return_inverse=True)
        for k in range(len(streams)):
            rows = np.flatnonzero(back == k)
            yield Source(self._sampler, array, layer.arrangement, elements.part(rows[:1])), rows


def _thrown_by(elements: Elements, rows: Whole | None) -> Whole:
    """The positions of the sparks that one source throws: those in some copies of what stands around, or all."""
    if rows is None or elements.parents is None:
        return np.arange(len(elements))
    return np.flatnonzero(np.isin(elements.parents, rows))
