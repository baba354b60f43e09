"""A texture: its grid as a picture, laid over its rectangle."""

import numpy as np
import skia
from numpy.typing import NDArray

from jaunty_lever.core.display.node import DisplayNode

from .brush import Brush, row_of

_SMOOTH = skia.SamplingOptions(skia.FilterMode.kLinear)


def colours(node: DisplayNode, frame: int, element: int = 0) -> NDArray[np.uint8]:
    """The grid of a texture at a frame as pixels (rows, columns, 4), not premultiplied."""
    light, ramp = (np.array(row_of(node.channels[name], frame, element)) for name in ("light", "ramp"))
    columns, rows = node.fixed["grid"]
    steps = np.rint(np.clip(ramp.reshape(256, 4), 0, 1) * 255).astype(np.uint8)
    made: NDArray[np.uint8] = steps[np.rint(light * 255).astype(int)].reshape(rows, columns, 4)
    return made


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Draw it; nothing where it has no size."""
    wide, high = brush.row(node, "size")
    if wide <= 0 or high <= 0:
        return
    pixels = np.ascontiguousarray(colours(node, brush.frame, brush.element))
    image = skia.Image.fromarray(pixels, colorType=skia.kRGBA_8888_ColorType)
    paint = skia.Paint(AntiAlias=True)
    paint.setAlphaf(opacity)
    brush.canvas.drawImageRect(image, skia.Rect.MakeXYWH(-wide / 2, -high / 2, wide, high), _SMOOTH, paint)
