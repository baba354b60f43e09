"""Outlines of an SVG's shapes as Skia paths, and as path data."""

import math
import re
from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise
from xml.etree.ElementTree import Element

import numpy as np
import skia

from jaunty_lever.core.geometry import path_data
from jaunty_lever.core.geometry.outline import KAPPA

from .affine import Affine, numbers
from .styles import length

MOST_LETTERS = 90_000
"""Of path data in one layer."""


_START = re.compile(
    r"m\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*,?\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)"
)


class NoShape(Exception):
    """What is drawn makes no sense; the message says why."""


@dataclass
class Shape:
    """An outline, and the simpler ways of telling it, where there are some."""

    path: skia.Path
    kind: str = "path"
    """path, ellipse, rectangle, or rounded: a rectangle whose corners are wider than high."""
    corner: float = 0.0
    """Radius of a rectangle's corners in px."""
    data: str = ""
    """The path data it was read from, when all of it could be read."""


def shape_of(node: Element, kind: str, wide: float, high: float, em: float) -> Shape:
    """The outline of a shape element. Raises NoShape."""

    def get(name: str, whole: float, default: float = 0.0) -> float:
        return length(node.get(name), whole, default, em)

    diagonal = math.hypot(wide, high) / math.sqrt(2)
    path = skia.Path()
    if kind == "path":
        return from_data(node.get("d", ""))
    if kind == "rect":
        x, y, w, h = get("x", wide), get("y", high), get("width", wide), get("height", high)
        rx, ry = get("rx", wide, -1), get("ry", high, -1)
        rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
        if w > 0 and h > 0:
            rx, ry = min(max(rx, 0), w / 2), min(max(ry, 0), h / 2)
            path.addRRect(skia.RRect.MakeRectXY(skia.Rect.MakeXYWH(x, y, w, h), rx, ry))
        return Shape(path, "rectangle" if rx == ry or 0 in (rx, ry) else "rounded", rx if ry else 0.0)
    if kind in ("circle", "ellipse"):
        cx, cy, r = get("cx", wide), get("cy", high), get("r", diagonal)
        rx, ry = (r, r) if kind == "circle" else (get("rx", wide, -1), get("ry", high, -1))
        rx, ry = (ry if rx < 0 else rx), (rx if ry < 0 else ry)
        if rx > 0 and ry > 0:
            path.addOval(skia.Rect.MakeLTRB(cx - rx, cy - ry, cx + rx, cy + ry))
        return Shape(path, "ellipse")
    if kind == "line":
        path.moveTo(get("x1", wide), get("y1", high))
        path.lineTo(get("x2", wide), get("y2", high))
        return Shape(path)
    try:
        given = numbers(node.get("points", ""))
    except ValueError as error:
        raise NoShape(str(error)) from None
    pairs = list(zip(given[::2], given[1::2], strict=False))
    if len(pairs) > 1:
        path.addPoly([skia.Point(*pair) for pair in pairs], kind == "polygon")
    return Shape(path)


def from_data(data: str) -> Shape:
    """The shape of path data; as far as it makes sense, as SVG has it. Raises NoShape."""
    read = path_data.read(data[: 5 * MOST_LETTERS])
    if read.problem and not read.verbs:
        raise NoShape("Its path data cannot be read.")
    # Not a number, and what is none, compares as false.
    if not all(abs(v) <= 1e6 for v in read.points):
        raise NoShape("Its path lies too far out.")
    whole = not read.problem and len(data) <= MOST_LETTERS
    return Shape(from_verbs("".join(read.verbs), read.points), data=data.strip() if whole else "")


def started(data: str) -> str:
    """Path data that may follow other path data: it begins with a move to a place of its own."""
    if data.startswith("M"):
        return data
    match = _START.match(data)
    # A move of no length keeps what follows relative.
    return f"M{match[1]} {match[2]}m0 0 {data[match.end() :]}" if match else ""


def from_verbs(verbs: str, points: list[float]) -> skia.Path:
    """Verbs and points as a path."""
    path, k = skia.Path(), 0
    add = {"M": (path.moveTo, 2), "L": (path.lineTo, 2), "Q": (path.quadTo, 4), "C": (path.cubicTo, 6)}
    for verb in verbs:
        if verb == "Z":
            path.close()
            continue
        draw, takes = add[verb]
        draw(*points[k : k + takes])
        k += takes
    return path


def transformed(path: skia.Path, matrix: Affine) -> skia.Path:
    """A path through a transform."""
    a, b, c, d, e, f = matrix
    made = skia.Path()
    path.transform(skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1), made)
    made.setFillType(path.getFillType())
    return made


