"""Values between keys: hold, linear and CSS cubic-bezier eases, their slopes, and sampling."""

from collections.abc import Callable
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..document.keys import Key, control_points
from ..document.parameter import Parameter
from ..document.specs import ParameterSpec, numbers
from ..kernels.compiled import Filled, Whole, inlined, inner, kernel
from ..kernels.parallel import over

HOLD, LINEAR, BEZIER = 0, 1, 2
_DEGREE, _MOST_STEPS = 8, 6
_STRETCH = 128
BLOCK = 1024
"""How many samples are eased at once: few enough to stay in the nearest cache."""
THOUSANDTH = 1e-3
"""The share of a span over which a slope is taken where an ease is vertical."""
Floats = NDArray[np.float64]


class KeyTable:
    """Keys as arrays: times (k,) in seconds, values (k, components), ease kinds (k,), points (k, 4).

    `near` (k, 10) holds for each cubic-bezier ease a polynomial that guesses the curve's own parameter from the
    time, and how many steps of Newton's method make it exact.
    """

    def __init__(self, keys: tuple[Key, ...], spec: ParameterSpec, fps: float) -> None:
        self.times: Floats = np.array([key.frame / fps for key in keys], dtype=np.float64)
        self.values: Floats = np.array([numbers(key.value, spec) for key in keys], dtype=np.float64)
        self.kinds = np.zeros(len(keys), dtype=np.int64)
        self.points: Floats = np.zeros((len(keys), 4))
        self.near: Floats = np.zeros((len(keys), _DEGREE + 2))
        for k, key in enumerate(keys):
            points = control_points(key.ease)
            if points is not None:
                self.kinds[k], self.points[k], self.near[k] = BEZIER, points, guesses(points[0], points[2])
            elif key.ease == "linear" and not spec.stepped:
                self.kinds[k] = LINEAR
        if spec.stepped:
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
        out = np.empty((self.values.shape[1], len(times)))
        over(len(times), look_up, times, *self.parts, out)
        return out.T

    def slope(self, position: int, before: bool = True) -> Floats:
        """Speed (components,) in units a second just before a key (or just after it); 0 outside the keys.

        Where an ease stands vertically at the key, the mean slope over the nearest thousandth of its span.
        """
        k = position - 1 if before else position
        if not 0 <= k < len(self.times) - 1 or self.kinds[k] == HOLD:
            return np.zeros(self.values.shape[1])
        return self._slope(k, 1.0 if before else 0.0, before)

    def slope_at(self, time: float, before: bool) -> Floats:
        """Speed (components,) at any time, seen from before or after it."""
        position = int(np.searchsorted(self.times, time))
        if position < len(self.times) and self.times[position] == time:
            return self.slope(position, before)
        k = position - 1
        if not 0 <= k < len(self.times) - 1 or self.kinds[k] == HOLD:
            return np.zeros(self.values.shape[1])
        return self._slope(k, float((time - self.times[k]) / (self.times[k + 1] - self.times[k])), before)

    def _slope(self, k: int, share: float, before: bool) -> Floats:
        """The slope at a share of the span between keys k and k + 1."""
        rise, run = self.values[k + 1] - self.values[k], self.times[k + 1] - self.times[k]
        if self.kinds[k] == LINEAR:
            return np.asarray(rise / run)
        steepness = _steepness(self.points[k], share)
        if steepness is not None:
            return np.asarray(rise / run * steepness)
        near = share - THOUSANDTH if before else share + THOUSANDTH
        heights = [bezier(s, self.points[k], self.near[k]) for s in (min(max(near, 0.0), 1.0), share)]
        return np.asarray(rise / run * (heights[1] - heights[0]) / (share - near))


def key_table(own: Parameter, spec: ParameterSpec, fps: float) -> KeyTable:
    """The table of a parameter's keys; remembered on the parameter, which never changes."""
    asked = (spec.kind, spec.components, spec.whole, spec.options, fps)
    known: tuple[object, KeyTable] | None = own.__dict__.get("_table")
    if known is None or known[0] != asked:
        known = own.__dict__["_table"] = (asked, KeyTable(own.keys, spec, fps))
    return known[1]


@lru_cache(maxsize=512)
def guesses(x1: float, x2: float) -> Floats:
    """How to begin the search for an ease's own parameter; (10,).

    First the number of steps of Newton's method that leave at most one time in a hundred to the safe way, then
    the coefficients of a polynomial in the time.
    """
    # Chebyshev's points, where a polynomial through them strays least.
    places = (1 - np.cos(np.linspace(0, np.pi, 65))) / 2
    exact = np.array([solve(s, x1, x2) for s in places])
    fitted = np.polynomial.Chebyshev.fit(places, exact, _DEGREE, domain=[0, 1])
    made = np.zeros(_DEGREE + 2)
    coefficients = fitted.convert(kind=np.polynomial.Polynomial).coef
    made[1 : 1 + len(coefficients)] = coefficients
    points, even, out = np.array([x1, 0.0, x2, 1.0]), np.linspace(0, 1, 301), np.empty(301)
    for steps in range(2, _MOST_STEPS + 1):
        made[0] = steps
        if _quick_block(even, points, made, out) <= 3:
            break
    made.setflags(write=False)
    return made


