"""One frame of a display list as a Skia picture, and as PNG."""

import numpy as np
import skia

from jaunty_lever.core.display.display_list import DisplayList

from .nodes import draw_node
from .nodes.brush import Brush, Pictures, colour, row_of


def draw(
    drawn: DisplayList, frame: int, transparent: bool = False, scale: float = 1.0, pictures: Pictures | None = None
) -> skia.Image:
    """Frame number `frame` of the list (from its first); its background is left out when transparent.

    `pictures` are those that its picture nodes show, by id.
    """
    width, height = (max(1, round(side * scale)) for side in (drawn.width, drawn.height))
    surface = skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(width, height))
    with surface as canvas:
        canvas.clear(skia.Color4f(0, 0, 0, 0) if transparent else colour(row_of(drawn.background, frame)))
        canvas.scale(width / drawn.width, height / drawn.height)
        brush = Brush(canvas, frame, pictures or {}, draw_node)
        for node in drawn.nodes:
            draw_node(brush, node)
    return surface.makeImageSnapshot()


def draw_png(
    drawn: DisplayList, frame: int, transparent: bool = False, scale: float = 1.0, pictures: Pictures | None = None
) -> bytes:
    """The frame as PNG, sRGB, 8 bits a channel."""
    data = draw(drawn, frame, transparent, scale, pictures).encodeToData(skia.EncodedImageFormat.kPNG, 100)
    return bytes(data)


def pixels(
    drawn: DisplayList, frame: int, transparent: bool = False, scale: float = 1.0, pictures: Pictures | None = None
) -> "np.ndarray":
    """The frame's pixels (height, width, 4), r, g, b, a in 0..255, not premultiplied."""
    array: np.ndarray = draw(drawn, frame, transparent, scale, pictures).toarray(colorType=skia.kRGBA_8888_ColorType)
    return array


__all__ = ["Pictures", "draw", "draw_png", "pixels"]