def wound(path: skia.Path, rule: str) -> skia.Path:
    """A path whose inside is told by its winding, whichever rule it was drawn for."""
    if rule != "evenodd" or path.isConvex():
        return path
    path.setFillType(skia.PathFillType.kEvenOdd)
    plain = skia.Simplify(path)
    rings = _rings(plain)
    # What simplify leaves does not cross itself: a ring in an odd number of others is a hole, and runs the other way.
    made = skia.Path()
    around = [ring.getBounds() for ring in rings]
    left, top, right, bottom = np.array([(b.left(), b.top(), b.right(), b.bottom()) for b in around]).reshape(-1, 4).T
    for ring in rings:
        x, y = _on_edge(ring)
        near = np.flatnonzero((left <= x) & (x <= right) & (top <= y) & (y <= bottom))
        deep = sum(rings[k] is not ring and rings[k].contains(x, y) for k in near)
        if (_runs_right(ring) > 0) == (deep % 2 == 0):
            made.addPath(ring)
        else:
            made.reverseAddPath(ring)
    return made


def _rings(path: skia.Path) -> list[skia.Path]:
    """The contours of a path, each for itself."""
    rings: list[skia.Path] = []
    for verb, points in path:
        if verb == skia.Path.kMove_Verb:
            rings.append(skia.Path())
            rings[-1].moveTo(points[0])
        elif verb == skia.Path.kLine_Verb:
            rings[-1].lineTo(points[1])
        elif verb == skia.Path.kQuad_Verb:
            rings[-1].quadTo(points[1], points[2])
        elif verb == skia.Path.kConic_Verb:
            rings[-1].cubicTo(*(skia.Point(*pair) for pair in _cubic([v for p in points for v in (p.x(), p.y())])))
        elif verb == skia.Path.kCubic_Verb:
            rings[-1].cubicTo(points[1], points[2], points[3])
        elif verb == skia.Path.kClose_Verb:
            rings[-1].close()
    return rings


def _on_edge(ring: skia.Path) -> tuple[float, float]:
    """A point of a ring that is no corner."""
    for verb, points in ring:
        spots = [(p.x(), p.y()) for p in points]
        if verb != skia.Path.kMove_Verb and len(spots) > 1 and spots[0] != spots[-1]:
            # De Casteljau, which holds for lines as for curves.
            while len(spots) > 1:
                spots = [(0.4 * x + 0.6 * u, 0.4 * y + 0.6 * v) for (x, y), (u, v) in pairwise(spots)]
            return spots[0]
    return 0.0, 0.0


def _runs_right(ring: skia.Path) -> float:
    """Twice the area that a ring's points go around; its sign tells which way it runs."""
    spots: list[tuple[float, float]] = [(p.x(), p.y()) for p in ring.getPoints(ring.countPoints())]
    return sum(x * v - u * y for (x, y), (u, v) in zip(spots, spots[1:] + spots[:1], strict=True))


def data_of(path: skia.Path) -> str:
    """A path as path data. Raises NoShape when it is too long for a layer."""
    parts: list[str] = []
    for verb, points in path:
        pairs = [number for point in points for number in (point.x(), point.y())]
        if verb == skia.Path.kMove_Verb:
            parts.append("M" + plainly(pairs[:2]))
        elif verb == skia.Path.kLine_Verb:
            parts.append("L" + plainly(pairs[2:]))
        elif verb == skia.Path.kQuad_Verb:
            parts.append("Q" + plainly(pairs[2:]))
        elif verb == skia.Path.kConic_Verb:
            parts.append("C" + plainly([v for pair in _cubic(pairs) for v in pair]))
        elif verb == skia.Path.kCubic_Verb:
            parts.append("C" + plainly(pairs[2:]))
        elif verb == skia.Path.kClose_Verb:
            parts.append("Z")
    text = "".join(parts)
    if len(text) > MOST_LETTERS:
        raise NoShape(f"Its path has {len(text):,} letters; up to {MOST_LETTERS:,} go into a layer.")
    return text


def _cubic(pairs: list[float]) -> list[tuple[float, float]]:
    """A quarter of an ellipse, which is what conics are here, as a cubic: its controls and its end."""
    x0, y0, x1, y1, x2, y2 = pairs[:6]
    return [
        (x0 + (x1 - x0) * KAPPA, y0 + (y1 - y0) * KAPPA),
        (x2 + (x1 - x2) * KAPPA, y2 + (y1 - y2) * KAPPA),
        (x2, y2),
    ]


def plainly(values: Sequence[float]) -> str:
    """Numbers as path data has them, to a thousandth of a pixel."""
    return " ".join(f"{v:.3f}".rstrip("0").rstrip(".") or "0" for v in values)
