"""One modifier at work: what comes in, its settings at the samples asked for, and the faults it finds."""

from collections.abc import Callable
from fractions import Fraction
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document.axes import Axes
from ..document.parameter import Parameter
from ..document.protocols import Context, Made, Values
from ..document.references import said
from ..document.specs import ParameterSpec
from ..motion.easing import KeyTable
from .axes import shared_depth
from .breaks import breaks_of
from .cache import Fault
from .integrals import integrated
from .pushing import pushed
from .resting import resting
from .sample_times import SampleTimes, Times, worked_out
from .sampling import Sampling
from .steps import Ear, Line, Step


class Incoming:
    """What comes in from the left: rows at the asked samples and, when a modifier wants it, at other moments."""

    def __init__(
        self, sampler: Sampling, line: Line, position: int, samples: SampleTimes, known: Values | None = None
    ) -> None:
        self._sampler, self._line, self._position, self._samples = sampler, line, position, samples
        self._known = known
        self.parameter: Parameter = line.node.parameter

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
            self._sampler.output(self._line, self._position, samples, remember and self._position > 0)
        )

    def passed(self, times: Times) -> NDArray[np.int64]:
        breaks = breaks_of(self._sampler, self._samples.elements)
        return breaks.passed(self._line, self._position, worked_out(times))

    def breaks(self, low: NDArray[np.int64], high: NDArray[np.int64]) -> list[Times]:
        breaks = breaks_of(self._sampler, self._samples.elements)
        found = breaks.of_each(self._line, self._position, low, high)
        return [found.of(row) for row in range(breaks.count)]

    @property
    def swings(self) -> list[float]:
        return breaks_of(self._sampler, self._samples.elements).swings_of_each(self._line, self._position)

    def of_elements(self, rows: NDArray[np.int64], times: Times) -> Values:
        samples = self._samples.of_elements(rows, times)
        values = self._sampler.output(self._line, self._position, samples, False)
        return np.broadcast_to(values, (len(rows), values.shape[1], values.shape[2]))

    @property
    def keys(self) -> KeyTable | None:
        return self._sampler.table(self._line.node)

    def some(self, chosen: NDArray[np.int64], samples: SampleTimes) -> "Incoming":
        """The same signal at some of the samples, which are given by the numbers of their rows."""
        known = self._known
        if known is not None and known.shape[0] > 1:
            known = known[chosen]
        return Incoming(self._sampler, self._line, self._position, samples, known)


