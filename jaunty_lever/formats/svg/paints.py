"""What an SVG's shapes are painted with: colours and gradients as fills of layers."""

import math
from dataclasses import dataclass
from typing import Any
from xml.etree.ElementTree import Element

import numpy as np

from jaunty_lever.core.document.colours import hex_colour
from jaunty_lever.core.document.ids import new_id

from .affine import IDENTITY, Affine, Point, parse, size_of, through, times
from .boxes import Box
from .made import tag
from .styles import Colour, Style, across, colour, length, referred, share

_ROUND = 2e-3
"""By how much an ellipse may be wider than high and count as round."""
_WITHIN = 0.999
"""How far out a focus may lie, in radii: on the edge itself a gradient has no colour at all beyond it."""
_HREF = "{http://www.w3.org/1999/xlink}href"


def href(node: Element) -> str:
    """What an element refers to."""
    return (node.get("href") or node.get(_HREF) or "").strip()


@dataclass(frozen=True)
class Gradient:
    """A gradient of a file: `matrix` leads from its own coordinates to those of what it paints."""

    kind: str
    """linear or radial."""
    matrix: Affine
    stops: list[dict[str, Any]]
    start: Point
    """Where a linear one begins; the middle of a radial one."""
    end: Point = (0.0, 0.0)
    radius: float = 0.0
    focus: Point = (0.0, 0.0)
    """Of a radial one, from its middle."""

    def frame(self, within: Affine) -> Affine | None:
        """The coordinates in which a radial one is round, in those that `within` leads to; None where it is there
        already."""
        a, b, c, d, _, _ = times(within, self.matrix)
        if self.kind == "linear":
            return None
        turn, sizes, _ = np.linalg.svd(np.array([[a, c], [b, d]]))
        if sizes[0] - sizes[1] <= _ROUND * sizes[0]:
            return None
        if np.linalg.det(turn) < 0:
            turn[:, 1] *= -1
        made = turn * sizes / math.sqrt(sizes[0] * sizes[1])
        return (made[0, 0], made[1, 0], made[0, 1], made[1, 1], 0.0, 0.0)

    def fill(self, within: Affine) -> dict[str, Any]:
        """As a fill of a layer, to whose coordinates `within` leads; round there, if it is radial."""
        matrix = times(within, self.matrix)
        stops = [{**one, "id": new_id("stop")} for one in self.stops]
        if self.kind == "linear":
            first, last = _line(matrix, self.start, self.end)
            return {"kind": "linear", "start": first, "end": last, "stops": stops}
        centre, grown = through(matrix, *self.start), abs(size_of(matrix)) ** 0.5
        made = {"kind": "radial", "centre": centre, "radius": self.radius * grown, "stops": stops}
        if self.focus != (0.0, 0.0):
            x, y = through(matrix, self.start[0] + self.focus[0], self.start[1] + self.focus[1])
            made["focus"] = (x - centre[0], y - centre[1])
        return made


Paint = Gradient | str | None
"""A gradient, a colour, or nothing."""


class Paints:
    """The gradients of a file, and how they are dressed."""

    def __init__(self, by_id: dict[str, Element], styles: dict[Element, Style], remark: Any) -> None:
        self._by_id, self._styles, self._remark = by_id, styles, remark

    def of(self, style: Style, what: str, box: Box, around: tuple[float, float]) -> Paint:
        """The paint of a fill or a stroke; `box`: what it is in, `around`: the size that shares are taken of."""
        text = style.get(what, "black" if what == "fill" else "none")
        opaque = share(style.get(f"{what}-opacity"))
        if (found_in := referred(text)) is not None:
            node = self._by_id.get(found_in[0])
            found = self._gradient(node, box, around, opaque) if node is not None else ""
            if found != "":
                return found
            if node is not None and tag(node) == "pattern" and not found_in[1]:
                self._remark("Patterns: what they fill is left empty")
            text = found_in[1] or "none"
        rgba = colour(text, style.get("color", "black"))
        if text.strip() == "none" or rgba is None or rgba[3] * opaque == 0:
            return None
        return _hex(rgba, opaque)

    def _gradient(self, node: Element, box: Box, around: tuple[float, float], opaque: float) -> Paint:
        """What a gradient comes to; an empty text for what is none."""
        kind = tag(node)
        if kind not in ("linearGradient", "radialGradient"):
            return ""
        stops = self._stops(node, opaque, set())
        if not stops:
            return None
        if len(stops) == 1:
            return str(stops[0]["colour"])
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
        matrix = times(unit, own)
        if relative and 0 in box[2:]:
            # What has no width or no height has no box to lay it out in, and is not painted.
            return None
        if size_of(matrix) == 0:
            return str(stops[-1]["colour"])

        def get(name: str, whole: float, default: str) -> float:
            return length(self._get(node, name) or default, whole)

        if kind == "linearGradient":
            start = (get("x1", wide, "0%"), get("y1", high, "0%"))
            end = (get("x2", wide, "100%"), get("y2", high, "0%"))
            return str(stops[-1]["colour"]) if start == end else Gradient("linear", matrix, stops, start, end)
        centre = (get("cx", wide, "50%"), get("cy", high, "50%"))
        radius = get("r", wide if relative else across(wide, high), "50%")
        if radius <= 0:
            return str(stops[-1]["colour"])
        away = (get("fx", wide, f"{centre[0]}") - centre[0], get("fy", high, f"{centre[1]}") - centre[1])
        if math.hypot(*away) > radius * _WITHIN:
            # A focus outside lies on the edge.
            nearer = radius * _WITHIN / math.hypot(*away)
            away = (away[0] * nearer, away[1] * nearer)
        if self._get(node, "fr") not in (None, "0", "0%"):
            self._remark("Radial gradients that begin with a circle: they begin with its middle")
        return Gradient("radial", matrix, stops, centre, radius=radius, focus=away)

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
            if tag(one) != "stop":
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
    """Start and end of a linear gradient through a transform, which its lines of one colour keep going straight
    across."""
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
