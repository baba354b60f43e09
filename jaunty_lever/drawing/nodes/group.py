"""A group: what is inside it, faded as one."""

from jaunty_lever.core.display.node import DisplayNode

from .brush import Brush


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Draw the nodes inside it."""

    def inside(brush: Brush) -> None:
        nodes = node.nodes
        if "order" in node.channels:
            nodes = tuple(nodes[round(k)] for k in brush.row(node, "order"))
        for inner in nodes:
            brush.draw(brush, inner)

    brush.faded(opacity, inside)