class ModifierContext:
    """The samples asked for as rows, with the modifier's settings there, and what goes wrong."""

    def __init__(self, sampler: Sampling, line: Line, step: Step, samples: SampleTimes) -> None:
        node = line.node
        self.sampler, self.line, self.step, self.samples = sampler, line, step, samples
        self.node, self.modifier = node, step.modifier
        self.fps, self.count = sampler.scene.fps, samples.count
        self.spec = node.spec
        self.components = node.spec.components
        self.wrong: NDArray[np.bool_] | None = None
        self.sound = False

    @property
    def length(self) -> float:
        """How long the scene is, in seconds."""
        return self.sampler.scene.length / self.fps

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
        return name in self.step.moving and self._axes(name).times

    def varies(self, name: str) -> bool:
        if name not in self.step.moving:
            return False
        axes = self._axes(name)
        return axes.times or (axes.elements > 0 and self.samples.elements is not None)

    @property
    def moments(self) -> "ModifierContext | None":
        samples = self.samples
        if samples.elements is None or samples.times.ndim == 2:
            return None
        return ModifierContext(self.sampler, self.line, self.step, SampleTimes(samples.times, samples.grid))

    def differs(self, name: str) -> bool:
        return name in self.step.moving and self._axes(name).elements > 0

    def by_copy(self, what: str) -> Values | None:
        if what in self.step.specs:
            values = self.sampler.evaluate(f"{self.modifier.id}.{what}", self.samples)
        else:
            ear = self._ear(what)
            if ear.id is None:
                return None
            values = self._values(ear, self.samples)
        still: Values | None = values[:, 0] if values.shape[1] == 1 else None
        return still

    def number(self, name: str) -> Values:
        known: Values | None = self.step.still.get(name)
        if known is not None:
            return known
        if not self._is_moved(name):
            # What rests is the same in all rows, and for as long as the modifier stays as it is.
            node = self.sampler.index.parameters[f"{self.modifier.id}.{name}"]
            rests: Values = resting(node.parameter, node.spec)[0]
            self.step.still[name] = rests
            return rests
        samples = self.samples
        values = self.sampler.evaluate(f"{self.modifier.id}.{name}", samples)
        rows: Values = values[0] if samples.elements is None else samples.in_rows(values)
        return rows

    def folded(self, names: tuple[str, ...], make: Callable[[], Made]) -> Made:
        known: Made | None = self.step.still.get(names)
        if known is not None:
            return known
        wrong, made = self.wrong, make()
        # What makes no sense is told each time.
        if self.wrong is wrong and not any(map(self._is_moved, names)):
            self.step.still[names] = made
        return made

    def _is_moved(self, name: str) -> bool:
        own: Parameter = getattr(self.modifier, name)
        return bool(own.keys or own.chain)

    def standing(self, make: Callable[[], Made]) -> Made:
        """`make()`, of where the modifier stands in its scene alone; kept for as long as who listens to whom is as it
        is."""
        if self.step.made is None:
            self.step.made = make()
        made: Made = self.step.made
        return made

    def spec_of(self, reference: str) -> ParameterSpec | None:
        ear = self._ear(reference)
        return None if ear.alone else ear.spec

    def _ear(self, reference: str) -> Ear:
        return self.sampler.plan.ear(self.node, self.step, reference)

    def texts(self, name: str) -> NDArray[Any]:
        distinct, which = self.sampler.texts(f"{self.modifier.id}.{name}", self.samples)
        return np.array(distinct, dtype=object)[which]

    def choice(self, name: str) -> str:
        options = self.step.specs[name].options
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
        if ear.id is None:
            self.fault(np.array([True]), "What it follows is no longer there")
            return np.zeros((1, self.components))
        if ear.alone:
            told = (
                f"{ear.spec.label if ear.spec else ear.id} is one value: it has no copies of which "
                f"{said(ear.way or 0)} could be taken"
            )
            self.fault(np.array([True]), told)
            return np.zeros((1, self.components))
        own = self.samples
        samples = own if times is own.rows else own.at(worked_out(times, self.fps))
        values = self._values(ear, samples)
        if own.elements is None:
            alone: Values = values[0]
            return alone if component is None else alone[:, component : component + 1]
        rows = samples.in_rows(values)
        if rows.shape[0] not in (1, len(self.times)) and samples.shape[0] == self.samples.shape[0] > 1:
            # One moment for all: as many rows as there are elements.
            rows = self.samples.in_rows(values)
        return rows if component is None else rows[:, component : component + 1]

    def _values(self, ear: Ear, samples: SampleTimes) -> Values:
        if ear.rests is not None:
            return ear.rests
        assert ear.id is not None
        if ear.way is None:
            return self.sampler.evaluate(ear.id, samples)
        target = self.sampler.node(ear.id)
        assert target is not None
        return self.sampler.taken(ear.id, ear.way, samples, shared_depth(self.sampler.index, self.node, target))

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
        """A driver as the first wheel's value (rows or 1, components), a ratio and what is added: exact along a
        train."""
        known = self.sampler.turning.of(reference)
        return self.driver(known.first, None, self.times), known.ratio, known.offset

    def passed(self, reference: str, times: Times) -> NDArray[np.int64]:
        ear = self._ear(reference)
        if ear.id is None or ear.rests is not None or ear.way is not None:
            return np.zeros(times.shape, dtype=np.int64)
        line = self.sampler.line(ear.id)
        return breaks_of(self.sampler, self.samples.elements).passed(line, line.count, worked_out(times))

    def fault(self, wrong: NDArray[np.bool_] | np.bool_, message: str) -> None:
        if not wrong.any():
            return
        full = np.broadcast_to(wrong, self.times.shape)
        self.wrong = full if self.wrong is None else self.wrong | full
        first = float(self.times[np.flatnonzero(full)].min()) if full.size else 0.0
        self.sampler.note_all([Fault(self.node.id, self.modifier.id, message, first)])
