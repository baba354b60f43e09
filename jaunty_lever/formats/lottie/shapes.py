"""Shapes of a Lottie file: groups, outlines, and what they are painted with."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from itertools import combinations
from typing import Any

import skia

from jaunty_lever.core.document.colours import hex_colour, parse_colour
from jaunty_lever.core.document.ids import new_id, one_line

from ..svg.shapes import MOST_LETTERS, NoShape, data_of, from_data
from ..svg.winding import filled
from .curves import curve_of, moved_fields
from .figures import data_of_figure
from .lines import Beginning, beginning_of, line_of
from .moving import Clock, Numbers
from .values import Values, pairs

Layer = dict[str, Any]
_NOT_READ = {
    "rp": "Repeaters",
    "rd": "Corners rounded afterwards",
    "mm": "Shapes joined or cut by others",
    "pb": "Puckers and bloats",
    "tw": "Twists",
    "zz": "Zigzags",
    "op": "Outlines moved outwards",
}
_OUTLINES = ("sh", "rc", "el", "sr")
_SILENT = ("tr", "no")
_FILLS, _STROKES, _PART = ("fl", "gf"), ("st", "gs"), "tm"
_BACKWARDS = 3


@dataclass(frozen=True)
class Paint:
    """What shapes are painted with: a fill, a stroke on top of it, or both; and the part of the stroke that is
    drawn."""

    fill: dict[str, Any] | None = None
    stroke: dict[str, Any] | None = None
    part: dict[str, Any] | None = None


def hex_of(text: str) -> str:
    """A colour of a file; black for what is none."""
    try:
        return hex_colour(parse_colour(text))
    except ValueError:
        return "#000000"


class Shapes:
    """Reads the shapes of layers; `count` is told of each layer that is made."""

    def __init__(self, values: Values, count: Callable[[], None]) -> None:
        self._values, self._remark, self._count = values, values.remark, count

    def layers(self, items: Any, clock: Clock, deep: int) -> list[Layer]:
        """What a list of shapes draws, the lowest first."""
        return self._own(items, clock, deep, None)

    def _own(self, items: Any, clock: Clock, deep: int, part: Any) -> list[Layer]:
        """What the fills and strokes of a list draw, and those of the groups in it. What stands first is topmost.

        Each of them paints what stands before it, the groups there with it.
        """
        if deep <= 0:
            self._remark("Shapes that lie too deep in groups")
            return []
        given = _shown(items)
        for one in given:
            kind = str(one.get("ty"))
            if kind in _NOT_READ:
                self._remark(_NOT_READ[kind])
            elif kind not in (*_OUTLINES, *_SILENT, *_FILLS, *_STROKES, _PART, "gr"):
                self._remark(f"Shapes of the kind {kind[:20]}")
        if sum(one.get("ty") == _PART for one in given) + (part is not None) > 1:
            self._remark("Outlines drawn in part of a part: the first is taken")
        paints = self._paints(given, clock)
        made: list[Layer] = []
        for k in reversed(range(len(given))):
            if k in paints:
                made += self._painted_all(given, k, paints[k], clock, deep, part)
            elif given[k].get("ty") == "gr":
                items = given[k].get("it")
                made += self._group(given[k], self._own(items, clock, deep - 1, _part_of(given, k, part)), clock)
        return made

    def _paints(self, given: list[dict[str, Any]], clock: Clock) -> dict[int, Paint]:
        """The paints of a list by where they stand: a stroke right on top of a fill is one with it."""
        found: dict[int, Paint] = {}
        above: tuple[int, dict[str, Any]] | None = None
        for k, one in enumerate(given):
            kind = one.get("ty")
            if kind in _STROKES:
                found[k] = Paint(stroke=one)
                above = (k, one) if self._steady(one, clock) else None
            elif kind in _FILLS:
                if above is not None and self._steady(one, clock):
                    del found[above[0]]
                    found[k] = Paint(one, above[1])
                else:
                    found[k] = Paint(one)
                above = None
            elif kind in (*_OUTLINES, "gr"):
                above = None
        return found

    def _steady(self, paint: dict[str, Any], clock: Clock) -> bool:
        """Whether a paint is as opaque at all times as at first."""
        return self._values.moving(paint.get("o"), clock, 1, (100.0,)).still

    def _painted_all(
        self, given: list[dict[str, Any]], end: int, paint: Paint, clock: Clock, deep: int, part: Any
    ) -> list[Layer]:
        """What a paint makes of all that stands before it."""
        if deep <= 0:
            return []
        made: list[Layer] = []
        outlines = [(k, one) for k, one in enumerate(given[:end]) if one.get("ty") in _OUTLINES]
        if outlines:
            here = replace(paint, part=_part_of(given, outlines[0][0], part))
            made += self._painted([one for _, one in outlines], here, clock)
        for k in reversed(range(end)):
            if given[k].get("ty") == "gr":
                inner = _shown(given[k].get("it"))
                own = _part_of(given, k, part)
                made += self._group(given[k], self._painted_all(inner, len(inner), paint, clock, deep - 1, own), clock)
        return made

    def _group(self, one: dict[str, Any], inner: list[Layer], clock: Clock) -> list[Layer]:
        """What is drawn in a group, where that is."""
        if not inner:
            return []
        items = one.get("it")
        place = (
            next((part for part in items if isinstance(part, dict) and part.get("ty") == "tr"), {})
            if isinstance(items, list)
            else {}
        )
        fields = self._values.place(place, clock)
        name = one_line(str(one.get("nm") or ""))[:120].strip()
        nothing = {"position": (0.0, 0.0), "scale": (100.0, 100.0), "rotation": 0.0, "opacity": 100.0}
        if (
            len(inner) == 1
            and all(fields[key] == value for key, value in nothing.items())
            and fields["pivot"] == (0.0, 0.0)
        ):
            inner[0]["name"] = name or inner[0]["name"]
            return inner
        self._count()
        return [{"kind": "group", "id": new_id("layer"), "name": name or "Group", "layers": inner, **fields}]

    def _painted(self, outlines: Sequence[dict[str, Any]], given: Paint, clock: Clock) -> list[Layer]:
        fill, stroke = given.fill, given.stroke
        paint: dict[str, Any] = {"fill": {"kind": "none"}}
        faded = next((one for one in (fill, stroke) if one is not None and not self._steady(one, clock)), None)
        if faded is not None:
            # Two that are painted as one are steady.
            paint["opacity"] = self._values.share(faded.get("o"), clock)
        if fill:
            paint["fill"] = self._fill(fill, clock, 1.0 if faded else self._opaque(fill, clock))
        if stroke:
            paint |= self._stroke(stroke, clock, 1.0 if faded else self._opaque(stroke, clock))
        rule = "evenodd" if fill and fill.get("r") == 2 else "nonzero"
        if given.part is not None and fill:
            self._remark("Fills of outlines drawn in part: they stay whole")
        figures = {k: self._figure(one, one["ty"], clock) for k, one in enumerate(outlines) if one["ty"] != "sh"}
        # Figures that lie on each other cover together what neither covers by itself.
        whole = self._together(outlines, figures, clock) if len(outlines) > 1 and figures and fill else None
        if whole is not None:
            return self._finished(
                [self._path(whole, rule, bool(stroke)) | paint | self._line(given, clock, Beginning())]
            )
        made: list[Layer] = []
        curves: list[str] = []
        # A gradient stays where it is while an outline moves.
        alone = sum(one["ty"] == "sh" for one in outlines) == 1 and not (fill and fill.get("ty") == "gf")
        for k, one in reversed(list(enumerate(outlines))):
            if one["ty"] == "sh":
                # A line would be stretched too.
                curve = curve_of(self._values, one.get("ks"), clock, alone, not stroke)
                if curve.moved is None:
                    curves.insert(0, curve.data)
                else:
                    line = self._line(given, clock, Beginning())
                    made.append(self._path(curve.data, rule, bool(stroke)) | paint | moved_fields(curve.moved) | line)
                continue
            begins = beginning_of(one["ty"], figures[k], one.get("d") == _BACKWARDS)
            made.append(figures[k] | paint | self._line(given, clock, begins))
        data = " ".join(part for part in curves if part)
        if data:
            made.insert(0, self._path(data, rule, bool(stroke)) | paint | self._line(given, clock, Beginning()))
        if given.part is not None and given.part.get("m") == 2 and len(made) > 1:
            self._remark("Outlines drawn in part one after another: figures are drawn each by itself")
        return self._finished(made)

    def _finished(self, made: list[Layer]) -> list[Layer]:
        """Layers with names of their own; a path whose fill covers something else than its line runs along is two."""
        found: list[Layer] = []
        for layer in made:
            line = layer.pop("lined", None)
            if line is not None:
                nothing = {"fill": {"kind": "none"}, "data": line, "name": "Line"}
                found += [{**layer, "stroke_width": 0.0, "line": None}] if layer["data"] else []
                layer = {**layer, **nothing}
            found.append(layer)
        for layer in found:
            self._count()
            layer["id"] = new_id("layer")
        return [layer for layer in found if layer.get("data") != ""]

    def _together(self, outlines: Sequence[dict[str, Any]], figures: dict[int, Layer], clock: Clock) -> str | None:
        """Outlines that lie on each other as one path; None where they do not, or where one of them moves."""
        parts: list[str] = []
        for k, one in enumerate(outlines):
            if one["ty"] == "sh":
                parts.append(curve_of(self._values, one.get("ks"), clock, False, False).data)
                continue
            data = data_of_figure(figures[k], one.get("d") == _BACKWARDS)
            if data is None:
                return None
            parts.append(data)
        try:
            boxes = [from_data(part).path.getBounds() for part in parts if part]
        except NoShape:
            return None
        if not any(skia.Rect.Intersects(a, b) for a, b in combinations(boxes, 2)):
            return None
        return " ".join(part for part in parts if part)

    def _line(self, paint: Paint, clock: Clock, begins: Beginning) -> dict[str, Any]:
        made = line_of(self._values, paint.stroke, paint.part, clock, begins) if paint.stroke else None
        return {"line": made} if made else {}

    def _path(self, data: str, rule: str, lined: bool) -> Layer:
        """An outline as a layer; `lined`: a line runs along it, which for the other rule may be another outline."""
        made: Layer = {"kind": "path", "name": "Path", "data": data}
        try:
            if rule == "evenodd":
                path = from_data(data).path
                inside = filled(path, rule)
                if inside is not path:
                    made["data"] = data_of(inside)
                    if lined:
                        made["lined"] = data
            if max(len(data), len(made["data"])) > MOST_LETTERS:
                raise NoShape("its outline is too long")
        except NoShape as error:
            self._remark(f"Outlines that are left out: {str(error).rstrip('.')}")
            return {"kind": "path", "name": "Path", "data": ""}
        return made

    def _figure(self, one: dict[str, Any], kind: str, clock: Clock) -> Layer:
        position = self._values.pair(one.get("p"), clock, (0.0, 0.0))
        name = one_line(str(one.get("nm") or ""))[:120].strip()
        if kind in ("rc", "el"):
            made = {
                "kind": "rectangle" if kind == "rc" else "ellipse",
                "size": self._values.pair(one.get("s"), clock, (100.0, 100.0)),
            }
            if kind == "rc":
                made["corner"] = self._values.one(one.get("r"), clock, 0.0)
            return made | {"name": name or made["kind"].capitalize(), "position": position}
        if any(self._values.moving(one.get(part), clock, 1, (0.0,)).first != (0.0,) for part in ("is", "os")):
            self._remark("Stars with round corners: they become pointed")
        turned = {"position": position, "rotation": self._values.one(one.get("r"), clock, 0.0)}
        outer, points = self._values.one(one.get("or"), clock, 50.0), self._values.one(one.get("pt"), clock, 5.0)
        if one.get("sy") == 2:
            return {"kind": "polygon", "name": name or "Polygon", "sides": points, "radius": outer, **turned}
        inner = self._values.one(one.get("ir"), clock, 25.0)
        return {"kind": "star", "name": name or "Star", "points": points, "outer": outer, "inner": inner, **turned}

    def _opaque(self, paint: dict[str, Any], clock: Clock) -> float:
        """How opaque a paint is at first, 0..1."""
        return min(max(self._values.moving(paint.get("o"), clock, 1, (100.0,)).first[0] / 100, 0.0), 1.0)

    def _fill(self, one: dict[str, Any], clock: Clock, opaque: float) -> dict[str, Any]:
        if one.get("ty") == "fl":
            return {"kind": "solid", "colour": self._colour(one.get("c"), clock, opaque)}
        values = self._stops(_gradient(one).get("k"), clock, _count_of(_gradient(one)))
        start, end = (self._values.moving(one.get(name), clock, 2, (0.0, 0.0)) for name in ("s", "e"))
        stops = [
            {
                "id": new_id("stop"),
                "offset": min(max(offset, 0.0), 1.0) * 100,
                "colour": hex_colour((*rgba[:3], rgba[3] * opaque)),
            }
            for offset, rgba in values[:: max(1, -(-len(values) // 16))]
        ]
        if len(values) > 16:
            self._remark("Gradients of more than 16 colours: some are left out")
        if one.get("t") == 2:
            a, b = start.first, end.first
            radius = max(((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) ** 0.5, 0.01)
            made = {"kind": "radial", "centre": pairs(start), "radius": radius, "stops": stops}
            far = self._values.moving(one.get("h"), clock, 1, (0.0,)).first[0] / 100 * radius
            way = math.radians(self._values.moving(one.get("a"), clock, 1, (0.0,)).first[0])
            way += math.atan2(b[1] - a[1], b[0] - a[0])
            return made | {"focus": (far * math.cos(way), far * math.sin(way))} if far else made
        return {"kind": "linear", "start": pairs(start), "end": pairs(end), "stops": stops}

    def _stops(self, given: Any, clock: Clock, count: int) -> list[tuple[float, Numbers]]:
        """Offsets and colours r, g, b, a of a gradient, as it stands first."""
        inner = given.get("k") if isinstance(given, dict) else None
        if isinstance(inner, list) and inner and isinstance(inner[0], dict):
            if len(inner) > 1:
                self._remark("Gradients whose colours move: they stay as they are at first")
            inner = inner[0].get("s")
        flat = [float(v) for v in inner if isinstance(v, int | float)] if isinstance(inner, list) else []
        if len(flat) < 4 * count:
            return [(0.0, (0.0, 0.0, 0.0, 1.0)), (1.0, (1.0, 1.0, 1.0, 1.0))]
        alphas = [(flat[k], flat[k + 1]) for k in range(4 * count, len(flat) - 1, 2)]
        found: list[tuple[float, Numbers]] = []
        for k in range(count):
            offset, red, green, blue = flat[4 * k : 4 * k + 4]
            found.append((offset, (red, green, blue, _alpha(alphas, offset))))
        return found

    def _stroke(self, one: dict[str, Any], clock: Clock, opaque: float) -> dict[str, Any]:
        width = self._values.moving(one.get("w"), clock, 1, (1.0,)).parameter(lambda value: max(value[0], 0.0))
        if one.get("ty") == "gs":
            self._remark("Gradients of strokes: they become one colour, that of their middle")
            values = self._stops(_gradient(one).get("k"), clock, _count_of(_gradient(one)))
            r, g, b, a = values[len(values) // 2][1]
            return {"stroke": hex_colour((r, g, b, a * opaque)), "stroke_width": width}
        return {"stroke": self._colour(one.get("c"), clock, opaque), "stroke_width": width}

    def _colour(self, given: Any, clock: Clock, opaque: float = 1.0) -> Any:
        found = self._values.moving(given, clock, 4, (0.0, 0.0, 0.0, 1.0))
        if any(part > 1.001 for part in found.first[:3]):
            # Files of the first versions counted to 255.
            found = found.each(lambda rgba: (*(part / 255 for part in rgba[:3]), 1.0))
        return found.parameter(lambda rgba: hex_colour((*rgba[:3], rgba[3] * opaque)))


def _shown(items: Any) -> list[dict[str, Any]]:
    """What of a list of shapes is one, and is not hidden."""
    return [one for one in items if isinstance(one, dict) and not one.get("hd")] if isinstance(items, list) else []


def _part_of(given: list[dict[str, Any]], at: int, around: Any) -> Any:
    """The part that is drawn of what stands at a place of a list: told by what comes after it, or around it."""
    return next((one for one in given[at + 1 :] if one.get("ty") == _PART), around)


def _gradient(one: dict[str, Any]) -> dict[str, Any]:
    """The colours of what is painted with a gradient."""
    given = one.get("g")
    return given if isinstance(given, dict) else {}


def _count_of(gradient: dict[str, Any]) -> int:
    """How many colours a gradient has."""
    count = gradient.get("p")
    return count if isinstance(count, int) and 2 <= count <= 64 else 2


def _alpha(alphas: list[tuple[float, float]], offset: float) -> float:
    """How opaque a gradient is at an offset."""
    if not alphas:
        return 1.0
    before = [one for one in alphas if one[0] <= offset] or alphas[:1]
    after = [one for one in alphas if one[0] >= offset] or alphas[-1:]
    (a, low), (b, high) = before[-1], after[0]
    return low if b <= a else low + (high - low) * (offset - a) / (b - a)
