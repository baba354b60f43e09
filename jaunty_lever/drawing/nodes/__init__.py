"""One node after the other onto a Skia canvas; one file for each kind of node. A new kind is added here."""

import skia

from jaunty_lever.core.display.node import DisplayNode

from ..compositing import is_composited, lay_down
from . import array, clip, group, picture, shape, texture, trace
from .brush import Brush

DRAW = {
    "shape": shape.draw,
    "picture": picture.draw,
    "clip": clip.draw,
    "texture": texture.draw,
    "trace": trace.draw,
    "group": group.draw,
    "array": array.draw,
}


def draw_node(brush: Brush, node: DisplayNode, share: float = 1.0) -> None:
    """Draw a node where it lies, a share of it, unless nothing of it can be seen."""
    opacity = min(max(brush.number(node, "opacity"), 0.0), 1.0) * share
    if opacity == 0:
        return
    a, b, c, d, e, f = brush.row(node, "matrix")
    if a * d - b * c == 0:
        return
    canvas = brush.canvas
    canvas.save()
    if a != 1 or b or c or d != 1 or e or f:
        canvas.concat(skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1))
    if "plane" in node.channels:
        canvas.concat(skia.Matrix.MakeAll(*brush.row(node, "plane")))
    if is_composited(node):
        lay_down(brush, node, opacity, lambda inner: DRAW[node.kind](inner, node, 1.0))
    else:
        DRAW[node.kind](brush, node, opacity)
    canvas.restore()
