"""A scene's frames drawn small, as relative luminance."""

from collections.abc import Mapping

import numpy as np

from jaunty_lever.core.checks.flashing import luminance
from jaunty_lever.core.document.pictures import Picture
from jaunty_lever.core.evaluation.sampler import Moments, Sampler
from jaunty_lever.core.evaluation.table import frame_table

from .frames import pixels

WIDTH = 48
"""Pixels across: a quarter of the stage is some 300 of them."""


def light(sampler: Sampler, pictures: Mapping[str, Picture] | None = None) -> "np.ndarray":
    """Relative luminance (frames, rows, columns) of all frames of the sampler's scene, on its background."""
    scene = sampler.scene
    table = frame_table(sampler, Moments.frames(scene.fps, 0, scene.length))
    scale = WIDTH / scene.width
    frames = [pixels(table, k, scale=scale, pictures=pictures)[..., :3] for k in range(table.frames)]
    return luminance(np.stack(frames) / 255)
