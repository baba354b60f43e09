"""Shapes of an SVG as layers: one for each, or one for its fill and one for its line where these need more than one."""

import re
from collections.abc import Callable
from typing import Any

import skia

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.document.line_style import CAPS, JOINS, MITER_LIMIT
from jaunty_lever.drawing.nodes.shape import DRAWN_CAPS, DRAWN_JOINS

from .affine import IDENTITY, Affine, inverse, placed, size_of, through, times
from .boxes import moved
from .joined import Place
from .made import Layers, Made
from .paints import Gradient, Paint, Paints
from .shapes import NoShape, Shape, data_of, transformed
from .styles import Style, across, length, share
from .winding import filled

_WHITE = "#ffffff"
_FAR = 1e6
"""Pixels from the origin beyond which nothing is drawn."""
_FINE = 8.0
"""How much finer than to a pixel the outline of a line is told."""
_MITER = 4.0
"""How far corners may reach in SVG, in widths of the line, where nothing else is told."""


class Painter:
    """Makes layers of shapes."""

    def __init__(self, paints: Paints, layers: Layers, remark: Callable[[str], None]) -> None:
        self._paints, self._layers, self._remark = paints, layers, remark

    def painted(self, shape: Shape, place: Place, name: str) -> list[Made]:
        """What a shape draws where it is."""
        style, path = place.style, shape.path
        if style.get("visibility", "visible") in ("hidden", "collapse") or path.isEmpty():
            return []
        opaque = 1.0 if place.cuts else share(style.get("opacity"))
        bounds, port, diagonal = path.computeTightBounds(), (place.wide, place.high), across(place.wide, place.high)
        box = (bounds.x(), bounds.y(), bounds.width(), bounds.height())
        inner: Paint = _WHITE if place.cuts else self._paints.of(style, "fill", box, port)
        width = 0.0 if place.cuts else length(style.get("stroke-width"), diagonal, 1.0, place.em)
        outer = self._paints.of(style, "stroke", box, port) if width > 0 else None
        inside = path
        if inner is not None:
            inside = filled(path, style.get("clip-rule" if place.cuts else "fill-rule", "nonzero").strip())
            if inside.isEmpty() or 0 in box[2:]:
                inner = None
        if opaque == 0 or (inner is None and outer is None):
            return []
        whole = shape if inside is path else Shape(inside)
        try:
            line = self._line(style, shape, diagonal, place.em) if outer is not None else None
            own = isinstance(inner, Gradient) and inner.frame(place.matrix) is not None
            if not isinstance(outer, Gradient) and (
                outer is None or inner is None or not (own or whole is not shape or _under(style))
            ):
                kept = shape if inner is None else whole
                return [self._single(kept, place, name, inner, outer, width, line, opaque)]
            parts = [] if inner is None else [self._single(whole, place, "Fill", inner, None, 0.0, None)]
            if isinstance(outer, Gradient):
                lined = _lined(path, width, line)
                parts += (
                    [self._single(Shape(lined), place, "Line", outer, None, 0.0, None)] if lined.countVerbs() else []
                )
            else:
                parts += [self._single(shape, place, "Line", None, outer, width, line)]
        except NoShape as error:
            self._remark(f"Shapes that are left out: {str(error).rstrip('.')}")
            return []
        if _under(style):
            parts.reverse()
        if len(parts) < 2:
            for one in parts:
                one.layer |= {"name": name, "opacity": opaque * 100}
            return parts
        return [self._layers.group(parts, name, opaque=opaque)]

    def _single(
        self,
        shape: Shape,
        place: Place,
        name: str,
        inner: Paint,
        outer: Paint,
        width: float,
        line: dict[str, Any] | None,
        opaque: float = 1.0,
    ) -> Made:
        """One layer. Raises NoShape."""
        matrix, path = place.matrix, shape.path
        spot, frame = placed(matrix), inner.frame(matrix) if isinstance(inner, Gradient) else None
        within: Affine = IDENTITY
        if frame is not None:
            # Where it is round its layer is; its outline goes the other way.
            within, matrix = times(inverse(frame), matrix), frame
            spot = placed(frame)
        elif spot is None:
            # A slant is no part of a layer's place: it goes into the outline.
            within, width, matrix = matrix, width * abs(size_of(matrix)) ** 0.5, IDENTITY
        if within != IDENTITY:
            path = transformed(path, within)
            shape = Shape(path)
        turned, scale = spot or (0.0, (100.0, 100.0))
        bounds = path.computeTightBounds()
        middle = (bounds.x() + bounds.width() / 2, bounds.y() + bounds.height() / 2)
        position = through(matrix, *middle)
        if not all(abs(one) <= _FAR for one in (*position, *scale, *middle, bounds.width(), bounds.height(), width)):
            raise NoShape("They lie too far out, or are too large.")
        outline, back = _outline(shape, bounds, middle)
        if isinstance(inner, Gradient):
            fill = inner.fill(times(back, within))
        else:
            fill = {"kind": "none"} if inner is None else {"kind": "solid", "colour": inner}
        drawn = width if outer is not None else 0.0
        layer: dict[str, Any] = {
            "id": new_id("layer"),
            "name": name,
            "position": position,
            "rotation": turned,
            "scale": scale,
            "opacity": opaque * 100,
            "fill": fill,
            "stroke": outer if outer is not None else "#000000",
            "stroke_width": drawn,
            "line": line,
        } | outline
        self._layers.count()
        bare = (bounds.x(), bounds.y(), bounds.width(), bounds.height())
        grown = (bare[0] - drawn / 2, bare[1] - drawn / 2, bare[2] + drawn, bare[3] + drawn)
        return Made(layer, moved(grown, matrix), moved(bare, matrix))

    def _line(self, style: Style, shape: Shape, diagonal: float, em: float) -> dict[str, Any] | None:
        """How a stroke is drawn, where it is not as strokes are by themselves: whole, with round ends and corners."""
        cornered = shape.kind in ("path", "rectangle") and not shape.corner and shape.path.countVerbs() > 2
        open_ended = shape.kind == "path" and not shape.path.isLastContourClosed()
        made: dict[str, Any] = {}
        join, cap = style.get("stroke-linejoin", "miter").strip(), style.get("stroke-linecap", "butt").strip()
        dashes = [
            length(one, diagonal, 0, em) for one in re.split(r"[\s,]+", style.get("stroke-dasharray", "none").strip())
        ]
        if len(dashes) > 2 and any(one < 0 or one != dashes[k % 2] for k, one in enumerate(dashes)):
            self._remark("Dashes of several lengths: they take the first and the second")
        dash, gap = max(dashes[0], 0.0), max(dashes[1] if len(dashes) > 1 else dashes[0], 0.0)
        if dash > 0 and gap > 0:
            made = {"dash": dash, "gap": gap, "offset": -length(style.get("stroke-dashoffset"), diagonal, 0, em)}
        if cornered and join != "round":
            made["join"] = join if join in JOINS else "miter"
            limit = min(max(length(style.get("stroke-miterlimit"), 0, _MITER), 1.0), 1000.0)
            if made["join"] == "miter" and limit != MITER_LIMIT:
                made["miter"] = limit
        if (open_ended or "dash" in made) and cap != "round":
            made["cap"] = cap if cap in CAPS else "butt"
        return made or None


