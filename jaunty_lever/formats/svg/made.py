"""Layers that came out of an SVG, on their way into groups."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any
from xml.etree.ElementTree import Element

from jaunty_lever.core.document.ids import new_id, one_line
from jaunty_lever.core.document.limits import MOST_LAYERS_IN_SCENE

from ..open_json import BadFile
from .affine import IDENTITY, Affine, placed, through
from .boxes import Box, around, moved


@dataclass
class Made:
    """A layer, the box that it fills in its parent's coordinates, and that of its outlines without their lines."""

    layer: dict[str, Any]
    box: Box
    bare: Box


class Layers:
    """Counts them, and puts them into groups."""

    def __init__(self) -> None:
        self._count = 0

    def count(self) -> None:
        """One more. Raises BadFile for more than a scene holds."""
        self._count += 1
        if self._count > MOST_LAYERS_IN_SCENE - 20:
            raise BadFile(
                f"This SVG would become more than {MOST_LAYERS_IN_SCENE - 20:,} layers, and a scene holds "
                f"{MOST_LAYERS_IN_SCENE:,}. Join what need not move by itself into fewer paths."
            )

    def group(self, children: Sequence[Made], name: str, matrix: Affine = IDENTITY, opaque: float = 1.0) -> Made:
        """Layers in a group that turns about the middle of what it holds; `matrix` has no slant."""
        spot = placed(matrix)
        assert spot is not None
        box = around([one.box for one in children])
        middle = (box[0] + box[2] / 2, box[1] + box[3] / 2)
        layer = {
            "kind": "group",
            "id": new_id("layer"),
            "name": name,
            "position": through(matrix, *middle),
            "pivot": middle,
            "rotation": spot[0],
            "scale": spot[1],
            "opacity": opaque * 100,
            "layers": [one.layer for one in children],
        }
        self.count()
        return Made(layer, moved(box, matrix), moved(around([one.bare for one in children]), matrix))


def named(node: Element) -> str:
    """What an element is called: by its title, or else by its label or id."""
    for child in node:
        if tag(child) == "title" and child.text:
            return one_line(child.text)[:120].strip()
    return one_line(node.get("aria-label") or node.get("id") or "")[:120].strip()


def tag(node: Element) -> str:
    """An element's name without its namespace; nothing for what is no element."""
    return node.tag.rpartition("}")[2] if isinstance(node.tag, str) else ""
