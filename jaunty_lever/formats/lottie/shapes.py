"""Shapes of a Lottie file: groups, outlines, and what they are painted with."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from jaunty_lever.core.document.colours import hex_colour, parse_colour
from jaunty_lever.core.document.ids import new_id, one_line

from ..svg.shapes import MOST_LETTERS, NoShape, data_of, from_data, wound
from .curves import curve_of, moved_fields
from .lines import Beginning, beginning_of, line_of
from .moving import Clock, Numbers
from .values import Values, pairs

Layer = dict[str, Any]
_NOT_READ = {
    "rp": "Repeaters", "rd": "Corners rounded afterwards", "mm": "Shapes joined or cut by others",
    "pb": "Puckers and bloats", "tw": "Twists", "zz": "Zigzags", "op": "Outlines moved outwards",
}  # fmt: skip
_OUTLINES = ("sh", "rc", "el", "sr")
_SILENT = ("tr", "no")
_FILLS, _STROKES, _PART = ("fl", "gf"), ("st", "gs"), "tm"
_BACKWARDS = 3


@dataclass(frozen=True)
class Paint:
    """What shapes are painted with: a fill, a stroke, and the part of the stroke that is drawn."""

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
        return self._read(items, clock, deep, Paint())

    def _read(self, items: Any, clock: Clock, deep: int, around: Paint) -> list[Layer]:
        if deep <= 0:
            self._remark("Shapes that lie too deep in groups")
            return []
        given = [one for one in items if isinstance(one, dict) and not one.get("hd")] if isinstance(items, list) else []
        for one in given:
            kind = str(one.get("ty"))
            if kind in _NOT_READ:
                self._remark(_NOT_READ[kind])
            elif kind not in (*_OUTLINES, *_SILENT, *_FILLS, *_STROKES, _PART, "gr"):
                self._remark(f"Shapes of the kind {kind[:20]}")
        fills = [one for one in given if one.get("ty") in _FILLS]
        strokes = [one for one in given if one.get("ty") in _STROKES]
        if len(fills) > 1 or len(strokes) > 1:
            self._remark("Several fills or strokes on one shape: the topmost is taken")
        paint = Paint(fills[0] if fills else around.fill, strokes[0] if strokes else around.stroke, around.part)
        # A part tells of all that stands before it.
        parts = [(k, one) for k, one in enumerate(given) if one.get("ty") == _PART]
        if len(parts) + (paint.part is not None) > 1:
            self._remark("Outlines drawn in part of a part: the first is taken")

        def parted(before: int) -> Paint:
            return replace(paint, part=next((one for k, one in parts if k > before), paint.part))

        made: list[Layer] = []
        outlines = [(k, one) for k, one in enumerate(given) if one.get("ty") in _OUTLINES]
        if outlines and (paint.fill is not None or paint.stroke is not None):
            made += self._painted([one for _, one in outlines], parted(outlines[0][0]), clock)
        for k, one in reversed(list(enumerate(given))):
            if one.get("ty") == "gr":
                made += self._group(one, clock, deep, parted(k))
        return made

    def _group(self, one: dict[str, Any], clock: Clock, deep: int, paint: Paint) -> list[Layer]:
        items = one.get("it")
        inner = self._read(items, clock, deep - 1, paint)
        if not inner:
            return []
        place = next((part for part in items if isinstance(part, dict) and part.get("ty") == "tr"), {}) if isinstance(items, list) else {}  # fmt: skip
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
        paint: dict[str, Any] = {"fill": self._fill(fill, clock) if fill else {"kind": "none"}}
        if stroke:
            paint |= self._stroke(stroke, clock)
        if fill and not stroke and fill.get("ty") == "fl":
            paint["opacity"] = self._values.share(fill.get("o"), clock)
        rule = "evenodd" if fill and fill.get("r") == 2 else "nonzero"
        if given.part is not None and fill:
            self._remark("Fills of outlines drawn in part: they stay whole")
        made: list[Layer] = []
        curves: list[str] = []
        # A gradient stays where it is while an outline moves.
        alone = sum(one["ty"] == "sh" for one in outlines) == 1 and not (fill and fill.get("ty") == "gf")
        for one in reversed(outlines):
            kind = one["ty"]
            if kind == "sh":
                # A line would be stretched too.
                curve = curve_of(self._values, one.get("ks"), clock, alone, not stroke)
                if curve.moved is None:
                    curves.insert(0, curve.data)
                else:
                    line = self._line(given, clock, Beginning())
                    made.append(self._path(curve.data, rule) | paint | moved_fields(curve.moved) | line)
                continue
            figure = self._figure(one, kind, clock)
            begins = beginning_of(kind, figure, one.get("d") == _BACKWARDS)
            made.append(figure | paint | self._line(given, clock, begins))
        data = " ".join(part for part in curves if part)
        if data:
            made.insert(0, self._path(data, rule) | paint | self._line(given, clock, Beginning()))
        if given.part is not None and given.part.get("m") == 2 and len(made) > 1:
            self._remark("Outlines drawn in part one after another: figures are drawn each by itself")
        for layer in made:
            self._count()
            layer["id"] = new_id("layer")
        return [layer for layer in made if layer.get("data") != ""]

    def _line(self, paint: Paint, clock: Clock, begins: Beginning) -> dict[str, Any]:
        made = line_of(self._values, paint.stroke, paint.part, clock, begins) if paint.stroke else None
        return {"line": made} if made else {}

    def _path(self, data: str, rule: str) -> Layer:
        try:
            if rule == "evenodd":
                data = data_of(wound(from_data(data).path, rule))
            if len(data) > MOST_LETTERS:
                raise NoShape("its outline is too long")
        except NoShape as error:
            self._remark(f"Outlines that are left out: {str(error).rstrip('.')}")
            data = ""
        return {"kind": "path", "name": "Path", "data": data}

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

    def _fill(self, one: dict[str, Any], clock: Clock) -> dict[str, Any]:
        if one.get("ty") == "fl":
            return {"kind": "solid", "colour": self._colour(one.get("c"), clock)}
        values = self._stops(_gradient(one).get("k"), clock, _count_of(_gradient(one)))
        start, end = (self._values.moving(one.get(name), clock, 2, (0.0, 0.0)) for name in ("s", "e"))
        stops = [
            {"id": new_id("stop"), "offset": min(max(offset, 0.0), 1.0) * 100, "colour": hex_colour(rgba)}
            for offset, rgba in values[:: max(1, -(-len(values) // 16))]
        ]
        if len(values) > 16:
            self._remark("Gradients of more than 16 colours: some are left out")
        if one.get("t") == 2:
            a, b = start.first, end.first
            radius = max(((a[0] - b[0]) ** 2 + (a[1] - b[1]) ** 2) ** 0.5, 0.01)
            return {"kind": "radial", "centre": pairs(start), "radius": radius, "stops": stops}
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

    def _stroke(self, one: dict[str, Any], clock: Clock) -> dict[str, Any]:
        opaque = self._values.moving(one.get("o"), clock, 1, (100.0,)).first[0] / 100
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
