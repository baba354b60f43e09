"""From an SVG file to layers: groups, shapes, texts as outlines, pictures that it holds.

What is not read is remarked on, once for each kind, with how many there are; the rest comes in.
"""

import base64
import binascii
import re
from collections.abc import Iterator
from dataclasses import dataclass, field, replace
from typing import Any
from urllib.parse import unquote_to_bytes
from xml.etree.ElementTree import Element, ParseError

import cssselect2
import defusedxml
import skia
from defusedxml.ElementTree import fromstring

from jaunty_lever.core.document.ids import new_id, one_line
from jaunty_lever.core.document.limits import MOST_LAYERS_IN_SCENE
from jaunty_lever.core.document.line_style import CAPS, JOINS
from jaunty_lever.core.document.pictures import Picture

from ..open_json import BadFile
from ..pictures import BadPicture, take_in
from ..remarks import Remarks
from .affine import IDENTITY, Affine, numbers, parse, placed, size_of, through, times
from .boxes import Box, around, fitted, moved
from .joined import Joined, Place
from .paints import Paints, href
from .shapes import NoShape, Shape, data_of, shape_of, transformed, wound
from .styles import Sheets, Style, length, share
from .texts import SPACE, Dressed, Texts

MOST_BYTES = 30 << 20
MOST_NODES = 200_000
MOST_ELEMENTS = 20_000
"""Drawn, those counted each time that are used again and again."""
DEEPEST = 100
MOST_SIDE = 8192

