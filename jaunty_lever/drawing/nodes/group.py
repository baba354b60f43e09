"""A group: what is inside it, faded as one."""

from collections.abc import Iterator
from contextlib import contextmanager

from jaunty_lever.core.display.node import DisplayNode

from .brush import Brush


@contextmanager
def faded(brush: Brush, opacity: float) -> Iterator[None]:
    """What is drawn meanwhile fades as one."""
    if opacity < 1:
        brush.begin_faded(opacity)
    yield
    if opacity < 1:
        brush.canvas.restore()


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Draw the nodes inside it."""
    with faded(brush, opacity):
        for inner in node.nodes:
            brush.draw(brush, inner)
