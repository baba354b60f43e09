"""Spots scattered over an area, each by its seed and number and those before it, so that more of them change none."""

import numpy as np

from .compiled import Filled, Floats, Whole, inner, kernel
from .noise import chance

_TRIES = 24


@inner
def _inside(x: float, y: float, outline: Floats) -> bool:
    """Whether a point lies inside a polygon, by the even-odd rule."""
    odd = False
    before = len(outline) - 1
    for k in range(len(outline)):
        ax, ay, bx, by = outline[k, 0], outline[k, 1], outline[before, 0], outline[before, 1]
        if (ay > y) != (by > y) and x < (bx - ax) * (y - ay) / (by - ay) + ax:
            odd = not odd
        before = k
    return odd


@inner
def _nearest(
    x: float, y: float, cell: float, across: int, heads: Whole, chains: Whole, spots: Floats, far: float
) -> float:
    """The squared distance to the nearest spot before, as far as `far`."""
    best = far * far
    column, row = int(np.floor(x / cell)), int(np.floor(y / cell))
    for j in range(max(row - 1, 0), min(row + 2, len(heads) // across)):
        for i in range(max(column - 1, 0), min(column + 2, across)):
            k = heads[j * across + i]
            while k >= 0:
                apart = (spots[k, 0] - x) ** 2 + (spots[k, 1] - y) ** 2
                best = min(best, apart)
                k = chains[k]
    return best


@kernel
def _scatter(
    count: int,
    left: float,
    top: float,
    wide: float,
    high: float,
    shape: int,
    outline: Floats,
    apart: float,
    seed: int,
    cell: float,
    across: int,
    heads: Filled,
    chains: Filled,
    out: Filled,
) -> None:
    for k in range(count):
        best, bx, by, found = -1.0, left + wide / 2, top + high / 2, 0
        # Candidates that lie outside the shape do not count, and are not looked for without end.
        for attempt in range(40 * _TRIES):
            u, v = chance(seed, 2 * attempt, k), chance(seed, 2 * attempt + 1, k)
            x, y = left + u * wide, top + v * high
            if shape == 1 and (2 * u - 1) ** 2 + (2 * v - 1) ** 2 > 1.0:
                continue
            if shape == 2 and not _inside(x, y, outline):
                continue
            found += 1
            if apart <= 0.0:
                bx, by = x, y
                break
            near = _nearest(x - left, y - top, cell, across, heads, chains, out, apart)
            if near > best:
                best, bx, by = near, x, y
            if near >= apart * apart or found >= _TRIES:
                break
        # Kept from the corner while the cells are in use.
        out[k, 0], out[k, 1] = bx - left, by - top
        if apart > 0.0:
            place = min(int((by - top) / cell), len(heads) // across - 1) * across + min(
                int((bx - left) / cell), across - 1
            )
            chains[k] = heads[place]
            heads[place] = k
    for k in range(count):
        out[k, 0] += left
        out[k, 1] += top


def scattered(
    count: int, wide: float, high: float, shape: int, outline: Floats, apart: float, seed: int, out: Floats
) -> None:
    """Write so many spots, (count, 2): in a rectangle (0), an ellipse (1) or a polygon (2, whose own extent counts)."""
    left, top = -wide / 2, -high / 2
    if shape == 2:
        if len(outline) < 3:
            out[:] = outline[0] if len(outline) else 0.0
            return
        (left, top), (right, bottom) = outline.min(axis=0), outline.max(axis=0)
        wide, high = right - left, bottom - top
    cell = max(apart, 1e-9, max(wide, high) / 512)
    across, down = (max(1, int(np.ceil(side / cell)) + 1) for side in (wide, high))
    heads = np.full(across * down, -1, dtype=np.int64)
    _scatter(
        count,
        left,
        top,
        wide,
        high,
        shape,
        np.ascontiguousarray(outline),
        apart,
        seed,
        cell,
        across,
        heads,
        np.full(count, -1, dtype=np.int64),
        out,
    )
