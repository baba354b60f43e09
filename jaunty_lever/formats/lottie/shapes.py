"""Shapes of a Lottie file: groups, outlines, and what they are painted with."""

from collections.abc import Callable, Sequence
from typing import Any

from jaunty_lever.core.document.colours import hex_colour, parse_colour
from jaunty_lever.core.document.ids import new_id, one_line

from ..svg.shapes import MOST_LETTERS, NoShape, data_of, from_data, plainly, wound
from .moving import Clock, Numbers
from .values import Values, pairs

Layer = dict[str, Any]
_NOT_READ = {
    "tm": "Outlines drawn in part", "rp": "Repeaters", "rd": "Corners rounded afterwards", "mm": "Shapes joined or cut by others",
    "pb": "Puckers and bloats", "tw": "Twists", "zz": "Zigzags", "op": "Outlines moved outwards", "gs": "Gradients of strokes",
}  # fmt: skip
_OUTLINES = ("sh", "rc", "el", "sr")
_SILENT = ("tr", "no")


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
        return self._read(items, clock, deep, None, None)

    def _read(
        self, items: Any, clock: Clock, deep: int, fill: dict[str, Any] | None, stroke: dict[str, Any] | None
    ) -> list[Layer]:
        if deep <= 0:
            self._remark("Shapes that lie too deep in groups")
            return []
        given = [one for one in items if isinstance(one, dict) and not one.get("hd")] if isinstance(items, list) else []
        for one in given:
            kind = str(one.get("ty"))
            if kind in _NOT_READ:
                self._remark(_NOT_READ[kind])
            elif kind not in (*_OUTLINES, *_SILENT, "gr", "fl", "st", "gf"):
                self._remark(f"Shapes of the kind {kind[:20]}")
        fills = [one for one in given if one.get("ty") in ("fl", "gf")]
        strokes = [one for one in given if one.get("ty") == "st"]
        if len(fills) > 1 or len(strokes) > 1:
            self._remark("Several fills or strokes on one shape: the topmost is taken")
        fill, stroke = (fills[0] if fills else fill), (strokes[0] if strokes else stroke)
        made: list[Layer] = []
        outlines = [one for one in given if one.get("ty") in _OUTLINES]
        if outlines and (fill is not None or stroke is not None):
            made += self._painted(outlines, fill, stroke, clock)
        for one in reversed(given):
            if one.get("ty") == "gr":
                made += self._group(one, clock, deep, fill, stroke)
        return made

    def _group(
        self, one: dict[str, Any], clock: Clock, deep: int, fill: dict[str, Any] | None, stroke: dict[str, Any] | None
    ) -> list[Layer]:
        items = one.get("it")
        inner = self._read(items, clock, deep - 1, fill, stroke)
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

    def _painted(
        self,
        outlines: Sequence[dict[str, Any]],
        fill: dict[str, Any] | None,
        stroke: dict[str, Any] | None,
        clock: Clock,
    ) -> list[Layer]:
        paint: dict[str, Any] = {"fill": self._fill(fill, clock) if fill else {"kind": "none"}}
        if stroke:
            paint |= self._stroke(stroke, clock)
        if fill and not stroke and fill.get("ty") == "fl":
            paint["opacity"] = self._values.share(fill.get("o"), clock)
        rule = "evenodd" if fill and fill.get("r") == 2 else "nonzero"
        made: list[Layer] = []
        curves: list[str] = []
        for one in reversed(outlines):
            kind = one["ty"]
            if kind == "sh":
                curves.insert(0, self._curve(one.get("ks"), clock))
                continue
            made.append(self._figure(one, kind, clock) | paint)
        data = " ".join(part for part in curves if part)
        if data:
            made.insert(0, self._path(data, rule) | paint)
        for layer in made:
            self._count()
            layer["id"] = new_id("layer")
        return [layer for layer in made if layer.get("data") != ""]

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

    def _curve(self, ks: Any, clock: Clock) -> str:
        """An outline as path data; of one that changes, as it stands first."""
        shape = ks.get("k") if isinstance(ks, dict) else None
        if isinstance(shape, list) and shape and isinstance(shape[0], dict) and "t" in shape[0]:
            if len(shape) > 1:
                self._remark("Outlines that change: they stay as they are at first")
            shape = shape[0].get("s")
        if isinstance(shape, list) and shape:
            shape = shape[0]
        if not isinstance(shape, dict):
            return ""
        try:
            corners, into, out = ([_point(one) for one in shape.get(name) or ()] for name in ("v", "i", "o"))
        except (TypeError, ValueError, IndexError):
            self._remark("Outlines that make no sense")
            return ""
        if not corners or len(into) != len(corners) or len(out) != len(corners):
            return ""
        told = [f"M{plainly(corners[0])}"]
        many = len(corners)
        for k in range(many if shape.get("c") else many - 1):
            a, b = corners[k], corners[(k + 1) % many]
            first = (a[0] + out[k][0], a[1] + out[k][1])
            last = (b[0] + into[(k + 1) % many][0], b[1] + into[(k + 1) % many][1])
            told.append(f"C{plainly(first + last + b)}")
        return "".join([*told, "Z" if shape.get("c") else ""])

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
        given = one.get("g")
        gradient: dict[str, Any] = given if isinstance(given, dict) else {}
        count = gradient.get("p")
        count = count if isinstance(count, int) and 2 <= count <= 64 else 2
        values = self._stops(gradient.get("k"), clock, count)
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
        if one.get("d"):
            self._remark("Dashed strokes: they become whole")
        if one.get("lc", 2) != 2 or one.get("lj", 2) != 2:
            self._remark("Corners and ends of strokes: they become round")
        opaque = self._values.moving(one.get("o"), clock, 1, (100.0,)).first[0] / 100
        width = self._values.moving(one.get("w"), clock, 1, (1.0,)).parameter(lambda value: max(value[0], 0.0))
        return {"stroke": self._colour(one.get("c"), clock, opaque), "stroke_width": width}

    def _colour(self, given: Any, clock: Clock, opaque: float = 1.0) -> Any:
        found = self._values.moving(given, clock, 4, (0.0, 0.0, 0.0, 1.0))
        if any(part > 1.001 for part in found.first[:3]):
            # Files of the first versions counted to 255.
            found = found.each(lambda rgba: (*(part / 255 for part in rgba[:3]), 1.0))
        return found.parameter(lambda rgba: hex_colour((*rgba[:3], rgba[3] * opaque)))


def _alpha(alphas: list[tuple[float, float]], offset: float) -> float:
    """How opaque a gradient is at an offset."""
    if not alphas:
        return 1.0
    before = [one for one in alphas if one[0] <= offset] or alphas[:1]
    after = [one for one in alphas if one[0] >= offset] or alphas[-1:]
    (a, low), (b, high) = before[-1], after[0]
    return low if b <= a else low + (high - low) * (offset - a) / (b - a)


def _point(given: Any) -> tuple[float, float]:
    x, y = float(given[0]), float(given[1])
    if not (abs(x) <= 1e6 and abs(y) <= 1e6):
        raise ValueError("too far")
    return x, y
