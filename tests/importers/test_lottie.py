"""Animations that come in: what goes out as Lottie, what others write, compared with another renderer, and traps."""

import copy
import json
import random
import unittest
from collections.abc import Iterator
from typing import Any

import numpy as np
from rlottie_python import LottieAnimation

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Refused
from jaunty_lever.demo import demo_project
from jaunty_lever.formats import lottie, project_file
from jaunty_lever.formats.open_json import BadFile
from jaunty_lever.importers import Brought, importer_for
from jaunty_lever.importers.drawings import added
from tests.core.scenes import scene
from tests.exporters.taken_out import Pixels, drawn, taken_out

EASE = {"o": {"x": [0.4], "y": [0.1]}, "i": {"x": [0.6], "y": [1]}}


def still(value: Any) -> dict[str, Any]:
    return {"a": 0, "k": value}


def keyed(*keys: tuple[float, Any]) -> dict[str, Any]:
    made = [{"t": frame, "s": value if isinstance(value, list) else [value], **EASE} for frame, value in keys]
    # The last one leads nowhere.
    return {"a": 1, "k": [*made[:-1], {"t": made[-1]["t"], "s": made[-1]["s"]}]}


def place(x: float = 0, y: float = 0, **more: Any) -> dict[str, Any]:
    return {
        "p": still([x, y, 0]),
        "a": still([0, 0, 0]),
        "s": still([100, 100, 100]),
        "r": still(0),
        "o": still(100),
        **more,
    }


def fill(red: float, green: float, blue: float, **more: Any) -> dict[str, Any]:
    return {"ty": "fl", "c": still([red, green, blue, 1]), "o": still(100), "r": 1, **more}


def box(wide: float, high: float, **more: Any) -> dict[str, Any]:
    return {"ty": "rc", "p": still([0, 0]), "s": still([wide, high]), "r": still(0), "d": 1, **more}


def group(*items: dict[str, Any], **more: Any) -> dict[str, Any]:
    return {"ty": "gr", "nm": "Group", "it": [*items, {"ty": "tr", **place(**more)}]}


def layer(*shapes: dict[str, Any], ks: Any = None, kind: int = 4, **more: Any) -> dict[str, Any]:
    return {
        "ddd": 0,
        "ty": kind,
        "nm": "Layer",
        "sr": 1,
        "ks": ks or place(),
        "ip": 0,
        "op": 60,
        "st": 0,
        "bm": 0,
        "shapes": list(shapes),
        **more,
    }


def whole(*layers: dict[str, Any], **more: Any) -> dict[str, Any]:
    numbered = [{"ind": k + 1, **one} for k, one in enumerate(layers)]
    return {
        "v": "5.7.0",
        "fr": 30,
        "ip": 0,
        "op": 60,
        "w": 200,
        "h": 160,
        "ddd": 0,
        "assets": [],
        "layers": numbered,
        **more,
    }


