"""What an SVG's shapes are painted with: colours and gradients as fills of layers."""

import re
from typing import Any
from xml.etree.ElementTree import Element

from jaunty_lever.core.document.colours import hex_colour
from jaunty_lever.core.document.ids import new_id

from .affine import IDENTITY, Affine, parse, size_of, through, times
from .boxes import Box
from .styles import Colour, Style, colour, length, share

_URL = re.compile(r"url\(\s*['\"]?#([^'\")]+)['\"]?\s*\)\s*(.*)$", re.IGNORECASE)
_HREF = "{http://www.w3.org/1999/xlink}href"


def href(node: Element) -> str:
    """What an element refers to."""
    return (node.get("href") or node.get(_HREF) or "").strip()


class Paints:
    """The gradients of a file, and how they are dressed."""

    def __init__(self, by_id: dict[str, Element], styles: dict[Element, Style], remark: Any) -> None:
        self._by_id, self._styles, self._remark = by_id, styles, remark

    def fill(self, style: Style, box: Box, around: tuple[float, float], within: Affine) -> dict[str, Any]:
        """A fill, as a layer's; `within`: from the shape's coordinates to those of the layer."""
        text, opaque = style.get("fill", "black"), share(style.get("fill-opacity"))
        match = _URL.match(text)
        if match:
            node = self._by_id.get(match[1])
            made = self._gradient(node, box, around, within, opaque) if node is not None else None
            if made is not None:
                return made
            text = match[2] or "none"
        rgba = colour(text, style.get("color", "black"))
        if text.strip() == "none" or rgba is None or rgba[3] * opaque == 0:
            return {"kind": "none"}
        return {"kind": "solid", "colour": _hex(rgba, opaque)}

    def stroke(self, style: Style, around: tuple[float, float], em: float) -> tuple[str, float]:
        """Colour and width of a stroke; width 0 for none."""
        text, opaque = style.get("stroke", "none"), share(style.get("stroke-opacity"))
        width = length(style.get("stroke-width"), (around[0] + around[1]) / 2, 1.0, em)
        match = _URL.match(text)
        if match:
            node = self._by_id.get(match[1])
            stops = self._stops(node, 1.0, set()) if node is not None else []
            if stops:
                self._remark("Gradients of strokes: the first colour is taken")
                return stops[0]["colour"], max(width, 0.0)
            text = match[2] or "none"
        rgba = colour(text, style.get("color", "black"))
        if text.strip() == "none" or rgba is None or rgba[3] * opaque == 0 or width <= 0:
            return "#000000", 0.0
        return _hex(rgba, opaque), width

    def _gradient(
        self, node: Element, box: Box, around: tuple[float, float], within: Affine, opaque: float
    ) -> dict[str, Any] | None:
        kind = node.tag.rpartition("}")[2]
        if kind not in ("linearGradient", "radialGradient"):
            if kind == "pattern":
                self._remark("Patterns: what they fill is left empty")
            return None
        stops = self._stops(node, opaque, set())
        if not stops:
            return {"kind": "none"}
        if len(stops) == 1:
            return {"kind": "solid", "colour": stops[0]["colour"]}
        if len(stops) > 16:
            self._remark("Gradients of more than 16 colours: some are left out")
            stops = [stops[round(k * (len(stops) - 1) / 15)] for k in range(16)]
        if self._get(node, "spreadMethod") not in (None, "pad"):
            self._remark("Gradients that repeat: they stop at their ends")
        relative = self._get(node, "gradientUnits") != "userSpaceOnUse"
        unit: Affine = (box[2], 0, 0, box[3], box[0], box[1]) if relative else IDENTITY
        wide, high = (1.0, 1.0) if relative else around
        try:
            own = parse(self._get(node, "gradientTransform") or "")
        except ValueError:
            own = IDENTITY
        matrix = times(within, times(unit, own))
        if size_of(matrix) == 0:
            return {"kind": "solid", "colour": stops[-1]["colour"]}

        def get(name: str, whole: float, default: str) -> float:
            return length(self._get(node, name) or default, whole)

        if kind == "linearGradient":
            start = (get("x1", wide, "0%"), get("y1", high, "0%"))
            end = (get("x2", wide, "100%"), get("y2", high, "0%"))
            if start == end:
                return {"kind": "solid", "colour": stops[-1]["colour"]}
            first, last = _line(matrix, start, end)
            return {"kind": "linear", "start": first, "end": last, "stops": stops}
        centre = (get("cx", wide, "50%"), get("cy", high, "50%"))
        radius = get("r", wide if relative else (wide + high) / 2, "50%")
        if any(
            self._get(node, name) not in (None, self._get(node, other)) for name, other in (("fx", "cx"), ("fy", "cy"))
        ):
            self._remark("Radial gradients with a focus of their own: it is put in the middle")
        a, b, c, d, _, _ = matrix
        if abs(a * c + b * d) > 1e-4 * abs(size_of(matrix)) or abs(a * a + b * b - c * c - d * d) > 1e-3 * abs(
            size_of(matrix)
        ):
            self._remark("Elliptic gradients: they become round")
        return {
            "kind": "radial",
            "centre": through(matrix, *centre),
            "radius": radius * abs(size_of(matrix)) ** 0.5,
            "stops": stops,
        }

    def _get(self, node: Element, name: str) -> str | None:
        """An attribute, or that of the gradient it refers to."""
        seen: set[str] = set()
        here: Element | None = node
        while here is not None:
            if name in here.attrib:
                return here.attrib[name]
            other = href(here).removeprefix("#")
            if other in seen or len(seen) > 20:
                return None
            seen.add(other)
            here = self._by_id.get(other)
        return None

    def _stops(self, node: Element, opaque: float, seen: set[str]) -> list[dict[str, Any]]:
        made, least = [], 0.0
        for one in node:
            if one.tag.rpartition("}")[2] != "stop":
                continue
            style = self._styles.get(one, {})
            rgba = colour(style.get("stop-color", "black"), style.get("color", "black")) or (0.0, 0.0, 0.0, 1.0)
            # An offset is never less than the one before it.
            least = max(least, share(one.get("offset"), 0.0))
            told = _hex(rgba, share(style.get("stop-opacity")) * opaque)
            made.append({"id": new_id("stop"), "offset": round(least * 100, 4), "colour": told})
        other = href(node).removeprefix("#")
        if not made and other and other not in seen and other in self._by_id:
            return self._stops(self._by_id[other], opaque, seen | {other})
        return made


def _line(
    matrix: Affine, start: tuple[float, float], end: tuple[float, float]
) -> tuple[tuple[float, float], tuple[float, float]]:
    """Start and end of a linear gradient through a transform, which its lines of one colour keep going straight across."""
    a, b, c, d, _, _ = matrix
    x, y = end[0] - start[0], end[1] - start[1]
    size = x * x + y * y
    # How the share grows by px in the new coordinates: the inverse transposed, applied to how it grows in the old.
    gx, gy = x / size, y / size
    over = size_of(matrix)
    nx, ny = (d * gx - b * gy) / over, (a * gy - c * gx) / over
    steep = nx * nx + ny * ny
    first = through(matrix, *start)
    return first, (first[0] + nx / steep, first[1] + ny / steep)


def _hex(rgba: Colour, opaque: float) -> str:
    return hex_colour((*rgba[:3], rgba[3] * opaque))
