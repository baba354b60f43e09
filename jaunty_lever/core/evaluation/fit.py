"""As few keys as follow a curve within a tolerance.

One number is followed by cubics (an ease with x1 = 1/3 and x2 = 2/3 runs evenly in time, so its y1 and y2
make any cubic between two keys); several components share one ease and are followed by straight lines.
From each key the farthest next one is sought that still stays within the tolerance.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..document.keys import Ease

Values = NDArray[np.float64]
Segment = tuple[Ease, float]
MOST_STEEP = 100.0


def fitted(values: Values, tolerance: float, steep: tuple[float, float] | None = None) -> list[tuple[int, Ease]]:
    """Positions in values (n, components) at which keys stand, each with the ease to the next one.

    `steep`: between which values the eases' y may lie, where a format asks for that.
    """
    count = len(values)
    smooth = values.shape[1] == 1
    best: Callable[[int, int], Segment] = (
        (lambda a, b: _cubic(values, a, b, steep)) if smooth else (lambda a, b: _line(values, a, b))
    )
    found: list[tuple[int, Ease]] = []
    start = 0
    while start < count - 1:
        reach, ease = 1, _line(values, start, start + 1)[0]
        # Twice as far each time while it fits, then halving what lies between fitting and not fitting.
        over, step = count - start, 1
        while over - reach > 1:
            ahead = min(reach + step, over - 1)
            tried, error = best(start, start + ahead)
            if error <= tolerance:
                reach, ease, step = ahead, tried, step * 2
            else:
                over, step = ahead, max(1, (ahead - reach) // 2)
        found.append((start, ease))
        start += reach
    found.append((count - 1, "linear"))
    return found


def _line(values: Values, a: int, b: int) -> Segment:
    s = np.linspace(0, 1, b - a + 1)[:, None]
    line = values[a] + (values[b] - values[a]) * s
    return "linear", float(np.abs(values[a : b + 1] - line).max())


def _cubic(values: Values, a: int, b: int, steep: tuple[float, float] | None) -> Segment:
    straight = _line(values, a, b)
    rise = float(values[b, 0] - values[a, 0])
    if b - a < 2 or rise == 0:
        return straight
    s = np.linspace(0, 1, b - a + 1)
    wanted = (values[a : b + 1, 0] - values[a, 0]) / rise
    # The cubic y = 3y₁s(1−s)² + 3y₂s²(1−s) + s³, by least squares on y₁ and y₂.
    columns = np.stack([3 * s * (1 - s) ** 2, 3 * s**2 * (1 - s)], axis=1)
    (y1, y2), *_ = np.linalg.lstsq(columns, wanted - s**3, rcond=None)
    if steep is not None:
        y1, y2 = np.clip((y1, y2), *steep)
    if max(abs(y1), abs(y2)) > MOST_STEEP:
        return straight
    ease = (1 / 3, round(float(y1), 5), 2 / 3, round(float(y2), 5))
    error = float(np.abs((columns @ np.array([ease[1], ease[3]]) + s**3 - wanted) * rise).max())
    return (ease, error) if error < straight[1] else straight
