"""One modifier at work: what comes in, its settings at the samples asked for, and the faults it finds."""

from collections.abc import Callable
from fractions import Fraction
from typing import Any, NamedTuple

import numpy as np
from numpy.typing import NDArray

from ..document.axes import Axes
from ..document.keys import Value
from ..document.modifier import Modifier
from ..document.nodes import ParameterNode
from ..document.parameter import Parameter
from ..document.protocols import Context, Made, Values
from ..document.references import ALL_TOLD, OUTER, PREFIX, Taken, parted, said
from ..document.specs import Kind, ParameterSpec, numbers, specs_of
from ..motion.easing import KeyTable
from .axes import shared_depth
from .breaks import breaks_of
from .cache import Fault
from .integrals import integrated
from .pushing import pushed
from .resting import resting
from .sample_times import SampleTimes, Times, worked_out
from .sampling import Sampling


def _outside(name: str) -> ParameterNode:
    rest = ALL_TOLD[name]
    value: Value = rest[0] if len(rest) == 1 else rest
    kind: Kind = "number" if len(rest) == 1 else "vector"
    own, spec = Parameter(rest=value), ParameterSpec(kind, value, name, components=len(rest))
    return ParameterNode(PREFIX + name, own, spec, (), ((PREFIX + name, name),), PREFIX, name)


#: What is known of itself by what stands in no array.
OUTSIDE = {name: _outside(name) for name in ALL_TOLD}


class Incoming:
    """What comes in from the left: rows at the asked samples and, when a modifier wants it, at other moments."""

    def __init__(
        self, sampler: Sampling, node: ParameterNode, position: int, samples: SampleTimes, known: Values | None = None
    ) -> None:
        self._sampler, self._node, self._position, self._samples = sampler, node, position, samples
        self._known = known
        self.parameter: Parameter = node.parameter

    @property
    def values(self) -> Values:
        if self._known is None:
            # On a frame grid the whole chain is remembered; elsewhere several modifiers may ask for the same moments.
            self._known = self._rows(self._samples, self._samples.grid is None)
        return self._known

    def begin(self) -> None:
        """Works its values out for all samples at once, before some of them are asked for."""
        self._known = self.values

    def at(self, times: Times) -> Values:
        return self._rows(self._samples.at(worked_out(times, self._sampler.scene.fps)), True)

    def once(self, times: Times) -> Values:
        """At moments of a modifier's own making, that nobody asks for again."""
        return self._rows(self._samples.at(times), False)

    def _rows(self, samples: SampleTimes, remember: bool) -> Values:
        return samples.in_rows(
            self._sampler.output(self._node, self._position, samples, remember and self._position > 0)
        )

    def passed(self, times: Times) -> NDArray[np.int64]:
        breaks = breaks_of(self._sampler, self._samples.elements)
        return breaks.passed(self._node, self._position, worked_out(times))

    def breaks(self, low: NDArray[np.int64], high: NDArray[np.int64]) -> list[Times]:
        breaks = breaks_of(self._sampler, self._samples.elements)
        found = breaks.of_each(self._node, self._position, low, high)
        return [found.of(row) for row in range(breaks.count)]

    @property
    def swings(self) -> list[float]:
        return breaks_of(self._sampler, self._samples.elements).swings_of_each(self._node, self._position)

    def of_elements(self, rows: NDArray[np.int64], times: Times) -> Values:
        samples = self._samples.of_elements(rows, times)
        values = self._sampler.output(self._node, self._position, samples, False)
        return np.broadcast_to(values, (len(rows), values.shape[1], values.shape[2]))

    @property
    def keys(self) -> KeyTable | None:
        return self._sampler.table(self._node)

    def some(self, chosen: NDArray[np.int64], samples: SampleTimes) -> "Incoming":
        """The same signal at some of the samples, which are given by the numbers of their rows."""
        known = self._known
        if known is not None and known.shape[0] > 1:
            known = known[chosen]
        return Incoming(self._sampler, self._node, self._position, samples, known)


class _Ear(NamedTuple):
    """What a reference leads to, by which way many are taken as one, and whether there are none of which one could be taken."""

    node: ParameterNode | None
    way: Taken | None
    alone: bool


def _resting_numbers(modifier: Modifier, spec: ParameterSpec) -> dict[Any, Any]:
    """The settings of a modifier that rest, on a parameter with a spec; remembered on the modifier, which never changes."""
    known: tuple[ParameterSpec, dict[Any, Any]] | None = modifier.__dict__.get("_still")
    if known is None or (known[0] is not spec and known[0] != spec):
        known = modifier.__dict__["_still"] = spec, {}
    return known[1]


