"""Affine matrices of many things at once."""

import numba as nb

from .compiled import Floats, kernel_for, read
from .sine import cosine, sine

_LINE = read(nb.float64, 1)


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
    sr, smr = rotation.size > 1, more_rotation.size > 1
    sw, sh, spx, spy = wide.size > 1, high.size > 1, pivot_x.size > 1, pivot_y.size > 1
    turns = sr or smr
    angle = (rotation[0] + more_rotation[0]) / 360.0
    cos, sin = cosine(angle), sine(angle)
    for i in range(first, last):
        if turns:
            angle = (rotation[i * sr] + more_rotation[i * smr]) / 360.0
            cos, sin = cosine(angle), sine(angle)
        across, down = wide[i * sw] / 100.0, high[i * sh] / 100.0
        a, b, c, d = cos * across, sin * across, -sin * down, cos * down
        px, py = pivot_x[i * spx], pivot_y[i * spy]
        out[i, 0], out[i, 1], out[i, 2], out[i, 3] = a, b, c, d
        out[i, 4] = x[i * sx] + more_x[i * smx] - a * px - c * py
        out[i, 5] = y[i * sy] + more_y[i * smy] - b * px - d * py
