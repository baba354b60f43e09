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
"""How far a pointed corner of a stroke reaches, in widths."""


def leaves(node: DisplayNode, around: Floats = _UNIT, most: int | None = None) -> Iterator[tuple[DisplayNode, Floats]]:
    """What is drawn in a node, with its matrices to the stage, (moments or 1, elements or 1, 6); of arrays at most so many copies."""
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


def corners(node: DisplayNode, *prefixes: str) -> Floats | None:
    """Points that a node stretches between, (moments or 1, elements or 1, points, 2); None where there are none. `prefixes`: of which
    outlines, if it has several."""
    if node.kind in ("picture", "clip", "texture"):
        size = node.channels["size"].values if node.kind == "texture" else np.array([[node.fixed["size"]]], dtype=float)
        ends = np.array([[-0.5, -0.5], [0.5, -0.5], [0.5, 0.5], [-0.5, 0.5]])
        return np.asarray(size[:, :, None, :] * ends)
    found = [one.values for name, one in node.channels.items() if name.startswith(prefixes or ("points.",))]
    points = max(found, key=lambda one: one.size, default=None)
    if points is None or not points.shape[2]:
        return None
    return points.reshape(*points.shape[:2], -1, 2)


def reach(node: DisplayNode) -> Box | None:
    """The box around all that a node draws at any frame of its list; everywhere where that takes more to tell than to draw it, None for
    what draws nothing."""
    if any(one.matte is not None or "filters" in one.fixed or "plane" in one.channels for one in node.walk()):
        return _EVERYWHERE
    whole: Box | None = None
    for leaf, world in leaves(node):
        box = _reach(leaf, world)
        if box is not None:
            whole = box if whole is None else (*map(min, whole[:2], box[:2]), *map(max, whole[2:], box[2:]))  # type: ignore[assignment]
    return whole


def _reach(node: DisplayNode, world: Floats) -> Box | None:
    beyond = node.channels.get("beyond")
    if beyond is not None and beyond.rows.any():
        return _EVERYWHERE
    outlines = (
        [corners(node)]
        if node.kind in ("picture", "clip", "texture")
        else [
            one.values.reshape(*one.values.shape[:2], -1, 2)
            for name, one in node.channels.items()
            if name.partition(".")[0] in ("points", "line", "inner") and one.width > 1
        ]
    )
    boxes = []
    width = float(node.channels["width"].rows.max(initial=0.0)) if "width" in node.channels else 0.0
    for points in outlines:
        if points is None or not points.size:
            continue
        low, high = (getattr(points, name)(axis=2) for name in ("min", "max"))
        ends = np.stack(
            [low, np.stack([high[..., 0], low[..., 1]], axis=-1), high, np.stack([low[..., 0], high[..., 1]], axis=-1)],
            axis=2,
        )
        if ends.shape[1] > 1 and world.shape[1] > 1 and ends.shape[1] != world.shape[1]:
            return _EVERYWHERE
        x = world[..., 0, None] * ends[..., 0] + world[..., 2, None] * ends[..., 1] + world[..., 4, None]
        y = world[..., 1, None] * ends[..., 0] + world[..., 3, None] * ends[..., 1] + world[..., 5, None]
        size = float(np.hypot(world[..., :2], world[..., 2:4]).max(initial=0.0)) * _CORNER * width
        boxes.append((float(x.min()) - size, float(y.min()) - size, float(x.max()) + size, float(y.max()) + size))
    if not boxes:
        return None
    lows, highs = np.array(boxes)[:, :2].min(axis=0), np.array(boxes)[:, 2:].max(axis=0)
    found = (float(lows[0]), float(lows[1]), float(highs[0]), float(highs[1]))
    return found if np.isfinite(found).all() else _EVERYWHERE


def meet(one: Box | None, other: Box | None) -> bool:
    """Whether two boxes have a place in common."""
    if one is None or other is None:
        return False
    return one[0] <= other[2] and other[0] <= one[2] and one[1] <= other[3] and other[1] <= one[3]
