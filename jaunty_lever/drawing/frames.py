"""One frame of a display list as a Skia picture, as PNG, and as pixels; and a scene's frames one after the other."""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Any

import numpy as np
import skia
from numpy.typing import NDArray

from jaunty_lever.core.display.display_list import DisplayList, display_list
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.display.shutter import exposed
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

from .exposure import averaged
from .nodes import draw_node
from .nodes.brush import Brush, Pictures, colour, row_of

BLOCK = 240
"""Frames whose display list is held at once."""


@dataclass(frozen=True)
class Look:
    """How frames are drawn."""

    transparent: bool = False
    """Leave the background out."""
    scale: float = 1.0
    pictures: Pictures = field(default_factory=dict)
    """Those that picture nodes show, by id."""
    deep: bool = False
    """In 16 bits a channel, so that many faint things add up to what they should."""
    even: bool = False
    """Both sides an even number of pixels, the next greater one if need be."""

    def size(self, width: int, height: int) -> tuple[int, int]:
        """Width and height in pixels of a scene's frames."""
        sides = (max(1, round(side * self.scale)) for side in (width, height))
        wide, high = (side + side % 2 if self.even else side for side in sides)
        return wide, high


PLAIN = Look()


def draw_on(canvas: skia.Canvas, drawn: DisplayList, frame: int, look: Look = PLAIN) -> None:
    """Frame number `frame` of the list (from its first) onto a canvas of the look's size."""
    _background_on(canvas, drawn, frame, look)
    _nodes_on(canvas, drawn, drawn.nodes, frame, look, {})


def _background_on(canvas: skia.Canvas, drawn: DisplayList, frame: int, look: Look) -> None:
    if not look.transparent:
        canvas.clear(colour(row_of(drawn.background, frame)))


def _nodes_on(
    canvas: skia.Canvas, drawn: DisplayList, nodes: Sequence[DisplayNode], frame: int, look: Look, kept: dict[Any, Any]
) -> None:
    width, height = look.size(drawn.width, drawn.height)
    canvas.save()
    canvas.scale(width / drawn.width, height / drawn.height)
    brush = Brush(canvas, frame, look.pictures, draw_node, kept)
    for node in nodes:
        draw_node(brush, node)
    canvas.restore()


class Sheet:
    """What frames of one display list are drawn on, one after the other, in one look.

    What lies lowest and is the same in all of them is drawn once, and so is what is made for a node that never changes.
    """

    def __init__(self, drawn: DisplayList, look: Look = PLAIN) -> None:
        self._drawn, self._look = drawn, look
        self._kept: dict[Any, Any] = {}
        width, height = look.size(drawn.width, drawn.height)
        if look.deep:
            kind, alpha = skia.ColorType.kRGBA_F16_ColorType, skia.AlphaType.kPremul_AlphaType
            info = skia.ImageInfo.Make(width, height, kind, alpha, skia.ColorSpace.MakeSRGB())
        else:
            info = skia.ImageInfo.MakeN32Premul(width, height, skia.ColorSpace.MakeSRGB())
        #: (height, width, 4), premultiplied, alpha last; in bytes or, where the look is deep, in 16-bit floats.
        self.pixels = np.empty((height, width, 4), dtype=np.float16 if look.deep else np.uint8)
        self._surface = skia.Surface.MakeRasterDirect(info, self.pixels)
        still = drawn.background.rows.shape[0] == 1 or look.transparent
        self._ground = next((k for k, node in enumerate(drawn.nodes) if not still or not node.still), len(drawn.nodes))
        self._begun: skia.Image | None = None

    def draw(self, frame: int) -> None:
        """Draws a frame over the one before it."""
        canvas, drawn, ground = self._surface.getCanvas(), self._drawn, self._ground
        if self._begun is None:
            canvas.clear(skia.Color4f(0, 0, 0, 0))
            _background_on(canvas, drawn, frame, self._look)
            _nodes_on(canvas, drawn, drawn.nodes[:ground], frame, self._look, self._kept)
            # Kept for the frames to come, where there are any.
            self._begun = self._surface.makeImageSnapshot() if ground and drawn.frames > 1 else None
        else:
            canvas.drawImage(self._begun, 0, 0, skia.SamplingOptions(), skia.Paint(BlendMode=skia.BlendMode.kSrc))
        _nodes_on(canvas, drawn, drawn.nodes[ground:], frame, self._look, self._kept)

    def picture(self) -> skia.Image:
        """What stands on it now."""
        return self._surface.makeImageSnapshot()


def draw(drawn: DisplayList, frame: int, look: Look = PLAIN) -> skia.Image:
    """The frame as a picture."""
    sheet = Sheet(drawn, look)
    sheet.draw(frame)
    return sheet.picture()


def png(image: skia.Image) -> bytes:
    """A picture as PNG, sRGB; 16 bits a channel when it was drawn deep."""
    return bytes(image.encodeToData(skia.EncodedImageFormat.kPNG, 100))


def array(image: skia.Image) -> NDArray[np.uint8]:
    """A picture's pixels (height, width, 4), r, g, b, a in 0..255, not premultiplied."""
    made: NDArray[np.uint8] = image.toarray(colorType=skia.kRGBA_8888_ColorType)
    return made


def pixels(drawn: DisplayList, frame: int, look: Look = PLAIN) -> NDArray[np.uint8]:
    """The frame's pixels (height, width, 4), r, g, b, a in 0..255, not premultiplied."""
    return array(draw(drawn, frame, look))


def exposure_of(sampler: Sampler, frame: int, look: Look = PLAIN) -> skia.Image:
    """A frame of a scene with motion blur, as its shutter sees it."""
    drawn = exposed(sampler, frame, look.scale).drawn
    if drawn.frames == 1:
        return draw(drawn, 0, look)
    sheet = Sheet(drawn, look)

    def shown() -> Iterator[Sheet]:
        for k in range(drawn.frames):
            sheet.draw(k)
            yield sheet

    return averaged(shown(), drawn.frames, look.deep)


def images(scene: Scene, start: int, stop: int, look: Look = PLAIN) -> Iterator[skia.Image]:
    """Each frame start … before stop; the display list is made in blocks to bound the memory."""
    sampler = Sampler(scene)
    if scene.motion_blur:
        for frame in range(start, stop):
            yield exposure_of(sampler, frame, look)
        return
    for block in range(start, stop, BLOCK):
        last = min(block + BLOCK, stop)
        drawn = display_list(sampler, SampleTimes.frames(scene.fps, block, last))
        sheet = Sheet(drawn, look)
        for k in range(last - block):
            sheet.draw(k)
            yield sheet.picture()


__all__ = ["PLAIN", "Look", "Pictures", "Sheet", "array", "draw", "draw_on", "images", "pixels", "png"]
