"""Where a value may jump or bend, how often it may swing, and outside which times it never changes.

What integrates or averages a value asks this first. Every modifier tells the piece of its result that each moment
lies on (`pieces`); where the piece changes between two moments, the moment of the change is closed in on.
"""

from collections.abc import Callable
from math import ceil, floor
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from ..document.gauge import NoiseGauge
from ..document.index import ParameterNode, Reading
from ..document.modifier import Modifier
from ..document.periodicity import MOTIONLESS, Stretch, joined
from ..document.specs import specs_of
from ..motion.panels import panel_rate
from .elements import Elements
from .readings import needed, timely
from .sample_times import SampleTimes, Times

if TYPE_CHECKING:
    from .sampler import Sampler

_MOST_OPEN = 200_000
_CLOSE = 2.0**-44
_HALVINGS = 60


class Breaks:
    """Breaks, swings and stretches of one scene's parameters, each worked out once."""

    def __init__(self, sampler: "Sampler", elements: Elements | None) -> None:
        """Those of one element, or (None) of what stands in no array."""
        self._sampler, self._elements = sampler, elements
        self._swings: dict[tuple[str, int], float] = {}
        self._stretches: dict[tuple[str, int], Stretch | None] = {}

    def of(self, parameter: str, low: int, high: int) -> Times:
        """Times in low … high (whole seconds) at which a parameter's result may jump or bend, in order."""
        node = self._sampler.index.target(parameter)
        return np.zeros(0) if node is None else self.after(node, len(node.parameter.chain), low, high)

    def after(self, node: ParameterNode, count: int, low: int, high: int) -> Times:
        """The same for what the first `count` modifiers of its chain give."""
        own = node.parameter
        if node.reads is None and not own.keys and (not count or own.bypassed):
            return np.zeros(0)
        sampler = self._sampler
        key = ("breaks", sampler.upstream.key(node.id), count, low, high, self._elements and self._elements.key)
        faults = dict(sampler.faults)
        made = sampler.remembered(key, lambda: self._found(node, count, low, high), lambda times: times.nbytes + 256)
        # What goes wrong at moments that nobody asked for is told when somebody does.
        sampler.faults = faults
        return made

    def passed(self, node: ParameterNode, count: int, times: Times) -> NDArray[np.int64]:
        """How many breaks lie between 0 and each time (n,): another count means another piece."""
        if not times.size:
            return np.zeros(0, dtype=np.int64)
        reach = self._sampler.reach
        low, high = float(np.clip(times.min(), -reach, reach)), float(np.clip(times.max(), -reach, reach))
        first, last = floor(min(low, 0.0) / 8) * 8, ceil(max(high, 1.0) / 8) * 8
        breaks = self.after(node, count, first, last)
        return np.searchsorted(breaks, times, side="right") - np.searchsorted(breaks, 0.0, side="right")

    def _found(self, node: ParameterNode, count: int, low: int, high: int) -> Times:
        own, fps = node.parameter, self._sampler.scene.fps
        found = np.array([key.frame / fps for key in own.keys])
        if node.reads is not None:
            found = self._of_reading(node, low, high)
        for position, modifier in enumerate(own.chain[:count]):
            if own.bypassed or modifier.bypassed:
                continue
            more = [self._of_settings(modifier, low, high)]
            for reference in modifier.heard_at_once():
                more.append(self.of(self._sampler.index.heard(node, reference), low, high))
            edges = [e for w in modifier.windows for e in (w.start, w.start + w.fade_in, w.end - w.fade_out, w.end)]
            more.append(np.array(edges) / fps)
            kept = [] if modifier.full_strength and (modifier.decides() or not modifier.takes_at_once()) else [found]
            known = np.unique(np.concatenate([found, *more]))
            rate = panel_rate(min(self.swings(node, position + 1), 512.0)) * 4

            def pieces(times: Times, position: int = position) -> NDArray[np.int64] | None:
                return self._sampler.pieces(node, position, np.ascontiguousarray(times), self._elements)

            # Where a setting jumps, some of its states may have pieces and others none.
            told = bool(modifier.animated_discrete) or pieces(np.zeros(1)) is not None
            changes = _changes(pieces, known, low, high, rate) if told else np.zeros(0)
            found = np.unique(np.concatenate([*kept, *more, changes]))
        return np.asarray(found[(found >= low) & (found <= high)])

    def _of_settings(self, modifier: Modifier, low: int, high: int) -> Times:
        moving = [n for n in specs_of(type(modifier)) if getattr(modifier, n).moves]
        return np.concatenate([np.zeros(0), *(self.of(f"{modifier.id}.{name}", low, high) for name in moving)])

    def _of_reading(self, node: ParameterNode, low: int, high: int) -> Times:
        """Where what is read off a copy may jump or bend: with what it needs, and where it begins and ceases to be 0 or 1."""
        assert node.reads is not None
        more = [self.of(needs, low, high) for needs in needed(self._sampler.index, node.reads)]
        known = np.unique(np.concatenate([np.zeros(0), *more]))
        if not self._sampler.axes.after(node, 0).times:
            return known

        def pieces(times: Times) -> NDArray[np.int64]:
            samples = SampleTimes(np.ascontiguousarray(times), None, self._elements)
            values = self._sampler.output(node, 0, samples, False)[0]
            sides = np.sign(values) + 3 * np.sign(values - 1)
            return np.broadcast_to(sides, (times.size, values.shape[1])).astype(np.int64)

        rate = panel_rate(min(self.swings(node, 0), 512.0)) * 4
        return np.unique(np.concatenate([known, _changes(pieces, known, low, high, rate)]))

    def _swings_of_reading(self, reads: Reading) -> float:
        most = max((self._whole_swings(needs) for needs in needed(self._sampler.index, reads)), default=0.0)
        if isinstance(reads.what, NoiseGauge) and timely(self._sampler.index, reads):
            own = reads.what.id
            most = max(most, self.most(f"{own}.frequency") * 2 ** (min(max(self.most(f"{own}.octaves"), 1), 8) - 1))
        return most

    def swings(self, node: ParameterNode, count: int) -> float:
        """How often in a second the value may swing after `count` modifiers; infinite where that is not known."""
        known = self._swings.get((node.id, count))
        if known is not None:
            return known
        self._swings[node.id, count] = 0.0
        own, fps = node.parameter, self._sampler.scene.fps
        gaps = [b.frame - a.frame for a, b in zip(own.keys, own.keys[1:], strict=False)]
        made = min(fps / (2 * max(min(gaps), 1e-3)), 240.0) if gaps else 0.0
        if node.reads is not None:
            made = self._swings_of_reading(node.reads)
        for modifier in () if own.bypassed else own.chain[:count]:
            if not modifier.bypassed:
                made = modifier.swings(made, _Pace(self, node, modifier))
        self._swings[node.id, count] = made
        return made

    def most(self, parameter: str) -> float:
        """The greatest size of a parameter's result over the scene's frames."""
        scene = self._sampler.scene
        frames = SampleTimes.frames(scene.fps, 0, scene.length, elements=self._elements)
        return float(np.abs(self._sampler.evaluate(parameter, frames)).max())

    def stretch(self, node: ParameterNode, count: int) -> Stretch | None:
        """Between which times the value may change after `count` modifiers; None when it may at all times."""
        asked = (node.id, count)
        if asked not in self._stretches:
            self._stretches[asked] = None
            self._stretches[asked] = self._stretched(node, count)
        return self._stretches[asked]

    def _stretched(self, node: ParameterNode, count: int) -> Stretch | None:
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
        for modifier in () if own.bypassed else own.chain[:count]:
            if modifier.bypassed:
                continue
            came, made = made, modifier.lasts(made, _Pace(self, node, modifier))
            # Of what came in, some is passed on where a modifier is not at its full strength.
            parts = [
                made,
                *(() if modifier.full_strength else (came,)),
                *(self._of(f"{modifier.id}.{name}") for name in ("strength", "weights")),
            ]
            parts += [(w.start / fps, w.end / fps) for w in modifier.windows]
            made = joined(*parts)
            if made is None:
                return None
        return made

    def _of(self, parameter: str) -> Stretch | None:
        node = self._sampler.index.target(parameter)
        return MOTIONLESS if node is None else self.stretch(node, len(node.parameter.chain))

    def _whole_swings(self, parameter: str) -> float:
        node = self._sampler.index.target(parameter)
        return 0.0 if node is None else self.swings(node, len(node.parameter.chain))


