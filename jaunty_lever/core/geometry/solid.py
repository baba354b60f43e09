"""Places in space: 3×4 matrices as CSS's transforms make them, and what a perspective makes of a plane in space.

x is to the right, y down, z towards the viewer, who stands `p` pixels before the stage, at its origin (ox, oy). What
lies in a plane with z = 0 and is looked at from (ox, oy, p) stands where it stands without any perspective.
"""

import numpy as np

from .outline import Floats

NEAREST = 0.02
"""What is nearer to the viewer than this share of the perspective, or behind, is taken to be that near."""
FARTHEST = 1e7
UNIT = np.eye(3, 4)[None, None]
"""What stays where it is."""


def layer_solid(
    position: Floats, rotation: Floats, scale: Floats, pivot: Floats, depth: Floats, tilt: Floats
) -> Floats:
    """translate3d(position, depth) · rotateZ(rotation) · rotateX(tilt x) · rotateY(tilt y) · scale · translate(−pivot).

    (…, 2), (…, 1), (…, 2), (…, 2), (…, 1), (…, 2), in px, degrees and percent; the product is (…, 3, 4).
    """
    turn, about_x, about_y = (np.deg2rad(one) for one in (rotation[..., 0], tilt[..., 0], tilt[..., 1]))
    cz, sz, cx, sx, cy, sy = (f(one) for one in (turn, about_x, about_y) for f in (np.cos, np.sin))
    wide, high = scale[..., 0] / 100, scale[..., 1] / 100
    # Columns of rotateZ · rotateX · rotateY.
    first = (cz * cy - sz * sx * sy, sz * cy + cz * sx * sy, -cx * sy)
    second = (-sz * cx, cz * cx, sx)
    third = (cz * sy + sz * sx * cy, sz * sy - cz * sx * cy, cx * cy)
    px, py = pivot[..., 0], pivot[..., 1]
    moved = (position[..., 0], position[..., 1], np.clip(np.nan_to_num(depth[..., 0]), -FARTHEST, FARTHEST))
    rows = [
        [a * wide, b * high, c, at - a * wide * px - b * high * py]
        for a, b, c, at in zip(first, second, third, moved, strict=True)
    ]
    whole = np.broadcast_arrays(*(one for row in rows for one in row))
    return np.stack(whole, axis=-1).reshape(*whole[0].shape, 3, 4)


def solid_product(outer: Floats, inner: Floats) -> Floats:
    """outer · inner, each (…, 3, 4)."""
    made = outer[..., :, :3] @ inner
    made[..., 3] += outer[..., :, 3]
    return np.asarray(made)


def solid_of(matrix: Floats) -> Floats:
    """A flat matrix (…, 6) in space."""
    made = np.zeros((*matrix.shape[:-1], 3, 4))
    made[..., 0, 0], made[..., 1, 0], made[..., 0, 1], made[..., 1, 1] = np.moveaxis(matrix[..., :4], -1, 0)
    made[..., 0, 3], made[..., 1, 3] = np.moveaxis(matrix[..., 4:], -1, 0)
    made[..., 2, 2] = 1
    return made


def through(solid: Floats, spot: Floats) -> Floats:
    """Where spots (…, 3) are led by a matrix (…, 3, 4)."""
    return np.asarray((solid[..., :3] @ spot[..., None])[..., 0] + solid[..., 3])


def turned_about(middle: Floats, spot: Floats, around: Floats) -> Floats:
    """A spot (…, 3) carried round a middle: `around` (…, 2) degrees, to the right about the upright, then up.

    Upwards it is carried by no more than leads it straight above or below the middle.
    """
    x, y, z = np.moveaxis(spot - middle, -1, 0)
    aside, up = np.deg2rad(around[..., 0]), np.deg2rad(around[..., 1])
    level = np.hypot(x, z)
    way, size = np.arctan2(x, z) + aside, np.hypot(level, y)
    # y is downwards.
    steep = np.clip(np.arctan2(-y, level) + up, -np.pi / 2, np.pi / 2)
    moved = (size * np.cos(steep) * np.sin(way), -size * np.sin(steep), size * np.cos(steep) * np.cos(way))
    return np.asarray(middle + np.stack(np.broadcast_arrays(*moved), axis=-1))


