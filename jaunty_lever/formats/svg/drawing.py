"""From an SVG file to layers: groups, shapes, texts as outlines, pictures that it holds.

What is not read is remarked on, once for each kind, with how many there are; the rest comes in.
"""

from dataclasses import dataclass, field, replace
from typing import Any
from xml.etree.ElementTree import Element, ParseError

import cssselect2
import defusedxml
from defusedxml.ElementTree import fromstring

from jaunty_lever.core.document.ids import one_line
from jaunty_lever.core.document.limits import MOST_LAYERS_IN_SCENE
from jaunty_lever.core.document.pictures import Picture

from ..open_json import BadFile
from ..remarks import Remarks
from .affine import IDENTITY, Affine, numbers, parse, placed, size_of, times
from .boxes import Box, fitted
from .cutting import Cutter
from .images import Images
from .joined import Joined, Place
from .made import Layers, Made, named, tag
from .painting import Painter
from .paints import Paints, href
from .shapes import NoShape, Shape, shape_of
from .styles import Sheets, Style, length, share
from .texts import SPACE, SPACE_KEPT, Dressed, Texts

MOST_BYTES = 30 << 20
MOST_NODES = 200_000
MOST_ELEMENTS = 20_000
"""Drawn, those counted each time that are used again and again."""
DEEPEST = 100
MOST_SIDE = 8192

_SHAPES = {"path", "rect", "circle", "ellipse", "line", "polyline", "polygon"}
_GROUPS = {"g", "a", "svg", "switch", "symbol"}
_SILENT = {"title", "desc", "metadata", "defs", "style", "linearGradient", "radialGradient", "symbol", "stop", "view"}
_SILENT |= {"pattern", "marker", "mask", "clipPath", "filter"}
_NOT_READ = {
    "script": "Scripts: they are never run",
    "foreignObject": "Pages within the drawing",
    "animate": "Animations: the drawing comes in as it stands at its start",
    "textPath": "Texts along paths",
}
_NOT_READ |= dict.fromkeys(("animateTransform", "animateMotion", "set", "animateColor"), _NOT_READ["animate"])
_MARKERS = ("marker-start", "marker-mid", "marker-end")
_OWN = "http://www.w3.org/2000/svg"
_LANGUAGE = "en"


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
        line, column = error.position
        raise BadFile(
            f"This is no SVG that can be read: it makes no sense from line {line:,}, letter {column + 1:,}, on. "
            "Perhaps it was cut "
            "off on its way."
        ) from None
    except (ValueError, LookupError):
        raise BadFile(
            "This is no SVG that can be read: its letters are written in a way that is not known here."
        ) from None
    except RecursionError:
        raise BadFile("This SVG is nested too deep.") from None
    if tag(root) != "svg":
        raise BadFile(f"This is no SVG: it begins with <{tag(root)[:40]}>.")
    if sum(1 for _ in root.iter()) > MOST_NODES:
        raise BadFile(f"This SVG has more than {MOST_NODES:,} elements.")
    return _Reader(root).drawing(name)


