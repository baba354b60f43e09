"""What the gauge Noise reads off copies."""

import numpy as np
from numpy.typing import NDArray

from ..document.gauge import NoiseGauge
from ..motion.field import noises, spots
from ..motion.phase import came_round
from .integrals import integral
from .sample_times import SampleTimes
from .sampling import Sampling

Floats = NDArray[np.float64]


def noise_of(sampler: Sampling, array: str, gauge: NoiseGauge, part: int, samples: SampleTimes) -> Floats:
    """One of its numbers, 0..1; (elements or 1, times or 1)."""

    def setting(name: str, component: int = 0) -> Floats:
        values: Floats = sampler.evaluate(f"{gauge.id}.{name}", samples)[..., component]
        return values

    def told(name: str) -> Floats:
        return sampler.evaluate(f"{array}.{name}", samples)

    zoom, scroll = (sampler.evaluate(f"{gauge.id}.{name}", samples) for name in ("zoom", "scroll"))
    depth = setting("zoom_depth"), setting("scroll_depth")
    choices = np.broadcast_arrays(*(np.rint(setting(name)).astype(int) for name in ("over", "character")))
    every = np.maximum(setting("repeat"), 0.0)
    phase, lapse = came_round(
        lambda times: _phase(sampler, f"{gauge.id}.frequency", samples, times), samples.times, every
    )
    shape = (setting("octaves"), setting("persistence"), setting("seed"))
    out: Floats = np.zeros(1)
    for over, character in np.unique(np.stack(choices, -1).reshape(-1, 2), axis=0).tolist():
        at = spots(over, told, zoom, scroll, *depth)
        made = noises(at, phase, lapse, *shape, character, setting("in_step") / 100, part)
        mine = (choices[0] == over) & (choices[1] == character)
        out = made if mine.all() else np.where(mine, made, out)
    return (out + 1) / 2


def _phase(sampler: Sampling, parameter: str, samples: SampleTimes, times: Floats) -> Floats:
    """The integral of a frequency from 0 to times (elements or 1, times or 1) or (times,); of that shape at least."""
    axes, elements = sampler.axes.of(parameter), samples.elements
    if not axes.times:
        return np.maximum(sampler.evaluate(parameter, samples)[..., 0], 0.0) * times
    if elements is None or not axes.elements:
        low, high = float(times.min(initial=0.0)), float(times.max(initial=0.0))
        phase = integral(sampler, parameter, low, high)
        return phase.at(np.ascontiguousarray(times).ravel()).reshape(-1, times.shape[-1])
    rows = []
    for k in range(len(elements)):
        one = samples.one(k)
        own = np.ascontiguousarray(times if times.ndim == 1 else times[min(k, len(times) - 1)])
        phase = integral(sampler, parameter, float(own.min()), float(own.max()), elements=one.elements)
        rows.append(phase.at(own))
    return np.stack(rows)