Pieces = Callable[[Times], "NDArray[np.int64] | None"]


def _changes(pieces: Pieces, known: Times, low: int, high: int, rate: int) -> Times:
    """Where pieces change, to a relative 2⁻⁴⁴."""
    inside = known[(known > low) & (known < high)]
    grid = low + np.arange((high - low) * rate + 1) / rate
    points = np.unique(np.concatenate([grid, inside])) if len(inside) else grid
    found = []
    states = pieces(points)
    if states is None:
        return np.zeros(0)
    width = states.shape[1]
    apart = np.flatnonzero((states[1:] != states[:-1]).any(axis=1))
    left, right, before, after = points[apart], points[apart + 1], states[apart], states[apart + 1]
    for _ in range(_HALVINGS):
        middle = left + (right - left) / 2
        close = right - left <= _CLOSE * np.maximum(1.0, np.abs(right))
        found.append(right[close])
        left, right, middle = left[~close], right[~close], middle[~close]
        before, after = before[~close], after[~close]
        if not len(left) or len(left) > _MOST_OPEN:
            found.append(right)
            break
        between = _as_wide(pieces(middle), len(middle), width)
        first, second = (before != between).any(axis=1), (between != after).any(axis=1)
        left, right = np.concatenate([left[first], middle[second]]), np.concatenate([middle[first], right[second]])
        before, after = (
            np.concatenate([before[first], between[second]]),
            np.concatenate([between[first], after[second]]),
        )
    return np.concatenate(found)


def _as_wide(states: "NDArray[np.int64] | None", count: int, width: int) -> NDArray[np.int64]:
    """What tells pieces of some moments, (count, width): those of a state that has fewer of them are 0 in the rest."""
    made = np.zeros((count, width), dtype=np.int64)
    if states is not None:
        made[:, : states.shape[1]] = states[:, :width]
    return made


class _Pace:
    """What a modifier may ask when it says how fast, and how long, its result may change."""

    def __init__(self, breaks: Breaks, node: ParameterNode, modifier: Modifier) -> None:
        self._breaks, self._node, self._modifier = breaks, node, modifier
        self.fps = breaks._sampler.scene.fps

    def swings_of_setting(self, name: str) -> float:
        """How often a setting may swing in a second."""
        return self._breaks._whole_swings(f"{self._modifier.id}.{name}")

    def swings_of_driver(self, reference: str) -> float:
        """How often a driver may swing in a second."""
        return self._breaks._whole_swings(self._breaks._sampler.index.heard(self._node, reference))

    def most(self, name: str) -> float:
        """The greatest size of a setting over the scene's frames."""
        return self._breaks.most(f"{self._modifier.id}.{name}")

    def stretch_of_setting(self, name: str) -> Stretch | None:
        """Between which times a setting may change."""
        return self._breaks._of(f"{self._modifier.id}.{name}")

    def stretch_of_driver(self, reference: str) -> Stretch | None:
        """Between which times a driver may change."""
        return self._breaks._of(self._breaks._sampler.index.heard(self._node, reference))
