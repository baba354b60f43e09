"""A layer's place as 2×3 affine matrices (a, b, c, d, e, f), as in SVG's matrix(a b c d e f)."""

import numpy as np
from numpy.typing import NDArray

from ..kernels import affine
from ..kernels.parallel import over
from .outline import Floats

_NOTHING = np.zeros(2)


def layer_matrix(position: Floats, rotation: Floats, scale: Floats, pivot: Floats) -> Floats:
    """translate(position) · rotate(rotation) · scale(scale/100) · translate(−pivot); (…, 6).

    Positions in pixels, rotation in degrees (clockwise, y down), scale in percent; (…, 2) and (…, 1), of the same shape
    or of length 1 along any axis before the last.
    """
    return _placed(position, _NOTHING, rotation, _NOTHING, scale, pivot)


def copy_matrix(place: Floats, moved: Floats, facing: Floats, rotation: Floats, scale: Floats) -> Floats:
    """The same of what stands at a place that it is moved away from, and faces somewhere that it is turned away
    from."""
    return _placed(place, moved, facing, rotation, scale, _NOTHING)


def copies_laid(
    parts: tuple[Floats, Floats, Floats, Floats, Floats],
    row: NDArray[np.int64],
    place: NDArray[np.int64],
    turned: NDArray[np.float32],
    moved: NDArray[np.float32],
) -> None:
    """`copy_matrix` of its five parts, (elements or 1, times or 1, …), as it is drawn: see `affine.laid`. Without rows
    and places, (0,), these are its moment and its element."""
    whole = shape_of(*parts)
    columns = [_line(part[..., axis], whole) for part in parts for axis in range(part.shape[-1])]
    if len(row):
        over(whole[0] * whole[1], affine.laid, *columns, row, place, turned, moved)
    else:
        over(whole[0], affine.laid_side_by_side, *columns, turned, moved, each=whole[1])


def shape_of(*parts: Floats) -> tuple[int, ...]:
    """The shape that values of some parameters have together, without their components."""
    return np.broadcast_shapes(*(part.shape[:-1] for part in parts))


def _placed(position: Floats, moved: Floats, rotation: Floats, turned: Floats, scale: Floats, pivot: Floats) -> Floats:
    whole = shape_of(position, moved, rotation, turned, scale, pivot)
    out = np.empty((*whole, 6))
    if not out.size:
        return out
    columns = [
        _line(part[..., axis], whole)
        for part, axes in ((position, 2), (moved, 2), (rotation, 1), (turned, 1), (scale, 2), (pivot, 2))
        for axis in range(axes)
    ]
    over(out.size // 6, affine.placed, *columns, out.reshape(-1, 6))
    return out


def _line(part: Floats, whole: tuple[int, ...]) -> Floats:
    """One number for each of a whole, or for all, one after the other."""
    if part.size == 1:
        return part.reshape(1)
    return (part if part.shape == whole else np.broadcast_to(part, whole)).reshape(-1)


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
