"""A layer's place as 2×3 affine matrices (a, b, c, d, e, f), as in SVG's matrix(a b c d e f)."""

import numpy as np

from .outline import Floats


def layer_matrix(position: Floats, rotation: Floats, scale: Floats, pivot: Floats) -> Floats:
    """translate(position) · rotate(rotation) · scale(scale/100) · translate(−pivot); (…, 6).

    Positions in pixels, rotation in degrees (clockwise, y down), scale in percent; (…, 2) and (…, 1), of the same shape
    or of length 1 along any axis before the last.
    """
    turn = np.deg2rad(rotation[..., 0])
    cos, sin = np.cos(turn), np.sin(turn)
    sx, sy = scale[..., 0] / 100, scale[..., 1] / 100
    a, b, c, d = cos * sx, sin * sx, -sin * sy, cos * sy
    px, py = pivot[..., 0], pivot[..., 1]
    e = position[..., 0] - a * px - c * py
    f = position[..., 1] - b * px - d * py
    return _beside(a, b, c, d, e, f)


def product(outer: Floats, inner: Floats) -> Floats:
    """outer · inner, each (…, 6)."""
    a, b, c, d, e, f = np.moveaxis(outer, -1, 0)
    g, h, i, j, k, m = np.moveaxis(inner, -1, 0)
    return _beside(a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f)


def applied(matrix: Floats, x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Points through matrices (…, 6)."""
    a, b, c, d, e, f = np.moveaxis(matrix, -1, 0)
    return np.asarray(a * x + c * y + e), np.asarray(b * x + d * y + f)


def inverted(matrix: Floats) -> Floats:
    """The way back through matrices (…, 6); all 0 where there is none."""
    a, b, c, d, e, f = np.moveaxis(matrix, -1, 0)
    size = a * d - b * c
    with np.errstate(all="ignore"):
        over = np.where(size == 0, 0.0, 1 / size)
    a, b, c, d = d * over, -b * over, -c * over, a * over
    return _beside(a, b, c, d, -(a * e + c * f), -(b * e + d * f))


def _beside(*columns: Floats) -> Floats:
    return np.stack(np.broadcast_arrays(*columns), axis=-1)
