"""A shape: an outline, filled and stroked."""

from dataclasses import dataclass

import skia

from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.line_style import MITER_LIMIT

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
    if node.fixed["fill"] == "conic":
        x, y = brush.row(node, "centre")
        turn = skia.Matrix().setRotate(brush.number(node, "angle") - 90, x, y)
        # What lies before the first stop has its colour, as in CSS.
        return skia.GradientShader.MakeSweep(x, y, colours, offsets, skia.TileMode.kClamp, 0, 360, 0, turn)
    radius = max(brush.number(node, "radius"), 1e-3)
    if "focus" in node.channels:
        (x, y), (dx, dy) = brush.row(node, "centre"), brush.row(node, "focus")
        return skia.GradientShader.MakeTwoPointConical(
            skia.Point(x + dx, y + dy), 0, skia.Point(x, y), radius, colours, offsets
        )
    return skia.GradientShader.MakeRadial(skia.Point(*brush.row(node, "centre")), radius, colours, offsets)


@dataclass(frozen=True)
class _Dress:
    """A shape's outlines from the lowest up, with what each is painted and the opacity that its colour has by itself."""

    layers: list[tuple[skia.Path, skia.Paint, float]]


DRAWN_CAPS = (skia.Paint.kRound_Cap, skia.Paint.kButt_Cap, skia.Paint.kSquare_Cap)
DRAWN_JOINS = (skia.Paint.kRound_Join, skia.Paint.kMiter_Join, skia.Paint.kBevel_Join)


def _styled(brush: Brush, node: DisplayNode, paint: skia.Paint) -> None:
    """The stroke's ends, corners and dashes."""

    def chosen(name: str) -> int:
        return min(max(round(brush.number(node, name)), 0), 2) if name in node.channels else 0

    paint.setStrokeCap(DRAWN_CAPS[chosen("cap")])
    paint.setStrokeJoin(DRAWN_JOINS[chosen("join")])
    paint.setStrokeMiter(max(brush.number(node, "miter"), 1.0) if "miter" in node.channels else MITER_LIMIT)
    if "dash" in node.channels:
        dash, gap, phase = brush.row(node, "dash")
        if dash > 0 and gap > 0:
            paint.setPathEffect(skia.DashPathEffect.Make([dash, gap], phase))


def _dressed(brush: Brush, node: DisplayNode) -> _Dress:
    fill = node.fixed["fill"]
    which = round(brush.number(node, "which"))
    path = _path(node.fixed["verbs"][which], brush.row(node, f"points.{which}"))
    width = brush.number(node, "width")
    layers = []
    if fill != "none":
        filling = skia.Paint(AntiAlias=True)
        if fill == "solid":
            filling.setColor4f(colour(brush.row(node, "colour")))
        else:
            filling.setShader(_shader(brush, node))
        layers.append((path, filling, filling.getAlphaf()))
    for j in range(node.fixed.get("shells", 0)):
        inner = _path(node.fixed.get("shell_verbs", node.fixed["verbs"])[which], brush.row(node, f"inner.{j}.{which}"))
        shell = skia.Paint(AntiAlias=True)
        shell.setColor4f(colour(brush.row(node, f"inner_colour.{j}")))
        layers.append((inner, shell, shell.getAlphaf()))
    if width > 0:
        stroking = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=width)
        _styled(brush, node, stroking)
        stroking.setColor4f(colour(brush.row(node, "stroke")))
        if "line_verbs" in node.fixed:
            drawn = round(brush.number(node, "line_which"))
            path = _path(node.fixed["line_verbs"][drawn], brush.row(node, f"line.{drawn}"))
        if node.fixed.get("ribbon"):
            stroking.setStyle(skia.Paint.kFill_Style)
        layers.append((path, stroking, stroking.getAlphaf()))
    return _Dress(layers)


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Fill, shells, then stroke."""
    dress = brush.common(node, lambda: _dressed(brush, node))
    # Fill and stroke overlap by half the stroke, shells whole: only together may they fade.
    together = len(dress.layers) > 1

    def painted(brush: Brush) -> None:
        for path, paint, opaque in dress.layers:
            paint.setAlphaf(opaque if together else opaque * opacity)
            brush.canvas.drawPath(path, paint)

    brush.faded(opacity if together else 1.0, painted)
