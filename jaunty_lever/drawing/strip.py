"""A row of small stills in one picture."""

import time

import skia

from jaunty_lever.core.display.display_list import DisplayList

from .frames import Look, Pictures, draw

LONGEST = 6.0
"""Seconds that stills may take: what is not drawn by then shows the last one that was, or a plain sign."""


def sign(width: int, height: int) -> bytes:
    """PNG of a plain sign for a scene of which no still could be drawn: a crossed sheet."""
    surface = skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(width, height))
    with surface as canvas:
        _crossed(canvas, 0, width, height)
    return bytes(surface.makeImageSnapshot().encodeToData(skia.EncodedImageFormat.kPNG, 100))


def _crossed(canvas: skia.Canvas, left: float, width: int, height: int) -> None:
    canvas.drawRect(skia.Rect.MakeXYWH(left, 0, width, height), skia.Paint(Color=skia.ColorSetRGB(0xF5, 0xF1, 0xE8)))
    line = skia.Paint(AntiAlias=True, Color=skia.ColorSetRGB(0xD9, 0xD2, 0xC3), StrokeWidth=2)
    for y0, y1 in ((0, height), (height, 0)):
        canvas.drawLine(left, y0, left + width, y1, line)


def draw_strip(table: DisplayList, count: int, width: int, pictures: Pictures | None = None) -> bytes:
    """PNG with the first `count` frames of a table side by side, each `width` pixels wide."""
    until = time.monotonic() + LONGEST
    image: skia.Image | None = None
    scale = width / table.width
    look = Look(scale=scale, pictures=pictures or {})
    height = max(1, min(round(table.height * scale), 2 * width))
    surface = skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(width * count, height))
    with surface as canvas:
        for k in range(count):
            if image is None or time.monotonic() < until:
                image = draw(table, k, look)
            canvas.drawImageRect(image, skia.Rect.MakeXYWH(k * width, 0, width, height))
    return bytes(surface.makeImageSnapshot().encodeToData(skia.EncodedImageFormat.kPNG, 100))
