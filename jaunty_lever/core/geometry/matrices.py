"""A layer's place as 2×3 affine matrices (a, b, c, d, e, f), as in SVG's matrix(a b c d e f)."""

import numpy as np

from .outline import Floats, over_time


def layer_matrix(position: Floats, rotation: Floats, scale: Floats, pivot: Floats) -> Floats:
    """translate(position) · rotate(rotation) · scale(scale/100) · translate(−pivot); (n or 1, 6).

    Positions in pixels, rotation in degrees (clockwise, y down), scale in percent.
    """
    turn = np.deg2rad(rotation[:, 0])
    cos, sin = np.cos(turn), np.sin(turn)
    sx, sy = scale.T / 100
    a, b, c, d = cos * sx, sin * sx, -sin * sy, cos * sy
    px, py = pivot.T
    e = position[:, 0] - a * px - c * py
    f = position[:, 1] - b * px - d * py
    return over_time([a, b, c, d, e, f])


def product(outer: Floats, inner: Floats) -> Floats:
    """outer · inner, each (n or 1, 6)."""
    a, b, c, d, e, f = outer.T
    g, h, i, j, k, m = inner.T
    return over_time([a * g + c * h, b * g + d * h, a * i + c * j, b * i + d * j, a * k + c * m + e, b * k + d * m + f])
