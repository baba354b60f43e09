"""What drawing needs at hand: the canvas, the frame, the pictures, and how to draw what lies inside a node."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass

import skia

from jaunty_lever.core.display.channels import Channel
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.pictures import Picture

Pictures = Mapping[str, Picture]


def row_of(channel: Channel, frame: int) -> list[float]:
    """A channel's numbers at a frame."""
    rows = channel.rows
    values: list[float] = rows[frame if rows.shape[0] > 1 else 0].tolist()
    return values


def colour(rgba: list[float]) -> skia.Color4f:
    """A colour, each part kept in 0..1."""
    return skia.Color4f(*(min(max(v, 0.0), 1.0) for v in rgba))


@dataclass(frozen=True)
class Brush:
    """One frame being drawn."""

    canvas: skia.Canvas
    frame: int
    pictures: Pictures
    draw: Callable[["Brush", DisplayNode], None]
    deep: bool = False
    """Whether what is laid one over the other adds up in 16 bits a channel."""

    def begin_faded(self, opacity: float) -> None:
        """What is drawn until `canvas.restore` fades as one."""
        if self.deep:
            paint = skia.Paint()
            paint.setAlphaf(opacity)
            self.canvas.saveLayer(None, paint)
        else:
            self.canvas.saveLayerAlpha(None, round(opacity * 255))

    def row(self, node: DisplayNode, name: str) -> list[float]:
        """A channel's numbers at the frame."""
        return row_of(node.channels[name], self.frame)

    def number(self, node: DisplayNode, name: str) -> float:
        """A channel's only number at the frame."""
        return self.row(node, name)[0]
