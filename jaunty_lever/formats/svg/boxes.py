"""Boxes: left, top, width, height; in viewports, through transforms, around others."""

import math

from .affine import Affine, through

Box = tuple[float, float, float, float]


def fitted(box: Box, wide: float, high: float, how: str) -> Affine:
    """A view box in a viewport, by preserveAspectRatio."""
    across, down = wide / box[2], high / box[3]
    words = how.split() or ["xMidYMid"]
    align = words[0]
    if align != "none":
        across = down = max(across, down) if "slice" in words else min(across, down)
    shares = {"Min": 0.0, "Mid": 0.5, "Max": 1.0}
    off_x = shares.get(align[1:4], 0.5) if align != "none" else 0.0
    off_y = shares.get(align[5:8], 0.5) if align != "none" else 0.0
    x = (wide - box[2] * across) * off_x - box[0] * across
    y = (high - box[3] * down) * off_y - box[1] * down
    return (across, 0.0, 0.0, down, x, y)


def moved(box: Box, matrix: Affine) -> Box:
    """The box around a box through a transform."""
    x, y, wide, high = box
    corners = [through(matrix, px, py) for px in (x, x + wide) for py in (y, y + high)]
    left, top = min(p[0] for p in corners), min(p[1] for p in corners)
    return left, top, max(p[0] for p in corners) - left, max(p[1] for p in corners) - top


def around(boxes: list[Box]) -> Box:
    left, top = min(one[0] for one in boxes), min(one[1] for one in boxes)
    right, bottom = max(one[0] + one[2] for one in boxes), max(one[1] + one[3] for one in boxes)
    if not all(math.isfinite(v) for v in (left, top, right, bottom)):
        return (0.0, 0.0, 0.0, 0.0)
    return left, top, right - left, bottom - top
