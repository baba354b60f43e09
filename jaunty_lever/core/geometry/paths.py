"""SVG path data as outlines."""

from functools import lru_cache

import numpy as np

from . import path_data
from .outline import Outline


@lru_cache(maxsize=4096)
def path_outline(data: str) -> Outline:
    """The outline of SVG path data (arcs become cubics).

    Raises ValueError with a sentence for the artist when the data cannot be read.
    """
    read = path_data.read(data)
    if read.problem:
        raise ValueError(f"This is not SVG path data: {read.problem}. It begins like M 0 0 L 40 20.")
    verbs, points = "".join(read.verbs), np.array([read.points], dtype=np.float64)
    # Not a number, and what is none, compares as false.
    if not verbs or not np.abs(points).max() <= 1e6:
        raise ValueError("SVG path data begins with a move, such as M 0 0, and stays within a million pixels.")
    return Outline(verbs, points)
