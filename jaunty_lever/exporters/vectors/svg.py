"""A display list as SVG: one frame, or all of them moving by SMIL. No scripts, nothing fetched; texts are outlines."""

from collections.abc import Callable, Mapping
from xml.etree import ElementTree

import numpy as np

from jaunty_lever.core.display.display_list import DisplayList
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.pictures import Picture
from jaunty_lever.core.geometry.path_data import number, written

from .parts import IDENTITY, PIXEL, SHARE, data_uri, inner_reach, reach_of, rows_of
from .stray import Stray
from .tracks import Rows, Track, fitted_parts, matrices_of, steps, track

_FAR = 20_000
Element = ElementTree.Element


class SvgWriter:
    """Writes one list. `fps` None: only its first frame."""

    def __init__(
        self, drawn: DisplayList, pictures: Mapping[str, Picture], fps: float | None = None, loops: bool = False
    ) -> None:
        self.drawn, self.pictures, self.fps, self.loops = drawn, pictures, fps, loops
        self.count = drawn.frames if fps else 1
        self.stray = Stray(self.count)
        self.keys = 0
        self._ids = 0
        self._defs = Element("defs")

    def write(self, transparent: bool, title: str) -> bytes:
        """The whole file."""
        wide, high = self.drawn.width, self.drawn.height
        root = Element(
            "svg",
            {"xmlns": "http://www.w3.org/2000/svg", "width": str(wide), "height": str(high), "viewBox": f"0 0 {wide} {high}"},
        )  # fmt: skip
        ElementTree.SubElement(root, "title").text = title
        root.append(self._defs)
        if not transparent:
            paper = ElementTree.SubElement(root, "rect", {"width": str(wide), "height": str(high)})
            self._colour(paper, "fill", rows_of(self.drawn.background, 0, self.count))
        for node in self.drawn.nodes:
            self._node(root, node, 0, (IDENTITY, IDENTITY))
        if not len(self._defs):
            root.remove(self._defs)
        content: bytes = ElementTree.tostring(root, "utf-8", xml_declaration=True)
        return content

    def _node(self, into: Element, node: DisplayNode, element: int, around: tuple[Rows, Rows]) -> None:
        opacity = np.clip(rows_of(node.channels["opacity"], element, self.count), 0, 1)
        if not opacity.any():
            return
        tag = "path" if node.kind == "shape" and len(node.fixed["verbs"]) == 1 else "g"
        made = ElementTree.SubElement(into, tag)
        matrices = rows_of(node.channels["matrix"], element, self.count)
        inside = self._placed(made, matrices, around, reach_of(node))
        self._share(made, "opacity", opacity)
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

    def _attribute(self, made: Element, name: str, given: Track, told: Callable[[Rows], str]) -> None:
        made.set(name, told(given.values[0]))
        if not given.still:
            self._animate(made, "animate", given, told, attributeName=name)

    def _share(self, made: Element, name: str, rows: Rows) -> None:
        """A number from 0 to 1, left out where it is 1."""
        given = track(np.clip(rows, 0, 1), SHARE)
        if not given.still or abs(float(given.values[0, 0]) - 1) > 1e-6:
            self._attribute(made, name, given, lambda value: number(float(value[0]), 4))

    def _numbers(self, made: Element, name: str, rows: Rows, tolerance: float = PIXEL / 2) -> None:
        self._attribute(made, name, track(rows, tolerance), lambda value: number(float(value[0])))

    def _colour(self, made: Element, name: str, rows: Rows) -> None:
        opaque = {"fill": "fill-opacity", "stroke": "stroke-opacity", "stop-color": "stop-opacity"}[name]
        self._attribute(made, name, track(np.clip(rows[:, :3], 0, 1) * 255, 0.5), _rgb)
        self._share(made, opaque, rows[:, 3:])

    def _shape(self, made: Element, node: DisplayNode, element: int, inside: tuple[Rows, Rows]) -> None:
        verbs = node.fixed["verbs"]
        which = np.rint(rows_of(node.channels["which"], element, self.count))
        for k, outline in enumerate(verbs):
            if not (which == k).any():
                continue
            path = made if made.tag == "path" else ElementTree.SubElement(made, "path")
            if len(verbs) > 1:
                seen = steps((which == k).astype(np.float64))
                self._attribute(path, "display", seen, lambda value: "inline" if value[0] else "none")
            points = rows_of(node.channels[f"points.{k}"], element, self.count)
            given = track(points, PIXEL)
            self.stray.points(inside, points, given.at_frames(self.count))
            self._attribute(path, "d", given, lambda value, outline=outline: written(outline, value))  # type: ignore[misc]
            self._painted(path, node, element)

    def _painted(self, path: Element, node: DisplayNode, element: int) -> None:
        fill = node.fixed["fill"]
        if fill == "none":
            path.set("fill", "none")
        elif fill == "solid":
            self._colour(path, "fill", rows_of(node.channels["colour"], element, self.count))
        else:
            path.set("fill", f"url(#{self._gradient(node, element)})")
        width = rows_of(node.channels["width"], element, self.count)
        if (width > 0).any():
            self._colour(path, "stroke", rows_of(node.channels["stroke"], element, self.count))
            self._numbers(path, "stroke-width", np.maximum(width, 0))
            path.set("stroke-linecap", "round")
            path.set("stroke-linejoin", "round")

    def _gradient(self, node: DisplayNode, element: int) -> str:
        linear = node.fixed["fill"] == "linear"
        made = ElementTree.SubElement(
            self._defs, "linearGradient" if linear else "radialGradient", {"gradientUnits": "userSpaceOnUse"}
        )
        made.set("id", self._id("g"))
        pairs = (("start", "x1", "y1"), ("end", "x2", "y2")) if linear else (("centre", "cx", "cy"),)
        for name, x, y in pairs:
            rows = rows_of(node.channels[name], element, self.count)
            self._numbers(made, x, rows[:, :1])
            self._numbers(made, y, rows[:, 1:])
        if not linear:
            self._numbers(made, "r", np.maximum(rows_of(node.channels["radius"], element, self.count), 1e-3))
        stops = range(node.fixed["stops"])
        first = [float(rows_of(node.channels[f"offset.{k}"], element, self.count)[0, 0]) for k in stops]
        for k in sorted(stops, key=lambda k: first[k]):
            stop = ElementTree.SubElement(made, "stop")
            offset = np.clip(rows_of(node.channels[f"offset.{k}"], element, self.count), 0, 1)
            self._attribute(stop, "offset", track(offset, SHARE), lambda value: number(float(value[0]), 4))
            self._colour(stop, "stop-color", rows_of(node.channels[f"colour.{k}"], element, self.count))
        return made.get("id", "")

    def _picture(self, made: Element, node: DisplayNode, element: int, inside: tuple[Rows, Rows]) -> None:
        known = self.pictures.get(node.fixed["picture"])
        if known is None:
            return
        wide, high = node.fixed["size"]
        corners = np.array([[-wide / 2, -high / 2, wide / 2, high / 2]])
        self.stray.points(inside, corners, corners)
        beyond = round(float(rows_of(node.channels["beyond"], element, self.count)[0, 0]))
        place = {"x": number(-wide / 2), "y": number(-high / 2), "width": number(wide), "height": number(high)}
        image = {"href": data_uri(known), "preserveAspectRatio": "none"}
        if beyond == 0:
            ElementTree.SubElement(made, "image", {**place, **image})
            return
        times = 1 if beyond == 1 else 2
        pattern = ElementTree.SubElement(
            self._defs, "pattern",
            {**place, "id": self._id("t"), "patternUnits": "userSpaceOnUse", "width": number(wide * times), "height": number(high * times)},
        )  # fmt: skip
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

    def _group(self, made: Element, node: DisplayNode, element: int, inside: tuple[Rows, Rows]) -> None:
        for inner in node.nodes:
            self._node(made, inner, element, inside)

    def _array(self, made: Element, node: DisplayNode, element: int, inside: tuple[Rows, Rows]) -> None:
        copies = node.fixed["copies"]
        count = np.rint(rows_of(node.channels["count"], element, self.count))
        alike = all(one.each == 1 for inner in node.nodes for sub in inner.walk() for one in sub.channels.values())
        pattern = ""
        for copy in range(copies):
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
                self._attribute(each, "display", steps(there), lambda value: "inline" if value[0] else "none")
            self._share(each, "opacity", faded)
            if alike:
                # What is the same in all copies is written once.
                if not pattern:
                    pattern = self._id("p")
                    whole = ElementTree.SubElement(self._defs, "g", {"id": pattern})
                    for inner in node.nodes:
                        self._node(whole, inner, number_of, within)
                ElementTree.SubElement(each, "use", {"href": f"#{pattern}"})
                continue
            for inner in node.nodes:
                self._node(each, inner, number_of, within)

    def _id(self, kind: str) -> str:
        self._ids += 1
        return f"{kind}{self._ids}"


def _joined(value: Rows) -> str:
    return " ".join(number(float(v), 4) for v in value)


def _rgb(value: Rows) -> str:
    return "#" + "".join(f"{round(float(v)):02x}" for v in value)
