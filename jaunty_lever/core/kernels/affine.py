"""Affine matrices of many things at once."""

import numba as nb
import numpy as np
from numpy.typing import NDArray

from .compiled import Floats, Whole, inlined, kernel_for, read
from .sine import cosine, sine

_LINE = read(nb.float64, 1)
_SINGLE = nb.float32[:, :, ::1]
_BLOCK = 256


@inlined
def _headings(first: int, count: int, rotation: Floats, more: Floats, cosines: Floats, sines: Floats) -> None:
    """Cosines and sines of the samples first … first + count − 1, all at once where they differ."""
    turns, many = rotation.size > 1 or more.size > 1, count
    if not turns:
        many = 1
    at, further = rotation.size > 1, more.size > 1
    for j in range(many):
        i = first + j
        cosines[j] = (rotation[i * at] + more[i * further]) / 360.0
    for j in range(many):
        angle = cosines[j]
        cosines[j], sines[j] = cosine(angle), sine(angle)
    for j in range(many, count):
        cosines[j], sines[j] = cosines[0], sines[0]


@kernel_for(nb.void(nb.intp, nb.intp, *[_LINE] * 10, nb.float64[:, ::1]))
def placed(
    first: int,
    last: int,
    x: Floats,
    y: Floats,
    more_x: Floats,
    more_y: Floats,
    rotation: Floats,
    more_rotation: Floats,
    wide: Floats,
    high: Floats,
    pivot_x: Floats,
    pivot_y: Floats,
    out: Floats,
) -> None:
    """out[i] = a … f of translate(x + more x, …) · rotate(rotation + more rotation) · scale(wide, high) · translate(−pivot).

    Pixels, degrees, percent, each (n,) or (1,), however they lie in memory; out (n, 6).
    """
    sx, sy, smx, smy = x.size > 1, y.size > 1, more_x.size > 1, more_y.size > 1
    sw, sh, spx, spy = wide.size > 1, high.size > 1, pivot_x.size > 1, pivot_y.size > 1
    cosines, sines = np.empty(_BLOCK), np.empty(_BLOCK)
    for begin in range(first, last, _BLOCK):
        count = min(_BLOCK, last - begin)
        _headings(begin, count, rotation, more_rotation, cosines, sines)
        for j in range(count):
            i = begin + j
            across, down = wide[i * sw] / 100.0, high[i * sh] / 100.0
            a, b, c, d = cosines[j] * across, sines[j] * across, -sines[j] * down, cosines[j] * down
            px, py = pivot_x[i * spx], pivot_y[i * spy]
            out[i, 0], out[i, 1], out[i, 2], out[i, 3] = a, b, c, d
            out[i, 4] = x[i * sx] + more_x[i * smx] - a * px - c * py
            out[i, 5] = y[i * sy] + more_y[i * smy] - b * px - d * py


@kernel_for(nb.void(nb.intp, nb.intp, *[_LINE] * 8, nb.intp, *[read(nb.int64, 1)] * 2, _SINGLE, _SINGLE))
def laid(
    first: int,
    last: int,
    x: Floats,
    y: Floats,
    more_x: Floats,
    more_y: Floats,
    rotation: Floats,
    more_rotation: Floats,
    wide: Floats,
    high: Floats,
    each: int,
    row: Whole,
    place: Whole,
    turned: NDArray[np.float32],
    moved: NDArray[np.float32],
) -> None:
    """The same without a pivot, as it is drawn: a b c d in turned[row, place] and e f in moved[row, place] of each sample.

    Without rows and places, (0,), these are its moment and its element, of which each has so many samples side by side.
    """
    sx, sy, smx, smy = x.size > 1, y.size > 1, more_x.size > 1, more_y.size > 1
    sw, sh, told = wide.size > 1, high.size > 1, row.size > 0
    cosines, sines = np.empty(_BLOCK), np.empty(_BLOCK)
    for begin in range(first, last, _BLOCK):
        count = min(_BLOCK, last - begin)
        _headings(begin, count, rotation, more_rotation, cosines, sines)
        for h in range(count):
            i = begin + h
            across, down = wide[i * sw] / 100.0, high[i * sh] / 100.0
            k, j = (row[i], place[i]) if told else (i % each, i // each)
            turned[k, j, 0], turned[k, j, 1] = cosines[h] * across, sines[h] * across
            turned[k, j, 2], turned[k, j, 3] = -sines[h] * down, cosines[h] * down
            moved[k, j, 0], moved[k, j, 1] = x[i * sx] + more_x[i * smx], y[i * sy] + more_y[i * smy]
