"""What drawing needs at hand: the canvas, the frame, the pictures, and how to draw what lies inside a node."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

import skia

from jaunty_lever.core.display.channels import Channel
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.pictures import Picture

Pictures = Mapping[str, Picture]
Made = TypeVar("Made")


def row_of(channel: Channel, frame: int, element: int = 0) -> list[float]:
    """A channel's numbers at a frame, of one of the elements that it has side by side."""
    row = channel.rows[frame if channel.rows.shape[0] > 1 else 0]
    if channel.each > 1:
        row = row[element * channel.width : (element + 1) * channel.width]
    values: list[float] = row.tolist()
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
    draw: Callable[..., None]
    """`draw_node`: brush, node, and which share of it."""
    deep: bool = False
    """Whether what is laid one over the other adds up in 16 bits a channel."""
    element: int = 0
    """Which copy of the array around it is being drawn."""
    made: dict[Any, Any] = field(default_factory=dict)
    """What copies of the frame have in common, made once."""

    def common(self, node: DisplayNode, work: Callable[[], Made]) -> Made:
        """`work()` for a node, made once for all copies that look alike."""
        key = id(node)
        if key not in self.made:
            alike = all(one.each == 1 for name, one in node.channels.items() if name not in ("matrix", "opacity"))
            self.made[key] = [work()] if alike else []
        known: list[Made] = self.made[key]
        return known[0] if known else work()

    def of_copy(self, element: int) -> "Brush":
        """The brush for what is inside a copy."""
        return replace(self, element=element)

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
        return row_of(node.channels[name], self.frame, self.element)

    def number(self, node: DisplayNode, name: str) -> float:
        """A channel's only number at the frame."""
        return self.row(node, name)[0]
