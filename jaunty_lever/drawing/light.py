"""A scene's frames drawn small, as relative luminance."""

from collections.abc import Callable, Mapping

import numpy as np

from jaunty_lever.core.checks.flashing import luminance
from jaunty_lever.core.document.pictures import Picture
from jaunty_lever.core.evaluation.moments import Moments
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.table import frame_table

from .frames import pixels

WIDTH = 48
"""Pixels across: a quarter of the stage is some 300 of them."""


def light(
    sampler: Sampler, pictures: Mapping[str, Picture] | None = None, between: Callable[[], None] = lambda: None
) -> "np.ndarray":
    """Relative luminance (frames, rows, columns) of all frames of the sampler's scene, on its background.

    `between` is called before each frame: to let others have their turn, or to stop by an exception.
    """
    scene = sampler.scene
    table = frame_table(sampler, Moments.frames(scene.fps, 0, scene.length))
    scale = WIDTH / scene.width
    frames = []
    for k in range(table.frames):
        between()
        frames.append(pixels(table, k, scale=scale, pictures=pictures)[..., :3])
    return luminance(np.stack(frames) / 255)
