"""Values between keys: hold, linear and CSS cubic-bezier eases, their slopes, and sampling."""

from functools import lru_cache
from typing import Any

import numba as nb
import numpy as np
from numpy.typing import NDArray

from ..document.keys import Key, control_points
from ..document.parameter import Parameter
from ..document.slots import Slot, numbers
from ..kernels.parallel import over

HOLD, LINEAR, BEZIER = 0, 1, 2
_GUESSES = 128
Floats = NDArray[np.float64]


class KeyTable:
    """Keys as arrays: times (k,) in seconds, values (k, components), ease kinds (k,), points (k, 4).

    `near` (k, 129) holds for each cubic-bezier ease the curve's own parameter at even steps of time,
    from which two or three steps of Newton's method lead to the exact one.
    """

    def __init__(self, keys: tuple[Key, ...], slot: Slot, fps: float) -> None:
        self.times: Floats = np.array([key.frame / fps for key in keys], dtype=np.float64)
        self.values: Floats = np.array([numbers(key.value, slot) for key in keys], dtype=np.float64)
        self.kinds = np.zeros(len(keys), dtype=np.int64)
        self.points: Floats = np.zeros((len(keys), 4))
        self.near: Floats = np.zeros((len(keys), _GUESSES + 1))
        for k, key in enumerate(keys):
            points = control_points(key.ease)
            if points is not None:
                self.kinds[k], self.points[k], self.near[k] = BEZIER, points, guesses(points[0], points[2])
            elif key.ease == "linear" and not slot.stepped:
                self.kinds[k] = LINEAR
        if slot.stepped:
            self.kinds[:] = HOLD
        for part in self.parts:
            part.setflags(write=False)

    @property
    def parts(self) -> tuple[NDArray[Any], ...]:
        """What the kernels take: times, values, kinds, points, near."""
        return self.times, self.values, self.kinds, self.points, self.near

    def at(self, times: Floats) -> Floats:
        """The keyed values at times (n,) in seconds; (n, components), or (1, components) for a single key."""
        if len(self.times) == 1:
            return self.values
        out = np.empty((len(times), self.values.shape[1]))
        over(len(out), look_up, times, *self.parts, out)
        return out

    def slope(self, position: int, fps: float, before: bool = True) -> Floats:
        """Speed (components,) in units a second just before a key (or just after it); 0 outside the keys.

        Where an ease stands vertically at the key, the speed over the nearest frame.
        """
        k = position - 1 if before else position
        if not 0 <= k < len(self.times) - 1 or self.kinds[k] == HOLD:
            return np.zeros(self.values.shape[1])
        rise, run = self.values[k + 1] - self.values[k], self.times[k + 1] - self.times[k]
        if self.kinds[k] == LINEAR:
            return np.asarray(rise / run)
        steepness = _end_slope(self.points[k], before)
        if steepness is not None:
            return np.asarray(rise / run * steepness)
        width = min(1 / fps, run)
        here = self.times[position]
        ends = self.at(np.array([here - width, here] if before else [here, here + width]))
        return np.asarray((ends[1] - ends[0]) / width)


def key_table(own: Parameter, slot: Slot, fps: float) -> KeyTable:
    """The table of a parameter's keys; remembered on the parameter, which never changes."""
    asked = (slot.kind, slot.components, slot.whole, slot.options, fps)
    known: tuple[object, KeyTable] | None = own.__dict__.get("_table")
    if known is None or known[0] != asked:
        known = own.__dict__["_table"] = (asked, KeyTable(own.keys, slot, fps))
    return known[1]


@lru_cache(maxsize=512)
def guesses(x1: float, x2: float) -> Floats:
    """The curve parameter of an ease at even steps of time, as a start for Newton's method; (129,)."""
    return np.array([solve(s, x1, x2) for s in np.linspace(0, 1, _GUESSES + 1)])


