"""What a column of a table says of each copy."""

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


def column_of(cells: Floats, row: Floats, beyond: int) -> Floats:
    """The cells (m,) at rows counted from 0, of any shape; past the last one: 0 (`beyond` 0), the last cell (1), or
    from the first on (2)."""
    if not len(cells):
        return np.zeros(row.shape)
    place = np.maximum(np.rint(row).astype(np.int64), 0)
    if beyond % 3 == 2:
        return np.asarray(cells[place % len(cells)])
    found = cells[np.minimum(place, len(cells) - 1)]
    return np.asarray(found) if beyond % 3 == 1 else np.where(place < len(cells), found, 0.0)
