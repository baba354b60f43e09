"""Outlines cut into points by their length, and the smooth curves through these once they have moved.

Curves are cubics (8,): x y of their four points.
"""

import numpy as np

from .compiled import Filled, Floats, Whole, inlined, inner, kernel

PIECES = 16
"""In how many pieces a curve is measured."""
NOTHING = 1e-9
"""Pixels below which a curve has no length."""
_CORNER = np.cos(np.deg2rad(10.0))
_GAUSS = np.array([-np.sqrt(0.6), 0.0, np.sqrt(0.6)])
_WEIGHTS = np.array([5 / 18, 8 / 18, 5 / 18])


@inlined
def _size(x: float, y: float) -> float:
    # Pixels never come near the ends of what numbers reach: what `hypot` guards against takes most of its time.
    return np.sqrt(x * x + y * y)


@inlined
def _slope(c: Floats, t: float) -> tuple[float, float]:
    s = 1.0 - t
    a, b, d = 3.0 * s * s, 6.0 * s * t, 3.0 * t * t
    x = a * (c[2] - c[0]) + b * (c[4] - c[2]) + d * (c[6] - c[4])
    y = a * (c[3] - c[1]) + b * (c[5] - c[3]) + d * (c[7] - c[5])
    return x, y


@inner
def _length(c: Floats, first: float, last: float) -> float:
    """How long a stretch of a cubic is, by Gauss's rule with three points."""
    whole = 0.0
    for k in range(3):
        x, y = _slope(c, 0.5 * (first + last + _GAUSS[k] * (last - first)))
        whole += _WEIGHTS[k] * _size(x, y)
    return whole * (last - first)


@inner
def way(c: Floats, t: float) -> tuple[float, float]:
    """The direction of a cubic as a unit vector; where it stands still, that of what lies beside."""
    x, y = _slope(c, t)
    if _size(x, y) < NOTHING:
        x, y = _slope(c, min(max(t + (1e-3 if t < 0.5 else -1e-3), 0.0), 1.0))
    if _size(x, y) < NOTHING:
        x, y = c[6] - c[0], c[7] - c[1]
    size = max(_size(x, y), 1e-300)
    return x / size, y / size


@kernel
def measured(first: int, last: int, curves: Floats, table: Filled) -> None:
    """table[r, s, p]: how long curve s of curves (rows, s, 8) is as far as the beginning of its piece p."""
    for r in range(first, last):
        for s in range(curves.shape[1]):
            whole = 0.0
            for p in range(PIECES):
                table[r, s, p] = whole
                whole += _length(curves[r, s], p / PIECES, (p + 1) / PIECES)
            table[r, s, PIECES] = whole


@kernel
def cornered(
    first: int, last: int, curves: Floats, table: Floats, spans: Whole, closed: Whole, smooth: Whole, flags: Filled
) -> None:
    """flags[r, s]: 0 where a curve has no length, 2 where it begins at a corner, else 1.

    `spans` (contours, 2): each contour's first curve, and the one after its last.
    """
    for r in range(first, last):
        for c in range(len(spans)):
            before = -1
            if closed[c]:
                for s in range(spans[c, 0], spans[c, 1]):
                    before = s if table[r, s, PIECES] > NOTHING else before
            for s in range(spans[c, 0], spans[c, 1]):
                flags[r, s] = 0
                if table[r, s, PIECES] > NOTHING:
                    flags[r, s] = 1
                    if before >= 0 and not smooth[min(r, len(smooth) - 1)]:
                        ax, ay = way(curves[r, before], 1.0)
                        bx, by = way(curves[r, s], 0.0)
                        flags[r, s] = 2 if ax * bx + ay * by < _CORNER else 1
                    before = s


@inner
def _share(curve: Floats, table: Floats, along: float) -> float:
    """The share of a curve at which so much of its length is behind."""
    piece = min(max(int(np.searchsorted(table, along, side="right")) - 1, 0), PIECES - 1)
    span = table[piece + 1] - table[piece]
    inside = min(max((along - table[piece]) / span, 0.0), 1.0) if span > 0.0 else 0.0
    t = (piece + inside) / PIECES
    for _ in range(2):
        x, y = _slope(curve, t)
        speed = _size(x, y)
        if speed > NOTHING:
            t = min(max(t + (along - table[piece] - _length(curve, piece / PIECES, t)) / speed, 0.0), 1.0)
    return t