def looking(place: Floats, aim: Floats, turn: Floats, tilt: Floats, eye: Floats) -> Floats:
    """From a scene's space to that before the stage, (…, 3, 4): what stands `place` (…, 3) and looks at `aim` comes to
    be at `eye` (…, 3) and look straight at the stage. It is turned by `turn` (…,) about where it looks, and by `tilt`
    (…, 2).

    Straight down or up it keeps x to the right; one that looks at where it stands looks straight ahead.
    """
    back = place - aim
    size = np.linalg.norm(back, axis=-1, keepdims=True)
    back = np.where(size > 1e-6, back / np.where(size > 1e-6, size, 1), [0.0, 0.0, 1.0])
    x, z = back[..., 2], -back[..., 0]
    level = np.hypot(x, z)
    steep = level < 1e-6
    level = np.where(steep, 1, level)
    right = np.stack([np.where(steep, 1, x / level), np.zeros_like(x), np.where(steep, 0, z / level)], axis=-1)
    down = np.cross(back, right)
    frame = np.stack([right, down, back], axis=-1)
    nothing = np.zeros((*turn.shape, 2))
    own = layer_solid(nothing, turn[..., None], np.full_like(nothing, 100.0), nothing, nothing[..., :1], tilt)
    rows = np.swapaxes(frame @ own[..., :3], -1, -2)
    moved = eye - (rows @ place[..., None])[..., 0]
    shape = np.broadcast_shapes(rows.shape[:-1], moved.shape)
    return np.concatenate([np.broadcast_to(rows, (*shape, 3)), np.broadcast_to(moved, shape)[..., None]], axis=-1)


def share_of_lens(lens: Floats) -> Floats:
    """How much of the way to the viewer a pixel of depth is, for lenses (…, 3); 0 where there is no perspective."""
    return np.asarray(np.where(lens[..., 0] > 0, 1 / np.where(lens[..., 0] > 0, lens[..., 0], 1), 0.0))


def plane_of(solid: Floats, lens: Floats) -> Floats:
    """What a perspective makes of a layer's own plane: (…, 3, 3), from x y 1 to x′w y′w w.

    `solid` (…, 3, 4) leads to the stage; `lens` (…, 3): the perspective in px, 0 for none, and its origin.
    """
    flat = solid[..., [0, 1, 3]]
    over = share_of_lens(lens)
    nearer = flat[..., 2, :] * over[..., None]
    x = flat[..., 0, :] - lens[..., 1, None] * nearer
    y = flat[..., 1, :] - lens[..., 2, None] * nearer
    w = np.broadcast_to([0.0, 0.0, 1.0], nearer.shape) - nearer
    return np.stack(np.broadcast_arrays(x, y, w), axis=-2)


def seen(plane: Floats, x: Floats, y: Floats) -> tuple[Floats, Floats, Floats]:
    """Where points of a plane (…, 3, 3) are seen, and their w, at least NEAREST."""
    n = [plane[..., k, 0] * x + plane[..., k, 1] * y + plane[..., k, 2] for k in range(3)]
    w = np.maximum(n[2], NEAREST)
    return np.asarray(n[0] / w), np.asarray(n[1] / w), np.asarray(w)


def tangent(plane: Floats, x: Floats, y: Floats) -> Floats:
    """The flat matrix (…, 6) that comes nearest to a plane (…, 3, 3) about a point of it."""
    at_x, at_y, w = seen(plane, x, y)
    a, c = ((plane[..., 0, k] - at_x * plane[..., 2, k]) / w for k in (0, 1))
    b, d = ((plane[..., 1, k] - at_y * plane[..., 2, k]) / w for k in (0, 1))
    return np.stack(np.broadcast_arrays(a, b, c, d, at_x - a * x - c * y, at_y - b * x - d * y), axis=-1)
