"""All checks of a scene, in the order of their weight."""

from collections.abc import Callable, Iterator

import numpy as np
from numpy.typing import NDArray

from ..display.display_list import display_list
from ..document.quantity import first_of, plain_number
from ..document.scene import Scene
from ..evaluation.graph import downstream
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from . import arrays, edges, flashing, links, seam
from .arrays import shapes_drawn
from .check import Check
from .formulas import mistakes

_AT_ONCE = 2_000_000
"""How many shapes at a frame are looked at together."""
Light = Callable[[Sampler], NDArray[np.float64]]
"""Draws all frames of a scene small, and gives their relative luminance (frames, rows, columns)."""


def faults(sampler: Sampler) -> Iterator[Check]:
    """Formulas with mistakes, and whatever makes no sense at some time."""
    scene = sampler.scene
    everywhere = SampleTimes.frames(scene.fps, 0, scene.length)
    # Of many copies a stretch of frames at a time, so that memory stays bounded.
    at_once = max(1, min(scene.length, _AT_ONCE // max(1, shapes_drawn(sampler, 0))))
    for first in range(0, scene.length, at_once):
        display_list(sampler, SampleTimes.frames(scene.fps, first, min(first + at_once, scene.length)))
    for lever in scene.levers:
        sampler.track(f"{lever.id}.value", everywhere)
    wrong = {one.modifier: one for one in mistakes(scene)}
    for one in wrong.values():
        yield Check("formula", f"{one.label}: {one.mistake.message}", one.parameter)
    for fault in sampler.faults.values():
        if fault.modifier not in wrong:
            label = (
                scene.index.parameters[fault.parameter].label
                if fault.parameter in scene.index.parameters
                else "Something"
            )
            frame = np.ceil(fault.time * scene.fps - 1e-6)
            text = f"{label}: {fault.message}, first at frame {plain_number(float(frame))}.{_reach(scene, fault.parameter)}"
            yield Check("fault", text, fault.parameter, float(frame))


def _reach(scene: Scene, parameter: str) -> str:
    """What else a fault changes, in words."""
    reached = [scene.index.parameters[one].label for one in downstream(scene.index, parameter)]
    if not reached:
        return ""
    return f" It reaches {first_of(reached, 3)}, which {'go' if len(reached) > 1 else 'goes'} on with what is left."


def run(sampler: Sampler, light: Light | None = None) -> list[Check]:
    """Everything noticed about the sampler's scene. Flashing is looked for when frames can be drawn."""
    found = [*faults(sampler)]
    if light is not None:
        found += flashing.checks(sampler.scene, light(sampler))
    return [*found, *edges.checks(sampler), *seam.checks(sampler), *links.checks(sampler), *arrays.checks(sampler)]
