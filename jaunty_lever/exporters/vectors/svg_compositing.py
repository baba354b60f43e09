"""Blends, filters and mattes as SVG has them."""

from collections.abc import Callable
from typing import Protocol
from xml.etree import ElementTree
from xml.etree.ElementTree import Element

import numpy as np

from jaunty_lever.core.display.display_list import DisplayList
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.compositing import BLENDS
from jaunty_lever.core.geometry.path_data import number

from .parts import IDENTITY, PIXEL, SHARE, reach_of, rows_of
from .tracks import Rows, Track, track

#: The luminance of what lies on black is what a mask of SVG takes by itself; alpha reversed needs a filter.
_BACKWARDS = "0 0 0 0 1 0 0 0 0 1 0 0 0 0 1 0 0 0 -1 1"


class Writing(Protocol):
    """What is asked of whoever writes the drawing, see `svg.SvgWriter`."""

    count: int
    """How many frames there are."""
    defs: Element
    drawn: DisplayList

    def new_id(self, kind: str) -> str: ...
    def colour(self, made: Element, name: str, rows: Rows) -> None: ...
    def attribute(self, made: Element, name: str, given: Track, told: Callable[[Rows], str]) -> None: ...
    def node(self, into: Element, node: DisplayNode, element: int, around: tuple[Rows, Rows]) -> None: ...


def blended(made: Element, node: DisplayNode, count: int, element: int) -> None:
    """Give an element its blend, as it is at first."""
    if "blend" in node.channels:
        first = round(float(rows_of(node.channels["blend"], element, count)[0, 0]))
        made.set("style", f"mix-blend-mode:{BLENDS[min(max(first, 0), len(BLENDS) - 1)]}")


def filtered(writer: Writing, made: Element, node: DisplayNode, element: int) -> None:
    """Give an element its filters."""
    kinds = node.fixed.get("filters", ())
    if not kinds:
        return
    far = reach_of(node)
    told = [rows_of(node.channels[f"filter.{k}"], element, writer.count) for k in range(len(kinds))]
    for kind, rows in zip(kinds, told, strict=True):
        if kind == "blur":
            far += 3 * float(rows.max())
        elif kind == "shadow":
            far += 3 * float(rows[:, 2].max()) + float(np.abs(rows[:, :2]).max())
    name = writer.new_id("f")
    whole = ElementTree.SubElement(
        writer.defs,
        "filter",
        {
            "id": name,
            "filterUnits": "userSpaceOnUse",
            "color-interpolation-filters": "sRGB",
            **{side: number(-far) for side in ("x", "y")},
            **{side: number(2 * far) for side in ("width", "height")},
        },
    )
    for kind, rows in zip(kinds, told, strict=True):
        if kind == "blur":
            _numbers(writer, ElementTree.SubElement(whole, "feGaussianBlur"), "stdDeviation", rows)
        elif kind == "matrix":
            _numbers(writer, ElementTree.SubElement(whole, "feColorMatrix", {"type": "matrix"}), "values", rows, SHARE)
        else:
            shade = ElementTree.SubElement(whole, "feDropShadow")
            for k, attribute in enumerate(("dx", "dy", "stdDeviation")):
                _numbers(writer, shade, attribute, rows[:, k : k + 1])
            writer.colour(shade, "flood-color", rows[:, 3:])
    made.set("filter", f"url(#{name})")


def _numbers(writer: Writing, made: Element, name: str, rows: Rows, tolerance: float = PIXEL / 2) -> None:
    writer.attribute(made, name, track(rows, tolerance), lambda value: " ".join(number(float(v), 4) for v in value))


def masked(writer: Writing, into: Element, node: DisplayNode, element: int) -> Element:
    """A group that shows only where a node's matte is, for the node to be put into."""
    assert node.matte is not None

    def first(name: str) -> bool:
        return bool(rows_of(node.channels[f"matte_{name}"], element, writer.count)[0, 0] >= 0.5)

    name = writer.new_id("m")
    wide, high = writer.drawn.width, writer.drawn.height
    box = {"x": number(-wide), "y": number(-high), "width": number(3 * wide), "height": number(3 * high)}
    mask = ElementTree.SubElement(writer.defs, "mask", {"id": name, "maskUnits": "userSpaceOnUse", **box})
    luminance, backwards = first("by"), first("backwards")
    if not luminance:
        mask.set("style", "mask-type:alpha")
    inside = mask
    if backwards and luminance:
        ElementTree.SubElement(mask, "rect", {**box, "fill": "#fff"})
        turned = writer.new_id("f")
        _filter(writer, turned, box, "-1 0 0 0 1 0 -1 0 0 1 0 0 -1 0 1 0 0 0 1 0")
        inside = ElementTree.SubElement(mask, "g", {"filter": f"url(#{turned})"})
        ElementTree.SubElement(inside, "rect", {**box, "fill": "#000"})
    elif backwards:
        turned = writer.new_id("f")
        _filter(writer, turned, box, _BACKWARDS)
        inside = ElementTree.SubElement(mask, "g", {"filter": f"url(#{turned})"})
    writer.node(inside, node.matte, 0, (IDENTITY, IDENTITY))
    return ElementTree.SubElement(into, "g", {"mask": f"url(#{name})"})


def _filter(writer: Writing, name: str, box: dict[str, str], values: str) -> None:
    whole = ElementTree.SubElement(
        writer.defs,
        "filter",
        {"id": name, "filterUnits": "userSpaceOnUse", "color-interpolation-filters": "sRGB", **box},
    )
    ElementTree.SubElement(whole, "feColorMatrix", {"type": "matrix", "values": values})