class ModifierContext:
    """The samples asked for as rows, with the modifier's settings there, and what goes wrong."""

    def __init__(self, sampler: Sampling, node: ParameterNode, modifier: Modifier, samples: SampleTimes) -> None:
        self.sampler, self.node, self.modifier, self.samples = sampler, node, modifier, samples
        self._specs = specs_of(type(modifier))
        self.fps, self.count = sampler.scene.fps, samples.count
        self.length = sampler.scene.length / sampler.scene.fps
        self.components = node.spec.components
        self.spec = node.spec
        self._still = _resting_numbers(modifier, node.spec)
        self.wrong: NDArray[np.bool_] | None = None
        self.sound = False

    @property
    def times(self) -> Times:
        return self.samples.rows

    @property
    def streams(self) -> NDArray[np.int64] | None:
        """The number of each element asked for, each with as many rows as the others; None outside an array."""
        elements = self.samples.elements
        return None if elements is None else elements.streams

    @property
    def steady(self) -> bool:
        return self.samples.steady

    def _axes(self, name: str) -> Axes:
        return self.sampler.axes.of(f"{self.modifier.id}.{name}")

    def moves(self, name: str) -> bool:
        return self._setting(name).moves and self._axes(name).times

    def varies(self, name: str) -> bool:
        if not self._setting(name).moves:
            return False
        axes = self._axes(name)
        return axes.times or (axes.elements > 0 and self.samples.elements is not None)

    def _setting(self, name: str) -> Parameter:
        own: Parameter = getattr(self.modifier, name)
        return own

    @property
    def moments(self) -> "ModifierContext | None":
        samples = self.samples
        if samples.elements is None or samples.times.ndim == 2:
            return None
        return ModifierContext(self.sampler, self.node, self.modifier, SampleTimes(samples.times, samples.grid))

    def differs(self, name: str) -> bool:
        return self._setting(name).moves and self._axes(name).elements > 0

    def by_copy(self, what: str) -> Values | None:
        if what in self._specs:
            values = self.sampler.evaluate(f"{self.modifier.id}.{what}", self.samples)
        else:
            ear = self._ear(what)
            if ear.node is None:
                return None
            values = self._values(ear.node, ear.way, self.samples)
        still: Values | None = values[:, 0] if values.shape[1] == 1 else None
        return still

    def number(self, name: str) -> Values:
        known: Values | None = self._still.get(name)
        if known is not None:
            return known
        if not self._is_moved(name):
            # What rests is the same in all rows, and for as long as the modifier stays as it is.
            node = self.sampler.index.parameters[f"{self.modifier.id}.{name}"]
            rests: Values = resting(node.parameter, node.spec)[0]
            self._still[name] = rests
            return rests
        samples = self.samples
        values = self.sampler.evaluate(f"{self.modifier.id}.{name}", samples)
        rows: Values = values[0] if samples.elements is None else samples.in_rows(values)
        return rows

    def folded(self, names: tuple[str, ...], make: Callable[[], Made | None]) -> Made | None:
        known: Made | None = self._still.get(names)
        if known is None and (known := make()) is not None and not any(map(self._is_moved, names)):
            self._still[names] = known
        return known

    def _is_moved(self, name: str) -> bool:
        own = self._setting(name)
        return bool(own.keys or own.chain)

    def standing(self, make: Callable[[], Made]) -> Made:
        """`make()`, of where the modifier stands in its scene alone; kept for as long as the scene is as it is."""
        known: dict[tuple[str, str], Any] = self.sampler.index.__dict__.setdefault("_standing", {})
        here = self.node.id, self.modifier.id
        if here not in known:
            known[here] = make()
        made: Made = known[here]
        return made

    def spec_of(self, reference: str) -> ParameterSpec | None:
        ear = self._ear(reference)
        return None if ear.node is None or ear.alone else ear.node.spec

    def _ear(self, reference: str) -> "_Ear":
        """What a reference of this modifier means; a copy that stands in no array knows nothing but what holds there."""
        index = self.sampler.index
        known: dict[tuple[str, str], _Ear] = index.__dict__.setdefault("_ears", {})
        ear = known.get((self.node.id, reference))
        if ear is None:
            heard = index.heard(self.node, reference)
            node = index.target(heard) or OUTSIDE.get(heard.rpartition(OUTER)[2].removeprefix(PREFIX))
            way = parted(reference)[1]
            alone = node is not None and way is not None and not index.arrays_of(node)
            ear = known[self.node.id, reference] = _Ear(node, way, alone)
        return ear

    def texts(self, name: str) -> NDArray[Any]:
        distinct, which = self.sampler.texts(f"{self.modifier.id}.{name}", self.samples)
        return np.array(distinct, dtype=object)[which]

    def choice(self, name: str) -> str:
        options = self._specs[name].options
        return options[min(max(self.whole(name), 0), len(options) - 1)]

    def most(self, name: str) -> float:
        """The greatest size of a setting over the scene's frames."""
        return breaks_of(self.sampler, self.samples.elements).most(f"{self.modifier.id}.{name}")

    def whole(self, name: str) -> int:
        return round(float(self.number(name)[0, 0]))

    def switch(self, name: str) -> bool:
        return bool(self.number(name)[0, 0] >= 0.5)

    def phase(self, name: str) -> Values:
        return self._over_rows(name, 0, False)

    def phase_at(self, name: str, times: Times) -> Values:
        return self._integral(name, times, 0, False)

    def integral(self, name: str, component: int) -> Values:
        return self._over_rows(name, component, True)

    def _over_rows(self, name: str, component: int, signed: bool) -> Values:
        samples = self.samples
        if samples.shape[0] == 1 or samples.times.ndim == 2 or self._axes(name).elements:
            return self._integral(name, self.times, component, signed)
        # The same for all elements: worked out for one.
        one = self.moments
        assert one is not None
        made = one._integral(name, one.times, component, signed)
        self.heed(one)
        return samples.repeated(made)

    def heed(self, moments: "Context") -> None:
        wrong = moments.wrong
        if wrong is not None:
            wrong = self.samples.repeated(wrong)
            self.wrong = wrong if self.wrong is None else self.wrong | wrong

    def _integral(self, name: str, times: Times, component: int, signed: bool) -> Values:
        """∫ of a setting from 0 to times (rows,) or (1,)."""
        if not times.size:
            return times
        if not self.moves(name):
            rate = self.number(name)[:, component]
            return times * (rate if signed else np.maximum(rate, 0.0))
        parameter = f"{self.modifier.id}.{name}"
        made, far = integrated(self.sampler, parameter, self.samples, times, component, signed)
        if far.any():
            self.fault(far, f"It is asked for a moment too far from the scene: over {self.sampler.reach:,.0f} s away")
        return made

    def driver(self, reference: str, component: int | None, times: Times) -> Values:
        ear = self._ear(reference)
        node = ear.node
        if node is None:
            self.fault(np.array([True]), "What it follows is no longer there")
            return np.zeros((1, self.components))
        if ear.alone:
            told = f"{node.spec.label} is one value: it has no copies of which {said(ear.way or 0)} could be taken"
            self.fault(np.array([True]), told)
            return np.zeros((1, self.components))
        own = self.samples
        samples = own if times is own.rows else own.at(worked_out(times, self.fps))
        values = self._values(node, ear.way, samples)
        if own.elements is None:
            alone: Values = values[0]
            return alone if component is None else alone[:, component : component + 1]
        rows = samples.in_rows(values)
        if rows.shape[0] not in (1, len(self.times)) and samples.shape[0] == self.samples.shape[0] > 1:
            # One moment for all: as many rows as there are elements.
            rows = self.samples.in_rows(values)
        return rows if component is None else rows[:, component : component + 1]

    def _values(self, node: ParameterNode, way: Taken | None, samples: SampleTimes) -> Values:
        if node.top == PREFIX:
            return np.array([[numbers(node.parameter.rest, node.spec)]])
        if way is None:
            return self.sampler.evaluate(node.id, samples)
        return self.sampler.taken(node.id, way, samples, shared_depth(self.sampler.index, self.node, node))

    def pushed(self, values: Values, zone: str, way: int) -> Values | None:
        """Where a zone moves what stands at `values` on top of its place, (rows, 2); None: the zone is not there."""
        if self.sampler.index.parameters.get(f"{zone}.centre") is None:
            self.fault(np.array([True]), "The zone has been deleted")
            return None
        made, self.sound = pushed(self, zone, values, way)
        return made

    def brought(self) -> Values:
        """How much nearer copies are brought by what pushes their position, in rows."""
        return self.samples.in_rows(self.sampler.brought(self.node.top, self.samples))

    def turned(self, reference: str) -> tuple[Values, Fraction, float]:
        """A driver as the first wheel's value (rows or 1, components), a ratio and what is added: exact along a train."""
        known = self.sampler.turning.of(reference)
        return self.driver(known.first, None, self.times), known.ratio, known.offset

    def passed(self, reference: str, times: Times) -> NDArray[np.int64]:
        node = self.sampler.node(self.sampler.index.heard(self.node, reference))
        if node is None or parted(reference)[1] is not None:
            return np.zeros(times.shape, dtype=np.int64)
        breaks = breaks_of(self.sampler, self.samples.elements)
        return breaks.passed(node, len(node.stations), worked_out(times))

    def fault(self, wrong: NDArray[np.bool_] | np.bool_, message: str) -> None:
        if not wrong.any():
            return
        full = np.broadcast_to(wrong, self.times.shape)
        self.wrong = full if self.wrong is None else self.wrong | full
        first = float(self.times[np.flatnonzero(full)].min()) if full.size else 0.0
        self.sampler.note_all([Fault(self.node.id, self.modifier.id, message, first)])
