"""Values between keys: hold, linear and CSS cubic-bezier eases, and their exact integrals."""

import numba as nb
import numpy as np
from numpy.typing import NDArray

from ..document.keys import Key, control_points
from ..document.slots import Slot, components

HOLD, LINEAR, BEZIER = 0, 1, 2
Floats = NDArray[np.float64]


class KeyTable:
    """Keys as arrays: times (k,) in seconds, values (k, components), ease kinds (k,), points (k, 4)."""

    def __init__(self, keys: tuple[Key, ...], slot: Slot, fps: float) -> None:
        self.times: Floats = np.array([key.frame / fps for key in keys], dtype=np.float64)
        self.values: Floats = np.array([components(key.value, slot) for key in keys], dtype=np.float64)
        self.kinds = np.zeros(len(keys), dtype=np.int64)
        self.points: Floats = np.zeros((len(keys), 4))
        for k, key in enumerate(keys):
            points = control_points(key.ease)
            if points is not None:
                self.kinds[k], self.points[k] = BEZIER, points
            elif key.ease == "linear" and not slot.stepped:
                self.kinds[k] = LINEAR
        if slot.stepped:
            self.kinds[:] = HOLD


@nb.njit(cache=True, nogil=True)
def solve(s, x1, x2):
    """The u in 0..1 with x(u) = s on the curve of CSS cubic-bezier(x1, ·, x2, ·); to 1e-12 in x or u."""
    cx = 3.0 * x1
    bx = 3.0 * (x2 - x1) - cx
    ax = 1.0 - cx - bx
    low, high, u = 0.0, 1.0, s
    for _ in range(80):
        x = ((ax * u + bx) * u + cx) * u - s
        if abs(x) < 1e-15 or high - low < 1e-15:
            break
        if x > 0:
            high = u
        else:
            low = u
        slope = (3.0 * ax * u + 2.0 * bx) * u + cx
        step = u - x / slope if slope > 1e-12 else -1.0
        if low < step < high:
            if abs(step - u) < 1e-15:
                break
            u = step
        else:
            u = 0.5 * (low + high)
    return u


@nb.njit(cache=True, nogil=True)
def _weight(kind, points, s):
    if kind == HOLD:
        return 0.0
    if kind == LINEAR:
        return s
    u = solve(s, points[0], points[2])
    c = 3.0 * points[1]
    b = 3.0 * (points[3] - points[1]) - c
    return ((1.0 - c - b) * u + b) * u * u + c * u


@nb.njit(cache=True, nogil=True)
def look_up(first, last, times, key_times, values, kinds, points, out):
    """out[i, :] = the keyed value at times[i], for the samples first..last."""
    count, width = values.shape
    k = 0
    for i in range(first, last):
        t = times[i]
        if not (key_times[k] <= t and (k + 1 == count or t < key_times[k + 1])):
            k = max(np.searchsorted(key_times, t, side="right") - 1, 0)
        if t <= key_times[k] or k + 1 == count:
            for c in range(width):
                out[i, c] = values[k, c]
            continue
        weight = _weight(kinds[k], points[k], (t - key_times[k]) / (key_times[k + 1] - key_times[k]))
        for c in range(width):
            out[i, c] = values[k, c] + (values[k + 1, c] - values[k, c]) * weight