@inner
def _put(c: Floats, t: float, out: Floats, i: int) -> None:
    s = 1.0 - t
    p, q, u, v = s * s * s, 3.0 * s * s * t, 3.0 * s * t * t, t * t * t
    out[0, i] = p * c[0] + q * c[2] + u * c[4] + v * c[6]
    out[1, i] = p * c[1] + q * c[3] + u * c[5] + v * c[7]
    x, y = way(c, t)
    out[2, i], out[3, i] = y, -x


@kernel
def cut(first: int, last: int, curves: Floats, table: Floats, stretches: Whole, out: Filled) -> None:
    """out[r, 0…4, i] = x, y, the normal to the left of the way (x, y), and the share of the whole length, of point i.

    `stretches` (any, 5): each one's first curve, the one after its last, into how many parts it is cut evenly, the
    curve that comes in at a corner where it begins (−1: there is none), and whether its end is a point too.
    """
    for r in range(first, last):
        whole = 0.0
        for s in range(curves.shape[1]):
            whole += table[r, s, PIECES]
        behind, i = 0.0, 0
        for q in range(len(stretches)):
            s, end, parts = stretches[q, 0], stretches[q, 1], stretches[q, 2]
            length = 0.0
            for k in range(s, end):
                length += table[r, k, PIECES]
            passed = 0.0
            for j in range(parts + stretches[q, 4]):
                along = length * j / parts
                while s + 1 < end and along > passed + table[r, s, PIECES]:
                    passed += table[r, s, PIECES]
                    s += 1
                _put(curves[r, s], _share(curves[r, s], table[r, s], along - passed), out[r], i)
                out[r, 4, i] = (behind + along) / whole
                if j == 0 and stretches[q, 3] >= 0:
                    # At a corner it lies half-way between those of its sides.
                    x, y = way(curves[r, stretches[q, 3]], 1.0)
                    nx, ny = out[r, 2, i] + y, out[r, 3, i] - x
                    size = _size(nx, ny)
                    if size > 1e-6:
                        out[r, 2, i], out[r, 3, i] = nx / size, ny / size
                i += 1
            behind += length


@kernel
def turned_out(first: int, last: int, links: Whole, closed: Whole, made: Filled) -> None:
    """Turns the normals made[r, 2…3] of points made[r, 0…1] outwards, by the area inside the points that are `closed`,
    and writes their heights, 0 at the lowest and 1 at the topmost, into made[r, 5]."""
    for r in range(first, last):
        x, y, area = made[r, 0], made[r, 1], 0.0
        for i in closed:
            n = links[i, 1]
            area += x[i] * y[n] - x[n] * y[i]
        if area < 0.0:
            for i in range(len(x)):
                made[r, 2, i], made[r, 3, i] = -made[r, 2, i], -made[r, 3, i]
        low, high = y.max(), y.min()
        span = low - high
        for i in range(len(y)):
            made[r, 5, i] = (low - y[i]) / span if span > NOTHING else 0.0


@kernel
def moved(
    first: int,
    last: int,
    base: Floats,
    state: Whole,
    out_by: Floats,
    size: Floats,
    share: Floats,
    about: Floats,
    made: Filled,
) -> None:
    """made[r, 0…1, i]: point i of base[state[r]] (states, 5 or more, points) at about + size · (P − about) + share ·
    out_by · N.

    `out_by` (rows or 1, points or 1); size, share and about (rows or 1) and (rows or 1, 2).
    """
    many = made.shape[2]
    for r in range(first, last):
        b = state[min(r, len(state) - 1)]
        z, w = size[min(r, len(size) - 1)], share[min(r, len(share) - 1)]
        ax, ay = about[min(r, len(about) - 1), 0], about[min(r, len(about) - 1), 1]
        each = out_by[min(r, len(out_by) - 1)]
        for i in range(many):
            far = w * each[min(i, len(each) - 1)]
            made[r, 0, i] = ax + z * (base[b, 0, i] - ax) + far * base[b, 2, i]
            made[r, 1, i] = ay + z * (base[b, 1, i] - ay) + far * base[b, 3, i]