def moved() -> dict[str, Any]:
    """A file with most of what is read, of a kind that other programs write."""
    turning = layer(
        group(box(40, 20), fill(0.12, 0.44, 0.47)),
        ks=place(60, 40, r=keyed((0, 0), (59, 180)), s=keyed((0, [100, 100]), (30, [180, 60]), (59, [100, 100]))),
    )
    child = layer(
        group({"ty": "el", "p": still([0, 0]), "s": still([24, 24])}, fill(0.66, 0.24, 0.16)), ks=place(50, 0), parent=3
    )
    null = layer(kind=3, ks=place(100, 100, r=keyed((0, 0), (59, 90)), o=still(0)))
    late = layer(
        group(
            {
                "ty": "sr",
                "sy": 1,
                "d": 1,
                "pt": still(5),
                "p": still([0, 0]),
                "r": still(0),
                "or": still(20),
                "ir": still(9),
                "is": still(0),
                "os": still(0),
            },
            fill(0.9, 0.7, 0.2),
        ),
        ks=place(160, 40),
        ip=20,
        op=45,
    )
    stroke = {
        "ty": "st",
        "c": still([0.1, 0.1, 0.1, 1]),
        "o": still(100),
        "w": keyed((0, 2), (59, 9)),
        "lc": 2,
        "lj": 2,
    }
    loop = {
        "c": True,
        "v": [[-20, -15], [20, -15], [0, 20]],
        "i": [[0, 0], [0, 0], [10, 0]],
        "o": [[0, 0], [0, 0], [-10, 0]],
    }
    path = layer(
        group({"ty": "sh", "ks": still(loop)}, stroke),
        ks=place(
            40,
            120,
            p={
                "a": 1,
                "k": [
                    {"t": 0, "s": [40, 120, 0], "to": [0, -40, 0], "ti": [-40, 0, 0], **EASE},
                    {"t": 59, "s": [140, 120, 0]},
                ],
            },
        ),
    )
    ring = {"c": True, "v": [[-8, -8], [8, -8], [8, 8], [-8, 8]], "i": [[0, 0]] * 4, "o": [[0, 0]] * 4}
    outer = {**ring, "v": [[-18, -18], [18, -18], [18, 18], [-18, 18]]}
    holed = layer(
        group({"ty": "sh", "ks": still(outer)}, {"ty": "sh", "ks": still(ring)}, fill(0.3, 0.3, 0.5, r=2)),
        ks=place(170, 120, o=keyed((0, 100), (59, 20))),
    )
    shade = {
        "ty": "gf",
        "t": 1,
        "o": still(100),
        "r": 1,
        "s": still([-30, 0]),
        "e": still([30, 0]),
        "g": {"p": 2, "k": still([0, 0.1, 0.4, 0.5, 1, 0.9, 0.8, 0.3])},
    }
    inner = layer(
        group(box(60, 14), fill(0.2, 0.6, 0.3)), ks=place(30, 10, p=keyed((0, [30, 10, 0]), (20, [60, 10, 0])))
    )
    shaded = layer(group(box(60, 14), shade), ks=place(100, 148))
    within = layer(kind=0, ks=place(100, 70), refId="comp", w=120, h=40, st=10, ip=10)
    return whole(
        turning,
        child,
        null,
        late,
        path,
        holed,
        within,
        shaded,
        assets=[{"id": "comp", "layers": [{"ind": 1, **inner}]}],
    )


def lined() -> dict[str, Any]:
    """Lines drawn in part, from where such files begin each figure, in dashes, with other ends and corners."""

    def stroke(**more: Any) -> dict[str, Any]:
        return {
            "ty": "st",
            "c": still([0.1, 0.1, 0.1, 1]),
            "o": still(100),
            "w": still(5),
            "lc": 1,
            "lj": 1,
            "ml": 10,
            **more,
        }

    def part(start: Any, end: Any, turn: Any = still(0), way: int = 1) -> dict[str, Any]:
        return {"ty": "tm", "s": start, "e": end, "o": turn, "m": way}

    grows, follows = keyed((0, 0), (59, 100)), keyed((20, 0), (50, 80))
    disc = {"ty": "el", "p": still([0, 0]), "s": still([36, 24]), "d": 1}
    star = {
        "ty": "sr",
        "sy": 1,
        "d": 1,
        "pt": still(5),
        "p": still([0, 0]),
        "r": still(0),
        "or": still(20),
        "ir": still(9),
        "is": still(0),
        "os": still(0),
    }
    bow = {"c": False, "v": [[-20, 0], [20, 0]], "i": [[0, 0], [0, -30]], "o": [[0, 30], [0, 0]]}
    other = {"c": False, "v": [[-20, 12], [20, 12]], "i": [[0, 0]] * 2, "o": [[0, 0]] * 2}
    curves = [{"ty": "sh", "ks": still(one)} for one in (bow, other)]
    dashes = [{"n": "d", "v": still(7)}, {"n": "g", "v": still(4)}, {"n": "o", "v": keyed((0, 0), (59, 40))}]
    round_ends = [{"n": name, "v": still(value)} for name, value in (("d", 5), ("g", 7), ("o", 3))]
    return whole(
        layer(group(disc, stroke(), part(still(0), grows)), ks=place(30, 24)),
        layer(group({**disc, "d": 3}, stroke(), part(still(10), still(60))), ks=place(80, 24)),
        layer(group(box(36, 20), stroke(), part(follows, grows, keyed((0, 0), (59, 200)))), ks=place(130, 24)),
        layer(group(box(36, 24, r=still(8)), stroke(lc=3), part(still(70), still(20))), ks=place(175, 24)),
        layer(group(star, stroke(lj=3), part(still(0), grows, still(90))), ks=place(30, 75)),
        layer(group(*curves, stroke(), part(still(0), grows)), ks=place(80, 70)),
        layer(group(*curves, stroke(), part(follows, grows, way=2)), ks=place(130, 70)),
        layer(group(group(curves[0]), part(still(0), follows), stroke()), ks=place(175, 70)),
        # Along curves the other renderer's dashes are shorter than they are told.
        layer(group(curves[1], stroke(d=dashes)), ks=place(40, 120)),
        layer(group(box(36, 24), stroke(lc=2, d=round_ends)), ks=place(100, 120)),
    )


