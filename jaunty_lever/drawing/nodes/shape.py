"""A shape: an outline, filled and stroked."""

import skia

from jaunty_lever.core.display.node import DisplayNode

from .brush import Brush, colour


def _path(verbs: str, points: list[float]) -> skia.Path:
    path = skia.Path()
    path.setFillType(skia.PathFillType.kWinding)
    k = 0
    for verb in verbs:
        if verb == "M":
            path.moveTo(*points[k : k + 2])
            k += 2
        elif verb == "L":
            path.lineTo(*points[k : k + 2])
            k += 2
        elif verb == "Q":
            path.quadTo(*points[k : k + 4])
            k += 4
        elif verb == "C":
            path.cubicTo(*points[k : k + 6])
            k += 6
        else:
            path.close()
    return path


def _shader(brush: Brush, node: DisplayNode) -> skia.Shader | None:
    stops = [(brush.number(node, f"offset.{k}"), brush.row(node, f"colour.{k}")) for k in range(node.fixed["stops"])]
    stops.sort(key=lambda stop: stop[0])
    offsets = [min(max(offset, 0.0), 1.0) for offset, _ in stops]
    colours = [colour(rgba).toColor() for _, rgba in stops]
    if node.fixed["fill"] == "linear":
        ends = [skia.Point(*brush.row(node, name)) for name in ("start", "end")]
        return skia.GradientShader.MakeLinear(ends, colours, offsets)
    radius = max(brush.number(node, "radius"), 1e-3)
    return skia.GradientShader.MakeRadial(skia.Point(*brush.row(node, "centre")), radius, colours, offsets)


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Fill, then stroke."""
    canvas, fill = brush.canvas, node.fixed["fill"]
    which = round(brush.number(node, "which"))
    path = _path(node.fixed["verbs"][which], brush.row(node, f"points.{which}"))
    width = brush.number(node, "width")
    filled, stroked = fill != "none", width > 0
    # Fill and stroke overlap by half the stroke: only together may they fade.
    both = filled and stroked and opacity < 1
    if both:
        brush.begin_faded(opacity)
        opacity = 1.0
    if filled:
        paint = skia.Paint(AntiAlias=True)
        if fill == "solid":
            paint.setColor4f(colour(brush.row(node, "colour")))
        else:
            paint.setShader(_shader(brush, node))
        paint.setAlphaf(paint.getAlphaf() * opacity)
        canvas.drawPath(path, paint)
    if stroked:
        paint = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=width)
        paint.setStrokeCap(skia.Paint.kRound_Cap)
        paint.setStrokeJoin(skia.Paint.kRound_Join)
        paint.setColor4f(colour(brush.row(node, "stroke")))
        paint.setAlphaf(paint.getAlphaf() * opacity)
        canvas.drawPath(path, paint)
    if both:
        canvas.restore()
