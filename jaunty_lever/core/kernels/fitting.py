"""As few keys as follow a curve within a tolerance: from each key the farthest next one that still stays within it."""

import numpy as np

from .compiled import Filled, Floats, inner, kernel

MOST_STEEP = 100.0


@inner
def _line_error(values: Floats, a: int, b: int) -> float:
    """How far values (n, components) stray from the straight line from the place a to b."""
    error, step = 0.0, 1.0 / (b - a)
    for c in range(values.shape[1]):
        first, rise = values[a, c], values[b, c] - values[a, c]
        for i in range(1, b - a):
            error = max(error, abs(values[a + i, c] - (first + rise * (i * step))))
    return error


@inner
def _cubic(values: Floats, a: int, b: int, low: float, high: float) -> tuple[float, float, float]:
    """y₁ and y₂ of the cubic y = 3y₁s(1−s)² + 3y₂s²(1−s) + s³ nearest to the first component, and how far it strays;
    without end where there is none."""
    rise, step = values[b, 0] - values[a, 0], 1.0 / (b - a)
    if b - a < 2 or rise == 0.0:
        return 0.0, 0.0, np.inf
    # By least squares.
    aa, ab, bb, ay, by = 0.0, 0.0, 0.0, 0.0, 0.0
    for i in range(1, b - a):
        s = i * step
        one, two = 3.0 * s * (1.0 - s) ** 2, 3.0 * s**2 * (1.0 - s)
        left = (values[a + i, 0] - values[a, 0]) / rise - s**3
        aa, ab, bb, ay, by = aa + one * one, ab + one * two, bb + two * two, ay + one * left, by + two * left
    if b - a == 2:
        # One place between: of all that go through it the one with the smallest y.
        y1 = y2 = ay / (aa + ab)
    else:
        size = aa * bb - ab * ab
        y1, y2 = (ay * bb - by * ab) / size, (by * aa - ay * ab) / size
    y1, y2 = min(max(y1, low), high), min(max(y2, low), high)
    if max(abs(y1), abs(y2)) > MOST_STEEP:
        return 0.0, 0.0, np.inf
    y1, y2 = np.round(y1 * 1e5) / 1e5, np.round(y2 * 1e5) / 1e5
    error = 0.0
    for i in range(1, b - a):
        s = i * step
        made = 3.0 * s * (1.0 - s) ** 2 * y1 + 3.0 * s**2 * (1.0 - s) * y2 + s**3
        error = max(error, abs((made - (values[a + i, 0] - values[a, 0]) / rise) * rise))
    return y1, y2, error


@kernel
def follow(values: Floats, tolerance: float, low: float, high: float, places: Filled, eases: Filled) -> int:
    """How many keys follow values (n, components), with their places (n,), the last of them n − 1. eases (n, 2): y₁ and
    y₂ of the cubic to the next key, between low and high, where a single component is followed by one; NaN where a line
    will do."""
    count, found, start = len(values), 0, 0
    while start < count - 1:
        reach, over, step = 1, count - start, 1
        y1 = y2 = np.nan
        # Twice as far each time while it fits, then halving what lies between fitting and not fitting.
        while over - reach > 1:
            ahead = min(reach + step, over - 1)
            error, tried1, tried2 = _line_error(values, start, start + ahead), np.nan, np.nan
            if values.shape[1] == 1:
                one, two, other = _cubic(values, start, start + ahead, low, high)
                if other < error:
                    error, tried1, tried2 = other, one, two
            if error <= tolerance:
                reach, step, y1, y2 = ahead, step * 2, tried1, tried2
            else:
                over, step = ahead, max(1, (ahead - reach) // 2)
        places[found], eases[found, 0], eases[found, 1] = start, y1, y2
        found, start = found + 1, start + reach
    places[found], eases[found, 0], eases[found, 1] = count - 1, np.nan, np.nan
    return found + 1
