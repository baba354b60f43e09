"""All checks of a scene, in the order of their weight."""

from collections.abc import Callable, Iterator, Mapping, Sequence
from typing import TypeVar

import numpy as np
from numpy.typing import NDArray

from ..display.display_list import display_list
from ..document.quantity import first_of, plain_number
from ..document.scene import Scene
from ..evaluation.graph import downstream
from ..evaluation.sample_times import SampleTimes
from ..evaluation.sampler import Sampler
from . import arrays, edges, flashing, links, seam
from .arrays import stretches
from .check import Check
from .formulas import mistakes

Found = TypeVar("Found")
Light = Callable[[Sampler], NDArray[np.float64]]
"""Draws all frames of a scene small, and gives their relative luminance (frames, rows, columns)."""


def formulas(sampler: Sampler) -> Iterator[Check]:
    """Formulas with mistakes."""
    for one in {one.modifier: one for one in mistakes(sampler.scene)}.values():
        yield Check("formula", f"{one.label}: {one.mistake.message}", one.parameter)


def faults(sampler: Sampler) -> Iterator[Check]:
    """Whatever makes no sense at some time."""
    scene = sampler.scene
    everywhere = SampleTimes.frames(scene.fps, 0, scene.length)
    for some in stretches(sampler):
        display_list(sampler, some)
    for lever in scene.levers:
        sampler.track(f"{lever.id}.value", everywhere)
    wrong = {one.modifier for one in mistakes(scene)}
    for fault in sampler.faults.values():
        if fault.modifier not in wrong:
            label = (
                scene.index.parameters[fault.parameter].label
                if fault.parameter in scene.index.parameters
                else "Something"
            )
            frame = np.ceil(fault.time * scene.fps - 1e-6)
            text = (
                f"{label}: {fault.message}, first at frame "
                f"{plain_number(float(frame))}.{_reach(scene, fault.parameter)}"
            )
            yield Check("fault", text, fault.parameter, float(frame))


def _reach(scene: Scene, parameter: str) -> str:
    """What else a fault changes, in words."""
    reached = [scene.index.parameters[one].label for one in downstream(scene.index, parameter)]
    if not reached:
        return ""
    return f" It reaches {first_of(reached, 3)}, which {'go' if len(reached) > 1 else 'goes'} on with what is left."


STAGES: tuple[tuple[str, Callable[[Sampler], Iterator[Check]]], ...] = (
    ("formulas", formulas),
    ("links", links.checks),
    ("arrays", arrays.checks),
    ("seam", seam.checks),
    ("faults", faults),
    ("edges", edges.checks),
)
"""What is looked for, what takes least first; flashing, for which frames are drawn, comes after all of them."""
_WEIGHTS = ("formulas", "faults", "flashing", "edges", "seam", "links", "arrays")


def weighed(found: Mapping[str, Sequence[Found]]) -> list[Found]:
    """What was found at each stage, in the order of its weight."""
    return [one for stage in _WEIGHTS for one in found.get(stage, ())]


def run(sampler: Sampler, light: Light | None = None) -> list[Check]:
    """Everything noticed about the sampler's scene. Flashing is looked for when frames can be drawn."""
    found = {name: [*look(sampler)] for name, look in STAGES}
    if light is not None:
        found["flashing"] = [*flashing.checks(sampler.scene, light(sampler))]
    return weighed(found)