def painted() -> dict[str, Any]:
    """Fills and strokes in every order, on outlines that lie on each other, beside each other, and in groups."""

    def stroke(o: Any = None, **more: Any) -> dict[str, Any]:
        return {
            "ty": "st",
            "c": still([0.1, 0.1, 0.1, 1]),
            "o": o or still(100),
            "w": still(6),
            "lc": 2,
            "lj": 2,
            **more,
        }

    def disc(side: float, x: float = 0, **more: Any) -> dict[str, Any]:
        return {"ty": "el", "p": still([x, 0]), "s": still([side, side]), "d": 1, **more}

    def sheet(*points: list[float], closed: bool = True) -> dict[str, Any]:
        nothing = [[0, 0]] * len(points)
        return {"ty": "sh", "ks": still({"c": closed, "v": list(points), "i": nothing, "o": nothing})}

    red, blue, gold = fill(0.8, 0.3, 0.2), fill(0.2, 0.4, 0.6), fill(0.9, 0.7, 0.2)
    bow = sheet([-16, -10], [16, 10], [-16, 10], [16, -10], [0, -16], closed=False)
    pale, fading = still(40), keyed((0, 100), (59, 20))
    glow = {
        "ty": "gf",
        "t": 2,
        "o": still(100),
        "r": 1,
        "s": still([0, 0]),
        "e": still([18, 0]),
        "h": still(60),
        "a": still(30),
        "g": {"p": 2, "k": still([0, 1, 0.9, 0.7, 1, 0.1, 0.3, 0.5])},
    }
    cells: list[list[dict[str, Any]]] = [
        # Two figures are one ring, by either rule.
        [disc(32), disc(16), {**red, "r": 2}],
        [disc(32), disc(16, d=3), red],
        [
            disc(24, -5),
            disc(24, 5),
            {**blue, "o": pale},
        ],
        # A fill paints what stands before it.
        [disc(20, -6), red, disc(20, 8), blue],
        [disc(14, -8), blue, disc(14, 8)],
        # All of them paint.
        [disc(30), stroke(), {**red, "o": pale}, gold],
        [disc(26), red, stroke()],
        [disc(26), stroke(), red],
        [disc(26), stroke(pale), {**red, "o": pale}],
        [disc(26), stroke(fading), {**red, "o": pale}],
        [disc(26), stroke(), {**red, "o": fading}],
        # An open line by the other rule, and a figure of no area.
        [bow, stroke(), {**red, "r": 2}],
        [sheet([-12, 0], [12, 0], closed=False), {**red, "r": 2}, stroke()],
        # What stands around groups paints them too, under their own.
        [group(disc(20, -4), blue), group(disc(12, 4)), {**gold, "o": still(100)}],
        [disc(34), glow],
    ]
    return whole(
        *(layer(*items, ks=place(22 + k % 5 * 39, 26 + k // 5 * 50)) for k, items in enumerate(cells)), w=200, h=160
    )


def _items(given: Any) -> Iterator[dict[str, Any]]:
    """Everything in a file that has a kind."""
    if isinstance(given, dict):
        if "ty" in given:
            yield given
        for inner in given.values():
            yield from _items(inner)
    elif isinstance(given, list):
        for inner in given:
            yield from _items(inner)


def brought(data: Any) -> Brought:
    content = data if isinstance(data, bytes) else json.dumps(data).encode()
    return importer_for(content).read(content, "quay.json")


def came(data: Any) -> Project:
    thing = brought(data).thing
    assert isinstance(thing, Project)
    return thing


def over(picture: Pixels) -> Pixels:
    share = picture[..., 3:].astype(np.float64) / 255
    made: Pixels = (picture[..., :3] * share + 255 * (1 - share)).round().astype(np.uint8)
    return made


def came_to(parameter: Any, frame: float) -> Any:
    """The value of the last key before a frame."""
    return max((key for key in parameter.keys if key.frame <= frame), key=lambda key: key.frame).value


class Looks(unittest.TestCase):
    def alike(
        self, data: Any, project: Any, share: float = 0.985, frames: Any = (0, 9, 15, 22, 30, 44, 50, 59)
    ) -> None:
        """Whether a file looks as the other renderer draws it."""
        animation = LottieAnimation.from_data(json.dumps(data))
        for frame in frames:
            with self.subTest(frame=frame):
                # Its colours have been multiplied by how opaque they are.
                dimmed = np.asarray(animation.render_pillow_frame(frame_num=frame).convert("RGBA")).astype(int)
                theirs = dimmed[..., :3] + 255 - dimmed[..., 3:]
                ours = over(drawn(project, frame, transparent=True))
                off = np.abs(ours.astype(int) - theirs).max(axis=2)
                self.assertGreater((off <= 16).mean(), share)
                self.assertGreater((off <= 100).mean(), 0.998)

    def test_what_goes_out_comes_in_again(self) -> None:
        project = demo_project()
        for one in project.scenes:
            if one.id == "harbour-screens":
                # Clips stand still in vectors, which is told.
                continue
            if one.id in ("gull-flock", "buoy-row", "forge-sparks", "kelp", "sand-tracer", "mooring-posts"):
                # Many alike; their kind is in the others.
                continue
            alone = project.changed(scenes=(one,), tables=())
            found = brought(taken_out(alone, "lottie"))
            assert isinstance(found.thing, Project)
            if one.id == "harbour-board":
                # Bars with round corners that grow are no outline that is stretched, which is told.
                self.assertEqual(found.remarks, ("Outlines that change: they stay as they are at first (8)",))
                continue
            self.assertEqual(found.remarks, ())
            again = found.thing.scenes[0]
            self.assertEqual(
                (again.width, again.height, again.fps, again.length), (one.width, one.height, one.fps, one.length)
            )
            for frame in (0, 41, one.length - 1):
                off = np.abs(drawn(found.thing, frame).astype(int) - drawn(alone, frame)).max(axis=2)
                with self.subTest(one.name, frame=frame):
                    self.assertGreater((off <= 8).mean(), 0.985)
                    self.assertGreater((off <= 80).mean(), 0.999)

    def test_what_others_write_looks_as_another_renderer_draws_it(self) -> None:
        data = moved()
        found = brought(data)
        self.assertEqual(found.remarks, ())
        assert isinstance(found.thing, Project)
        self.assertEqual(project_file.read(project_file.write(found.thing).encode()), found.thing)
        self.alike(data, found.thing)

    def test_lines_in_part_and_in_dashes_look_as_another_renderer_draws_them(self) -> None:
        found = brought(lined())
        self.assertEqual(found.remarks, ())
        # Much of thin lines is edge.
        self.alike(lined(), found.thing, 0.97)

    def test_fills_and_strokes_paint_what_stands_before_them_in_their_order(self) -> None:
        found = brought(painted())
        self.assertEqual(found.remarks, ())
        self.alike(painted(), found.thing, 0.98)

    def test_a_layer_turns_to_where_it_goes(self) -> None:
        way = {
            "a": 1,
            "k": [
                {"t": 0, "s": [30, 130, 0], "to": [0, -110, 0], "ti": [-60, 0, 0], **EASE},
                {"t": 40, "s": [150, 30, 0], "to": [20, 0, 0], "ti": [0, -20, 0], **EASE},
                {"t": 59, "s": [180, 120, 0]},
            ],
        }
        boat = group(box(30, 8), fill(0.2, 0.3, 0.5))
        data = whole(layer(boat, ks=place(p=way, r=keyed((0, 0), (59, 40))), ao=1))
        found = brought(data)
        self.assertEqual(found.remarks, ())
        # The other renderer turns nothing at the first key and from the last one on.
        self.alike(data, found.thing, 0.98, (1, 9, 15, 22, 30, 44, 50, 58))

    def test_keys_that_all_but_meet_come_in(self) -> None:
        bend = {"to": [10, 0, 0], "ti": [0, 10, 0], **EASE}
        leap = {
            "a": 1,
            "k": [
                {"t": 0, "s": [20, 20, 0], **bend},
                {"t": 22.0000009, "s": [90, 60, 0], **bend},
                {"t": 22.0000011, "s": [40, 120, 0], **bend},
                {"t": 50, "s": [160, 120, 0]},
            ],
        }
        data = whole(layer(group(box(20, 20), fill(0.2, 0.3, 0.5)), ks=place(p=leap)))
        found = brought(data)
        [one] = [some for some in came(data).scenes[0].index.layers.values() if some.position.keys]
        self.assertEqual(found.remarks, ())
        frames = [key.frame for key in one.position.keys]
        self.assertEqual(frames, sorted(set(frames)))
        values = {frame: came_to(one.position, frame) for frame in (21.5, 22.1)}
        self.assertGreater(values[21.5][0], 80)
        self.assertLess(values[22.1][0], 50)

    def test_lines_drawn_in_part_go_out_as_such_and_come_in_again(self) -> None:
        grows = {"rest": 0, "keys": [{"frame": 0, "value": 0}, {"frame": 20, "value": 100}]}
        common = {"fill": {"kind": "none"}, "stroke_width": 6.0}
        project = demo_project().changed(
            tables=(),
            scenes=(
                scene(
                    {
                        "kind": "path",
                        "id": "bow",
                        "name": "Bow",
                        "data": "M20 60 C60 -20 100 140 140 60 M20 120 L140 120",
                        "line": {"end": grows, "cap": "butt", "join": "bevel"},
                        **common,
                    },
                    {
                        "kind": "star",
                        "id": "star",
                        "name": "Star",
                        "position": [100, 100],
                        "line": {"start": 20, "end": grows, "turn": 30, "contours": "each by itself"},
                        **common,
                    },
                    {
                        "kind": "ellipse",
                        "id": "ring",
                        "name": "Ring",
                        "position": [60, 100],
                        "line": {"dash": 9, "gap": 5, "offset": grows, "cap": "square"},
                        **common,
                    },
                    length=24,
                ).changed(width=160, height=160),
            ),
        )
        content = taken_out(project, "lottie")
        parts = [one for one in _items(json.loads(content)) if one.get("ty") == "tm"]
        self.assertEqual(sorted(one["m"] for one in parts), [1, 2])
        again = brought(content)
        self.assertEqual(again.remarks, ())
        assert isinstance(again.thing, Project)
        lines = [one.line for one in again.thing.scenes[0].index.layers.values() if getattr(one, "line", None)]
        self.assertEqual(sum(bool(line.end.keys) for line in lines), 2)
        for frame in (0, 7, 13, 23):
            off = np.abs(drawn(again.thing, frame).astype(int) - drawn(project, frame)).max(axis=2)
            with self.subTest(frame=frame):
                self.assertGreater((off <= 8).mean(), 0.995)

    def test_an_outline_that_moves_and_stretches_as_a_whole_does_so_here(self) -> None:
        def bar(high: float, right: float) -> dict[str, Any]:
            return {
                "c": True,
                "v": [[right, 0], [right + 30, 0], [right + 30, -high], [right, -high]],
                "i": [[0, 0]] * 4,
                "o": [[0, 0]] * 4,
            }

        # It has no height at first: nothing could be stretched to become the rest.
        grows = {"ty": "sh", "ks": keyed((0, [bar(0, 0)]), (30, [bar(80, 20)]), (59, [bar(40, 0)]))}
        data = whole(layer(group(grows, fill(0.2, 0.4, 0.5)), ks=place(60, 120)))
        found = brought(data)
        self.assertEqual(found.remarks, ())
        self.alike(data, found.thing)
        bent = bar(80, 0)
        bent["v"][1] = [70, -10]
        for what in (
            group({"ty": "sh", "ks": keyed((0, [bar(40, 0)]), (59, [bent]))}, fill(1, 0, 0)),
            group(grows, {"ty": "st", "c": still([0, 0, 0, 1]), "o": still(100), "w": still(5)}),
        ):
            self.assertEqual(
                brought(whole(layer(what))).remarks, ("Outlines that change: they stay as they are at first",)
            )

    def test_on_a_scene_of_another_rate_everything_happens_at_its_second(self) -> None:
        content = json.dumps(moved()).encode()
        slow = lottie.read(content, "quay", 15)
        keys = [
            key["frame"]
            for one in slow.layers
            for key in (one["rotation"]["keys"] if isinstance(one.get("rotation"), dict) else ())
        ]
        self.assertEqual(max(keys), 29.5)
        project = demo_project()
        after = added(slow, "evening-quay").apply(project)
        self.assertEqual(after.scenes[0].layers[-1].name, "quay")


class Traps(unittest.TestCase):
    def remarks(self, data: Any) -> tuple[str, ...]:
        return brought(data).remarks

    def refused(self, data: Any) -> str:
        with self.assertRaises(BadFile) as caught:
            brought(data)
        return str(caught.exception)

    def test_what_is_not_read_is_named_and_never_run(self) -> None:
        shown = group(box(20, 20), fill(1, 0, 0))
        odd = place(10, 10, r={"a": 0, "k": 30, "x": "while (true) {}"}, sk=still(20))
        dashed = {"ty": "gs", "o": still(100), "w": still(2), "lc": 1, "d": [{"n": "d", "v": still(3)}] * 2}
        data = whole(
            layer(shown, ks=odd, bm=99, ef=[{}], masksProperties=[{}]),
            layer(kind=5),
            layer(kind=6),
            layer(kind=2, refId="far"),
            layer(group(box(9, 9), dashed, fill(0, 0, 1), {"ty": "rp"}, {"ty": "tm"}, {"ty": "tm"}, {"ty": "xx"})),
            layer(shown, parent=77),
            assets=[{"id": "far", "p": "http://127.0.0.1:9/a.png"}],
        )
        told = " · ".join(self.remarks(data))
        for said in (
            *("Expressions: they are never run", "Slants", "Blend modes", "Effects", "Masks", "Texts", "Sound"),
            *("Pictures in other files: they are not fetched", "Dashes of several lengths", "Repeaters"),
            *(
                "Fills of outlines drawn in part",
                "Gradients of strokes",
                "Outlines drawn in part of a part",
                "Shapes of the kind xx",
                "Parents that are not there",
            ),
        ):
            self.assertIn(said, told)
        first = came(data).scenes[0].layers[0].layers[-1]
        self.assertEqual(first.rotation.rest, 30)

    def test_what_goes_round_in_a_circle_ends(self) -> None:
        shown = group(box(20, 20), fill(1, 0, 0))
        itself = whole(
            layer(shown),
            layer(kind=0, refId="a"),
            assets=[
                {"id": "a", "layers": [layer(kind=0, refId="b")]},
                {"id": "b", "layers": [layer(kind=0, refId="a")]},
            ],
        )
        self.assertEqual(self.remarks(itself), ("Compositions that hold themselves",))
        parents = whole(layer(shown, parent=2), layer(kind=3, parent=1))
        self.assertEqual(self.remarks(parents), ("Parents that are not there, or go round in a circle (2)",))

    def test_what_unfolds_without_end_is_refused(self) -> None:
        shown = group(box(2, 2), fill(1, 0, 0))
        many = [{"id": "c0", "layers": [layer(shown)] * 10}]
        many += [{"id": f"c{k}", "layers": [layer(kind=0, refId=f"c{k - 1}")] * 10} for k in range(1, 9)]
        self.assertRegex(self.refused(whole(layer(kind=0, refId="c8"), assets=many)), "more than (1,980|20,000) layers")
        self.assertIn("1,980", self.refused(whole(*[layer(shown)] * 3000)))
        deep: dict[str, Any] = group(box(2, 2), fill(1, 0, 0))
        for _ in range(60):
            deep = group(deep, x=1)
        self.assertIn("too deep", self.remarks(whole(layer(shown), layer(deep)))[0])
        self.assertIn("levels deep", self.refused(b'{"layers":[' + b"[" * 5000 + b'"ty" "ks"'))

    def test_nothing_in_it_or_no_animation_is_said(self) -> None:
        self.assertIn("Nothing is drawn", self.refused(whole(layer(kind=3))))
        self.assertIn("no list of layers", self.refused({"layers": 5, "ty": 1, "ks": 2}))

    def test_whatever_is_changed_in_a_file_it_is_refused_in_words_or_comes_in_whole(self) -> None:
        odd = [
            None,
            True,
            -1,
            0,
            1e300,
            "x",
            "",
            [],
            {},
            [[]],
            [None, 3],
            {"k": []},
            {"a": 1, "k": [{"t": "x"}]},
            "http://a/b",
        ]
        taken = 0
        for seed in range(250):
            dice = random.Random(seed)
            data = copy.deepcopy(moved())
            for _ in range(dice.randrange(1, 5)):
                here: Any = data
                while True:
                    keys = list(here) if isinstance(here, dict) else list(range(len(here)))
                    if not keys:
                        break
                    key = dice.choice(keys)
                    if isinstance(here[key], dict | list) and dice.random() < 0.85:
                        here = here[key]
                        continue
                    here[key] = dice.choice(odd)
                    break
            with self.subTest(seed):
                try:
                    thing = came(json.dumps(data).encode()) if isinstance(data.get("layers"), list) else None
                except (BadFile, Refused) as error:
                    self.assertTrue(str(error).strip())
                    continue
                if thing is not None:
                    taken += 1
                    self.assertEqual(project_file.read(project_file.write(thing).encode()), thing)
        self.assertGreater(taken, 150)


if __name__ == "__main__":
    unittest.main()
