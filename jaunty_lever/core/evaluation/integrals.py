"""Integrals of parameters over time: over which stretch they are worked out, and how they go on beyond it."""

from collections.abc import Callable
from math import ceil, floor

import numpy as np
from numpy.typing import NDArray

from ..document.scene import Scene
from ..motion.phase import Beyond, Phase
from .breaks import breaks_of
from .cache import Fault
from .elements import Elements
from .periods import periods_of
from .sample_times import SampleTimes, Times
from .sampling import Sampling
from .steps import Line

MOST_LENGTHS = 100
"""Over how many lengths of the scene a value is integrated at the most."""


def reach(scene: Scene) -> float:
    """How far from 0, in seconds, a value can be integrated that neither rests nor repeats."""
    seconds = scene.length / scene.fps
    return float(ceil(min(MOST_LENGTHS * seconds, max(2 * seconds, 10_000))))


def integral(
    sampler: Sampling,
    parameter: str,
    low: float,
    high: float,
    component: int = 0,
    signed: bool = False,
    elements: Elements | None = None,
) -> Phase:
    """The integral of one component of a parameter from 0, usable from `low` to `high` seconds, and beyond where the
    parameter rests or repeats; for one element, if any. Unless it is `signed`, values below 0 count as 0."""
    line = sampler.line(parameter)
    if not sampler.axes.of(parameter).elements:
        elements = None

    def rate(times: Times) -> Times:
        values = sampler.output(line, line.count, SampleTimes(times, None, elements), False)[0, :, component]
        return np.broadcast_to(values if signed else np.maximum(values, 0.0), times.shape)

    first, last, beyond = _bounds(sampler, line, low, high, rate, elements)
    which = None if elements is None else elements.key
    key = ("phase", sampler.key(parameter), first, last, component, signed, sampler.reach, which)

    def work() -> Phase:
        breaks = breaks_of(sampler, elements)
        made = Phase(rate, breaks.of(parameter, first, last), breaks.swings(line, line.count), first, last, beyond)
        if made.rough:
            told = "It swings too often to be added up exactly; what follows from it is near to that"
            sampler.note(Fault(parameter, "", told, 0.0))
        return made

    return sampler.remembered(key, work, lambda phase: phase.powers.nbytes * 2)


def integrated(
    sampler: Sampling, parameter: str, samples: SampleTimes, times: Times, component: int, signed: bool
) -> tuple[Times, NDArray[np.bool_]]:
    """∫ of one component of a parameter from 0 to times, one for each of the samples or any number for all of them; and
    where that was asked for too far away, (1,) or one for each time."""
    elements = samples.elements
    if not sampler.axes.of(parameter).elements:
        elements = None
    if elements is None or len(elements) == 1:
        return _until(sampler, parameter, elements, times, component, signed)
    many, each = samples.shape
    parts = np.broadcast_to(times, (many * each,)).reshape(many, each)
    rows, beyond = np.empty((many, each)), False
    for k in range(many):
        own = np.ascontiguousarray(parts[k])
        rows[k], far = _until(sampler, parameter, elements.part(np.array([k])), own, component, signed)
        beyond = beyond or bool(far.any())
    # What one element asks for too far away is told of all.
    return rows.ravel(), np.array([beyond])


def _until(
    sampler: Sampling, parameter: str, elements: Elements | None, times: Times, component: int, signed: bool
) -> tuple[Times, NDArray[np.bool_]]:
    low, high = float(times.min()), float(times.max())
    phase = integral(sampler, parameter, low, high, component, signed, elements)
    far, beyond = np.zeros(1, dtype=bool), phase.beyond
    if beyond.below is None and low < phase.first:
        far = times < phase.first
    if beyond.above is None and not beyond.period and high > phase.last:
        far = far | (times > phase.last)
    return phase.at(np.ascontiguousarray(times)), far


def _bounds(
    sampler: Sampling,
    line: Line,
    low: float,
    high: float,
    rate: Callable[[Times], Times],
    elements: Elements | None,
) -> tuple[int, int, Beyond]:
    """Over which whole seconds a rate is integrated in panels, and how it goes on beyond them."""
    far = int(sampler.reach)
    # Whole spans keep the remembered phase useful for many questions.
    first = max(min(0, floor(max(low, -far) / 8) * 8), -far)
    last = min(max(8, ceil(min(high, far) / 8) * 8), far)
    stretch = breaks_of(sampler, elements).stretch(line, line.count)
    if stretch is not None:
        ends = (floor(max(min(stretch[0], 0.0), -far)) - 1, ceil(min(max(stretch[1], 0.0), far)) + 1)
        rest = rate(np.array([ends[0] - 1.0, ends[1] + 1.0]))
        below = float(rest[0]) if stretch[0] >= -far else None
        above = float(rest[1]) if stretch[1] <= far else None
        return (first if below is None else ends[0]), (last if above is None else ends[1]), Beyond(below, above)
    # How often a value repeats is known from settings that are the same for all elements.
    cycle = periods_of(sampler).of(line.node.id) if elements is None else None
    if cycle is not None and not cycle.drift and 0 < cycle.period <= far / 2 - 1:
        seconds = sampler.scene.length / sampler.scene.fps
        return first, min(max(16, 2 * ceil(cycle.period), ceil(seconds)), far), Beyond(period=float(cycle.period))
    return first, last, Beyond()
