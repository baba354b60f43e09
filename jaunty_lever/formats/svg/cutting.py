"""What of an SVG is cut, masked, blurred and laid down in ways of its own, as mattes, filters and blends of layers."""

from collections.abc import Callable
from dataclasses import replace
from typing import Any
from xml.etree.ElementTree import Element

import skia

from .affine import IDENTITY, Affine, inverse, parse, size_of, times
from .boxes import Box, around, moved
from .effects import NotRead, blend_of, filters_of
from .joined import Place
from .made import Layers, Made, named, tag
from .painting import Painter
from .shapes import Shape
from .styles import Style, length, referred

_NEAR = 0.5
"""Pixels by which something may go beyond the sides of a window without being cut."""
_DEEPEST = 20
_CUT = {"clipPath": "Clip", "mask": "Mask"}
"""What is called so where nobody has named it."""


class Cutter:
    """Wraps what was drawn. `children` draws what is in an element; `dressed` tells how one is dressed by itself."""

    def __init__(
        self,
        by_id: dict[str, Element],
        layers: Layers,
        painter: Painter,
        children: Callable[[Element, Place], list[Made]],
        dressed: Callable[[Element], Style],
        remark: Callable[[str], None],
    ) -> None:
        self._by_id, self._layers, self._painter, self._children = by_id, layers, painter, children
        self._dressed, self._remark = dressed, remark
        self._within: list[str] = []

    @staticmethod
    def wanted(style: Style) -> bool:
        """Whether there is anything to wrap."""
        return any(style.get(name, "none").strip() not in ("none", "") for name in ("clip-path", "mask", "filter")) or (
            style.get("mix-blend-mode", "normal").strip() != "normal"
        )

    def cut(self, node: Element, place: Place, made: list[Made]) -> list[Made]:
        """What was drawn of an element, wrapped: filtered, then cut, then masked, as CSS has it, and blended at
        last."""
        if not made or not self.wanted(place.style):
            return made
        style, name = place.style, named(node) or "Group"
        if not place.cuts:
            made = self._filtered(style, place, made, name)
        bare = around([one.bare for one in made])
        for what, kind, by in (("clip-path", "clipPath", "alpha"), ("mask", "mask", "luminance")):
            told = style.get(what, "none").strip()
            if told in ("none", ""):
                continue
            found = referred(told)
            if found is None:
                self._remark(
                    "Clips told by CSS: nothing is cut off" if kind == "clipPath" else "Masks that are pictures"
                )
                continue
            source = self._by_id.get(found[0])
            if source is None or tag(source) != kind:
                # As if it were not there.
                continue
            made = self._matted(source, kind, by, place, made, named(node) or _CUT[kind], bare)
            if not made:
                return []
        blend = blend_of(style, self._remark) if not place.cuts else "normal"
        if blend != "normal":
            made = [self._one(made, name)]
            made[0].layer["blend"] = blend
        return made

    def window(self, seen: Box, place: Place, made: list[Made]) -> list[Made]:
        """What was drawn, seen through a window (left, top, width, height) where it is larger than that."""
        whole = moved(seen, place.matrix)
        box = around([one.box for one in made]) if made else (0.0, 0.0, 0.0, 0.0)
        inside = (
            box[0] >= whole[0] - _NEAR
            and box[1] >= whole[1] - _NEAR
            and box[0] + box[2] <= whole[0] + whole[2] + _NEAR
            and box[1] + box[3] <= whole[1] + whole[3] + _NEAR
        )
        if not made or inside:
            return made
        pane = skia.Path()
        pane.addRect(skia.Rect.MakeXYWH(*seen))
        opening = self._painter.painted(Shape(pane, "rectangle"), replace(place, style={}, cuts=True), "Window")
        return self._through(made, opening, "alpha", "Window", "Opening") if opening else []

    def _matted(
        self, source: Element, kind: str, by: str, place: Place, made: list[Made], name: str, bare: Box
    ) -> list[Made]:
        key = source.get("id") or ""
        if key in self._within or len(self._within) >= _DEEPEST:
            self._remark("Clips and masks of themselves")
            return made
        style = self._dressed(source)
        own: Affine = IDENTITY
        if kind == "clipPath":
            try:
                own = parse(style.get("transform", ""))
            except ValueError:
                self._remark("Transforms that make no sense")
        units = source.get("clipPathUnits" if kind == "clipPath" else "maskContentUnits")
        inside = times(place.matrix, own)
        wide, high = place.wide, place.high
        if units == "objectBoundingBox":
            if size_of(place.matrix) == 0:
                return []
            x, y, w, h = moved(bare, inverse(place.matrix))
            inside, wide, high = times(inside, (w, 0, 0, h, x, y)), 1.0, 1.0
        here = replace(
            place,
            style=style if kind == "mask" else {},
            matrix=inside,
            wide=wide,
            high=high,
            depth=place.depth + 1,
            cuts=kind == "clipPath",
        )
        self._within.append(key)
        try:
            drawn = self._children(source, here)
            if kind == "mask":
                drawn = self._seen_of_mask(source, place, bare, drawn)
            # A clip may itself be cut, and a mask masked.
            drawn = self.cut(source, replace(here, style=style, cuts=True), drawn) if drawn else []
        finally:
            self._within.pop()
        if not drawn:
            # Nothing is left of what is cut to nothing.
            return []
        return self._through(made, drawn, by, name, key or _CUT[kind])

    def _seen_of_mask(self, source: Element, place: Place, bare: Box, drawn: list[Made]) -> list[Made]:
        """What of a mask lies in its own box: a tenth around what it is for, if nothing else is told."""
        if source.get("maskUnits") == "userSpaceOnUse":
            sides = [
                length(source.get(name) or default, whole)
                for name, default, whole in (
                    ("x", "-10%", place.wide),
                    ("y", "-10%", place.high),
                    ("width", "120%", place.wide),
                    ("height", "120%", place.high),
                )
            ]
        elif size_of(place.matrix) == 0:
            return drawn
        else:
            x, y, w, h = moved(bare, inverse(place.matrix))
            told = [
                length(source.get(name) or default, 1.0)
                for name, default in (("x", "-10%"), ("y", "-10%"), ("width", "120%"), ("height", "120%"))
            ]
            sides = [x + told[0] * w, y + told[1] * h, told[2] * w, told[3] * h]
        # What goes beyond it and beyond what it is for is not seen in any case.
        seen = moved((sides[0], sides[1], sides[2], sides[3]), place.matrix)
        if all(seen[k] <= bare[k] + _NEAR and seen[k] + seen[k + 2] >= bare[k] + bare[k + 2] - _NEAR for k in (0, 1)):
            return drawn
        return self.window((sides[0], sides[1], sides[2], sides[3]), place, drawn)

    def _through(self, made: list[Made], opening: list[Made], by: str, name: str, through: str) -> list[Made]:
        """Layers that are seen only where others are, which are hidden."""
        shown = self._one(made, name) if len(made) > 1 or made[0].layer.get("matte") else made[0]
        cut = self._one(opening, through) if len(opening) > 1 or opening[0].layer.get("matte") else opening[0]
        cut.layer |= {"hidden": True, "name": through[:120]}
        shown.layer["matte"] = {"layer": cut.layer["id"], "by": by}
        both = self._layers.group([shown, Made(cut.layer, shown.box, shown.bare)], name)
        return [both]

    def _one(self, made: list[Made], name: str) -> Made:
        """All of it as one layer that nothing else is told of."""
        return self._layers.group(made, name)

    def _filtered(self, style: Style, place: Place, made: list[Made], name: str) -> list[Made]:
        if style.get("filter", "none").strip() in ("none", ""):
            return made
        grown = abs(size_of(place.matrix)) ** 0.5
        try:
            found: list[dict[str, Any]] = filters_of(style, self._by_id, self._dressed, grown, place.em)
        except NotRead as error:
            self._remark(f"Filters of a kind that layers do not have ({error})")
            return made
        if not found:
            return made
        whole = self._one(made, name)
        whole.layer["filters"] = found
        return [whole]


__all__ = ["Cutter"]
