"""What is more than laid down as it is: filters, then the matte, then opacity and blend, as in CSS."""

from collections.abc import Callable

import skia

from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.compositing import BLENDS

from .nodes.brush import Brush

_MODES = {
    "normal": skia.BlendMode.kSrcOver,
    "multiply": skia.BlendMode.kMultiply,
    "screen": skia.BlendMode.kScreen,
    "overlay": skia.BlendMode.kOverlay,
    "darken": skia.BlendMode.kDarken,
    "lighten": skia.BlendMode.kLighten,
    "color-dodge": skia.BlendMode.kColorDodge,
    "color-burn": skia.BlendMode.kColorBurn,
    "hard-light": skia.BlendMode.kHardLight,
    "soft-light": skia.BlendMode.kSoftLight,
    "difference": skia.BlendMode.kDifference,
    "exclusion": skia.BlendMode.kExclusion,
    "plus-lighter": skia.BlendMode.kPlus,
}
#: The luminance of what lies on black, as alpha.
_LUMINANCE = skia.ColorFilters.Matrix([0.0] * 15 + [0.2126, 0.7152, 0.0722, 0.0, 0.0])


def is_composited(node: DisplayNode) -> bool:
    """Whether a node is more than laid down as it is."""
    return "filters" in node.fixed or node.matte is not None or "blend" in node.channels


def lay_down(brush: Brush, node: DisplayNode, opacity: float, draw: Callable[[Brush], None]) -> None:
    """Draw a node by `draw`, where the canvas stands, with its filters, matte and blend."""
    paint = skia.Paint()
    paint.setAlphaf(opacity)
    if "blend" in node.channels:
        paint.setBlendMode(_MODES[BLENDS[min(max(round(brush.number(node, "blend")), 0), len(BLENDS) - 1)]])
    # Each filter's input is the one before it, the first acts on what is drawn.
    filters = _filters(brush, node, brush.canvas.getTotalMatrix())

    def filtered(brush: Brush) -> None:
        if filters is None:
            draw(brush)
            return
        here = brush.canvas.getTotalMatrix()
        filtering = skia.Paint()
        filtering.setImageFilter(filters)
        brush.canvas.resetMatrix()
        brush.canvas.saveLayer(None, filtering)
        brush.canvas.setMatrix(here)
        draw(brush)
        brush.canvas.restore()

    matte = node.matte
    brush.as_one(paint, filtered, (lambda: None) if matte is None else lambda: _masked(brush, node, matte))


def _masked(brush: Brush, node: DisplayNode, matte: DisplayNode) -> None:
    canvas, level = brush.canvas, brush.levels[node.fixed["matte_depth"]]
    backwards, luminance = brush.number(node, "matte_backwards") >= 0.5, brush.number(node, "matte_by") >= 0.5
    paint = skia.Paint()
    paint.setBlendMode(skia.BlendMode.kDstOut if backwards else skia.BlendMode.kDstIn)
    if luminance:
        paint.setColorFilter(_LUMINANCE)
    canvas.save()
    canvas.resetMatrix()
    canvas.saveLayer(None, paint)
    if luminance:
        canvas.drawColor(skia.Color4f(0, 0, 0, 1), skia.BlendMode.kSrc)
    canvas.setMatrix(level.matrix)
    with brush.at(level, node.fixed["matte_depth"]):
        brush.draw(brush, matte)
    canvas.restore()
    canvas.restore()


def _filters(brush: Brush, node: DisplayNode, matrix: skia.Matrix) -> "skia.ImageFilter | None":
    """A node's filters on device pixels, one after the other; None where none of them does anything."""
    a, c, b, d = matrix.getScaleX(), matrix.getSkewX(), matrix.getSkewY(), matrix.getScaleY()
    size = abs(a * d - b * c) ** 0.5
    made: skia.ImageFilter | None = None
    for k, kind in enumerate(node.fixed.get("filters", ())):
        told = brush.row(node, f"filter.{k}")
        if kind == "blur":
            if told[0] * size > 0.01:
                made = skia.ImageFilters.Blur(told[0] * size, told[0] * size, skia.TileMode.kDecal, made)
        elif kind == "matrix":
            made = skia.ImageFilters.ColorFilter(skia.ColorFilters.Matrix(told), made)
        else:
            x, y, radius, *rgba = told
            shade = skia.Color4f(*(min(max(v, 0.0), 1.0) for v in rgba)).toColor()
            soft = radius * size
            made = skia.ImageFilters.DropShadow(a * x + c * y, b * x + d * y, soft, soft, shade, made)
    return made
