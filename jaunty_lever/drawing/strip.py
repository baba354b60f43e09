"""A row of small stills in one picture."""

import skia

from jaunty_lever.core.evaluation.table import Table

from .frames import Pictures, draw


def draw_strip(table: Table, count: int, width: int, pictures: Pictures | None = None) -> bytes:
    """PNG with the first `count` frames of a table side by side, each `width` pixels wide."""
    scale = width / table.width
    height = max(1, min(round(table.height * scale), 2 * width))
    surface = skia.Surface.MakeRaster(skia.ImageInfo.MakeN32Premul(width * count, height))
    with surface as canvas:
        for k in range(count):
            image = draw(table, k, scale=scale, pictures=pictures)
            canvas.drawImageRect(image, skia.Rect.MakeXYWH(k * width, 0, width, height))
    return bytes(surface.makeImageSnapshot().encodeToData(skia.EncodedImageFormat.kPNG, 100))
