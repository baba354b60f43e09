"""A group: what is inside it, faded as one."""

from jaunty_lever.core.display.node import DisplayNode

from .brush import Brush


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Draw the nodes inside it."""
    if opacity < 1:
        brush.begin_faded(opacity)
    for inner in node.nodes:
        brush.draw(brush, inner)
    if opacity < 1:
        brush.canvas.restore()
