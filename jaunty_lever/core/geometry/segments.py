"""Outlines as straight pieces: how far points lie from them, and whether inside."""

import numpy as np

from ..kernels.compiled import Filled, Floats, Whole, kernel
from ..kernels.parallel import over
from .outline import Outline

PIECES = 16
"""Into how many straight pieces a curve is cut."""
_SHARES = np.linspace(0.0, 1.0, PIECES + 1)


def segments_of(outline: Outline, closing: bool) -> Floats:
    """The straight pieces of an outline, curves cut into `PIECES`: (n or 1, pieces, 4) x y of both ends, in rows as its
    points. `closing`: what is left open is closed by one more."""
    rows = len(outline.points)
    at = start = np.zeros((rows, 2))
    made: list[Floats] = []
    k = 0

    def line(to: Floats) -> None:
        made.append(np.hstack([at, to])[:, None])

    for verb in outline.verbs:
        if verb == "M":
            if closing and made:
                line(start)
            at = start = outline.points[:, k : k + 2]
            k += 2
        elif verb == "Z":
            line(start)
            at = start
        elif verb == "L":
            to = outline.points[:, k : k + 2]
            line(to)
            at, k = to, k + 2
        else:
            many = {"Q": 2, "C": 3}[verb]
            inner = outline.points[:, k : k + 2 * many].reshape(rows, many, 2)
            spots = _along(np.concatenate([at[:, None], inner], axis=1))
            made.append(np.concatenate([spots[:, :-1], spots[:, 1:]], axis=2))
            at, k = inner[:, -1], k + 2 * many
    if closing and made:
        line(start)
    if not made:
        # A single point, or nothing at all.
        return np.hstack([at, at])[:, None] if k else np.zeros((rows, 0, 4))
    return np.ascontiguousarray(np.concatenate(made, axis=1))


def _along(points: Floats) -> Floats:
    """Spots on curves (n, 3 or 4, 2) of as many control points: (n, PIECES + 1, 2)."""
    t = _SHARES[None, :, None]
    a, b, c, *d = (points[:, k, None] for k in range(points.shape[1]))
    if not d:
        return np.asarray((1 - t) ** 2 * a + 2 * (1 - t) * t * b + t**2 * c)
    return np.asarray((1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t**2 * c + t**3 * d[0])


def nearest(x: Floats, y: Floats, segments: Floats, which: Whole, reach: Floats) -> tuple[Floats, ...]:
    """How far points (n,) lie from the nearest spot of their pieces, below 0 inside, where that spot is, x and y, and
    on which piece: its number and the share of it from its beginning; (n,) each.

    segments (states, pieces, 4); which (n,) the state of each point. What lies outside of all pieces by more than
    `reach` (n,) is given as just so far away, at itself. Without pieces: infinitely far.
    """
    boxes = np.zeros((len(segments), 4))
    if segments.shape[1]:
        xs, ys = segments[..., 0::2], segments[..., 1::2]
        boxes = np.stack([xs.min(axis=(1, 2)), ys.min(axis=(1, 2)), xs.max(axis=(1, 2)), ys.max(axis=(1, 2))], axis=1)
    out, at_x, at_y, piece = np.full(len(x), np.inf), x.copy(), y.copy(), np.zeros(len(x))
    if segments.shape[1]:
        told = (out, at_x, at_y, piece)
        over(len(x), _nearest, x, y, segments, boxes, which, reach, *told, each=segments.shape[1])
    return out, at_x, at_y, piece


@kernel
def _nearest(
    first: int,
    last: int,
    x: Floats,
    y: Floats,
    segments: Floats,
    boxes: Floats,
    which: Whole,
    reach: Floats,
    out: Filled,
    at_x: Filled,
    at_y: Filled,
    piece: Filled,
) -> None:
    for i in range(first, last):
        px, py, state = x[i], y[i], which[i]
        left, top = boxes[state, 0] - px, boxes[state, 1] - py
        right, bottom = px - boxes[state, 2], py - boxes[state, 3]
        beside, below = max(left, right, 0.0), max(top, bottom, 0.0)
        if beside > reach[i] or below > reach[i]:
            out[i] = max(beside, below)
            continue
        best, bx, by, bk, rounds = np.inf, px, py, 0.0, 0
        for k in range(segments.shape[1]):
            ax, ay = segments[state, k, 0], segments[state, k, 1]
            ex, ey = segments[state, k, 2], segments[state, k, 3]
            dx, dy = ex - ax, ey - ay
            long = dx * dx + dy * dy
            share = 0.0
            if long > 0.0:
                share = min(max(((px - ax) * dx + (py - ay) * dy) / long, 0.0), 1.0)
            qx, qy = ax + share * dx, ay + share * dy
            far = (px - qx) * (px - qx) + (py - qy) * (py - qy)
            if far < best:
                best, bx, by, bk = far, qx, qy, k + share
            # A ray to the right crosses what goes round it once more one way than the other.
            if (ay > py) != (ey > py) and px < ax + (py - ay) / dy * dx:
                rounds += 1 if dy > 0.0 else -1
        out[i], at_x[i], at_y[i], piece[i] = np.sqrt(best), bx, by, bk
        if rounds != 0:
            out[i] = -out[i]
