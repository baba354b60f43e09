"""What drawing needs at hand: the canvas, the frame, the pictures, and how to draw what lies inside a node."""

from collections.abc import Callable, Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
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
    if min(rgba) < 0 or max(rgba) > 1:
        rgba = [min(max(v, 0.0), 1.0) for v in rgba]
    return skia.Color4f(*rgba)


@dataclass(frozen=True)
class Level:
    """Where the stage, or a copy of an array, lies on the canvas, and which copy it is."""

    matrix: skia.Matrix
    element: int = 0


class Brush:
    """One frame being drawn, and where it is at: on which canvas, in which copy.

    There is one for a frame. What goes into a copy, or onto another canvas, sets that for as long as it is there: a
    brush of its own for each copy took longer to make than most copies take to draw.
    """

    def __init__(
        self, canvas: skia.Canvas, frame: int, pictures: Pictures, draw: Callable[..., None], kept: dict[Any, Any]
    ) -> None:
        """`draw` is `draw_node`: brush, node, and which share of it. `kept` is what frames of one display list
        share."""
        self.canvas, self.frame, self.pictures, self.draw = canvas, frame, pictures, draw
        #: What frames of one display list have in common, made once.
        self.kept = kept
        #: What copies of the frame have in common, made once.
        self.made: dict[Any, Any] = {}
        #: Which copy of the array around it is being drawn.
        self.element = 0
        #: The stage, and the copies of the arrays inside which something is drawn, from the outermost in.
        self.levels: tuple[Level, ...] = (Level(canvas.getTotalMatrix()),)

    def row(self, node: DisplayNode, name: str) -> list[float]:
        """A channel's numbers at the frame, of the copy that is being drawn."""
        channel = node.channels[name]
        known = self.made.get(id(channel))
        values, width = self._listed(channel) if known is None else known
        if not width:
            return values
        return values[self.element * width : (self.element + 1) * width]

    def number(self, node: DisplayNode, name: str) -> float:
        """A channel's first number at the frame."""
        channel = node.channels[name]
        known = self.made.get(id(channel))
        values, width = self._listed(channel) if known is None else known
        return values[self.element * width]

    def _listed(self, channel: Channel) -> tuple[list[float], int]:
        """A channel's numbers of all copies at the frame, and how many each has: 0 where all have the same."""
        known: tuple[list[float], int] | None = self.kept.get(id(channel))
        if known is None:
            still = channel.rows.shape[0] == 1
            listed: list[float] = channel.rows[0 if still else self.frame].tolist()
            known = listed, channel.width if channel.each > 1 else 0
            if still:
                self.kept[id(channel)] = known
        self.made[id(channel)] = known
        return known

    def common(self, channel: Channel, work: Callable[[], Made]) -> Made:
        """`work()` of a channel's numbers, done once for all copies and frames of which they are the same."""
        still = channel.rows.shape[0] == 1
        if channel.each > 1 and not still:
            return work()
        shared = self.kept if still else self.made
        key = "made of", id(channel), self.element if channel.each > 1 else 0
        found: Made | None = shared.get(key)
        if found is None:
            found = shared[key] = work()
        return found

    @contextmanager
    def at(self, level: Level, depth: int) -> Iterator[None]:
        """Meanwhile what is drawn lies on the stage, or in a copy around."""
        before = self.levels, self.element
        self.levels, self.element = self.levels[: depth + 1], level.element
        try:
            yield
        finally:
            self.levels, self.element = before

    def marks(self, node: DisplayNode) -> bool:
        """Whether anything inside a node has a matte."""
        key = ("marks", id(node))
        if key not in self.kept:
            self.kept[key] = any(inner.matte is not None for inner in node.walk())
        return bool(self.kept[key])

    def as_one(
        self, paint: skia.Paint, draw: "Callable[[Brush], None]", over: Callable[[], None] = lambda: None
    ) -> None:
        """Lay down what `draw` draws as one thing, by a paint; `over` may still change it, on the canvas, before.

        It is written down first, which tells how large it is: a sheet that covers all of the canvas costs many times as
        much as most things that lie on it.
        """
        canvas, size = self.canvas, self.canvas.getBaseLayerSize()
        recorder = skia.PictureRecorder()
        # What lies outside may come in by a filter.
        around = skia.Rect.MakeLTRB(-size.width(), -size.height(), 2 * size.width(), 2 * size.height())
        written = recorder.beginRecording(around, skia.RTreeFactory()())
        written.setMatrix(canvas.getTotalMatrix())
        self.canvas = written
        try:
            draw(self)
        finally:
            self.canvas = canvas
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
