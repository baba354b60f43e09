"""How far the nodes of a display list reach over all of its frames."""

from collections.abc import Iterator
from math import inf

import numpy as np
from numpy.typing import NDArray

from ..geometry.matrices import product
from .node import DisplayNode

Floats = NDArray[np.float64]
Box = tuple[float, float, float, float]
"""Left, top, right, bottom, px on the stage."""

_UNIT = np.array([1.0, 0, 0, 1, 0, 0])[None, None]
_EVERYWHERE: Box = (-inf, -inf, inf, inf)
_CORNER = 10.0
"""How far a stroke reaches beyond its line, in widths, if its corners have no larger miters."""


def leaves(node: DisplayNode, around: Floats = _UNIT, most: int | None = None) -> Iterator[tuple[DisplayNode, Floats]]:
    """What is drawn in a node, with its matrices to the stage, (moments or 1, elements or 1, 6); of arrays at most so
    many copies."""
    matrix = node.channels["matrix"].values
    if matrix.shape[1] > 1 and around.shape[1] > 1:
        matrix = matrix[:, : around.shape[1]]
    world = product(around, matrix)
    if node.kind == "array":
        if not node.nodes:
            return
        turned, moved = (node.channels[name].values for name in ("turned", "moved"))
        many = max(turned.shape[1], moved.shape[1])
        many = many if most is None else min(many, most)
        parts = [
            np.broadcast_to(part[:, :many], (max(len(turned), len(moved)), many, part.shape[2]))
            for part in (turned, moved)
        ]
        per = max(node.fixed["copies"], 1)
        outer = world if world.shape[1] == 1 else np.repeat(world, per, axis=1)[:, :many]
        world = product(outer, np.concatenate(parts, axis=2))
    if not node.nodes:
        yield node, world
    for inner in node.nodes:
        yield from leaves(inner, world, most)


def corners(node: DisplayNode) -> Floats | None:
    """Points that a node stretches between, (moments or 1, elements or 1, points, 2), of several outlines those of the
    longest; None where there are none."""
    return max(_outlines(node), key=lambda one: one.size, default=None)


def _outlines(node: DisplayNode, *names: str) -> list[Floats]:
    """The points of what a node draws, (moments or 1, elements or 1, points, 2) each; of a shape its outlines, and by
    name others."""
    if node.kind in ("picture", "clip", "texture"):
        size = node.channels["size"].values if node.kind == "texture" else np.array([[node.fixed["size"]]], dtype=float)
        ends = np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]])
        return [np.asarray(size[:, :, None, :] * ends)]
    found = [one.values for name, one in node.channels.items() if name.partition(".")[0] in ("points", *names)]
    return [one.reshape(*one.shape[:2], -1, 2) for one in found if one.size]


def placed(points: Floats, world: Floats) -> tuple[Floats, Floats]:
    """Where points lie on the stage, x and y, (moments or 1, elements or 1, points) each."""
    x = world[..., 0, None] * points[..., 0] + world[..., 2, None] * points[..., 1] + world[..., 4, None]
    y = world[..., 1, None] * points[..., 0] + world[..., 3, None] * points[..., 1] + world[..., 5, None]
    return x, y


def reach(node: DisplayNode) -> Box | None:
    """The box around all that a node draws at any frame of its list; everywhere where that takes more to tell than to
    draw it, None for what draws nothing."""
    if any(one.matte is not None or "filters" in one.fixed or "plane" in one.channels for one in node.walk()):
        return _EVERYWHERE
    boxes = [box for leaf, world in leaves(node) for box in _boxes(leaf, world)]
    if not boxes:
        return None
    lefts, tops, rights, bottoms = zip(*boxes, strict=True)
    found = min(lefts), min(tops), max(rights), max(bottoms)
    return found if np.isfinite(found).all() else _EVERYWHERE


def _boxes(node: DisplayNode, world: Floats) -> Iterator[Box]:
    """The boxes of what a node draws, its strokes included."""
    beyond = node.channels.get("beyond")
    if beyond is not None and beyond.rows.any():
        yield _EVERYWHERE
        return
    width = float(node.channels["width"].rows.max(initial=0.0)) if "width" in node.channels else 0.0
    miter = float(node.channels["miter"].rows.max(initial=0.0)) if "miter" in node.channels else 0.0
    stroke = float(np.hypot(world[..., :2], world[..., 2:4]).max(initial=0.0)) * max(_CORNER, miter) * width
    for points in _outlines(node, "line", "inner"):
        low, high = points.min(axis=2), points.max(axis=2)
        # Its corners: each of the two xs with each of the two ys.
        ends = np.stack([np.stack([x[..., 0], y[..., 1]], axis=-1) for x in (low, high) for y in (low, high)], axis=2)
        if ends.shape[1] > 1 and world.shape[1] > 1 and ends.shape[1] != world.shape[1]:
            yield _EVERYWHERE
            return
        x, y = placed(ends, world)
        yield float(x.min()) - stroke, float(y.min()) - stroke, float(x.max()) + stroke, float(y.max()) + stroke


def meet(one: Box | None, other: Box | None) -> bool:
    """Whether two boxes have a place in common."""
    if one is None or other is None:
        return False
    return one[0] <= other[2] and other[0] <= one[2] and one[1] <= other[3] and other[1] <= one[3]
