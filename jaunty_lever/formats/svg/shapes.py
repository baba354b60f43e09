"""Outlines of an SVG's shapes as Skia paths, and as path data."""

import math
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from xml.etree.ElementTree import Element

import skia

from jaunty_lever.core.geometry import path_data
from jaunty_lever.core.geometry.outline import KAPPA

from .affine import Affine, numbers
from .styles import Style, across, length

MOST_LETTERS = 90_000
"""Of path data in one layer."""


_START = re.compile(
    r"m\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)\s*,?\s*([-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?)"
)


_WRITTEN = re.compile(r"path\(\s*(['\"])(.*)\1\s*\)$", re.DOTALL)
_QUARTER = math.sqrt(0.5)
"""The weight of a conic that is a quarter of an ellipse."""
_LETTERS = {
    skia.Path.kMove_Verb: "M",
    skia.Path.kLine_Verb: "L",
    skia.Path.kQuad_Verb: "Q",
    skia.Path.kCubic_Verb: "C",
    skia.Path.kClose_Verb: "Z",
}


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


def shape_of(node: Element, kind: str, style: Style, wide: float, high: float, em: float) -> Shape:
    """The outline of a shape element; what a style tells of its geometry comes before its attributes. Raises
    NoShape."""

    def get(name: str, whole: float, default: float = 0.0) -> float:
        return length(style.get(name) or node.get(name), whole, default, em)

    diagonal = across(wide, high)
    path = skia.Path()
    if kind == "path":
        written = _WRITTEN.match(style.get("d", ""))
        return from_data(written[2] if written else node.get("d", ""))
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


_TAKES = {"M": 2, "L": 2, "Q": 4, "C": 6, "Z": 0}


def draw(path: skia.Path, verb: str, pairs: Sequence[float]) -> None:
    """One verb more of a path."""
    {"M": path.moveTo, "L": path.lineTo, "Q": path.quadTo, "C": path.cubicTo, "Z": path.close}[verb](*pairs)


def from_verbs(verbs: str, points: list[float]) -> skia.Path:
    """Verbs and points as a path."""
    path, k = skia.Path(), 0
    for verb in verbs:
        draw(path, verb, points[k : k + _TAKES[verb]])
        k += _TAKES[verb]
    return path


def transformed(path: skia.Path, matrix: Affine) -> skia.Path:
    """A path through a transform."""
    a, b, c, d, e, f = matrix
    made = skia.Path()
    path.transform(skia.Matrix.MakeAll(a, c, e, b, d, f, 0, 0, 1), made)
    made.setFillType(path.getFillType())
    return made


def steps(path: skia.Path) -> Iterator[tuple[str, list[float]]]:
    """The verbs of a path, as path data has them, and what they lead to: conics as cubics, or as quadratics where they
    are no quarters of an ellipse."""
    reader = skia.Path.Iter(path, False)
    while True:
        verb, points = reader.next()
        if verb == skia.Path.kDone_Verb:
            return
        pairs = [number for point in points for number in (point.x(), point.y())]
        if verb == skia.Path.kConic_Verb:
            if abs(reader.conicWeight() - _QUARTER) < 1e-4:
                yield "C", _cubic(pairs)
                continue
            made = skia.Path.ConvertConicToQuads(*points, reader.conicWeight(), 2)
            for k in range(1, len(made) - 1, 2):
                yield "Q", [made[k].x(), made[k].y(), made[k + 1].x(), made[k + 1].y()]
        else:
            yield _LETTERS[verb], pairs if verb == skia.Path.kMove_Verb else pairs[2:]


def data_of(path: skia.Path) -> str:
    """A path as path data. Raises NoShape when it is too long for a layer."""
    text = "".join(verb + plainly(pairs) if verb != "Z" else verb for verb, pairs in steps(path))
    if len(text) > MOST_LETTERS:
        raise NoShape(f"Its path has {len(text):,} letters; up to {MOST_LETTERS:,} go into a layer.")
    return text


def _cubic(pairs: list[float]) -> list[float]:
    """A quarter of an ellipse as a cubic: its controls and its end."""
    x0, y0, x1, y1, x2, y2 = pairs[:6]
    return [x0 + (x1 - x0) * KAPPA, y0 + (y1 - y0) * KAPPA, x2 + (x1 - x2) * KAPPA, y2 + (y1 - y2) * KAPPA, x2, y2]


def plainly(values: Sequence[float]) -> str:
    """Numbers as path data has them, to a thousandth of a pixel."""
    return " ".join(f"{v:.3f}".rstrip("0").rstrip(".") or "0" for v in values)
