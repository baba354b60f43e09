"""Where a value may jump or bend, how often it may swing, and outside which times it never changes.

What integrates or averages a value asks this first. Every modifier tells the piece of its result that each moment
lies on (`pieces`); where the piece changes between two moments, the moment of the change is closed in on.
"""

from functools import partial

import numpy as np
from numpy.typing import NDArray

from ..document.gauge import NoiseGauge
from ..document.modifier import Modifier
from ..document.nodes import ParameterNode, Reading
from ..document.periodicity import MOTIONLESS, Stretch, joined
from ..motion.panels import panel_rate
from .elements import Elements
from .ragged import NOTHING, Ask, Ragged, Rows, states_of, union
from .readings import needed, timely
from .sample_times import SampleTimes, Times
from .sampling import Sampling
from .steps import Line

_MOST_OPEN = 200_000
_CLOSE = 2.0**-44
_HALVINGS = 60
_TOGETHER = 1 << 19
"""Moments of several elements at which pieces are first looked for together."""


class Breaks:
    """Breaks, swings and stretches of one scene's parameters, each worked out once."""

    def __init__(self, sampler: Sampling, elements: Elements | None, among: "tuple[Breaks, int] | None" = None) -> None:
        """Those of some elements, or (None) of what stands in no array. `among`: those of all of which this is one, and
        which it is."""
        self._sampler, self._elements, self._among = sampler, elements, among
        self.count = 1 if elements is None else len(elements)
        self._swings: dict[tuple[str, int], float] = {}
        self._stretches: dict[tuple[str, int], Stretch | None] = {}
        self._ones: dict[int, Breaks] = {}
        self._mosts: dict[str, NDArray[np.float64]] = {}
        self._of_each: dict[tuple[str, int], list[float]] = {}
        self._asked: set[str] = set()
        """Whose greatest size has been asked for one of these."""

    def one(self, row: int) -> "Breaks":
        """Those of one of the elements."""
        if self.count == 1:
            return self
        if row not in self._ones:
            assert self._elements is not None
            self._ones[row] = Breaks(self._sampler, self._elements.part(np.array([row])), (self, row))
        return self._ones[row]

    def of(self, parameter: str, low: int, high: int) -> Times:
        """Times in low … high (whole seconds) at which a parameter's result may jump or bend, in order; of one
        element."""
        line = self._sampler.plan.line(parameter)
        if line is None:
            return np.zeros(0)
        assert self.count == 1, "breaks of several elements are asked for by each"
        return self.of_each(line, line.count, np.array([low]), np.array([high])).times

    def of_each(self, line: Line, count: int, low: Rows, high: Rows) -> Ragged:
        """The same for each of the elements, in whole seconds of its own (elements,), and for what the first `count`
        steps give."""
        node = line.node
        if node.reads is None and not node.parameter.keys and not any(line.acting(count)):
            return NOTHING
        sampler, here = self._sampler, self._elements
        if self.count > 1 and not (np.ptp(low) or np.ptp(high)) and not self._apart(line, count):
            # The same for all: worked out for one.
            return self.one(0).of_each(line, count, low[:1], high[:1]).spread(self.count)
        key = ("breaks", sampler.key(node.id), count, low.tobytes(), high.tobytes(), here and here.key)
        faults = dict(sampler.faults)
        made = sampler.remembered(key, lambda: self._found(line, count, low, high), lambda found: found.nbytes + 256)
        # What goes wrong at moments that nobody asked for is told when somebody does.
        sampler.faults = faults
        return made

    def _apart(self, line: Line, count: int) -> bool:
        """Whether the breaks of elements may differ: where something that decides about them does."""
        axes = self._sampler.axes
        if line.node.reads is not None:
            return True
        for step in line.acting(count):
            modifier = step.modifier
            if modifier.stands or any(axes.of(f"{modifier.id}.{name}").elements for name in step.moving):
                return True
            if any(axes.heard(line.node, step, reference).elements for reference in modifier.references()):
                return True
        return False

    def passed(self, line: Line, count: int, times: Times) -> NDArray[np.int64]:
        """How many breaks lie between 0 and each time (elements · each,): another count means another piece."""
        if not times.size:
            return np.zeros(0, dtype=np.int64)
        reach = self._sampler.reach
        each = times.reshape(self.count, -1) if times.size % self.count == 0 and times.size > 1 else times[None]
        low, high = (np.clip(edge(each, axis=1), -reach, reach) for edge in (np.min, np.max))
        first = (np.floor(np.minimum(low, 0.0) / 8) * 8).astype(np.int64)
        last = (np.ceil(np.maximum(high, 1.0) / 8) * 8).astype(np.int64)
        shape = (self.count,)
        breaks = self.of_each(line, count, np.broadcast_to(first, shape), np.broadcast_to(last, shape))
        made = np.empty((self.count, each.shape[1]), dtype=np.int64)
        for row in range(self.count):
            own, asked = breaks.of(row), each[row if len(each) > 1 else 0]
            made[row] = np.searchsorted(own, asked, side="right") - np.searchsorted(own, 0.0, side="right")
        return made.ravel()

    def _found(self, line: Line, count: int, low: Rows, high: Rows) -> Ragged:
        node = line.node
        own, fps = node.parameter, self._sampler.scene.fps
        found = Ragged.of_all(self.count, np.unique([key.frame / fps for key in own.keys]))
        if node.reads is not None:
            found = self._of_reading(line, low, high)
        for step in line.acting(count):
            modifier = step.modifier
            more = [self._all(f"{modifier.id}.{name}", low, high) for name in step.moving]
            for reference in modifier.heard_at_once():
                more.append(self._all(self._sampler.index.heard(node, reference), low, high))
            edges = [e for w in modifier.windows for e in (w.start, w.start + w.fade_in, w.end - w.fade_out, w.end)]
            more.append(Ragged.of_all(self.count, np.unique(edges) / fps))
            kept = [] if step.full and (modifier.decides() or not modifier.takes_at_once()) else [found]
            # Where a setting jumps, some of its states may have pieces and others none.
            zero = np.zeros(1)
            told = bool(step.discrete) or self._pieces(line, step.position, np.zeros(1, np.int64), zero) is not None
            changes = NOTHING
            if told:
                ask = partial(self._pieces, line, step.position)
                changes = _changes(ask, union(found, *more), low, high, self._rates(line, step.position + 1))
            found = union(*kept, *more, changes)
        return found.between(low, high)

    def _rates(self, line: Line, count: int) -> Rows:
        """How often in a second it is looked for breaks, for each element."""
        return np.array([panel_rate(min(most, 512.0)) * 4 for most in self.swings_of_each(line, count)])

    def _all(self, parameter: str, low: Rows, high: Rows) -> Ragged:
        line = self._sampler.plan.line(parameter)
        return NOTHING if line is None else self.of_each(line, line.count, low, high)

    def _samples(self, node: ParameterNode, rows: Rows, times: Times) -> SampleTimes:
        """Some of the elements, as far as a value may differ for them, at moments (n,) or (rows, n)."""
        if self._elements is None:
            return SampleTimes(times if times.ndim == 1 else times[0])
        outer, within = self._elements.cut(len(self._sampler.index.arrays_of(node)))
        if outer is None:
            return SampleTimes(times.ravel())
        return SampleTimes(times, None, outer.part(rows if within is None else within[rows]))

    def _pieces(self, line: Line, position: int, rows: Rows, times: Times) -> "NDArray[np.int64] | None":
        samples = self._samples(line.node, rows, times)
        made = self._sampler.pieces(line, position, samples)
        if made is not None and samples.count != len(rows) * times.shape[-1]:
            made = np.tile(made, (len(rows), 1))
        return made

    def _of_reading(self, line: Line, low: Rows, high: Rows) -> Ragged:
        """Where what is read off a copy may jump or bend: with what it needs, and where it begins and ceases to be 0 or
        1."""
        node = line.node
        assert node.reads is not None
        known = union(*(self._all(needs, low, high) for needs in needed(self._sampler.index, node.reads)))
        if not self._sampler.axes.after(line, 0).times:
            return known

        def sides(rows: Rows, times: Times) -> NDArray[np.int64]:
            samples = self._samples(node, rows, times)
            values = samples.in_rows(self._sampler.output(line, 0, samples, False))
            made = np.broadcast_to(np.sign(values) + 3 * np.sign(values - 1), (samples.count, values.shape[1]))
            return np.tile(made, (len(rows) * times.shape[-1] // samples.count, 1)).astype(np.int64)

        return union(known, _changes(sides, known, low, high, self._rates(line, 0)))

    def swings_of_each(self, line: Line, count: int) -> list[float]:
        """How often in a second the value of each element may swing."""
        if self._elements is None or self.count == 1:
            return [self.swings(line, count)] * self.count
        asked = (line.node.id, count)
        if asked not in self._of_each:
            # The first one's anew, so that all that decides about it is asked for.
            self._asked = set()
            made = [Breaks(self._sampler, self._elements.part(np.array([0])), (self, 0)).swings(line, count)]
            if any(np.ptp(self._most_of_each(parameter)) for parameter in self._asked):
                made = [self.one(row).swings(line, count) for row in range(self.count)]
            self._of_each[asked] = made * (self.count // len(made))
        return self._of_each[asked]

    def _swings_of_reading(self, reads: Reading) -> float:
        most = max((self.whole_swings(needs) for needs in needed(self._sampler.index, reads)), default=0.0)
        if isinstance(reads.what, NoiseGauge) and timely(self._sampler.index, reads):
            own = reads.what.id
            most = max(most, self.most(f"{own}.frequency") * 2 ** (min(max(self.most(f"{own}.octaves"), 1), 8) - 1))
        return most

    def swings(self, line: Line, count: int) -> float:
        """How often in a second the value may swing after `count` modifiers; infinite where that is not known."""
        node = line.node
        known = self._swings.get((node.id, count))
        if known is not None:
            return known
        self._swings[node.id, count] = 0.0
        own, fps = node.parameter, self._sampler.scene.fps
        gaps = [b.frame - a.frame for a, b in zip(own.keys, own.keys[1:], strict=False)]
        made = min(fps / (2 * max(min(gaps), 1e-3)), 240.0) if gaps else 0.0
        if node.reads is not None:
            made = self._swings_of_reading(node.reads)
        for step in line.acting(count):
            made = step.modifier.swings(made, _Pace(self, node, step.modifier))
        self._swings[node.id, count] = made
        return made

    def most(self, parameter: str) -> float:
        """The greatest size of a parameter's result over the scene's frames."""
        if self._among is not None:
            among, row = self._among
            among._asked.add(parameter)
            most = among._most_of_each(parameter)
            return float(most[row if len(most) > 1 else 0])
        return float(self._most_of_each(parameter).max())

    def _most_of_each(self, parameter: str) -> NDArray[np.float64]:
        if parameter not in self._mosts:
            scene = self._sampler.scene
            frames = SampleTimes.frames(scene.fps, 0, scene.length, elements=self._elements)
            self._mosts[parameter] = np.abs(self._sampler.evaluate(parameter, frames)).max(axis=(1, 2))
        return self._mosts[parameter]

    def stretch(self, line: Line, count: int) -> Stretch | None:
        """Between which times the value may change after `count` modifiers; None when it may at all times."""
        asked = (line.node.id, count)
        if asked not in self._stretches:
            self._stretches[asked] = None
            self._stretches[asked] = self._stretched(line, count)
        return self._stretches[asked]

    def _stretched(self, line: Line, count: int) -> Stretch | None:
        node = line.node
        own, fps = node.parameter, self._sampler.scene.fps
        made: Stretch | None = MOTIONLESS
        if len(own.keys) > 1:
            made = (own.keys[0].frame / fps, own.keys[-1].frame / fps)
        if node.reads is not None:
            needs = needed(self._sampler.index, node.reads)
            made = (
                None
                if timely(self._sampler.index, node.reads)
                else joined(MOTIONLESS, *(self._of(name) for name in needs))
            )
        for step in line.acting(count):
            modifier = step.modifier
            came, made = made, modifier.lasts(made, _Pace(self, node, modifier))
            # Of what came in, some is passed on where a modifier is not at its full strength.
            parts = [
                made,
                *(() if step.full else (came,)),
                *(self._of(f"{modifier.id}.{name}") for name in ("strength", "weights")),
            ]
            parts += [(w.start / fps, w.end / fps) for w in modifier.windows]
            made = joined(*parts)
            if made is None:
                return None
        return made

    def _of(self, parameter: str) -> Stretch | None:
        line = self._sampler.plan.line(parameter)
        return MOTIONLESS if line is None else self.stretch(line, line.count)

    def whole_swings(self, parameter: str) -> float:
        """How often in a second a parameter's result may swing."""
        line = self._sampler.plan.line(parameter)
        return 0.0 if line is None else self.swings(line, line.count)


def _changes(ask: Ask, known: Ragged, low: Rows, high: Rows, rates: Rows) -> Ragged:
    """Where states change, to a relative 2⁻⁴⁴; `rates` tells how often in a second each row is looked at."""
    spans = (high - low) * rates + 1
    inside = known.some((known.times > low[known.rows]) & (known.times < high[known.rows]))
    found, first = [], 0
    # Rows are looked at together, as many as memory is meant to hold.
    for last in [*np.flatnonzero(np.diff(np.cumsum(spans) // _TOGETHER)) + 1, len(spans)]:
        rows = np.repeat(np.arange(first, last), spans[first:last])
        steps = np.arange(len(rows)) - np.repeat(np.cumsum(spans[first:last]) - spans[first:last], spans[first:last])
        here = inside.some((inside.rows >= first) & (inside.rows < last))
        found.append(_closed_in_on(ask, union(Ragged(rows, low[rows] + steps / rates[rows]), here)))
        first = last
    return union(*found)


def _closed_in_on(ask: Ask, points: Ragged) -> Ragged:
    states = states_of(points, ask)
    width = states.shape[1]
    apart = np.flatnonzero((points.rows[1:] == points.rows[:-1]) & (states[1:] != states[:-1]).any(axis=1))
    rows, left, right = points.rows[apart], points.times[apart], points.times[apart + 1]
    before, after = states[apart], states[apart + 1]
    found: list[Ragged] = []
    for _ in range(_HALVINGS):
        middle = left + (right - left) / 2
        # What has too many changes is not closed in on any further.
        wild = np.bincount(rows, minlength=1)[rows] > _MOST_OPEN
        close = (right - left <= _CLOSE * np.maximum(1.0, np.abs(right))) | wild
        found.append(Ragged(rows[close], right[close]))
        rows, left, right, middle = rows[~close], left[~close], right[~close], middle[~close]
        before, after = before[~close], after[~close]
        if not len(left):
            break
        between = _as_wide(states_of(Ragged(rows, middle), ask), width)
        one, two = (before != between).any(axis=1), (between != after).any(axis=1)
        if not (one & two).any():
            # All change on one side alone, as most do once they have been told apart: nothing changes places.
            still = one | two
            later = two[still]
            rows, middle, between = rows[still], middle[still], between[still]
            left, right = np.where(later, middle, left[still]), np.where(later, right[still], middle)
            side = later[:, None]
            before, after = np.where(side, between, before[still]), np.where(side, after[still], between)
            continue
        rows = np.concatenate([rows[one], rows[two]])
        # Those of a row stand side by side.
        order = np.argsort(rows, kind="stable")
        rows = rows[order]
        left = np.concatenate([left[one], middle[two]])[order]
        right = np.concatenate([middle[one], right[two]])[order]
        before = np.concatenate([before[one], between[two]])[order]
        after = np.concatenate([between[one], after[two]])[order]
    return union(*found)


def _as_wide(states: NDArray[np.int64], width: int) -> NDArray[np.int64]:
    """What tells pieces, (n, width): of states that have fewer of them, 0 in the rest."""
    made = np.zeros((len(states), width), dtype=np.int64)
    made[:, : states.shape[1]] = states[:, :width]
    return made


class _Pace:
    """What a modifier may ask when it says how fast, and how long, its result may change."""

    def __init__(self, breaks: Breaks, node: ParameterNode, modifier: Modifier) -> None:
        self._breaks, self._node, self._modifier = breaks, node, modifier
        self.fps = breaks._sampler.scene.fps

    def swings_of_setting(self, name: str) -> float:
        """How often a setting may swing in a second."""
        return self._breaks.whole_swings(f"{self._modifier.id}.{name}")

    def swings_of_driver(self, reference: str) -> float:
        """How often a driver may swing in a second."""
        return self._breaks.whole_swings(self._breaks._sampler.index.heard(self._node, reference))

    def most(self, name: str) -> float:
        """The greatest size of a setting over the scene's frames."""
        return self._breaks.most(f"{self._modifier.id}.{name}")

    def stretch_of_setting(self, name: str) -> Stretch | None:
        """Between which times a setting may change."""
        return self._breaks._of(f"{self._modifier.id}.{name}")

    def stretch_of_driver(self, reference: str) -> Stretch | None:
        """Between which times a driver may change."""
        return self._breaks._of(self._breaks._sampler.index.heard(self._node, reference))


def breaks_of(sampler: Sampling, elements: Elements | None = None) -> "Breaks":
    """Where values of some elements may jump or bend, or those of what stands in no array; made once for each
    sampler."""
    key = ("breaks", None if elements is None else elements.key)
    if key not in sampler.memory:
        sampler.memory[key] = Breaks(sampler, elements)
    made: Breaks = sampler.memory[key]
    return made
