"""As few keys as follow a curve within a tolerance.

One number is followed by cubics (an ease with x1 = 1/3 and x2 = 2/3 runs evenly in time, so its y1 and y2
make any cubic between two keys); several components share one ease and are followed by straight lines.
From each key the farthest next one is sought that still stays within the tolerance.
"""

import numpy as np
from numpy.typing import NDArray

from ..document.keys import Ease
from ..kernels.fitting import follow

Values = NDArray[np.float64]


def fitted(values: Values, tolerance: float, steep: tuple[float, float] | None = None) -> list[tuple[int, Ease]]:
    """Positions in values (n, components) at which keys stand, each with the ease to the next one.

    `steep`: between which values the eases' y may lie, where a format asks for that.
    """
    low, high = steep or (-np.inf, np.inf)
    places, eases = np.empty(len(values), dtype=np.int64), np.empty((len(values), 2))
    count = follow(np.ascontiguousarray(values, dtype=np.float64), tolerance, low, high, places, eases)
    return [
        (place, "linear" if y1 != y1 else (1 / 3, round(y1, 5), 2 / 3, round(y2, 5)))
        for place, (y1, y2) in zip(places[:count].tolist(), eases[:count].tolist(), strict=True)
    ]
