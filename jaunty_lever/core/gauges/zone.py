"""Zone: how near points are to a region of the stage."""

from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from ..kernels.compiled import Filled, Floats, inner, kernel
from ..kernels.parallel import laid_out, over
from .edges import Ease, softened

Shape = Literal["disc", "box", "bar"]
SHAPES: tuple[Shape, ...] = ("disc", "box", "bar")
Pair = tuple[ArrayLike, ArrayLike]

BAR = 2
LEAST = 1e-300
"""What stands for a size of nothing."""


@inner
def apart_in(x: float, y: float, wide: float, high: float, shape: int) -> float:
    across = abs(x) / (wide if wide != 0.0 else LEAST)
    if shape == BAR:
        return min(across, 1e300)
    down = abs(y) / (high if high != 0.0 else LEAST)
    if shape == 1:
        return min(max(across, down), 1e300)
    if max(across, down) > 1e150:
        return 1e300
    out: float = np.sqrt(across * across + down * down)
    return out


@kernel
def _distances(
    first: int,
    last: int,
    x: Floats,
    y: Floats,
    cx: Floats,
    cy: Floats,
    wide: Floats,
    high: Floats,
    angle: Floats,
    shape: int,
    out: Filled,
) -> None:
    mx, my = cx.size > 1, cy.size > 1
    mw, mh, ma, px, py = wide.size > 1, high.size > 1, angle.size > 1, x.size > 1, y.size > 1
    cos, sin = np.cos(np.deg2rad(-angle[0])), np.sin(np.deg2rad(-angle[0]))
    for i in range(first, last):
        if ma:
            cos, sin = np.cos(np.deg2rad(-angle[i])), np.sin(np.deg2rad(-angle[i]))
        dx, dy = x[i * px] - cx[i * mx], y[i * py] - cy[i * my]
        out[i] = apart_in(dx * cos - dy * sin, dx * sin + dy * cos, wide[i * mw], high[i * mh], shape)


def distances(points: Pair, centre: Pair, size: Pair, angle: ArrayLike, shape: Shape) -> Floats:
    """How far out points lie in a zone: 0 at its centre, 1 at its edge.

    points and centre in the scene's px, size: half extents, angle in degrees; all go together by numpy's rules.
    """
    parts = [np.asarray(part, dtype=np.float64) for part in (*points, *centre, *size, angle)]
    whole = np.broadcast_shapes(*(part.shape for part in parts))
    out = np.empty(int(np.prod(whole)))
    over(out.size, _distances, *(laid_out(part, whole) for part in parts), SHAPES.index(shape), out)
    return out.reshape(whole)


def nearness(
    points: Pair,
    centre: Pair,
    size: Pair,
    angle: ArrayLike,
    shape: Shape,
    inner: ArrayLike,
    ease: Ease,
    before: ArrayLike | None = None,
) -> Floats:
    """1 up to the inner share of the zone, 0 outside it, in between by its ease. See `distances`; `before`: how far
    points lie before its centre or behind it, over its size in depth, of a zone that has one."""
    out = distances(points, centre, size, angle, shape)
    if before is not None:
        out = in_depth(out, np.asarray(before, dtype=np.float64), shape)
    return near_by(out, np.asarray(inner, dtype=np.float64), ease)


def near_by(out: Floats, inner: Floats, ease: Ease) -> Floats:
    """How near what lies so far out is: 1 up to the inner share, 0 from 1 on, in between by an ease."""
    return softened(1 - out, 1.0 - inner, ease, np.asarray(out <= inner, dtype=np.float64))


def in_depth(out: Floats, before: Floats, shape: str) -> Floats:
    """How far out points lie in a zone that has an end in depth: a ball, a block, or a bar between two walls; a tube
    about what is drawn."""
    return np.maximum(out, np.abs(before)) if shape in ("box", "bar") else np.hypot(out, before)


def from_ring(out: Floats, hollow: Floats) -> Floats:
    """How far points lie from where a hollow zone is strongest, 1 at its edge: |d − h|/(1 − h), which for h = 0 is how
    far out they lie. At h = 1 it is nowhere but on that line."""
    wide = np.asarray(1.0 - hollow)
    apart = np.abs(out - hollow)
    return np.asarray(np.where(wide > 1e-12, apart / np.maximum(wide, 1e-12), np.where(apart > 1e-9, 1e300, 0.0)))
