"""A clip about its own middle, at the frame that it shows."""

from math import hypot

import skia

from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.clips import Clip

from ..footage import footage_of
from .brush import Brush

_NEAR = skia.SamplingOptions(skia.FilterMode.kLinear)
_FAR = skia.SamplingOptions(skia.FilterMode.kLinear, skia.MipmapMode.kLinear)


def _scale(matrix: skia.Matrix, width: float, height: float) -> float:
    """How large it is drawn where it is largest, by its edges."""
    if not matrix.hasPerspective():
        return max(hypot(matrix.getScaleX(), matrix.getSkewY()), hypot(matrix.getSkewX(), matrix.getScaleY()))
    x, y = width / 2, height / 2
    corners = matrix.mapPoints([skia.Point(-x, -y), skia.Point(x, -y), skia.Point(x, y), skia.Point(-x, y)])
    edges = [
        hypot(b.x() - a.x(), b.y() - a.y()) / side
        for a, b, side in zip(corners, (*corners[1:], corners[0]), (width, height, width, height), strict=True)
    ]
    return max(edges)


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Draw the frame; nothing where none is shown, or when the clip is not among those at hand."""
    clip, frame = brush.pictures.get(node.fixed["clip"]), round(brush.number(node, "frame"))
    if not isinstance(clip, Clip) or frame < 0:
        return
    canvas = brush.canvas
    width, height = node.fixed["size"]
    scale = _scale(canvas.getTotalMatrix(), width, height)
    image = footage_of(clip).frame(frame, scale)
    if image is None:
        return
    paint = skia.Paint(AntiAlias=True)
    paint.setAlphaf(opacity)
    # It may have been needed larger elsewhere.
    how = _FAR if scale * width < 0.5 * image.width() else _NEAR
    canvas.drawImageRect(image, skia.Rect.MakeXYWH(-width / 2, -height / 2, width, height), how, paint)
