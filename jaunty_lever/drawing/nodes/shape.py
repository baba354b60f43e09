"""A shape: an outline, filled and stroked."""

from dataclasses import dataclass

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


@dataclass(frozen=True)
class _Dress:
    """A shape's outline and what it is painted with, each with the opacity that its colour has by itself."""

    path: skia.Path
    fill: skia.Paint | None
    stroke: skia.Paint | None
    opaque: tuple[float, float]


def _dressed(brush: Brush, node: DisplayNode) -> _Dress:
    fill = node.fixed["fill"]
    which = round(brush.number(node, "which"))
    path = _path(node.fixed["verbs"][which], brush.row(node, f"points.{which}"))
    width = brush.number(node, "width")
    filling = stroking = None
    if fill != "none":
        filling = skia.Paint(AntiAlias=True)
        if fill == "solid":
            filling.setColor4f(colour(brush.row(node, "colour")))
        else:
            filling.setShader(_shader(brush, node))
    if width > 0:
        stroking = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=width)
        stroking.setStrokeCap(skia.Paint.kRound_Cap)
        stroking.setStrokeJoin(skia.Paint.kRound_Join)
        stroking.setColor4f(colour(brush.row(node, "stroke")))
    opaque = (filling.getAlphaf() if filling else 1.0, stroking.getAlphaf() if stroking else 1.0)
    return _Dress(path, filling, stroking, opaque)


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Fill, then stroke."""
    canvas = brush.canvas
    dress = brush.common(node, lambda: _dressed(brush, node))
    # Fill and stroke overlap by half the stroke: only together may they fade.
    both = dress.fill is not None and dress.stroke is not None and opacity < 1
    if both:
        brush.begin_faded(opacity)
        opacity = 1.0
    for paint, opaque in zip((dress.fill, dress.stroke), dress.opaque, strict=True):
        if paint is not None:
            paint.setAlphaf(opaque * opacity)
            canvas.drawPath(dress.path, paint)
    if both:
        canvas.restore()
