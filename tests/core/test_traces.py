"""Traces and crossings: as near to the true path as told, the same however they are asked for, broken where points
jump."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.layers import TraceLayer
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.traces import Traced, traced
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.drawing.nodes.trace import seen
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene

QUICK = "(640 + 250 * sin(360 * 3.3 * t), 360 + 250 * cos(360 * 4.1 * t))"


def dot(text: str = QUICK, **fields: Any) -> dict[str, Any]:
    moves = {"rest": [0, 0], "chain": [{"kind": "formula", "id": "moves", "text": text}]}
    return {"kind": "ellipse", "id": "dot", "name": "Dot", "size": [4, 4], "position": moves, **fields}


def trace(**fields: Any) -> dict[str, Any]:
    return {"kind": "trace", "id": "line", "name": "Line", "follows": "dot", **fields}


def line(*layers: dict[str, Any], length: int = 60) -> tuple[Traced, Sampler]:
    sampler = Sampler(scene(*layers, length=length))
    layer = sampler.index.layers["line"]
    assert isinstance(layer, TraceLayer)
    return traced(sampler, layer), sampler


def drawn(one: Scene, frame: int) -> np.ndarray:
    look = display_list(Sampler(one), SampleTimes.frames(30, frame, frame + 1))
    return np.asarray(pixels(look, 0, Look()))[..., :3].astype(int)


class Lines(unittest.TestCase):
    def test_no_chord_lies_further_than_a_quarter_pixel_from_the_way_however_fast_it_is(self) -> None:
        made, sampler = line(trace(), dot())
        self.assertEqual(made.count.tolist(), [len(made.points)])
        t = np.linspace(0, 59 / 30, 20_000)
        truth = sampler.sample("dot.position", t)
        after = np.clip(np.searchsorted(made.times, t), 1, len(made.times) - 1)
        a, b = made.points[after - 1], made.points[after]
        way = b - a
        share = np.clip(((truth - a) * way).sum(axis=1) / (way**2).sum(axis=1), 0, 1)
        self.assertLess(np.hypot(*(truth - a - share[:, None] * way).T).max(), 0.3)

    def off(self, made: Traced, truth: np.ndarray, t: np.ndarray) -> float:
        """How far a path lies from the chords of the only line at the most, px."""
        after = np.clip(np.searchsorted(made.times, t), 1, len(made.times) - 1)
        a, b = made.points[after - 1], made.points[after]
        way = b - a
        share = np.clip(((truth - a) * way).sum(axis=1) / np.maximum((way**2).sum(axis=1), 1e-12), 0, 1)
        return float(np.hypot(*(truth - a - share[:, None] * way).T).max())

    def test_figures_fast_waves_and_corners_between_frames_stay_as_near(self) -> None:
        keys = [
            {"frame": f, "value": v, "ease": "linear"}
            for f, v in ((0, [0, 0]), (7.3, [90, 0]), (11.61, [90, 70]), (29.9, [4, 8]))
        ]
        moves = (
            {
                "rest": [300, 300],
                "chain": [{"kind": "figure", "id": "g", "p": 11, "q": 8, "size": [200, 200], "speed": 0.7}],
            },
            {
                "rest": [300, 300],
                "chain": [
                    {"kind": "wave", "id": "w", "amplitude": [0, 9], "frequency": 100},
                    {"kind": "rate", "id": "r", "rate": [60, 0]},
                ],
            },
            {"rest": [0, 0], "keys": keys},
            {
                "rest": [0, 0],
                "keys": keys,
                "chain": [{"kind": "wave", "id": "w", "shape": "triangle", "amplitude": [0, 30], "frequency": 3.3}],
            },
        )
        for position in moves:
            made, sampler = line(trace(), {"kind": "ellipse", "id": "dot", "name": "Dot", "position": position})
            t = np.linspace(0, 59 / 30, 40_000)
            self.assertEqual(len(made.count), 1)
            self.assertLess(self.off(made, sampler.sample("dot.position", t), t), 0.25 + 1e-6, position)

    def test_corners_of_staggered_copies_are_vertices(self) -> None:
        keys = [{"frame": f, "value": v, "ease": "linear"} for f, v in ((0, [0, 0]), (7.3, [90, 0]), (11.61, [90, 70]))]
        inner = {"kind": "star", "id": "dot", "name": "Star", "position": {"rest": [0, 0], "keys": keys}}
        row = {
            "kind": "array",
            "id": "r",
            "name": "R",
            "later": 0.137,
            "layers": [inner],
            "arrangement": {"kind": "row", "count": 3, "gap": [0, 100]},
        }
        made, _ = line(row, trace())
        for k in range(3):
            own = made.points[made.first[k] : made.first[k] + made.count[k]]
            self.assertLess(np.abs(own - [90, (k - 1) * 100]).sum(axis=1).min(), 1e-6)

    def test_a_scene_of_one_frame_has_no_lines_and_is_drawn(self) -> None:
        made, sampler = line(trace(), dot(), length=1)
        self.assertEqual(len(made.first), 0)
        self.assertEqual(drawn(sampler.scene, 0).shape[:2], (720, 1280))

    def test_corners_are_kept(self) -> None:
        keys = [
            {"frame": 0, "value": [0, 0], "ease": "linear"},
            {"frame": 10, "value": [100, 0], "ease": "linear"},
            {"frame": 20, "value": [100, 80], "ease": "linear"},
        ]
        made, _ = line(
            trace(), {"kind": "ellipse", "id": "dot", "name": "Dot", "position": {"rest": [0, 0], "keys": keys}}
        )
        self.assertIn([100, 0], made.points.tolist())
        self.assertLess(len(made.points), 130)

    def test_a_frame_alone_shows_what_playing_up_to_it_does(self) -> None:
        one = scene(trace(seconds=0.7), dot(), length=60)
        among = display_list(Sampler(one), SampleTimes.frames(30, 0, 60)).nodes[0]
        for frame in (0, 31, 59):
            alone = display_list(Sampler(one), SampleTimes.frames(30, frame, frame + 1)).nodes[0]
            self.assertEqual(alone.channels["points"].key, among.channels["points"].key)
            np.testing.assert_array_equal(alone.channels["part"].rows[0], among.channels["part"].rows[frame])

    def test_what_is_seen_ends_where_the_point_is_and_reaches_back_as_long_as_told(self) -> None:
        one = scene(
            trace(
                seconds={
                    "rest": 0,
                    "keys": [{"frame": 0, "value": 0, "ease": "hold"}, {"frame": 30, "value": 0.4, "ease": "hold"}],
                }
            ),
            dot(),
            length=60,
        )
        node = display_list(Sampler(one), SampleTimes.frames(30, 0, 60)).nodes[0]
        points = node.channels["points"].rows.reshape(-1, 2).astype(float)
        for frame, since in ((20, 0.0), (45, 45 / 30 - 0.4)):
            begin, end = node.channels["part"].rows[frame]
            part = seen(points, float(begin), float(end))
            wanted = Sampler(one).sample("dot.position", [since, frame / 30])
            np.testing.assert_allclose(part[[0, -1]], wanted, atol=0.3)

    def test_points_of_groups_that_turn_and_any_point_of_a_layer(self) -> None:
        turns = {"rest": 0, "chain": [{"kind": "rate", "id": "r", "rate": 120}]}
        star = {"kind": "star", "id": "dot", "name": "Star", "position": [100, 0]}
        group = {"kind": "group", "id": "g", "name": "G", "position": [640, 360], "rotation": turns, "layers": [star]}
        made, _ = line(group, trace(at=[50, 0]))
        np.testing.assert_allclose(np.hypot(*(made.points - [640, 360]).T), 150, atol=1e-6)
        # A trace inside the group is drawn in it: there the point rests.
        made, _ = line({**group, "layers": [star, trace()]})
        np.testing.assert_allclose(made.points, [[100, 0]] * len(made.points), atol=1e-6)

    def test_a_line_is_broken_where_its_point_jumps(self) -> None:
        keys = [
            {"frame": 0, "value": [0, 0], "ease": "hold"},
            {"frame": 20, "value": [300, 0], "ease": "linear"},
            {"frame": 40, "value": [300, 90], "ease": "linear"},
        ]
        made, _ = line(
            trace(), {"kind": "ellipse", "id": "dot", "name": "Dot", "position": {"rest": [0, 0], "keys": keys}}
        )
        self.assertEqual(len(made.count), 2)
        self.assertEqual(made.points[made.first[1]].tolist(), [300, 0])

    def test_each_copy_and_each_spark_leaves_its_own(self) -> None:
        inner = {
            "kind": "star",
            "id": "dot",
            "name": "Star",
            "position": {"rest": [0, 0], "chain": [{"kind": "wave", "id": "w", "amplitude": [0, 30]}]},
        }
        row = {
            "kind": "array",
            "id": "r",
            "name": "R",
            "later": 0.2,
            "layers": [inner],
            "arrangement": {"kind": "row", "count": 3},
        }
        made, _ = line(row, trace())
        self.assertEqual(len(made.first), 3)
        for k in range(3):
            x = made.points[made.first[k] : made.first[k] + made.count[k], 0]
            np.testing.assert_allclose(x, x[0], atol=1e-9)
        throw = {
            "kind": "array",
            "id": "r",
            "name": "R",
            "layers": [{"kind": "star", "id": "dot", "name": "Star"}],
            "arrangement": {"kind": "emitter", "rate": 5, "lifetime": 0.5},
        }
        made, sampler = line(throw, trace())
        born = sampler.layouts.copies("r", SampleTimes(np.arange(60) / 30))
        self.assertGreaterEqual(len(made.first), born - 1)
        ages = [np.ptp(made.times[f : f + n]) for f, n in zip(made.first, made.count, strict=True)]
        self.assertLessEqual(max(ages), 0.5 + 1e-6)

    def test_lines_of_five_thousand_copies_and_vertices_without_number_are_bounded_and_told(self) -> None:
        grid = {
            "kind": "array",
            "id": "r",
            "name": "R",
            "layers": [{"kind": "star", "id": "dot", "name": "Star"}],
            "arrangement": {"kind": "grid", "columns": 100, "rows": 50},
        }
        made, sampler = line(grid, trace(), length=12)
        self.assertEqual(len(made.first), 500)
        self.assertIn("at most 500 lines; here are 5,000", " ".join(f.message for f in sampler.faults.values()))
        wild = "(2000 * sin(99999 * t), 2000 * cos(87654 * t))"
        made, sampler = line(dot(wild), trace(), length=300)
        self.assertLessEqual(len(made.points), 60_000)
        self.assertIn("at most 60,000 vertices", " ".join(f.message for f in sampler.faults.values()))

    def test_a_vector_is_a_place_too(self) -> None:
        made, _ = line(dot(), trace(follows="dot.position"))
        other, _ = line(dot(), trace())
        np.testing.assert_allclose(made.points, other.points)


class Drawn(unittest.TestCase):
    def test_a_tail_grows_thin_and_clear(self) -> None:
        across = dot("(100 + 300 * t, 360)")
        plain = drawn(scene(trace(stroke_width=20, stroke="#000000"), across, length=90), 60)
        made = drawn(scene(trace(stroke_width=20, taper=100, fade=100, stroke="#000000"), across, length=90), 60)
        dark = (plain[:, :, 0] < 128).sum(axis=0), (made[:, :, 0] < 128).sum(axis=0)
        self.assertEqual((dark[0][150], dark[0][650]), (20, 20))
        self.assertLess(dark[1][150], dark[1][650])
        self.assertGreater(int(made[360, 150, 0]), int(made[360, 650, 0]) + 100)

    def test_what_crosses_itself_adds_nothing_up(self) -> None:
        eight = dot("(640 + 200 * sin(360 * t), 360 + 100 * sin(720 * t))")
        made = drawn(scene(trace(stroke_width=16, fade=50, stroke="#000000"), eight, length=31), 30)
        self.assertGreater(int(made[360, 640, 0]), 20)

    def test_nothing_is_drawn_of_nothing(self) -> None:
        for fields in ({"follows": ""}, {"stroke_width": 0}):
            one = scene(trace(**fields), length=30)
            self.assertEqual(np.ptp(drawn(one, 20).reshape(-1, 3), axis=0).max(), 0)


class Edits(unittest.TestCase):
    def test_what_a_trace_may_follow(self) -> None:
        array = {"kind": "array", "id": "r", "name": "Row", "layers": [{"kind": "star", "id": "st", "name": "Star"}]}
        now = project(scene(trace(follows=""), dot(), array))
        now = apply(now, "follow point", layer="line", follows="dot")
        for other, said in (
            ("line", "cannot follow itself"),
            ("nobody", "is not there"),
            ("dot.rotation", "no place"),
            ("st.position", "follow the layer"),
        ):
            with self.subTest(other), self.assertRaisesRegex(Refused, said):
                apply(now, "follow point", layer="line", follows=other)
        with self.assertRaisesRegex(Refused, "stands in no array"):
            apply(now, "arrange layer", layer="line", parent="r", position=0)
        for asked, follows in (("r", "st"), ("dot", "dot")):
            made = apply(now, "add layer", layer="trace", id="another", traces=asked)
            self.assertEqual(made.scenes[0].index.layers["another"].follows, follows)  # type: ignore[attr-defined]
        now = apply(now, "duplicate layers", layers=("line", "dot"))
        self.assertEqual(project_file.read(project_file.write(now)), now)
        now = apply(now, "remove layers", layers=("dot",))
        self.assertEqual(now.scenes[0].index.layers["line"].follows, "")  # type: ignore[attr-defined]


class Crossings(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(*[st.tuples(st.integers(-200, 200), st.integers(-200, 200)) for _ in range(4)])  # type: ignore[arg-type]
    def test_the_point_lies_on_both_lines(self, a: Any, a2: Any, b: Any, b2: Any) -> None:
        ends = {"a": list(a), "a2": list(a2), "b": list(b), "b2": list(b2)}
        one = scene({"position": {"rest": [7, 8], "chain": [{"kind": "crossing", "id": "c", **ends}]}})
        sampler = Sampler(one)
        x, y = sampler.sample("layer0.position", 0.0)
        first, second = np.subtract(a2, a), np.subtract(b2, b)
        if first[0] * second[1] == first[1] * second[0]:
            self.assertEqual((x, y), (7, 8))
            self.assertEqual(
                [fault.message for fault in sampler.faults.values()], ["The lines are parallel: they meet nowhere"]
            )
            return
        for start, way in ((a, first), (b, second)):
            apart = np.subtract((x, y), start)
            scale = max(float(np.hypot(*apart)), 1.0) * float(np.hypot(*way))
            self.assertLess(abs(float(apart[0] * way[1] - apart[1] * way[0])), 1e-7 * scale + 1e-6)