def _steepness(points: Floats, share: float) -> float | None:
    """dy/dx of a cubic-bezier ease at a share 0..1 of its way; None where it stands vertically."""
    x1, y1, x2, y2 = (float(v) for v in points)
    if share >= 1:
        # Seen from its end, the curve is the one with its points turned round.
        return _steepness(np.array([1 - x2, 1 - y2, 1 - x1, 1 - y1]), 0.0)
    if share <= 0:
        for x, y in ((x1, y1), (x2, y2), (1.0, 1.0)):
            if x > 1e-9:
                return y / x
            if abs(y) > 1e-9:
                return None
        return None
    u = solve(share, x1, x2)
    across, up = (
        3 * a * (1 - u) ** 2 + 6 * (b - a) * u * (1 - u) + 3 * (1 - b) * u * u for a, b in ((x1, x2), (y1, y2))
    )
    return up / across if across > 1e-6 else None


@inner
def solve(s: float, x1: float, x2: float) -> float:
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


@inlined
def _height(u: float, points: Floats) -> float:
    c = 3.0 * points[1]
    b = 3.0 * (points[3] - points[1]) - c
    return ((1.0 - c - b) * u + b) * u * u + c * u


@inlined
def _guess(s: float, near: Floats) -> float:
    tail = near[5] + s * (near[6] + s * (near[7] + s * (near[8] + s * near[9])))
    return near[1] + s * (near[2] + s * (near[3] + s * (near[4] + s * tail)))


@inlined
def _nearer(u: float, s: float, ax: float, bx: float, cx: float) -> tuple[float, float]:
    """Newton's step from u, and the slope there."""
    slope = (3.0 * ax * u + 2.0 * bx) * u + cx
    return (((ax * u + bx) * u + cx) * u - s) / slope, slope


@inlined
def _settled(u: float, s: float, step: float, slope: float) -> bool:
    # A step squares its error: after one as small as this nothing is left to gain. At the ends, exactly the ends.
    return (s > 0.0) & (s < 1.0) & (slope > 1e-3) & (abs(step) < 1e-7) & (u >= 0.0) & (u <= 1.0)


@inner(error_model="numpy")
def _quick_block(shares: Floats, points: Floats, near: Floats, out: Floats) -> int:
    """out[i] = the height of an ease at shares[i], not a number where it did not settle; how many did not.

    Free of branches and tables, so that compilers work on several samples at once.
    """
    x1, x2 = points[0], points[2]
    cx = 3.0 * x1
    bx = 3.0 * (x2 - x1) - cx
    ax = 1.0 - cx - bx
    for i in range(len(out)):
        out[i] = _guess(shares[i], near)
    for _ in range(int(near[0]) - 1):
        for i in range(len(out)):
            step, slope = _nearer(out[i], shares[i], ax, bx, cx)
            out[i] -= step
    unsettled = 0
    for i in range(len(out)):
        step, slope = _nearer(out[i], shares[i], ax, bx, cx)
        u = out[i] - step
        settled = _settled(u, shares[i], step, slope)
        out[i] = _height(u if settled else np.nan, points)
        unsettled += 0 if settled else 1
    return unsettled


@inner
def ease_block(shares: Floats, points: Floats, near: Floats, out: Floats) -> None:
    """out[i] = the height of an ease at shares[i] in 0..1; the safe way where Newton's method does not settle."""
    if _quick_block(shares, points, near, out):
        for i in range(len(out)):
            if out[i] != out[i]:
                out[i] = _height(solve(shares[i], points[0], points[2]), points)


@inner(error_model="numpy")
def bezier(s: float, points: Floats, near: Floats) -> float:
    """The height of an ease at s in 0..1: the very number that `ease_block` gives."""
    x1, x2 = points[0], points[2]
    cx = 3.0 * x1
    bx = 3.0 * (x2 - x1) - cx
    ax = 1.0 - cx - bx
    u = _guess(s, near)
    for _ in range(int(near[0]) - 1):
        u -= _nearer(u, s, ax, bx, cx)[0]
    step, slope = _nearer(u, s, ax, bx, cx)
    u -= step
    if not _settled(u, s, step, slope):
        u = solve(s, x1, x2)
    return _height(u, points)


@inner
def bezier_anew(s: float, points: Floats) -> float:
    """The height of an ease for which there is no table of guesses."""
    return _height(solve(s, points[0], points[2]), points)


@inlined
def segment(t: float, k: int, key_times: Floats) -> int:
    """The position of the key at or before t (0 before the first), found quickly when it is still k."""
    count = len(key_times)
    if not (key_times[k] <= t and (k + 1 == count or t < key_times[k + 1])):
        k = max(int(np.searchsorted(key_times, t, side="right")) - 1, 0)
    return k


