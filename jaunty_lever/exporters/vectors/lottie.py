"""A display list as Lottie, the open JSON format of vectors that move (lottie.github.io/lottie-spec).

Shapes and arrays become groups within shape layers; a group that fades as one, or holds pictures, a composition of its
own.
"""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np

from jaunty_lever.core.display.display_list import DisplayList
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.compositing import BLENDS
from jaunty_lever.core.document.line_style import MITER_LIMIT
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
from .tracks import Parts, Rows, Track, limits, steps, taken_apart, track

VERSION = "5.7.0"
_ROOM = 4
"""A composition within is so many times as wide and high as the scene: what lies beyond its edges would be cut off."""

Json = dict[str, Any]
Around = tuple[Rows, Rows]


class LottieWriter:
    """Writes one list."""

    def __init__(self, drawn: DisplayList, pictures: Pictures, fps: float) -> None:
        self.drawn, self.pictures, self.fps, self.count = drawn, pictures, fps, drawn.frames
        self.stray = Stray(self.count)
        self.keys = 0
        self._assets: list[Json] = []

    def write(self, transparent: bool, title: str) -> Json:
        """The whole file, as plain data."""
        layers = self._layers(self.drawn.nodes, (IDENTITY, IDENTITY), True)
        if not transparent:
            layers.append(self._paper())
        wide, high = self.drawn.width, self.drawn.height
        return {
            "v": VERSION,
            "fr": _short(self.fps, 6),
            "ip": 0,
            "op": self.count,
            "w": wide,
            "h": high,
            "nm": title,
            "ddd": 0,
            "assets": self._assets,
            "layers": [{**layer, "ind": k + 1} for k, layer in enumerate(layers)],
        }

    def _paper(self) -> Json:
        wide, high = self.drawn.width, self.drawn.height
        points = np.array([[0, 0, wide, 0, wide, high, 0, high]], dtype=np.float64)
        fill = self._fill(rows_of(self.drawn.background, 0, self.count))
        items = [*self._outline("MLLLZ", track(points, PIXEL)), fill]
        return self._layer(4, "Background", self._place(IDENTITY)[0], np.ones((1, 1)), shapes=items)

    def _layer(self, kind: int, name: str, place: Json, opacity: Rows, **more: Any) -> Json:
        ks = {**place, "o": self._share(opacity)}
        return {
            "ddd": 0,
            "ty": kind,
            "nm": name,
            "sr": 1,
            "ks": ks,
            "ip": 0,
            "op": self.count,
            "st": 0,
            "bm": 0,
            **more,
        }

    def _layers(self, nodes: Sequence[DisplayNode], around: Around, root: bool = False) -> list[Json]:
        """Layers of nodes, the topmost first."""
        made: list[Json] = []
        for node in reversed(nodes):
            opacity = np.clip(rows_of(node.channels["opacity"], 0, self.count), 0, 1)
            if not opacity.any():
                continue
            place, keyed = self._place(rows_of(node.channels["matrix"], 0, self.count), reach_of(node))
            inside = self.stray.inside(around, rows_of(node.channels["matrix"], 0, self.count), keyed)
            before = len(made)
            if node.kind in ("picture", "clip", "texture"):
                made += self._picture(node, place, opacity, inside)
            elif _needs_layers(node) or (node.kind == "group" and len(node.nodes) > 1 and not (opacity == 1).all()):
                made.append(self._composition(node, place, opacity, inside))
            else:
                made.append(self._layer(4, node.id, place, opacity, shapes=self._items(node, 0, inside)))
            if len(made) > before:
                made[before] |= self._blend(node)
                if node.matte is not None and node.fixed["matte_depth"] == 0 and root:
                    # What tells where a layer shows lies right above it.
                    above = self._layers((node.matte,), (IDENTITY, IDENTITY))[:1]
                    if above:
                        made[before]["tt"] = (
                            1 + 2 * self._first(node, "matte_by") + self._first(node, "matte_backwards")
                        )
                        made.insert(before, {**above[0], "td": 1})
        return made

    def _first(self, node: DisplayNode, name: str) -> int:
        return round(float(rows_of(node.channels[name], 0, self.count)[0, 0]))

    def _blend(self, node: DisplayNode) -> Json:
        if "blend" not in node.channels:
            return {}
        name = BLENDS[min(max(self._first(node, "blend"), 0), len(BLENDS) - 1)]
        return {"bm": 16 if name == "plus-lighter" else BLENDS.index(name)}

    def _composition(self, node: DisplayNode, place: Json, opacity: Rows, inside: Around) -> Json:
        wide, high = self.drawn.width * _ROOM, self.drawn.height * _ROOM
        asset: Json = {"id": f"comp-{len(self._assets)}", "nm": node.id}
        self._assets.append(asset)
        layers = [{**layer, "ind": k + 2, "parent": 1} for k, layer in enumerate(self._layers(node.nodes, inside))]
        middle = {**self._place(np.array([[1.0, 0, 0, 1, wide / 2, high / 2]]))[0], "o": _still(0)}
        null = {"ddd": 0, "ty": 3, "nm": "Middle", "ind": 1, "ks": middle, "ip": 0, "op": self.count, "st": 0, "sr": 1}
        asset["layers"] = [*layers, null]
        place = {**place, "a": _still([wide / 2, high / 2, 0])}
        return self._layer(0, node.id, place, opacity, refId=asset["id"], w=wide, h=high)

    def _picture(self, node: DisplayNode, place: Json, opacity: Rows, inside: Around) -> list[Json]:
        """A picture, or a texture as it is at first, as a layer of its own."""
        if node.kind == "texture":
            wide, high = (float(v) for v in rows_of(node.channels["size"], 0, self.count)[0])
            given, name = png_uri(colours(node, 0)), f"texture-{node.id}"
            pixels: tuple[int, ...] = tuple(node.fixed["grid"])
        else:
            known = picture_uri(node, 0, self.pictures)
            if known is None:
                return []
            wide, high = node.fixed["size"]
            (given, name), pixels = known, (wide, high)
        asset = {"id": name, "w": pixels[0], "h": pixels[1], "u": "", "p": given, "e": 1}
        if asset["id"] not in [one["id"] for one in self._assets]:
            self._assets.append(asset)
        corners = np.array([[-wide / 2, -high / 2, wide / 2, high / 2]])
        self.stray.points(inside, corners, corners)
        if pixels != (wide, high):
            return [self._stretched(node, place, opacity, asset, wide / pixels[0], high / pixels[1])]
        place = {**place, "a": _still([wide / 2, high / 2, 0])}
        return [self._layer(2, node.id, place, opacity, refId=asset["id"])]

    def _stretched(
        self, node: DisplayNode, place: Json, opacity: Rows, asset: Json, across: float, down: float
    ) -> Json:
        """A picture of another size than it is shown at, in a composition that holds it at its size."""
        wide, high = asset["w"] * across, asset["h"] * down
        own = {**self._place(np.array([[across, 0, 0, down, 0, 0]]))[0]}
        comp: Json = {"id": f"comp-{len(self._assets)}", "nm": node.id}
        self._assets.append(comp)
        comp["layers"] = [self._layer(2, node.id, own, np.ones((1, 1)), refId=asset["id"], ind=1)]
        place = {**place, "a": _still([wide / 2, high / 2, 0])}
        return self._layer(0, node.id, place, opacity, refId=comp["id"], w=round(wide), h=round(high))

    def _items(self, node: DisplayNode, element: int, inside: Around) -> list[Json]:
        """What a node draws, as items of a group, the topmost first."""
        if node.kind == "shape":
            return self._shape(node, element, inside)
        if node.kind == "trace":
            return self._trace(node, inside)
        if node.kind == "array":
            return self._copies(node, element, inside)
        order = [node.nodes[number] for number in drawn_order(node, element, len(node.nodes))]
        return [one for inner in reversed(order) for one in self._grouped(inner, element, inside)]

    def _grouped(self, node: DisplayNode, element: int, around: Around) -> list[Json]:
        opacity = np.clip(rows_of(node.channels["opacity"], element, self.count), 0, 1)
        if not opacity.any():
            return []
        matrices = rows_of(node.channels["matrix"], element, self.count)
        reach = reach_of(node)
        return [
            self._group(node.id, matrices, opacity, around, reach, lambda inside: self._items(node, element, inside))
        ]

    def _group(
        self,
        name: str,
        matrices: Rows,
        opacity: Rows,
        around: Around,
        reach: float,
        items: Callable[[Around], list[Json]],
    ) -> Json:
        place, keyed = self._place(matrices, reach)
        inside = self.stray.inside(around, matrices, keyed)
        end = {"ty": "tr", **place, "o": self._share(opacity)}
        return {"ty": "gr", "nm": name, "it": [*items(inside), end]}

    def _copies(self, node: DisplayNode, element: int, inside: Around) -> list[Json]:
        copies, made = node.fixed["copies"], []
        count = np.rint(rows_of(node.channels["count"], element, self.count))
        for copy in reversed(drawn_order(node, element, copies)):
            number = element * copies + copy
            there = (count > copy).astype(np.float64)
            faded = np.clip(rows_of(node.channels["faded"], number, self.count), 0, 1) * there
            if not faded.any():
                continue
            turned, moved = (rows_of(node.channels[name], number, self.count) for name in ("turned", "moved"))
            many = max(len(turned), len(moved))
            matrices = np.hstack([np.broadcast_to(turned, (many, 4)), np.broadcast_to(moved, (many, 2))])

            def items(within: Around, number: int = number) -> list[Json]:
                return [one for inner in reversed(node.nodes) for one in self._grouped(inner, number, within)]

            made.append(self._group(f"{node.id} {copy}", matrices, faded, inside, inner_reach(node), items))
        return made

    def _trace(self, node: DisplayNode, inside: Around) -> list[Json]:
        """Each line whole, trimmed to what is seen."""
        width = np.maximum(rows_of(node.channels["width"], 0, self.count), 0)
        colour = rows_of(node.channels["stroke"], 0, self.count)
        made = []
        for points, begin, end in lines_of(node, self.count):
            corners = points.reshape(1, -1)
            self.stray.points(inside, corners, corners)
            whole = max(float(np.hypot(*np.diff(points, axis=0).T).sum()), 1e-6)
            part = np.broadcast_arrays(begin, end)
            seen = [self._property(track(side / whole * 100, 0.02)) for side in part]
            items = [
                *self._outline("M" + "L" * (len(points) - 1), Track((0,), corners, ())),
                {"ty": "tm", "s": seen[0], "e": seen[1], "o": _still(0), "m": 1},
                {"ty": "st", **self._colour(colour), "w": self._property(track(width, PIXEL / 2)), "lc": 2, "lj": 2},
            ]
            made.append({"ty": "gr", "it": [*items, {"ty": "tr", **self._place(IDENTITY)[0], "o": _still(100)}]})
        return made

    def _shape(self, node: DisplayNode, element: int, inside: Around) -> list[Json]:
        if not is_plain(node):
            end = {"ty": "tr", **self._place(IDENTITY)[0], "o": _still(100)}
            parts = reversed(layers_of(node, parted=True))
            return [{"ty": "gr", "it": [*self._shape(one, element, inside), end]} for one in parts]
        verbs, made = node.fixed["verbs"], []
        which = np.rint(rows_of(node.channels["which"], element, self.count))
        for k, outline in enumerate(verbs):
            if not (which == k).any():
                continue
            points = rows_of(node.channels[f"points.{k}"], element, self.count)
            given = track(points, PIXEL)
            self.stray.points(inside, points, given.at_frames(self.count))
            items = [*self._outline(outline, given), *self._part(node, element), *self._paints(node, element)]
            if len(verbs) == 1:
                return items
            seen = self._property(steps((which == k) * 100.0))
            made.append({"ty": "gr", "it": [*items, {"ty": "tr", **self._place(IDENTITY)[0], "o": seen}]})
        return made

    def _outline(self, verbs: str, given: Track) -> list[Json]:
        """The curves of an outline, each an item."""
        keyed = [_curves(verbs, values) for values in given.values]
        made = []
        for k in range(len(keyed[0])):
            shapes = [[one[k]] for one in keyed]
            self.keys += 0 if given.still else len(shapes)
            ks = _still(shapes[0][0]) if given.still else {"a": 1, "k": _keys(given, shapes)}
            made.append({"ty": "sh", "ks": ks})
        return made

    def _paints(self, node: DisplayNode, element: int) -> list[Json]:
        made = []
        width = rows_of(node.channels["width"], element, self.count)
        if (width > 0).any():
            colour = rows_of(node.channels["stroke"], element, self.count)
            size = self._property(track(np.maximum(width, 0), PIXEL / 2))
            made.append({"ty": "st", **self._colour(colour), "w": size, **self._line(node, element)})
        if node.fixed["fill"] in ("solid", "conic"):
            name = "colour" if node.fixed["fill"] == "solid" else "colour.0"
            made.append(self._fill(rows_of(node.channels[name], element, self.count)))
        elif node.fixed["fill"] != "none":
            made.append(self._gradient(node, element))
        return made

    def _part(self, node: DisplayNode, element: int) -> list[Json]:
        """The part of an outline that is stroked."""
        if "parted" not in node.fixed:
            return []
        part = rows_of(node.channels["part"], element, self.count)
        ends = (np.clip(part[:, k : k + 1], 0, 1) * 100 for k in (0, 1))
        start, end = (self._property(track(side, 0.02)) for side in ends)
        way = 1 if part[0, 3] else 2
        return [{"ty": "tm", "s": start, "e": end, "o": self._property(track(part[:, 2:3] * 360, 0.07)), "m": way}]

    def _line(self, node: DisplayNode, element: int) -> Json:
        """The ends, corners and dashes of a stroke. Choices that change stay as they are at first."""

        def first(name: str) -> int:
            if name not in node.channels:
                return 0
            return min(max(round(float(rows_of(node.channels[name], element, self.count)[0, 0])), 0), 2)

        made: Json = {"lc": (2, 1, 3)[first("cap")], "lj": (2, 1, 3)[first("join")], "ml": MITER_LIMIT}
        if "miter" in node.channels:
            # A limit that moves is one of its own here.
            made["ml"] = max(float(rows_of(node.channels["miter"], element, self.count)[0, 0]), 1.0)
        if "dash" in node.channels:
            dash = rows_of(node.channels["dash"], element, self.count)
            if (dash[:, 0] > 0).any():
                names = (("d", "dash", 0), ("g", "gap", 1), ("o", "offset", 2))
                made["d"] = [
                    {"n": short, "nm": name, "v": self._property(track(dash[:, k : k + 1], PIXEL / 2))}
                    for short, name, k in names
                ]
        return made

    def _fill(self, rows: Rows) -> Json:
        return {"ty": "fl", **self._colour(rows), "r": 1}

    def _colour(self, rows: Rows) -> Json:
        colour = self._property(track(np.clip(rows[:, :3], 0, 1), SHARE), lambda value: [*value, 1])
        return {"c": colour, "o": self._share(np.clip(rows[:, 3:], 0, 1))}

    def _gradient(self, node: DisplayNode, element: int) -> Json:
        def rows(name: str) -> Rows:
            return rows_of(node.channels[name], element, self.count)

        if node.fixed["fill"] == "linear":
            kind, start, end = 1, rows("start"), rows("end")
        else:
            kind, start, radius = 2, rows("centre"), np.maximum(rows("radius"), 1e-3)
            end = np.hstack(np.broadcast_arrays(start[:, :1] + radius, start[:, 1:]))
        stops = range(node.fixed["stops"])
        order = sorted(stops, key=lambda k: float(rows(f"offset.{k}")[0, 0]))
        offsets = [np.clip(rows(f"offset.{k}"), 0, 1) for k in order]
        colours = [np.clip(rows(f"colour.{k}"), 0, 1) for k in order]
        parts = [part for offset, rgba in zip(offsets, colours, strict=True) for part in (offset, rgba[:, :3])]
        if not all((rgba[:, 3] == 1).all() for rgba in colours):
            parts += [part for offset, rgba in zip(offsets, colours, strict=True) for part in (offset, rgba[:, 3:])]
        many = max(len(part) for part in parts)
        whole = np.hstack([np.broadcast_to(part, (many, part.shape[1])) for part in parts])
        made = {"p": len(order), "k": self._property(track(whole, SHARE))}
        ends = {"s": self._property(track(start, PIXEL)), "e": self._property(track(end, PIXEL))}
        if "focus" in node.channels:
            away = rows("focus")
            far = np.hypot(away[:, :1], away[:, 1:]) / radius
            turn = np.degrees(np.unwrap(np.arctan2(away[:, 1:], away[:, :1]), axis=0))
            ends |= {"h": self._property(track(far * 100, 0.02)), "a": self._property(track(turn, 0.07))}
        return {"ty": "gf", "t": kind, "o": _still(100), "r": 1, "g": made, **ends}

    def _place(self, matrices: Rows, reach: float = 0.0) -> tuple[Json, Rows]:
        """A place as a transform without its opacity, and the matrices that its keys give. `reach`: see `limits`."""
        parts = taken_apart(matrices)
        turn, share = limits(PIXEL, reach)
        x, y, angle, skew = (
            track(part[:, None], limit)
            for part, limit in ((parts.x, PIXEL), (parts.y, PIXEL), (parts.angle, turn), (parts.skew, turn))
        )
        size = track(np.stack([parts.wide, parts.high], axis=1) * 100, 100 * share)
        still = x.still and y.still
        where = (
            _still([_short(float(v.values[0, 0])) for v in (x, y)] + [0])
            if still
            else {"s": True, "x": self._property(x), "y": self._property(y)}
        )
        made = {
            "a": _still([0, 0, 0]),
            "p": where,
            "s": self._property(size, lambda value: [*value, 100]),
            "r": self._property(angle),
        }
        if not skew.still or abs(float(skew.values[0, 0])) > 1e-6:
            # The other way round than a mathematician's.
            made |= {"sk": self._property(Track(skew.frames, -skew.values, skew.eases)), "sa": _still(0)}
        columns = [one.at_frames(self.count) for one in (x, y, angle, skew, size)]
        wide, high = columns[4][:, 0] / 100, columns[4][:, 1] / 100
        flat = [column[:, 0] for column in columns[:4]]
        keyed = Parts(flat[0], flat[1], flat[2], flat[3], wide, high)
        return made, keyed.matrices()

    def _share(self, rows: Rows) -> Json:
        return self._property(track(rows * 100, SHARE * 100))

    def _property(self, given: Track, told: Callable[[list[float]], list[float]] = lambda value: value) -> Json:
        values = [told([_short(float(v)) for v in value]) for value in given.values]
        if given.still:
            return _still(values[0][0] if len(values[0]) == 1 else values[0])
        self.keys += len(values)
        return {"a": 1, "k": _keys(given, values)}


