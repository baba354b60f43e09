"""Figures of a Lottie file that stand still, as path data."""

import math
from typing import Any

import skia

from ..svg.shapes import data_of


def data_of_figure(figure: dict[str, Any], backwards: bool) -> str | None:
    """The outline of a figure, as a layer of it tells; None where anything of it moves."""
    told = {name: value for name, value in figure.items() if name not in ("kind", "name")}
    if any(isinstance(value, dict) for value in told.values()):
        return None
    path = skia.Path()
    x, y = told["position"]
    if figure["kind"] in ("rectangle", "ellipse"):
        wide, high = (abs(side) for side in told["size"])
        box = skia.Rect.MakeXYWH(x - wide / 2, y - high / 2, wide, high)
        if figure["kind"] == "ellipse":
            path.addOval(box)
        else:
            corner = min(max(told["corner"], 0.0), wide / 2, high / 2)
            path.addRRect(skia.RRect.MakeRectXY(box, corner, corner))
    else:
        count = max(round(told["sides" if figure["kind"] == "polygon" else "points"]), 3)
        radii = [told["radius"]] if figure["kind"] == "polygon" else [told["outer"], told["inner"]]
        many, turn = count * len(radii), math.radians(told["rotation"]) - math.pi / 2
        spots = [(radii[k % len(radii)], turn + 2 * math.pi * k / many) for k in range(many)]
        path.addPoly([skia.Point(x + r * math.cos(way), y + r * math.sin(way)) for r, way in spots], True)
    if backwards:
        other = skia.Path()
        other.reverseAddPath(path)
        path = other
    return data_of(path)
