"""Which moment of a clip a clip layer shows: where it plays, cut to what is kept of it."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..document.layers import ClipLayer
from .cache import Fault
from .integrals import integrated
from .sample_times import SampleTimes
from .sampling import Sampling

Moments = NDArray[np.float64]

HAIR = 1e-5
"""Seconds: what plays backwards shows, at the very moment at which two frames meet, the earlier one."""
_HELD, _AGAIN, _FOLDED, _NOTHING = range(4)
PLAYS = ("begins", "speed", "moment", "start", "stop", "ends")
"""The parameters that decide what is shown."""


@dataclass(frozen=True)
class Played:
    """How a clip plays at samples; each (elements or 1, times or 1), seconds of the clip.

    `moments` are where it would be if it had no ends; of what lies between `first` and `last`, `ends` tells what
    becomes of it.
    """

    moments: Moments
    backwards: NDArray[np.bool_]
    first: Moments
    last: Moments
    ends: NDArray[np.int64]

    def shown(self) -> Moments:
        """The moments that show, within first … last; NaN where nothing does."""
        whole = self.last - self.first
        since = self.moments - self.first - np.where(self.backwards, HAIR, 0.0)
        held = np.clip(since, 0.0, whole - HAIR)
        lap = np.mod(since, 2 * whole)
        folded = np.where(lap < whole, lap, 2 * whole - lap - np.where(self.backwards, 0.0, HAIR))
        alone = np.where((since < -HAIR) | (since > whole - HAIR / 10), np.nan, held)
        made = np.select(
            [self.ends == _AGAIN, self.ends == _FOLDED, self.ends == _NOTHING],
            [np.mod(since, whole), np.clip(folded, 0.0, None), alone],
            held,
        )
        return np.asarray(self.first + np.minimum(made, whole - HAIR / 10))


def played(sampler: Sampling, layer: ClipLayer, samples: SampleTimes) -> Played:
    """How the clip of a layer plays at samples of the layer."""

    def told(name: str) -> Moments:
        values = np.nan_to_num(sampler.evaluate(f"{layer.id}.{name}", samples)[..., 0])
        return np.clip(values, -1e9, 1e9)

    begins, speed, seconds = told("begins"), told("speed") / 100, layer.timing.seconds
    moments = told("moment") + told("start") + _run(sampler, layer, samples, begins, speed)
    shortest = min(seconds, 2 * HAIR)
    first = np.clip(told("start"), 0.0, seconds - shortest)
    stop = told("stop")
    last = np.maximum(np.where(stop > 0, np.minimum(stop, seconds), seconds), first + shortest)
    return Played(moments, speed < 0, first, last, np.clip(np.rint(told("ends")), 0, 3).astype(np.int64))


def frames_shown(sampler: Sampling, layer: ClipLayer, samples: SampleTimes) -> NDArray[np.int64]:
    """Which frame of its clip a layer shows at samples, (elements or 1, times or 1); −1 for none."""
    moments = played(sampler, layer, samples).shown()
    return np.where(np.isnan(moments), -1, layer.timing.shown(np.nan_to_num(moments)))


def _run(sampler: Sampling, layer: ClipLayer, samples: SampleTimes, begins: Moments, speed: Moments) -> Moments:
    """∫ speed from where it begins to each sample, seconds."""
    parameter = f"{layer.id}.speed"
    axes = sampler.axes.of(parameter)
    times = samples.times if samples.times.ndim == 2 else samples.times[None]
    if not layer.speed.moves or not axes.times:
        return np.asarray(speed * (times - begins))
    # Of the same speed for all there is one integral, at every moment that any asks for.
    many = samples.shape if axes.elements or samples.times.ndim == 2 or begins.shape[0] > 1 else (1, samples.shape[1])

    def since(moments: Moments) -> Moments:
        asked = np.ascontiguousarray(np.broadcast_to(moments, many)).ravel()
        values, far = integrated(sampler, parameter, samples, asked, 0, True)
        if far.any():
            said = f"It is asked for a moment too far from the scene: over {sampler.reach:,.0f} s away"
            sampler.note(Fault(parameter, "", said, 0.0))
        return np.asarray(values.reshape(many) / 100)

    return since(times) - since(begins)