@inlined
def progress(t: float, k: int, key_times: Floats, kinds: Whole, points: Floats, near: Floats) -> float:
    """How much of the way from key k to key k + 1 the value has gone at t; 0 outside the keys."""
    weight = 0.0
    if t > key_times[k] and k + 1 < len(key_times) and kinds[k] != HOLD:
        weight = (t - key_times[k]) / (key_times[k + 1] - key_times[k])
        if kinds[k] == BEZIER:
            weight = bezier(weight, points[k], near[k])
    return weight


@inner
def run_end(times: Floats, low: float, high: float) -> int:
    """How many times from the first on, which is counted in any case, lie in low ≤ t < high."""
    count, j = len(times), 1
    # Whole stretches first, which need no look at each time by itself; then one by one.
    while j + _STRETCH <= count:
        inside = 0
        for t in times[j : j + _STRETCH]:
            inside += 1 if (t >= low) & (t < high) else 0
        if inside < _STRETCH:
            break
        j += _STRETCH
    while j < count and low <= times[j] < high:
        j += 1
    return j


@inner
def travel(
    places: Floats,
    start: float,
    span: float,
    low: Floats,
    high: Floats,
    kind: int,
    points: Floats,
    near: Floats,
    scratch: Floats,
    out: Floats,
    at: int,
) -> None:
    """out[c, at + i] = the value at places[i], all of them between two keys; scratch has BLOCK places.

    Slices that begin at 0 and rows that lie side by side let compilers work on several samples at once.
    """
    width = len(low)
    for begin in range(0, len(places), BLOCK):
        some = places[begin : begin + BLOCK]
        shares = scratch[: len(some)]
        for m in range(len(some)):
            shares[m] = max((some[m] - start) / span, 0.0)
        # The last component's row holds the shares until its own values take their place.
        here = at + begin
        eased = out[width - 1, here : here + len(some)]
        if kind == BEZIER:
            ease_block(shares, points, near, eased)
        elif kind == HOLD:
            eased[:] = 0.0
        else:
            eased[:] = shares
        for c in range(width):
            row, value, rise = out[c, here : here + len(some)], low[c], high[c] - low[c]
            for m in range(len(row)):
                row[m] = value + rise * eased[m]


@kernel
def look_up(
    first: int,
    last: int,
    times: Floats,
    key_times: Floats,
    values: Floats,
    kinds: Whole,
    points: Floats,
    near: Floats,
    out: Filled,
) -> None:
    """out[:, i] = the keyed value at times[i], for the samples first..last; worked in runs between two keys."""
    count, width = values.shape
    scratch = np.empty(BLOCK)
    i = first
    while i < last:
        k = max(np.searchsorted(key_times, times[i], side="right") - 1, 0)
        low = key_times[k] if k > 0 else -np.inf
        high = key_times[k + 1] if k + 1 < count else np.inf
        j = run_end(times[i:last], low, high) + i
        if k + 1 == count:
            for c in range(width):
                out[c, i:j] = values[k, c]
        else:
            start, span = key_times[k], key_times[k + 1] - key_times[k]
            travel(times[i:j], start, span, values[k], values[k + 1], kinds[k], points[k], near[k], scratch, out, i)
        i = j


@kernel
def _eased(shares: Floats, x1: Floats, y1: Floats, x2: Floats, y2: Floats, out: Filled) -> None:
    points = np.empty(4)
    sx1, sy1, sx2, sy2 = x1.size > 1, y1.size > 1, x2.size > 1, y2.size > 1
    for i in range(len(out)):
        points[0], points[1], points[2], points[3] = x1[i * sx1], y1[i * sy1], x2[i * sx2], y2[i * sy2]
        out[i] = bezier_anew(shares[i], points)


def eased(shares: Floats, x1: Floats, y1: Floats, x2: Floats, y2: Floats) -> Floats:
    """The heights of cubic-bezier eases at shares 0..1, which may have points of their own each; x1 and x2 in 0..1."""
    shape = np.broadcast_shapes(shares.shape, x1.shape, y1.shape, x2.shape, y2.shape)
    points = [
        p.ravel() if p.size == 1 else np.ascontiguousarray(np.broadcast_to(p, shape)).ravel() for p in (x1, y1, x2, y2)
    ]
    out = np.empty(int(np.prod(shape)))
    x1, y1, x2, y2 = points
    _eased(np.ascontiguousarray(np.broadcast_to(shares, shape)).ravel(), x1, y1, x2, y2, out)
    return out.reshape(shape)


def profile_of(own: Parameter, spec: ParameterSpec) -> Callable[[Floats], Floats]:
    """The curve that is keyed over a passage, as a function of shares 0..1 of it, of any shape."""
    table = key_table(own, spec, 100.0)

    def profile(passage: Floats) -> Floats:
        made: Floats = table.at(np.ascontiguousarray(passage).ravel())[:, 0]
        return (made if made.size == passage.size else np.broadcast_to(made, passage.size)).reshape(passage.shape)

    return profile