def _end_slope(points: Floats, at_end: bool) -> float | None:
    """dy/dx of a cubic-bezier ease at its end or start; None where it stands vertically."""
    x1, y1, x2, y2 = (float(v) for v in points)
    if at_end:
        x1, y1, x2, y2 = 1 - x2, 1 - y2, 1 - x1, 1 - y1
    for x, y in ((x1, y1), (x2, y2), (1.0, 1.0)):
        if x > 1e-9:
            return y / x
        if abs(y) > 1e-9:
            return None
    return None


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


@nb.njit(inline="always", cache=True)
def _height(u, points):
    c = 3.0 * points[1]
    b = 3.0 * (points[3] - points[1]) - c
    return ((1.0 - c - b) * u + b) * u * u + c * u


@nb.njit(inline="always", cache=True)
def bezier(s, points, near):
    """The height of an ease at s in 0..1: Newton's method from a good guess, the safe way where it does not settle."""
    x1, x2 = points[0], points[2]
    cx = 3.0 * x1
    bx = 3.0 * (x2 - x1) - cx
    ax = 1.0 - cx - bx
    place = s * _GUESSES
    k = min(int(place), _GUESSES - 1)
    u = near[k] + (near[k + 1] - near[k]) * (place - k)
    step = 1.0
    for _ in range(3):
        slope = (3.0 * ax * u + 2.0 * bx) * u + cx
        if slope < 0.05:
            step = 1.0
            break
        step = (((ax * u + bx) * u + cx) * u - s) / slope
        u -= step
        # It squares its error: after a step this small nothing is left to gain.
        if abs(step) < 1e-7:
            break
    if not (abs(step) < 1e-7 and 0.0 <= u <= 1.0):
        u = solve(s, x1, x2)
    return _height(u, points)


@nb.njit(cache=True, nogil=True)
def bezier_anew(s, points):
    """The height of an ease for which there is no table of guesses."""
    return _height(solve(s, points[0], points[2]), points)


@nb.njit(inline="always", cache=True)
def segment(t, k, key_times):
    """The position of the key at or before t (0 before the first), found quickly when it is still k."""
    count = len(key_times)
    if not (key_times[k] <= t and (k + 1 == count or t < key_times[k + 1])):
        k = max(np.searchsorted(key_times, t, side="right") - 1, 0)
    return k


@nb.njit(inline="always", cache=True)
def progress(t, k, key_times, kinds, points, near):
    """How much of the way from key k to key k + 1 the value has gone at t; 0 outside the keys."""
    weight = 0.0
    if t > key_times[k] and k + 1 < len(key_times) and kinds[k] != HOLD:
        weight = (t - key_times[k]) / (key_times[k + 1] - key_times[k])
        if kinds[k] == BEZIER:
            weight = bezier(weight, points[k], near[k])
    return weight


@nb.njit(cache=True, nogil=True)
def look_up(first, last, times, key_times, values, kinds, points, near, out):
    """out[i, :] = the keyed value at times[i], for the samples first..last; worked in runs between two keys."""
    count, width = values.shape
    i = first
    while i < last:
        k = max(np.searchsorted(key_times, times[i], side="right") - 1, 0)
        low = key_times[k] if k > 0 else -np.inf
        high = key_times[k + 1] if k + 1 < count else np.inf
        j = i + 1
        while j < last and low <= times[j] < high:
            j += 1
        if k + 1 == count or kinds[k] == HOLD:
            for c in range(width):
                value = values[k, c]
                for m in range(i, j):
                    out[m, c] = value
        else:
            start, span = key_times[k], key_times[k + 1] - key_times[k]
            curved, own, guess = kinds[k] == BEZIER, points[k], near[k]
            for m in range(i, j):
                weight = max((times[m] - start) / span, 0.0)
                if curved:
                    weight = bezier(weight, own, guess)
                for c in range(width):
                    value = values[k, c]
                    out[m, c] = value + (values[k + 1, c] - value) * weight
        i = j
