"""What drawing needs at hand: the canvas, the frame, the pictures, and how to draw what lies inside a node."""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from typing import Any, TypeVar

import skia

from jaunty_lever.core.display.channels import Channel
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.clips import Clip
from jaunty_lever.core.document.pictures import Picture

Pictures = Mapping[str, Picture | Clip]
"""Pictures and clips by id."""
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
class Level:
    """Where the stage, or a copy of an array, lies on the canvas, and which copy it is."""

    matrix: skia.Matrix
    element: int = 0


@dataclass(frozen=True)
class Brush:
    """One frame being drawn."""

    canvas: skia.Canvas
    frame: int
    pictures: Pictures
    draw: Callable[..., None]
    """`draw_node`: brush, node, and which share of it."""
    element: int = 0
    """Which copy of the array around it is being drawn."""
    made: dict[Any, Any] = field(default_factory=dict)
    """What copies of the frame have in common, made once."""
    kept: dict[Any, Any] = field(default_factory=dict)
    """What frames of one display list have in common, made once."""
    levels: tuple[Level, ...] = ()
    """The stage, and the copies of the arrays inside which something is drawn, from the outermost in."""

    def common(self, node: DisplayNode, work: Callable[[], Made]) -> Made:
        """`work()` for a node, made once for all copies that look alike."""
        key = id(node)
        if key in self.kept:
            always: Made = self.kept[key]
            return always
        if key not in self.made:
            own = [one for name, one in node.channels.items() if name not in ("matrix", "opacity")]
            alike = all(one.each == 1 for one in own)
            self.made[key] = [work()] if alike else []
            if alike and all(one.rows.shape[0] == 1 for one in own):
                self.kept[key] = self.made[key][0]
        known: list[Made] = self.made[key]
        return known[0] if known else work()

    def of_copy(self, element: int, marked: bool = False) -> "Brush":
        """The brush for what is inside a copy, where the canvas stands; `marked`: something in it lies in that copy by itself."""
        if not marked:
            return replace(self, element=element)
        level = Level(self.canvas.getTotalMatrix(), element)
        return replace(self, element=element, levels=(*self.levels, level))

    def at(self, level: Level, depth: int) -> "Brush":
        """The brush for what lies on the stage, or in a copy around."""
        return replace(self, element=level.element, levels=self.levels[: depth + 1])

    def marks(self, node: DisplayNode) -> bool:
        """Whether anything inside a node has a matte."""
        key = ("marks", id(node))
        if key not in self.made:
            self.made[key] = any(inner.matte is not None for inner in node.walk())
        return bool(self.made[key])

    def as_one(
        self, paint: skia.Paint, draw: "Callable[[Brush], None]", over: Callable[[], None] = lambda: None
    ) -> None:
        """Lay down what `draw` draws as one thing, by a paint; `over` may still change it, on the canvas, before.

        It is written down first, which tells how large it is: a sheet that covers all of the canvas costs many times as much
        as most things that lie on it.
        """
        canvas, size = self.canvas, self.canvas.getBaseLayerSize()
        recorder = skia.PictureRecorder()
        # What lies outside may come in by a filter.
        around = skia.Rect.MakeLTRB(-size.width(), -size.height(), 2 * size.width(), 2 * size.height())
        written = recorder.beginRecording(around, skia.RTreeFactory()())
        written.setMatrix(canvas.getTotalMatrix())
        draw(replace(self, canvas=written))
        picture = recorder.finishRecordingAsPicture()
        if picture.cullRect().isEmpty():
            return
        canvas.save()
        canvas.resetMatrix()
        canvas.saveLayer(picture.cullRect(), paint)
        canvas.drawPicture(picture)
        over()
        canvas.restore()
        canvas.restore()

    def faded(self, opacity: float, draw: "Callable[[Brush], None]") -> None:
        """What `draw` draws fades as one."""
        if opacity >= 1:
            draw(self)
            return
        paint = skia.Paint()
        paint.setAlphaf(opacity)
        self.as_one(paint, draw)

    def row(self, node: DisplayNode, name: str) -> list[float]:
        """A channel's numbers at the frame."""
        return row_of(node.channels[name], self.frame, self.element)

    def number(self, node: DisplayNode, name: str) -> float:
        """A channel's only number at the frame."""
        return self.row(node, name)[0]
