"""Which row of a list stands at a number."""

import numpy as np
from numpy.typing import NDArray

from .compiled import Floats, Whole


def row_at(place: Whole, beyond: Floats | int, count: int) -> tuple[Whole, NDArray[np.bool_]]:
    """Which of `count` rows stands at whole numbers from 0, and whether there is one; beyond the last one: none
    (`beyond` 0), the last one (1), or from the first on (2)."""
    last = max(count - 1, 0)
    found = np.where(beyond == 2, place % max(count, 1), np.where(beyond == 1, np.clip(place, 0, last), place))
    there = (found >= 0) & (found < count)
    return np.where(there, found, 0), there
