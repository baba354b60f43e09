"""One frame of a display list as a Skia picture, and as PNG."""

import numpy as np
import skia

from jaunty_lever.core.display.display_list import DisplayList

from .nodes import draw_node
from .nodes.brush import Brush, Pictures, colour, row_of


def draw(
    drawn: DisplayList,
    frame: int,
    transparent: bool = False,
    scale: float = 1.0,
    pictures: Pictures | None = None,
    deep: bool = False,
) -> skia.Image:
    """Frame number `frame` of the list (from its first); its background is left out when transparent.

    `pictures` are those that its picture nodes show, by id. `deep`: in 16 bits a channel, so that many faint things add
    up to what they should.
    """
    width, height = (max(1, round(side * scale)) for side in (drawn.width, drawn.height))
    if deep:
        kind, alpha = skia.ColorType.kRGBA_F16_ColorType, skia.AlphaType.kPremul_AlphaType
        info = skia.ImageInfo.Make(width, height, kind, alpha, skia.ColorSpace.MakeSRGB())
    else:
        info = skia.ImageInfo.MakeN32Premul(width, height)
    surface = skia.Surface.MakeRaster(info)
    with surface as canvas:
        canvas.clear(skia.Color4f(0, 0, 0, 0) if transparent else colour(row_of(drawn.background, frame)))
        canvas.scale(width / drawn.width, height / drawn.height)
        brush = Brush(canvas, frame, pictures or {}, draw_node, deep)
        for node in drawn.nodes:
            draw_node(brush, node)
    return surface.makeImageSnapshot()


def draw_png(
    drawn: DisplayList,
    frame: int,
    transparent: bool = False,
    scale: float = 1.0,
    pictures: Pictures | None = None,
    deep: bool = False,
) -> bytes:
    """The frame as PNG, sRGB, 8 bits a channel; 16 when `deep`."""
    image = draw(drawn, frame, transparent, scale, pictures, deep)
    return bytes(image.encodeToData(skia.EncodedImageFormat.kPNG, 100))


def pixels(
    drawn: DisplayList, frame: int, transparent: bool = False, scale: float = 1.0, pictures: Pictures | None = None
) -> "np.ndarray":
    """The frame's pixels (height, width, 4), r, g, b, a in 0..255, not premultiplied."""
    array: np.ndarray = draw(drawn, frame, transparent, scale, pictures).toarray(colorType=skia.kRGBA_8888_ColorType)
    return array


__all__ = ["Pictures", "draw", "draw_png", "pixels"]