def _still(value: Any) -> Json:
    return {"a": 0, "k": value}


def _keys(given: Track, values: Sequence[Any]) -> list[Json]:
    """Keys as the format has them: the ease to the next one stands with each."""
    made: list[Json] = []
    for k, (frame, value) in enumerate(zip(given.frames, values, strict=True)):
        key: Json = {"t": frame, "s": value}
        if k < len(given.eases):
            ease = given.eases[k]
            if ease == "hold":
                key["h"] = 1
            else:
                x1, y1, x2, y2 = ease if isinstance(ease, tuple) else (0, 0, 1, 1)
                key["o"] = {"x": [_short(x1)], "y": [_short(y1)]}
                key["i"] = {"x": [_short(x2)], "y": [_short(y2)]}
        made.append(key)
    return made


def _curves(verbs: str, points: Rows) -> list[Json]:
    """The curves of an outline: corners, and where their handles lie from them, as cubics."""
    made: list[Json] = []
    k = 0

    def reach(one: Json, corner: Rows, out: Rows, into: Rows) -> None:
        one["o"][-1] = out - one["v"][-1]
        one["v"].append(corner)
        one["i"].append(into - corner)
        one["o"].append(np.zeros(2))

    for verb in verbs:
        if verb == "M":
            made.append({"v": [points[k : k + 2]], "i": [np.zeros(2)], "o": [np.zeros(2)], "c": False})
            k += 2
            continue
        one = made[-1]
        at = one["v"][-1]
        if verb == "L":
            corner = points[k : k + 2]
            reach(one, corner, at, corner)
            k += 2
        elif verb == "Q":
            control, corner = points[k : k + 2], points[k + 2 : k + 4]
            reach(one, corner, at + (control - at) * 2 / 3, corner + (control - corner) * 2 / 3)
            k += 4
        elif verb == "C":
            reach(one, points[k + 4 : k + 6], points[k : k + 2], points[k + 2 : k + 4])
            k += 6
        else:
            one["c"] = True
    return [
        {
            "c": one["c"],
            **{name: [[_short(float(x), 2), _short(float(y), 2)] for x, y in one[name]] for name in ("v", "i", "o")},
        }
        for one in made
    ]


def _needs_layers(node: DisplayNode) -> bool:
    return node.kind == "group" and any(inner.kind in ("picture", "clip", "texture") for inner in node.walk())


def _short(value: float, digits: int = 4) -> float:
    """A number without places that nobody sees."""
    short = round(value, digits)
    return int(short) if short == int(short) else short
