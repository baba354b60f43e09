"""What a column of a table says of each copy."""

import numpy as np
from numpy.typing import NDArray

from ..kernels.rows import row_at

Floats = NDArray[np.float64]


def column_of(cells: Floats, row: Floats, beyond: int) -> Floats:
    """The cells (m,) at rows counted from 0, of any shape; past the last one: 0 (`beyond` 0), the last cell (1), or
    from the first on (2)."""
    if not len(cells):
        return np.zeros(row.shape)
    place, there = row_at(np.maximum(np.rint(row).astype(np.int64), 0), beyond % 3, len(cells))
    return np.where(there, cells[place], 0.0)
