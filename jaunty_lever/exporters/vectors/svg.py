"""A display list as SVG: one frame, or all of them moving by SMIL. No scripts, nothing fetched; texts are outlines."""

from collections.abc import Callable
from xml.etree import ElementTree

import numpy as np

from jaunty_lever.core.display.display_list import DisplayList
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.line_style import CAPS, JOINS, MITER_LIMIT
from jaunty_lever.core.geometry.path_data import number, written
from jaunty_lever.drawing.nodes.brush import Pictures
from jaunty_lever.drawing.nodes.texture import colours

from .parts import (
    IDENTITY,
    PIXEL,
    SHARE,
    drawn_order,
    inner_reach,
    is_plain,
    layers_of,
    lines_of,
    picture_uri,
    png_uri,
    reach_of,
    rows_of,
)
from .stray import Stray
from .svg_compositing import blended, filtered, masked
from .tracks import Rows, Track, fitted_parts, matrices_of, steps, track

_FAR = 20_000
Element = ElementTree.Element


class SvgWriter:
    """Writes one list. `fps` None: only its first frame."""

    def __init__(self, drawn: DisplayList, pictures: Pictures, fps: float | None = None, loops: bool = False) -> None:
        self.drawn, self.pictures, self.fps, self.loops = drawn, pictures, fps, loops
        self.count = drawn.frames if fps else 1
        self.stray = Stray(self.count)
        self.keys = 0
        self._ids = 0
        self.defs = Element("defs")

    def write(self, transparent: bool, title: str) -> bytes:
        """The whole file."""
        wide, high = self.drawn.width, self.drawn.height
        root = Element(
            "svg",
            {
                "xmlns": "http://www.w3.org/2000/svg",
                "width": str(wide),
                "height": str(high),
                "viewBox": f"0 0 {wide} {high}",
            },
        )
        ElementTree.SubElement(root, "title").text = title
        root.append(self.defs)
        if not transparent:
            paper = ElementTree.SubElement(root, "rect", {"width": str(wide), "height": str(high)})
            self.colour(paper, "fill", rows_of(self.drawn.background, 0, self.count))
        for node in self.drawn.nodes:
            self.node(root, node, 0, (IDENTITY, IDENTITY))
        if not len(self.defs):
            root.remove(self.defs)
        content: bytes = ElementTree.tostring(root, "utf-8", xml_declaration=True)
        return content

    def node(self, into: Element, node: DisplayNode, element: int, around: tuple[Rows, Rows]) -> None:
        opacity = np.clip(rows_of(node.channels["opacity"], element, self.count), 0, 1)
        if not opacity.any():
            return
        if node.matte is not None and node.fixed["matte_depth"] == 0 and into.tag in ("svg", "mask"):
            into = masked(self, into, node, element)
            blended(into, node, self.count, element)
        single = node.kind == "shape" and len(node.fixed["verbs"]) == 1 and is_plain(node)
        tag = "path" if single else "g"
        made = ElementTree.SubElement(into, tag)
        matrices = rows_of(node.channels["matrix"], element, self.count)
        inside = self._placed(made, matrices, around, reach_of(node))
        self._share(made, "opacity", opacity)
        if into.get("mask") is None:
            blended(made, node, self.count, element)
        filtered(self, made, node, element)
        getattr(self, f"_{node.kind}")(made, node, element, inside)

    def _placed(self, made: Element, matrices: Rows, around: tuple[Rows, Rows], reach: float) -> tuple[Rows, Rows]:
        """Give an element its place; the matrices inside it, true and keyed. `reach`: see `limits`."""
        if len(matrices) == 1:
            if not np.array_equal(matrices, IDENTITY):
                made.set("transform", f"matrix({' '.join(number(v, 5) for v in matrices[0])})")
            return self.stray.inside(around, matrices, matrices)
        parts = fitted_parts(matrices, PIXEL, reach)
        self._transform(made, "translate", [parts["x"], parts["y"]], 0.0)
        self._transform(made, "rotate", [parts["angle"]], 0.0)
        self._transform(made, "skewX", [parts["skew"]], 0.0)
        self._transform(made, "scale", [parts["wide"], parts["high"]], 1.0)
        return self.stray.inside(around, matrices, matrices_of(parts, self.count))

    def _transform(self, made: Element, kind: str, tracks: list[Track], rest: float) -> None:
        """One kind of transform after those before it. Two that move by keys of their own follow one another."""
        if all(one.still for one in tracks):
            still = np.array([[float(one.values[0, 0]) for one in tracks]])
            if (still != rest).any():
                self._animate(made, "animateTransform", Track((0,), still, ()), _joined, type=kind)
            return
        for k, one in enumerate(tracks):
            if not one.still or float(one.values[0, 0]) != rest:
                values = np.full((len(one.values), len(tracks)), rest)
                values[:, k] = one.values[:, 0]
                self._animate(made, "animateTransform", Track(one.frames, values, one.eases), _joined, type=kind)

    def _animate(self, made: Element, tag: str, given: Track, told: Callable[[Rows], str], **more: str) -> None:
        """Add what moves an attribute."""
        assert self.fps is not None
        frames, values, eases = list(given.frames), [told(value) for value in given.values], list(given.eases)
        held = bool(eases) and eases[0] == "hold"
        times = [frame / self.count for frame in frames]
        if times[-1] < 1:
            # Until the end it stays, or goes over into the beginning.
            times.append(1.0)
            values.append(values[0] if self.loops and not held and more.get("type") != "rotate" else values[-1])
            eases.append("hold" if held else "linear")
        self.keys += len(values)
        one = ElementTree.SubElement(
            made, tag, {"attributeName": "transform" if tag == "animateTransform" else "", **more}
        )
        if tag == "animateTransform":
            one.set("additive", "sum")
        one.set("dur", f"{number(self.count / self.fps, 6)}s")
        one.set("repeatCount", "indefinite")
        one.set("values", ";".join(values))
        one.set("keyTimes", ";".join(number(time, 6) for time in times))
        if held:
            one.set("calcMode", "discrete")
        elif any(isinstance(ease, tuple) for ease in eases):
            one.set("calcMode", "spline")
            curves = [ease if isinstance(ease, tuple) else (0, 0, 1, 1) for ease in eases]
            one.set("keySplines", ";".join(" ".join(number(v, 4) for v in curve) for curve in curves))

    def attribute(self, made: Element, name: str, given: Track, told: Callable[[Rows], str]) -> None:
        made.set(name, told(given.values[0]))
        if not given.still:
            self._animate(made, "animate", given, told, attributeName=name)

    def _share(self, made: Element, name: str, rows: Rows) -> None:
        """A number from 0 to 1, left out where it is 1."""
        given = track(np.clip(rows, 0, 1), SHARE)
        if not given.still or abs(float(given.values[0, 0]) - 1) > 1e-6:
            self.attribute(made, name, given, lambda value: number(float(value[0]), 4))

    def _numbers(self, made: Element, name: str, rows: Rows, tolerance: float = PIXEL / 2) -> None:
        self.attribute(made, name, track(rows, tolerance), lambda value: number(float(value[0])))

    def colour(self, made: Element, name: str, rows: Rows) -> None:
        opaque = {
            "fill": "fill-opacity",
            "stroke": "stroke-opacity",
            "stop-color": "stop-opacity",
            "flood-color": "flood-opacity",
        }[name]
        self.attribute(made, name, track(np.clip(rows[:, :3], 0, 1) * 255, 0.5), _rgb)
        self._share(made, opaque, rows[:, 3:])

    def _shape(self, made: Element, node: DisplayNode, element: int, inside: tuple[Rows, Rows]) -> None:
        if not is_plain(node):
            for one in layers_of(node):
                tag = "path" if len(one.fixed["verbs"]) == 1 else "g"
                self._shape(ElementTree.SubElement(made, tag), one, element, inside)
            return
        verbs = node.fixed["verbs"]
        which = np.rint(rows_of(node.channels["which"], element, self.count))
        for k, outline in enumerate(verbs):
            if not (which == k).any():
                continue
            path = made if made.tag == "path" else ElementTree.SubElement(made, "path")
            if len(verbs) > 1:
                seen = steps((which == k).astype(np.float64))
                self.attribute(path, "display", seen, lambda value: "inline" if value[0] else "none")
            points = rows_of(node.channels[f"points.{k}"], element, self.count)
            given = track(points, PIXEL)
            self.stray.points(inside, points, given.at_frames(self.count))
            self.attribute(path, "d", given, lambda value, outline=outline: written(outline, value))  # type: ignore[misc]
            self._painted(path, node, element)

    def _painted(self, path: Element, node: DisplayNode, element: int) -> None:
        fill = node.fixed["fill"]
        if fill == "none":
            path.set("fill", "none")
        elif fill in ("solid", "conic"):
            name = "colour" if fill == "solid" else "colour.0"
            self.colour(path, "fill", rows_of(node.channels[name], element, self.count))
        else:
            path.set("fill", f"url(#{self._gradient(node, element)})")
        width = rows_of(node.channels["width"], element, self.count)
        if (width > 0).any():
            self.colour(path, "stroke", rows_of(node.channels["stroke"], element, self.count))
            self._numbers(path, "stroke-width", np.maximum(width, 0))
            for attribute, name, options in (("stroke-linecap", "cap", CAPS), ("stroke-linejoin", "join", JOINS)):
                chosen = np.zeros((1, 1))
                if name in node.channels:
                    chosen = np.clip(np.rint(rows_of(node.channels[name], element, self.count)), 0, 2)
                self.attribute(path, attribute, steps(chosen), lambda value, options=options: options[int(value[0])])  # type: ignore[misc]
            if "join" in node.channels:
                if "miter" in node.channels:
                    self._numbers(
                        path, "stroke-miterlimit", np.maximum(rows_of(node.channels["miter"], element, self.count), 1)
                    )
                else:
                    path.set("stroke-miterlimit", number(MITER_LIMIT))
            if "dash" in node.channels:
                dash = rows_of(node.channels["dash"], element, self.count)
                if (dash[:, 0] > 0).any():
                    self.attribute(path, "stroke-dasharray", track(dash[:, :2], PIXEL / 2), _joined)
                    self._numbers(path, "stroke-dashoffset", dash[:, 2:])

    def _gradient(self, node: DisplayNode, element: int) -> str:
        linear = node.fixed["fill"] == "linear"
        made = ElementTree.SubElement(
            self.defs, "linearGradient" if linear else "radialGradient", {"gradientUnits": "userSpaceOnUse"}
        )
        made.set("id", self.new_id("g"))
        pairs = (("start", "x1", "y1"), ("end", "x2", "y2")) if linear else (("centre", "cx", "cy"),)
        for name, x, y in pairs:
            rows = rows_of(node.channels[name], element, self.count)
            self._numbers(made, x, rows[:, :1])
            self._numbers(made, y, rows[:, 1:])
        if not linear:
            self._numbers(made, "r", np.maximum(rows_of(node.channels["radius"], element, self.count), 1e-3))
            if "focus" in node.channels:
                away, centre = (rows_of(node.channels[name], element, self.count) for name in ("focus", "centre"))
                self._numbers(made, "fx", centre[:, :1] + away[:, :1])
                self._numbers(made, "fy", centre[:, 1:] + away[:, 1:])
        stops = range(node.fixed["stops"])
        first = [float(rows_of(node.channels[f"offset.{k}"], element, self.count)[0, 0]) for k in stops]
        for k in sorted(stops, key=lambda k: first[k]):
            stop = ElementTree.SubElement(made, "stop")
            offset = np.clip(rows_of(node.channels[f"offset.{k}"], element, self.count), 0, 1)
            self.attribute(stop, "offset", track(offset, SHARE), lambda value: number(float(value[0]), 4))
            self.colour(stop, "stop-color", rows_of(node.channels[f"colour.{k}"], element, self.count))
        return made.get("id", "")

    def _picture(self, made: Element, node: DisplayNode, element: int, inside: tuple[Rows, Rows]) -> None:
        known = picture_uri(node, element, self.pictures)
        if known is None:
            return
        wide, high = node.fixed["size"]
        corners = np.array([[-wide / 2, -high / 2, wide / 2, high / 2]])
        self.stray.points(inside, corners, corners)
        edge = node.channels.get("beyond")
        beyond = 0 if edge is None else round(float(rows_of(edge, element, self.count)[0, 0]))
        place = {"x": number(-wide / 2), "y": number(-high / 2), "width": number(wide), "height": number(high)}
        image = {"href": known[0], "preserveAspectRatio": "none"}
        if beyond == 0:
            ElementTree.SubElement(made, "image", {**place, **image})
            return
        times = 1 if beyond == 1 else 2
        pattern = ElementTree.SubElement(
            self.defs,
            "pattern",
            {
                **place,
                "id": self.new_id("t"),
                "patternUnits": "userSpaceOnUse",
                "width": number(wide * times),
                "height": number(high * times),
            },
        )
        for across in range(times):
            for down in range(times):
                # What lies beyond an edge is mirrored at it.
                turn = (
                    f"matrix({1 - 2 * across} 0 0 {1 - 2 * down} {number(2 * wide * across)} {number(2 * high * down)})"
                )
                given = {"width": number(wide), "height": number(high), **image}
                ElementTree.SubElement(pattern, "image", {**given, **({"transform": turn} if across or down else {})})
        side = {"x": str(-_FAR), "y": str(-_FAR), "width": str(2 * _FAR), "height": str(2 * _FAR)}
        ElementTree.SubElement(made, "rect", {**side, "fill": f"url(#{pattern.get('id')})"})

    _clip = _picture

    def _texture(self, made: Element, node: DisplayNode, element: int, inside: tuple[Rows, Rows]) -> None:
        size = rows_of(node.channels["size"], element, self.count)
        wide, high = (float(v) for v in size[0])
        corners = np.array([[-wide / 2, -high / 2, wide / 2, high / 2]])
        self.stray.points(inside, corners, corners)
        place = {"x": number(-wide / 2), "y": number(-high / 2), "width": number(wide), "height": number(high)}
        ElementTree.SubElement(
            made, "image", {**place, "href": png_uri(colours(node, 0, element)), "preserveAspectRatio": "none"}
        )

    def _trace(self, made: Element, node: DisplayNode, element: int, inside: tuple[Rows, Rows]) -> None:
        """Each line whole, of which a dash shows what is seen."""
        width = np.maximum(rows_of(node.channels["width"], 0, self.count), 0)
        closed = bool(rows_of(node.channels["closed"], 0, self.count)[0, 0] >= 0.5)
        for points, begin, end in lines_of(node, self.count):
            corners = points.reshape(1, -1)
            self.stray.points(inside, corners, corners)
            path = ElementTree.SubElement(
                made, "path", {"fill": "none", "stroke-linecap": "round", "stroke-linejoin": "round"}
            )
            self.colour(path, "stroke", rows_of(node.channels["stroke"], 0, self.count))
            self._numbers(path, "stroke-width", width)
            part = np.broadcast_arrays(begin, end)
            if not (part[1] > part[0]).all():
                self.attribute(
                    path,
                    "display",
                    steps((part[1] > part[0]).astype(np.float64)),
                    lambda value: "inline" if value[0] else "none",
                )
            if self.fps is None:
                # Of one frame: what is seen of it, and nothing else.
                ends = (float(side[0, 0]) for side in part)
                own = _between(points, *ends)
                path.set("d", written("M" + "L" * (len(own) - 1) + ("Z" if closed else ""), own.ravel()))
                continue
            path.set("d", written("M" + "L" * (len(points) - 1), corners[0]))
            far = float(np.hypot(*np.diff(points, axis=0).T).sum()) + 100
            dashes = np.concatenate(
                [np.zeros_like(part[0]), part[0], part[1] - part[0], np.full_like(part[0], far)], axis=1
            )
            self.attribute(path, "stroke-dasharray", track(np.maximum(dashes, 0), PIXEL / 2), _joined)

    def _group(self, made: Element, node: DisplayNode, element: int, inside: tuple[Rows, Rows]) -> None:
        for k in drawn_order(node, element, len(node.nodes)):
            self.node(made, node.nodes[k], element, inside)

    def _array(self, made: Element, node: DisplayNode, element: int, inside: tuple[Rows, Rows]) -> None:
        copies = node.fixed["copies"]
        count = np.rint(rows_of(node.channels["count"], element, self.count))
        alike = all(one.each == 1 for inner in node.nodes for sub in inner.walk() for one in sub.channels.values())
        pattern = ""
        for copy in drawn_order(node, element, copies):
            number_of = element * copies + copy
            there = (count > copy).astype(np.float64)
            faded = np.clip(rows_of(node.channels["faded"], number_of, self.count), 0, 1)
            if not there.any() or not faded.any():
                continue
            turned, moved = (rows_of(node.channels[name], number_of, self.count) for name in ("turned", "moved"))
            each = ElementTree.SubElement(made, "g")
            many = max(len(turned), len(moved))
            matrices = np.hstack([np.broadcast_to(turned, (many, 4)), np.broadcast_to(moved, (many, 2))])
            within = self._placed(each, matrices, inside, inner_reach(node))
            if not there.all():
                self.attribute(each, "display", steps(there), lambda value: "inline" if value[0] else "none")
            self._share(each, "opacity", faded)
            if alike:
                # What is the same in all copies is written once.
                if not pattern:
                    pattern = self.new_id("p")
                    whole = ElementTree.SubElement(self.defs, "g", {"id": pattern})
                    for inner in node.nodes:
                        self.node(whole, inner, number_of, within)
                ElementTree.SubElement(each, "use", {"href": f"#{pattern}"})
                continue
            for inner in node.nodes:
                self.node(each, inner, number_of, within)

    def new_id(self, kind: str) -> str:
        self._ids += 1
        return f"{kind}{self._ids}"


def _between(points: Rows, begin: float, end: float) -> Rows:
    """The vertices of a line between two lengths along it, with the two ends."""
    along = np.concatenate([[0.0], np.cumsum(np.hypot(*np.diff(points, axis=0).T))])
    inside = points[(along > begin) & (along < end)]
    ends = [[np.interp(at, along, points[:, axis]) for axis in (0, 1)] for at in (begin, end)]
    made: Rows = np.concatenate([ends[:1], inside, ends[1:]])
    return made


def _joined(value: Rows) -> str:
    return " ".join(number(float(v), 4) for v in value)


def _rgb(value: Rows) -> str:
    return "#" + "".join(f"{round(float(v)):02x}" for v in value)