@kernel
def through(first: int, last: int, points: Floats, links: Whole, out: Filled) -> None:
    """out[r]: the numbers of "M C C …" through points (rows, 2, points), each contour by itself.

    `links` (points, 4): what lies before each point, after it and beyond that, itself (or the one after) where its
    contour ends or has a corner, and whether a contour begins with it. After the last point of an open contour comes
    −1.
    """
    for r in range(first, last):
        x, y = points[r, 0], points[r, 1]
        at = 0
        for i in range(len(links)):
            p, n, q = links[i, 0], links[i, 1], links[i, 2]
            if links[i, 3]:
                out[r, at], out[r, at + 1] = x[i], y[i]
                at += 2
            if n < 0:
                continue
            # A tangent half as long as the way between its neighbours; at corners that of the chord.
            f = 1.0 / 6.0 if p != i else 1.0 / 3.0
            g = 1.0 / 6.0 if q != n else 1.0 / 3.0
            out[r, at], out[r, at + 1] = x[i] + f * (x[n] - x[p]), y[i] + f * (y[n] - y[p])
            out[r, at + 2], out[r, at + 3] = x[n] - g * (x[q] - x[i]), y[n] - g * (y[q] - y[i])
            out[r, at + 4], out[r, at + 5] = x[n], y[n]
            at += 6


@inlined
def _split(c: Floats, t: float, u: float, out: Floats, at: int) -> None:
    """The last three points of the part of a cubic between two shares."""
    for k in range(2):
        a, b, d, e = c[k], c[2 + k], c[4 + k], c[6 + k]
        # Blossoms: the polar form of the cubic at (t, t, u), (t, u, u) and (u, u, u), shares mixed one after the other.
        p, q, r = a + (b - a) * t, b + (d - b) * t, d + (e - d) * t
        pt, qt = p + (q - p) * t, q + (r - q) * t
        pu, qu = p + (q - p) * u, q + (r - q) * u
        x, y, z = a + (b - a) * u, b + (d - b) * u, d + (e - d) * u
        xu, yu = x + (y - x) * u, y + (z - y) * u
        out[at + k] = pt + (qt - pt) * u
        out[at + 2 + k] = pu + (qu - pu) * u
        out[at + 4 + k] = xu + (yu - xu) * u


@kernel
def clipped(
    first: int,
    last: int,
    curves: Floats,
    table: Floats,
    span: Whole,
    rounds: int,
    low: Floats,
    high: Floats,
    out: Filled,
) -> None:
    """out[r]: "M" and the curves span[0]…span[1] of curves (rows, s, 8), so many times over, as far as they lie between
    two lengths low[r] and high[r] along them; those before and after are no longer than a point."""
    for r in range(first, last):
        at, behind, begun = 2, 0.0, False
        for _ in range(rounds):
            for s in range(span[0], span[1]):
                length = table[r, s, PIECES]
                a, b = max(low[r] - behind, 0.0), min(high[r] - behind, length)
                behind += length
                if b > a and length > 0.0:
                    t = _share(curves[r, s], table[r, s], a) if a > 0.0 else 0.0
                    u = _share(curves[r, s], table[r, s], b) if b < length else 1.0
                    if not begun:
                        _split(curves[r, s], t, t, out[r], at)
                        out[r, 0], out[r, 1] = out[r, at + 4], out[r, at + 5]
                        for j in range(2, at, 2):
                            out[r, j], out[r, j + 1] = out[r, 0], out[r, 1]
                        begun = True
                    _split(curves[r, s], t, u, out[r], at)
                elif begun:
                    for j in range(at, at + 6, 2):
                        out[r, j], out[r, j + 1] = out[r, at - 2], out[r, at - 1]
                at += 6
        if not begun:
            out[r, :] = 0.0
