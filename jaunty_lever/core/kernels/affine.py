"""Affine matrices of many things at once."""

import numpy as np

from .compiled import Filled, Floats, Whole, inner, kernel
from .laying import fill
from .sine import cosine, sine

_BLOCK = 256
_SIDE, _STRETCH = 8, 64
"""Elements and moments that are worked on at a time: as many as lie in the nearest cache."""


@inner
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


@inner
def _added(part: Floats, begin: int, row: Floats) -> None:
    if part.size > 1:
        some = part[begin : begin + len(row)]
        for j in range(len(row)):
            row[j] += some[j]
    elif part[0] != 0.0:
        for j in range(len(row)):
            row[j] += part[0]


@inner
def _worked_out(
    begin: int,
    count: int,
    x: Floats,
    y: Floats,
    more_x: Floats,
    more_y: Floats,
    rotation: Floats,
    more_rotation: Floats,
    wide: Floats,
    high: Floats,
    made: Floats,
) -> None:
    """made[0…5, j] = a … f of the sample begin + j, see `placed`; each column by itself, so that compilers work on
    several samples at once."""
    a, b, c = made[0, :count], made[1, :count], made[2, :count]
    d, e, f = made[3, :count], made[4, :count], made[5, :count]
    fill(x, begin, e)
    _added(more_x, begin, e)
    fill(y, begin, f)
    _added(more_y, begin, f)
    _headings(begin, count, rotation, more_rotation, d, c)
    fill(wide, begin, a)
    for j in range(count):
        across = a[j] / 100.0
        a[j], b[j] = d[j] * across, c[j] * across
    down = made[6, :count]
    fill(high, begin, down)
    for j in range(count):
        low = down[j] / 100.0
        c[j], d[j] = -c[j] * low, d[j] * low


@kernel(strided=True)
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
    out: Filled,
) -> None:
    """out[i] = a … f of translate(x + more x, …) · rotate(rotation + more rotation) · scale(wide, high) ·
    translate(−pivot).

    Pixels, degrees, percent, each (n,) or (1,), however they lie in memory; out (n, 6).
    """
    made = np.empty((7, _BLOCK))
    aside, below = np.empty(_BLOCK), np.empty(_BLOCK)
    for begin in range(first, last, _BLOCK):
        count = min(_BLOCK, last - begin)
        _worked_out(begin, count, x, y, more_x, more_y, rotation, more_rotation, wide, high, made)
        fill(pivot_x, begin, aside[:count])
        fill(pivot_y, begin, below[:count])
        for j in range(count):
            i, a, b, c, d = begin + j, made[0, j], made[1, j], made[2, j], made[3, j]
            out[i, 0], out[i, 1], out[i, 2], out[i, 3] = a, b, c, d
            out[i, 4] = made[4, j] - a * aside[j] - c * below[j]
            out[i, 5] = made[5, j] - b * aside[j] - d * below[j]


@kernel(strided=True)
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
    row: Whole,
    place: Whole,
    turned: Filled,
    moved: Filled,
) -> None:
    """The same without a pivot, as it is drawn: a b c d in turned[row, place] and e f in moved[row, place] of each
    sample."""
    made = np.empty((7, _BLOCK))
    for begin in range(first, last, _BLOCK):
        count = min(_BLOCK, last - begin)
        _worked_out(begin, count, x, y, more_x, more_y, rotation, more_rotation, wide, high, made)
        for h in range(count):
            k, j = row[begin + h], place[begin + h]
            turned[k, j, 0], turned[k, j, 1], turned[k, j, 2] = made[0, h], made[1, h], made[2, h]
            turned[k, j, 3], moved[k, j, 0], moved[k, j, 1] = made[3, h], made[4, h], made[5, h]


@kernel(strided=True)
def laid_side_by_side(
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
    turned: Filled,
    moved: Filled,
) -> None:
    """The same for the elements first … last, whose samples lie one after the other, at turned[moment, element]."""
    each = turned.shape[0]
    made = np.empty((_SIDE, 7, _STRETCH))
    # A few elements over a few moments at a time: both what is read and what is written then lies together.
    for beside in range(first, last, _SIDE):
        many = min(_SIDE, last - beside)
        for begin in range(0, each, _STRETCH):
            count = min(_STRETCH, each - begin)
            for k in range(many):
                at = (beside + k) * each + begin
                _worked_out(at, count, x, y, more_x, more_y, rotation, more_rotation, wide, high, made[k])
            for h in range(count):
                a, b = turned[begin + h, beside : beside + many], moved[begin + h, beside : beside + many]
                for k in range(many):
                    a[k, 0], a[k, 1], a[k, 2], a[k, 3] = made[k, 0, h], made[k, 1, h], made[k, 2, h], made[k, 3, h]
                    b[k, 0], b[k, 1] = made[k, 4, h], made[k, 5, h]
