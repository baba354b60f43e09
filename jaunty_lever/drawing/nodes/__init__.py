"""One node after the other onto a Skia canvas; one file for each kind of node. A new kind is added here."""

import skia

from jaunty_lever.core.display.node import DisplayNode

from . import array, group, picture, shape
from .brush import Brush

DRAW = {"shape": shape.draw, "picture": picture.draw, "group": group.draw, "array": array.draw}


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
    canvas.concat(skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1))
    DRAW[node.kind](brush, node, opacity)
    canvas.restore()
