"""A texture: its grid as a picture, laid over its rectangle."""

import numpy as np
import skia
from numpy.typing import NDArray

from jaunty_lever.core.display.node import DisplayNode

from .brush import Brush, row_of

_SMOOTH = skia.SamplingOptions(skia.FilterMode.kLinear)


def colours(node: DisplayNode, frame: int, element: int = 0) -> NDArray[np.uint8]:
    """The grid of a texture at a frame as pixels (rows, columns, 4), r, g, b, a, not premultiplied."""
    return _grid(node, frame, element, _steps(node, frame, element))


def _steps(node: DisplayNode, frame: int, element: int) -> NDArray[np.uint8]:
    """The colours of its ramp from dark to light, (256, 4)."""
    ramp = np.array(row_of(node.channels["ramp"], frame, element)).reshape(256, 4)
    made: NDArray[np.uint8] = np.rint(np.clip(ramp, 0, 1) * 255).astype(np.uint8)
    return made


def _grid(node: DisplayNode, frame: int, element: int, steps: NDArray[np.uint8]) -> NDArray[np.uint8]:
    light = np.array(row_of(node.channels["light"], frame, element))
    columns, rows = node.fixed["grid"]
    made: NDArray[np.uint8] = steps[np.rint(light * 255).astype(int)].reshape(rows, columns, 4)
    return made


def _image(node: DisplayNode, frame: int, element: int) -> skia.Image:
    """The same as the canvas has its pixels, b, g, r, a, premultiplied: any others are drawn at a sixth of the
    speed."""
    steps = _steps(node, frame, element).astype(np.uint16)
    steps[:, :3] = (steps[:, :3] * steps[:, 3:] + 127) // 255
    pixels = _grid(node, frame, element, np.ascontiguousarray(steps[:, [2, 1, 0, 3]], dtype=np.uint8))
    kind, alpha = skia.ColorType.kBGRA_8888_ColorType, skia.AlphaType.kPremul_AlphaType
    # A copy of its own: the grid is gone before the picture is.
    return skia.Image.fromarray(pixels, colorType=kind, alphaType=alpha, colorSpace=skia.ColorSpace.MakeSRGB())


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Draw it; nothing where it has no size."""
    wide, high = brush.row(node, "size")
    if wide <= 0 or high <= 0:
        return
    paint = skia.Paint(AntiAlias=True)
    paint.setAlphaf(opacity)
    rect = skia.Rect.MakeXYWH(-wide / 2, -high / 2, wide, high)
    brush.canvas.drawImageRect(_image(node, brush.frame, brush.element), rect, _SMOOTH, paint)