def _under(style: Style) -> bool:
    """Whether the line lies under the fill."""
    told = style.get("paint-order", "normal").split()
    return "stroke" in told and ("fill" not in told or told.index("stroke") < told.index("fill"))


def _outline(shape: Shape, bounds: skia.Rect, middle: tuple[float, float]) -> tuple[dict[str, Any], Affine]:
    """What tells the outline of a layer, and the transform into its coordinates. Raises NoShape."""
    back: Affine = (1, 0, 0, 1, -middle[0], -middle[1])
    size = (bounds.width(), bounds.height())
    if shape.kind == "ellipse":
        return {"kind": "ellipse", "size": size}, back
    if shape.kind == "rectangle":
        return {"kind": "rectangle", "size": size, "corner": shape.corner}, back
    if shape.data:
        # As it was written, turned about its middle.
        return {"kind": "path", "data": shape.data, "pivot": middle}, IDENTITY
    return {"kind": "path", "data": data_of(transformed(shape.path, back))}, back


def _lined(path: skia.Path, width: float, line: dict[str, Any] | None) -> skia.Path:
    """What a line covers, as an outline."""
    told, made = line or {}, skia.Path()
    paint = skia.Paint(Style=skia.Paint.kStroke_Style, StrokeWidth=width)
    paint.setStrokeCap(DRAWN_CAPS[CAPS.index(told.get("cap", "round"))])
    paint.setStrokeJoin(DRAWN_JOINS[JOINS.index(told.get("join", "round"))])
    paint.setStrokeMiter(told.get("miter", MITER_LIMIT))
    if "dash" in told:
        paint.setPathEffect(skia.DashPathEffect.Make([told["dash"], told["gap"]], -told["offset"]))
    paint.getFillPath(path, made, None, _FINE)
    return made
