"""Motion blur: the moments at which a frame is exposed, as many as what moves fastest asks for."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from .display_list import DisplayList, display_list
from .extent import corners, leaves, placed
from .node import DisplayNode

Floats = NDArray[np.float64]

_COPIES = 400
"""How many copies of an array are looked at for how fast they are."""
_POINTS = 64
"""How many points of an outline."""
_LOOKS = 4
"""Spans into which an exposure is cut to see how far things go in it."""


@dataclass(frozen=True)
class Exposure:
    """The display list of a frame at the moments of its exposure, which are averaged."""

    drawn: DisplayList

    @property
    def samples(self) -> int:
        """How many moments there are."""
        return self.drawn.frames


def exposed(sampler: Sampler, frame: int, scale: float = 1.0) -> Exposure:
    """A frame as its shutter sees it, drawn at `scale`: neighbouring moments lie so close together that nothing goes
    further than a pixel between them, within the scene's bounds."""
    scene, fps = sampler.scene, sampler.scene.fps
    now = frame / fps
    angle, phase = (float(sampler.sample(f"{scene.id}.shutter_{name}", now)[0]) for name in ("angle", "phase"))
    angle, phase = float(np.clip(np.nan_to_num(angle), 0, 720)), float(np.clip(np.nan_to_num(phase), -720, 720))
    if angle == 0:
        return Exposure(display_list(sampler, SampleTimes.frames(fps, frame, frame + 1)))
    opens, span = (frame + phase / 360) / fps, angle / 360 / fps
    looks = opens + span * np.arange(_LOOKS + 1) / _LOOKS
    seen = display_list(sampler, SampleTimes(looks), still=np.full(len(looks), now))
    far = travel(seen) * scale
    most = max(scene.most_samples, scene.least_samples)
    many = int(np.clip(np.ceil(far), scene.least_samples, most)) if far > 0.01 else 1
    moments = SampleTimes(opens + span * (np.arange(many) + 0.5) / many)
    return Exposure(display_list(sampler, moments, still=np.full(many, now)))


def roughly(sampler: Sampler, first: int, end: int, moments: int) -> DisplayList:
    """Frames first … before end as their shutters see them, each at so few moments as can be drawn while it plays, one
    frame's after those of the one before."""
    scene = sampler.scene
    frames = SampleTimes.frames(scene.fps, first, end)
    numbers = np.arange(first, end, dtype=np.float64)
    angle, phase = (
        np.broadcast_to(np.nan_to_num(sampler.track(f"{scene.id}.shutter_{name}", frames)[:, 0]), len(numbers))
        for name in ("angle", "phase")
    )
    opens = numbers + np.clip(phase, -720, 720) / 360
    apart = np.clip(angle, 0, 720)[:, None] / 360 * (np.arange(moments) + 0.5) / moments
    times = (opens[:, None] + apart) / scene.fps
    return display_list(sampler, SampleTimes(times.ravel()), still=np.repeat(numbers / scene.fps, moments))


def travel(drawn: DisplayList) -> float:
    """How far the fastest thing goes from the first moment of a display list to the last, by way of the others, px."""
    return max((_travel(*leaf) for node in drawn.nodes for leaf in leaves(node, most=_COPIES)), default=0.0)


def _travel(node: DisplayNode, world: Floats) -> float:
    points = corners(node)
    if points is None:
        return 0.0
    if points.shape[2] > _POINTS:
        points = points[:, :, :: points.shape[2] // _POINTS + 1]
    if points.shape[1] > 1 and world.shape[1] > 1:
        points = points[:, : world.shape[1]]
    x, y = placed(points, world)
    if len(x) == 1:
        return 0.0
    steps = np.hypot(np.diff(x, axis=0), np.diff(y, axis=0))
    return float(steps.sum(axis=0).max(initial=0.0))
