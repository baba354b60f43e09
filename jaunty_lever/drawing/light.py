"""A scene's frames drawn small, as relative luminance."""

from collections.abc import Callable, Iterator

import numpy as np

from jaunty_lever.core.checks.arrays import shapes_drawn
from jaunty_lever.core.checks.flashing import luminance
from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

from .frames import Look, Pictures, Sheet, array

AT_ONCE = 240
MOST_SHAPES = 1_000_000
"""How many frames are made ready together, and how many shapes in them."""
WIDTH = 48
"""Pixels across: a quarter of the stage is some 300 of them."""


def light_in_parts(
    sampler: Sampler, pictures: Pictures | None = None, between: Callable[[], None] = lambda: None
) -> Iterator["np.ndarray"]:
    """Relative luminance (frames, rows, columns) of the frames of the sampler's scene, on its background, so many at a time.

    `between` is called before each frame: to let others have their turn, or to stop by an exception.
    """
    scene = sampler.scene
    look = Look(scale=WIDTH / scene.width, pictures=pictures or {})
    at_once = max(1, min(AT_ONCE, MOST_SHAPES // max(1, shapes_drawn(sampler, 0))))
    for first in range(0, scene.length, at_once):
        last = min(first + at_once, scene.length)
        table = display_list(sampler, SampleTimes.frames(scene.fps, first, last))
        frames, sheet = [], Sheet(table, look)
        for k in range(table.frames):
            between()
            sheet.draw(k)
            frames.append(array(sheet.picture())[..., :3])
        yield luminance(np.stack(frames) / 255)


def light(sampler: Sampler, pictures: Pictures | None = None) -> "np.ndarray":
    """Relative luminance (frames, rows, columns) of all frames of the sampler's scene."""
    return np.concatenate(list(light_in_parts(sampler, pictures)))