@dataclass
class _Reader:
    root: Element
    joining: bool = False
    """Whether there are more shapes than a scene holds layers, so that neighbours are joined."""
    counted: int = 0
    layers: Layers = field(default_factory=Layers)
    remarks: Remarks = field(default_factory=Remarks)

    def drawing(self, name: str) -> SvgDrawing:
        root, sheets = self.root, Sheets()
        for node in root.iter():
            if tag(node) == "style" and (node.get("type") or "text/css").strip() == "text/css":
                sheets.add("".join(node.itertext())[:1_000_000])
        self.sheets = sheets
        shapes = sum(tag(node) in _SHAPES for node in root.iter())
        self.joining = shapes > MOST_LAYERS_IN_SCENE // 2
        if self.joining:
            said = f"It draws {shapes:,} shapes: those that follow one another alike and lie apart are one layer now"
            self.remarks(said)
        self.wrapped = {one.etree_element: one for one in cssselect2.ElementWrapper.from_xml_root(root).iter_subtree()}
        self.by_id: dict[str, Element] = {}
        for node in root.iter():
            if node.get("id"):
                self.by_id.setdefault(str(node.get("id")), node)
        stops = {node: sheets.style_of(self.wrapped[node], node, {}) for node in root.iter() if tag(node) == "stop"}
        self.painter = Painter(Paints(self.by_id, stops, self.remarks), self.layers, self.remarks)
        self.images = Images(self.layers, self.remarks)
        self.cutter = Cutter(self.by_id, self.layers, self.painter, self._children, self._dressed, self.remarks)
        wide, high, view = self._size(root)
        smaller = min(1.0, MOST_SIDE / max(wide, high))
        if smaller < 1:
            self.remarks(f"The drawing is {wide:,.0f} × {high:,.0f}; it comes in smaller")
        start = Place({}, times((smaller, 0, 0, smaller, 0, 0), view), *self._view(root, wide, high))
        style = self._style(root, start)
        inside = Place(style, start.matrix, start.wide, start.high, self._em(style, 16.0), 1)
        made = self._grouped(root, inside, start.matrix, share(style.get("opacity")), True)
        made = self.cutter.cut(root, replace(inside, matrix=start.matrix), made)
        for said in sorted(sheets.remarks):
            self.remarks(f"Style sheets: {said}")
        layers = [one.layer for one in made]
        if not layers:
            raise BadFile("Nothing is drawn in this SVG." + self.remarks.first())
        size = (max(1, round(wide * smaller)), max(1, round(high * smaller)))
        return SvgDrawing(
            one_line(name)[:120] or "Drawing", *size, layers, list(self.images.pictures.values()), self.remarks.told()
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
        if (kept := node.get(SPACE_KEPT)) is not None:
            style["white-space"] = "pre" if kept == "preserve" else "normal"
        em = self._em(style, place.em) if "font-size" in style else place.em
        style["font-size"] = f"{em}px"
        return style

    def _dressed(self, node: Element) -> Style:
        """How an element is dressed by itself."""
        return self.sheets.style_of(self.wrapped[node], node, {})

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

    def _children(self, node: Element, place: Place) -> list[Made]:
        made: list[Made] = []
        children = [one for one in node if tag(one) and _meant(one)]
        if tag(node) == "switch":
            children = [one for one in children if tag(one) not in ("title", "desc", "metadata")][:1]
        held: Joined | None = None
        for child in children:
            here = self._placed(child, place) if self.joining and tag(child) in _SHAPES else None
            if here is None or self.cutter.wanted(here.style):
                made += self._flushed(held) + self._element(child, place)
                held = None
            elif shape := self._shape_of(child, here):
                if held is None or not held.takes(shape, here):
                    made += self._flushed(held)
                    held = Joined(shape, here, named(child) or tag(child).capitalize())
        return made + self._flushed(held)

    def _flushed(self, held: Joined | None) -> list[Made]:
        return self.painter.painted(held.shape, held.place, held.told) if held else []

    def _element(self, node: Element, place: Place) -> list[Made]:
        kind, own = tag(node), node.tag.startswith(f"{{{_OWN}}}") or "}" not in node.tag
        if kind in _SILENT or not own:
            # What an editor keeps for itself draws nothing.
            return []
        if kind in _NOT_READ:
            self.remarks(_NOT_READ[kind])
            return []
        if kind not in _SHAPES | _GROUPS | {"use", "text", "image"}:
            self.remarks(f"Elements <{kind[:30]}>")
            return []
        here = self._placed(node, place)
        if here is None:
            return []
        return self.cutter.cut(node, here, self._drawn(node, kind, here))

    def _drawn(self, node: Element, kind: str, here: Place) -> list[Made]:
        if kind in _SHAPES:
            if any(here.style.get(one, "none").strip() not in ("none", "") for one in _MARKERS):
                self.remarks("Markers at the ends of lines")
            shape = self._shape_of(node, here)
            return self.painter.painted(shape, here, named(node) or kind.capitalize()) if shape else []
        if kind == "text":
            return self._text(node, here)
        if kind == "image":
            made, seen = self.images.drawn(node, here)
            return self.cutter.window(seen, here, made) if seen else made
        opaque = 1.0 if here.cuts else share(here.style.get("opacity"))
        if kind == "use":
            return self._use(node, here, opaque)
        if kind == "svg":
            return self._window(node, here, opaque, None, None)
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
        here = replace(place, style=style, matrix=times(place.matrix, own), em=self._em(style, place.em))
        return here if size_of(here.matrix) != 0 else None

    def _window(self, node: Element, place: Place, opaque: float, wide: str | None, high: str | None) -> list[Made]:
        """A nested drawing, or a symbol: what is in it, cut where it goes beyond its sides, unless that is to be
        seen."""
        told = place.style if tag(node) == "svg" else {}

        def get(name: str, whole: float) -> float:
            return length(told.get(name) or node.get(name), whole, 0.0, place.em)

        x, y = get("x", place.wide), get("y", place.high)
        w = length(wide or told.get("width") or node.get("width") or "100%", place.wide, place.wide)
        h = length(high or told.get("height") or node.get("height") or "100%", place.high, place.high)
        if w <= 0 or h <= 0:
            return []
        box = self._box(node)
        matrix = times(place.matrix, (1, 0, 0, 1, x, y))
        if box:
            matrix = times(matrix, fitted(box, w, h, node.get("preserveAspectRatio", "")))
        port = self._view(node, w, h)
        made = self._grouped(node, replace(place, wide=port[0], high=port[1]), matrix, opaque, False)
        if place.style.get("overflow", "hidden").strip() in ("visible", "auto"):
            return made
        return self.cutter.window((x, y, w, h), place, made)

    def _use(self, node: Element, place: Place, opaque: float) -> list[Made]:
        target = href(node)
        if not target.startswith("#"):
            self.remarks("Things that lie in other files: they are not fetched")
            return []
        name = target[1:]
        used = self.by_id.get(name)
        if used is None or name in place.used:
            self.remarks("Uses of what is not there, or of themselves")
            return []
        told = place.style
        x, y = (
            length(told.get(one) or node.get(one), whole, 0.0, place.em)
            for one, whole in (("x", place.wide), ("y", place.high))
        )
        inside = replace(place, matrix=times(place.matrix, (1, 0, 0, 1, x, y)), used=place.used | {name})
        if tag(used) in ("symbol", "svg"):
            inside = replace(inside, style=self._style(used, inside))
            sides = (told.get(one) or node.get(one) for one in ("width", "height"))
            return self._window(used, inside, opaque, *sides)
        made = self._element(used, inside)
        return [self.layers.group(made, named(node) or "Group", opaque=opaque)] if made and opaque < 1 else made

    def _grouped(self, node: Element, place: Place, matrix: Affine, opaque: float, top: bool) -> list[Made]:
        """The layers of a group: as a group layer where it means something, else by themselves."""
        if place.depth >= DEEPEST:
            self.remarks(f"Groups more than {DEEPEST} deep: what is in them")
            return []
        if opaque == 0:
            return []
        plain = matrix == IDENTITY and opaque == 1
        name = "" if top else named(node)
        keeps = placed(matrix) is not None and not (plain and not name)
        inside = replace(place, matrix=IDENTITY if keeps else matrix, depth=place.depth + 1)
        children = self._children(node, inside)
        if not children:
            return []
        if keeps:
            return [self.layers.group(children, name or "Group", matrix, opaque)]
        return children if opaque == 1 and not name else [self.layers.group(children, name or "Group", opaque=opaque)]

    def _shape_of(self, node: Element, place: Place) -> Shape | None:
        for child in node:
            if tag(child) in _NOT_READ:
                self.remarks(_NOT_READ[tag(child)])
        try:
            return shape_of(node, tag(node), place.style, place.wide, place.high, place.em)
        except NoShape as error:
            self.remarks(f"Shapes that make no sense: {str(error).rstrip('.')}")
            return None

    def _text(self, node: Element, place: Place) -> list[Made]:
        dressed = Dressed(place.style, place.wide, place.high, place.em)
        texts = Texts(self._style_in, lambda: DEEPEST - place.depth, self.remarks)
        words = named(node) or one_line(SPACE.sub(" ", "".join(node.itertext())).strip())[:60] or "Text"
        opaque = share(place.style.get("opacity"))
        made: list[Made] = []
        for path, style, said in texts.outlines(node, dressed):
            one = replace(place, style=style | {"opacity": "1"})
            made += self.painter.painted(Shape(path), one, words if said == words else one_line(said)[:60] or "Text")
        if len(made) == 1:
            made[0].layer |= {"name": words, "opacity": opaque * 100}
            return made
        return [self.layers.group(made, words, opaque=opaque)] if made and opaque else []

    def _style_in(self, node: Element, around: Dressed) -> Dressed:
        style = self._style(node, Place(around.style, IDENTITY, around.wide, around.high, around.em))
        return replace(around, style=style, em=self._em(style, around.em))


def _meant(node: Element) -> bool:
    """Whether an element is for whoever reads this, by its language and by what it needs to be drawn."""
    languages = node.get("systemLanguage")
    return "requiredExtensions" not in node.attrib and (
        languages is None or any(one.strip().lower().split("-")[0] == _LANGUAGE for one in languages.split(","))
    )