_SHAPES = {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon"}
_GROUPS = {"g", "a", "svg", "switch", "symbol"}
_SILENT = {"title", "desc", "metadata", "defs", "style", "linearGradient", "radialGradient", "symbol", "stop", "view"}
_NOT_READ = {
    "script": "Scripts: they are never run",
    "foreignObject": "Pages within the drawing",
    "animate": "Animations: the drawing comes in as it stands at its start",
    "textPath": "Texts along paths",
    "pattern": "Patterns: what they fill is left empty",
    "marker": "Markers at the ends of lines",
    "mask": "Masks",
    "clipPath": "Clips: nothing is cut off",
    "filter": "Filters",
}
_NOT_READ |= dict.fromkeys(("animateTransform", "animateMotion", "set", "animateColor"), _NOT_READ["animate"])
_STYLED = {"clip-path": "clipPath", "mask": "mask", "filter": "filter"} | dict.fromkeys(
    ("marker-start", "marker-mid", "marker-end"), "marker"
)
_DATA = re.compile(r"data:image/(?:png|jpe?g|webp|gif)(?:;[\w=-]+)*?(;base64)?,", re.IGNORECASE)


@dataclass
class SvgDrawing:
    """What came out of a file: layers as plain data, the lowest first, in pixels of the drawing."""

    name: str
    width: int
    height: int
    layers: list[dict[str, Any]]
    pictures: list[Picture]
    remarks: list[str]


def read(content: bytes, name: str = "Drawing") -> SvgDrawing:
    """An SVG file as layers. Raises BadFile, with what is the matter in words."""
    if len(content) > MOST_BYTES:
        raise BadFile(f"The file has {len(content) / 1e6:.0f} MB; an SVG of up to {MOST_BYTES >> 20} MB comes in.")
    try:
        root: Element = fromstring(content)
    except defusedxml.DefusedXmlException:
        raise BadFile("The file defines entities of its own. Those are not read: save it without them.") from None
    except ParseError as error:
        raise BadFile(f"This is no SVG: {error}. Perhaps it was cut off on its way.") from None
    except (ValueError, LookupError, RecursionError) as error:
        raise BadFile(f"This is no SVG: {error}.") from None
    if _tag(root) != "svg":
        raise BadFile(f"This is no SVG: it begins with <{_tag(root)[:40]}>.")
    if sum(1 for _ in root.iter()) > MOST_NODES:
        raise BadFile(f"This SVG has more than {MOST_NODES:,} elements.")
    return _Reader(root).drawing(name)


def _tag(node: Element) -> str:
    return node.tag.rpartition("}")[2] if isinstance(node.tag, str) else ""


@dataclass
class _Made:
    """A layer, and the box it fills in its parent's coordinates."""

    layer: dict[str, Any]
    box: Box


@dataclass
class _Reader:
    root: Element
    joining: bool = False
    """Whether there are more shapes than a scene holds layers, so that neighbours are joined."""
    counted: int = 0
    layers: int = 0
    remarks: Remarks = field(default_factory=Remarks)
    pictures: dict[str, Picture] = field(default_factory=dict)

    def drawing(self, name: str) -> SvgDrawing:
        root, sheets = self.root, Sheets()
        for node in root.iter():
            if _tag(node) == "style" and (node.get("type") or "text/css").strip() == "text/css":
                sheets.add("".join(node.itertext())[:1_000_000])
        self.sheets = sheets
        shapes = sum(_tag(node) in _SHAPES for node in root.iter())
        self.joining = shapes > MOST_LAYERS_IN_SCENE // 2
        if self.joining:
            said = f"It draws {shapes:,} shapes: those that follow one another alike and lie apart are one layer now"
            self.remarks(said)
        self.wrapped = {one.etree_element: one for one in cssselect2.ElementWrapper.from_xml_root(root).iter_subtree()}
        self.by_id: dict[str, Element] = {}
        for node in root.iter():
            if node.get("id"):
                self.by_id.setdefault(str(node.get("id")), node)
        stops = {node: sheets.style_of(self.wrapped[node], node, {}) for node in root.iter() if _tag(node) == "stop"}
        self.paints = Paints(self.by_id, stops, self.remarks)
        wide, high, view = self._size(root)
        smaller = min(1.0, MOST_SIDE / max(wide, high))
        if smaller < 1:
            self.remarks(f"The drawing is {wide:,.0f} × {high:,.0f}; it comes in smaller")
        start = Place({}, times((smaller, 0, 0, smaller, 0, 0), view), *self._view(root, wide, high))
        style = self._style(root, start)
        inside = Place(style, start.matrix, start.wide, start.high, self._em(style, 16.0), 1)
        made = self._grouped(root, inside, start.matrix, share(style.get("opacity")), True)
        for said in sorted(sheets.remarks):
            self.remarks(f"Style sheets: {said}")
        layers = [one.layer for one in made]
        if not layers:
            raise BadFile("Nothing is drawn in this SVG." + self.remarks.first())
        size = (max(1, round(wide * smaller)), max(1, round(high * smaller)))
        return SvgDrawing(
            one_line(name)[:120] or "Drawing", *size, layers, list(self.pictures.values()), self.remarks.told()
        )

    def _size(self, root: Element) -> tuple[float, float, Affine]:
        """Width and height in px, and how the view box lies in them."""
        box = self._box(root)
        whole = box or (0.0, 0.0, 300.0, 150.0)
        wide, high = length(root.get("width"), whole[2], -1.0), length(root.get("height"), whole[3], -1.0)
        if wide <= 0 and high <= 0:
            wide, high = whole[2], whole[3]
        elif wide <= 0:
            wide = high * whole[2] / whole[3]
        elif high <= 0:
            high = wide * whole[3] / whole[2]
        return wide, high, fitted(box, wide, high, root.get("preserveAspectRatio", "")) if box else IDENTITY

    def _view(self, node: Element, wide: float, high: float) -> tuple[float, float]:
        box = self._box(node)
        return (box[2], box[3]) if box else (wide, high)

    def _box(self, node: Element) -> Box | None:
        try:
            x, y, wide, high = numbers(node.get("viewBox", ""))
        except ValueError:
            return None
        return (x, y, wide, high) if wide > 0 and high > 0 else None

    def _style(self, node: Element, place: Place) -> Style:
        style = self.sheets.style_of(self.wrapped[node], node, place.style)
        em = self._em(style, place.em) if "font-size" in style else place.em
        style["font-size"] = f"{em}px"
        for name, what in _STYLED.items():
            if style.get(name, "none").strip() not in ("none", ""):
                self.remarks(_NOT_READ[what])
        if style.get("mix-blend-mode", "normal") != "normal":
            self.remarks("Blend modes: layers simply cover one another")
        return style

    @staticmethod
    def _em(style: Style, em: float) -> float:
        names = {
            "medium": "16px",
            "small": "13px",
            "large": "18px",
            "x-large": "24px",
            "smaller": "83%",
            "larger": "120%",
        }
        text = style.get("font-size", "16px").strip()
        return max(length(names.get(text, text), em, em, em), 0.01)

    def _children(self, node: Element, place: Place) -> list[_Made]:
        made: list[_Made] = []
        children: Iterator[Element] | list[Element] = list(node)
        if _tag(node) == "switch":
            children = [one for one in node if one.get("systemLanguage", "en").startswith("en")][:1]
        held: Joined | None = None
        for child in children:
            if not self.joining or _tag(child) not in _SHAPES:
                made += self._flushed(held) + self._element(child, place)
                held = None
            elif (here := self._placed(child, place)) and (shape := self._shape_of(child, here)):
                if held is None or not held.takes(shape, here):
                    made += self._flushed(held)
                    held = Joined(shape, here, self._named(child) or _tag(child).capitalize())
        return made + self._flushed(held)

    def _flushed(self, held: Joined | None) -> list[_Made]:
        return self._painted(held.shape, held.place, held.told) if held else []

    def _element(self, node: Element, place: Place) -> list[_Made]:
        kind = _tag(node)
        if kind in _SILENT or not kind:
            return []
        if kind in _NOT_READ:
            if kind not in ("pattern", "marker", "mask", "clipPath", "filter"):
                self.remarks(_NOT_READ[kind])
            return []
        if kind not in _SHAPES | _GROUPS | {"use", "text", "image"}:
            self.remarks(f"Elements <{kind[:30]}>")
            return []
        here = self._placed(node, place)
        if here is None:
            return []
        if kind in _SHAPES:
            shape = self._shape_of(node, here)
            return self._painted(shape, here, self._named(node) or kind.capitalize()) if shape else []
        if kind == "text":
            return self._text(node, here)
        if kind == "image":
            return self._image(node, here)
        opaque = share(here.style.get("opacity"))
        if kind == "use":
            return self._use(node, here, opaque)
        if kind == "svg":
            here = self._nested(node, here, None, None)
        return self._grouped(node, here, here.matrix, opaque, False)

    def _placed(self, node: Element, place: Place) -> Place | None:
        """How and where an element is drawn; None when it is not."""
        self.counted += 1
        if self.counted > MOST_ELEMENTS:
            raise BadFile(f"This SVG draws more than {MOST_ELEMENTS:,} things, what is used again counted each time.")
        style = self._style(node, place)
        if style.get("display", "inline").strip() == "none":
            return None
        try:
            own = parse(style.get("transform", ""))
        except ValueError:
            # As browsers do: a transform that makes no sense is none.
            self.remarks("Transforms that make no sense")
            own = IDENTITY
        here = Place(
            style, times(place.matrix, own), place.wide, place.high, self._em(style, place.em), place.depth, place.used
        )
        return here if size_of(here.matrix) != 0 else None

    def _nested(self, node: Element, place: Place, wide: str | None, high: str | None) -> Place:
        """Inside a nested drawing, or a symbol."""
        x, y = length(node.get("x"), place.wide), length(node.get("y"), place.high)
        w = length(wide or node.get("width") or "100%", place.wide, place.wide)
        h = length(high or node.get("height") or "100%", place.high, place.high)
        box = self._box(node)
        matrix = times(place.matrix, (1, 0, 0, 1, x, y))
        if box:
            matrix = times(matrix, fitted(box, w, h, node.get("preserveAspectRatio", "")))
        return Place(place.style, matrix, *self._view(node, w, h), place.em, place.depth, place.used)

    def _use(self, node: Element, place: Place, opaque: float) -> list[_Made]:
        target = href(node)
        if not target.startswith("#"):
            self.remarks("Things that lie in other files: they are not fetched")
            return []
        name = target[1:]
        used = self.by_id.get(name)
        if used is None or name in place.used:
            self.remarks("Uses of what is not there, or of themselves")
            return []
        x, y = length(node.get("x"), place.wide), length(node.get("y"), place.high)
        inside = Place(
            place.style, times(place.matrix, (1, 0, 0, 1, x, y)), place.wide, place.high, place.em, place.depth,
            place.used | {name},
        )  # fmt: skip
        if _tag(used) in ("symbol", "svg"):
            style = self._style(used, inside)
            symbol = self._nested(used, inside, node.get("width"), node.get("height"))
            symbol.style = style
            return self._grouped(used, symbol, symbol.matrix, opaque, False)
        made = self._element(used, inside)
        if opaque < 1:
            return self._as_group(made, node, IDENTITY, opaque)
        return made

    def _grouped(self, node: Element, place: Place, matrix: Affine, opaque: float, top: bool) -> list[_Made]:
        """The layers of a group: as a group layer where it means something, else by themselves."""
        if place.depth >= DEEPEST:
            self.remarks(f"Groups more than {DEEPEST} deep: what is in them")
            return []
        if opaque == 0:
            return []
        plain = matrix == IDENTITY and opaque == 1
        named = bool(self._named(node)) and not top
        spot = placed(matrix)
        keeps = spot is not None and not (plain and not named)
        inside = Place(
            place.style, IDENTITY if keeps else matrix, place.wide, place.high, place.em, place.depth + 1, place.used
        )  # fmt: skip
        children = self._children(node, inside)
        if not children:
            return []
        if keeps:
            return self._as_group(children, node, matrix, opaque)
        return children if opaque == 1 and not named else self._as_group(children, node, IDENTITY, opaque)

    def _as_group(
        self, children: list[_Made], node: Element, matrix: Affine, opaque: float, name: str = ""
    ) -> list[_Made]:
        spot = placed(matrix)
        assert spot is not None
        box = around([one.box for one in children])
        middle = (box[0] + box[2] / 2, box[1] + box[3] / 2)
        layer = {
            "kind": "group", "id": new_id("layer"), "name": name or self._named(node) or "Group",
            "position": through(matrix, *middle), "pivot": middle, "rotation": spot[0], "scale": spot[1],
            "opacity": opaque * 100, "layers": [one.layer for one in children],
        }  # fmt: skip
        self._count()
        return [_Made(layer, moved(box, matrix))]

    def _count(self) -> None:
        self.layers += 1
        if self.layers > MOST_LAYERS_IN_SCENE - 20:
            raise BadFile(
                f"This SVG would become more than {MOST_LAYERS_IN_SCENE - 20:,} layers, and a scene holds "
                f"{MOST_LAYERS_IN_SCENE:,}. Join what need not move by itself into fewer paths."
            )

    def _named(self, node: Element) -> str:
        for child in node:
            if _tag(child) == "title" and child.text:
                return one_line(child.text)[:120].strip()
        return one_line(node.get("aria-label") or node.get("id") or "")[:120].strip()

    def _shape_of(self, node: Element, place: Place) -> Shape | None:
        for child in node:
            if _tag(child) in _NOT_READ:
                self.remarks(_NOT_READ[_tag(child)])
        try:
            return shape_of(node, _tag(node), place.wide, place.high, place.em)
        except NoShape as error:
            self.remarks(f"Shapes that make no sense: {str(error).rstrip('.')}")
            return None

    def _painted(self, shape: Shape, place: Place, name: str) -> list[_Made]:
        style, matrix, path = place.style, place.matrix, shape.path
        hidden = style.get("visibility", "visible") in ("hidden", "collapse") or share(style.get("opacity")) == 0
        if hidden or path.isEmpty():
            return []
        port, bounds = (place.wide, place.high), path.computeTightBounds()
        box = (bounds.x(), bounds.y(), bounds.width(), bounds.height())
        colour, width = self.paints.stroke(style, port, place.em)
        line = self._line(style, shape, place.em) if width > 0 else None
        spot = placed(matrix)
        within: Affine = IDENTITY
        if spot is None:
            # A slant is no part of a layer's place: it goes into the outline.
            within, path, width = matrix, transformed(path, matrix), width * abs(size_of(matrix)) ** 0.5
            shape, spot, matrix = Shape(path), (0.0, (100.0, 100.0)), IDENTITY
            bounds = path.computeTightBounds()
        middle = (bounds.x() + bounds.width() / 2, bounds.y() + bounds.height() / 2)
        try:
            outline, back = self._outline(shape, bounds, middle, style.get("fill-rule", "nonzero").strip())
        except NoShape as error:
            self.remarks(f"Shapes that are left out: {str(error).rstrip('.')}")
            return []
        flat = bounds.width() == 0 or bounds.height() == 0
        fill = {"kind": "none"} if flat else self.paints.fill(style, box, port, times(back, within))
        if fill["kind"] == "none" and width == 0:
            return []
        layer: dict[str, Any] = {
            "id": new_id("layer"), "name": name, "position": through(matrix, *middle), "rotation": spot[0],
            "scale": spot[1], "opacity": share(style.get("opacity")) * 100, "fill": fill, "stroke": colour,
            "stroke_width": width, "line": line,
        } | outline  # fmt: skip
        self._count()
        grown = (bounds.x() - width / 2, bounds.y() - width / 2, bounds.width() + width, bounds.height() + width)
        return [_Made(layer, moved(grown, matrix))]

    @staticmethod
    def _outline(
        shape: Shape, bounds: skia.Rect, middle: tuple[float, float], rule: str
    ) -> tuple[dict[str, Any], Affine]:
        """What tells the outline of a layer, and the transform into its coordinates."""
        back: Affine = (1, 0, 0, 1, -middle[0], -middle[1])
        size = (bounds.width(), bounds.height())
        if shape.kind == "ellipse":
            return {"kind": "ellipse", "size": size}, back
        if shape.kind == "rectangle":
            return {"kind": "rectangle", "size": size, "corner": shape.corner}, back
        path = wound(shape.path, rule)
        if shape.data and path is shape.path:
            # As it was written, turned about its middle.
            return {"kind": "path", "data": shape.data, "pivot": middle}, IDENTITY
        return {"kind": "path", "data": data_of(transformed(path, back))}, back

    def _line(self, style: Style, shape: Shape, em: float) -> dict[str, Any] | None:
        """How a stroke is drawn, where it is not as strokes are by themselves: whole, with round ends and corners."""
        cornered = shape.kind in ("path", "rectangle") and not shape.corner and shape.path.countVerbs() > 2
        open_ended = shape.kind == "path" and not shape.path.isLastContourClosed()
        made: dict[str, Any] = {}
        join, cap = style.get("stroke-linejoin", "miter").strip(), style.get("stroke-linecap", "butt").strip()
        dashes = [length(one, 0, 0, em) for one in re.split(r"[\s,]+", style.get("stroke-dasharray", "none").strip())]
        if len(dashes) > 2 or any(one < 0 for one in dashes):
            self.remarks("Dashes of several lengths: they take the first and the second")
        dash, gap = max(dashes[0], 0.0), max(dashes[1] if len(dashes) > 1 else dashes[0], 0.0)
        if dash > 0 and gap > 0:
            made = {"dash": dash, "gap": gap, "offset": -length(style.get("stroke-dashoffset"), 0, 0, em)}
        if cornered and join != "round":
            made["join"] = join if join in JOINS else "miter"
        if (open_ended or "dash" in made) and cap != "round":
            made["cap"] = cap if cap in CAPS else "butt"
        return made or None

    def _text(self, node: Element, place: Place) -> list[_Made]:
        dressed = Dressed(place.style, place.wide, place.high, place.em)
        texts = Texts(self._style_in, lambda: DEEPEST - place.depth, self.remarks)
        words = self._named(node) or one_line(SPACE.sub(" ", "".join(node.itertext())).strip())[:60] or "Text"
        opaque = share(place.style.get("opacity"))
        made: list[_Made] = []
        for path, style, said in texts.outlines(node, dressed):
            one = replace(place, style=style | {"opacity": "1"})
            made += self._painted(Shape(path), one, words if said == words else one_line(said)[:60] or "Text")
        if len(made) == 1:
            made[0].layer |= {"name": words, "opacity": opaque * 100}
            return made
        return self._as_group(made, node, IDENTITY, opaque, words) if made and opaque else []

    def _style_in(self, node: Element, around: Dressed) -> Dressed:
        style = self._style(node, Place(around.style, IDENTITY, around.wide, around.high, around.em))
        return replace(around, style=style, em=self._em(style, around.em))

    def _image(self, node: Element, place: Place) -> list[_Made]:
        address = href(node)
        match = _DATA.match(address[:200])
        if not match:
            outside = not address.startswith("data:")
            self.remarks(
                "Pictures in other files: they are not fetched" if outside else "Pictures of a kind that is not read"
            )
            return []
        body = address[match.end() :]
        try:
            content = base64.b64decode(unquote_to_bytes(body)) if match[1] else unquote_to_bytes(body)
            picture = take_in(content, "Picture")
        except (BadPicture, binascii.Error, ValueError):
            self.remarks("Pictures that cannot be read")
            return []
        x, y = length(node.get("x"), place.wide), length(node.get("y"), place.high)
        wide = length(node.get("width"), place.wide, float(picture.width))
        high = length(node.get("height"), place.high, float(picture.height))
        spot = placed(place.matrix)
        if spot is None or wide <= 0 or high <= 0 or share(place.style.get("opacity")) == 0:
            if spot is None:
                self.remarks("Slanted pictures")
            return []
        fit = fitted((0, 0, picture.width, picture.height), wide, high, node.get("preserveAspectRatio", ""))
        self.pictures[picture.id] = picture
        middle = through(fit, picture.width / 2, picture.height / 2)
        layer = {
            "kind": "picture", "id": new_id("layer"), "name": self._named(node) or "Picture", "picture": picture.id,
            "width": picture.width, "height": picture.height, "rotation": spot[0],
            "position": through(place.matrix, x + middle[0], y + middle[1]),
            "scale": (spot[1][0] * fit[0], spot[1][1] * fit[3]), "opacity": share(place.style.get("opacity")) * 100,
        }  # fmt: skip
        self._count()
        return [_Made(layer, moved((x, y, wide, high), place.matrix))]
