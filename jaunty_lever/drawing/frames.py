"""One frame of a display list as a Skia picture, as PNG, and as pixels; and a scene's frames one after the other."""

from collections.abc import Iterator
from dataclasses import dataclass, field

import numpy as np
import skia
from numpy.typing import NDArray

from jaunty_lever.core.display.display_list import DisplayList, display_list
from jaunty_lever.core.display.shutter import exposed
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

from .exposure import averaged
from .nodes import draw_node
from .nodes.brush import Brush, Level, Pictures, colour, row_of

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
    width, height = look.size(drawn.width, drawn.height)
    if not look.transparent:
        canvas.clear(colour(row_of(drawn.background, frame)))
    canvas.scale(width / drawn.width, height / drawn.height)
    brush = Brush(canvas, frame, look.pictures, draw_node, levels=(Level(canvas.getTotalMatrix()),))
    for node in drawn.nodes:
        draw_node(brush, node)


def draw(drawn: DisplayList, frame: int, look: Look = PLAIN) -> skia.Image:
    """The frame as a picture."""
    width, height = look.size(drawn.width, drawn.height)
    if look.deep:
        kind, alpha = skia.ColorType.kRGBA_F16_ColorType, skia.AlphaType.kPremul_AlphaType
        info = skia.ImageInfo.Make(width, height, kind, alpha, skia.ColorSpace.MakeSRGB())
    else:
        info = skia.ImageInfo.MakeN32Premul(width, height, skia.ColorSpace.MakeSRGB())
    surface = skia.Surface.MakeRaster(info)
    with surface as canvas:
        canvas.clear(skia.Color4f(0, 0, 0, 0))
        draw_on(canvas, drawn, frame, look)
    return surface.makeImageSnapshot()


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
    return averaged((draw(drawn, k, look) for k in range(drawn.frames)), drawn.frames, look.deep)


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
        for k in range(last - block):
            yield draw(drawn, k, look)


__all__ = ["PLAIN", "Look", "Pictures", "array", "draw", "draw_on", "images", "pixels", "png"]
