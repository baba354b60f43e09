"""Outlines that move point by point: where the points lie, what each knows, and what is drawn through them."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.edges import Points
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.drawing.frames import Look, pixels
from jaunty_lever.formats import project_file
from tests.core.scenes import project, scene

FLICKER = "12 * noise(x / 30, y / 40 - t, 3) * height"
SIZES = {"rest": [60, 60], "keys": [{"frame": 0, "value": [60, 60]}, {"frame": 90, "value": [400, 200]}]}


def shape(kind: str = "ellipse", out: Any = 0, edge: dict[str, Any] | None = None, **fields: Any) -> dict[str, Any]:
    out = {"chain": [{"kind": "formula", "id": "moves", "text": out}]} if isinstance(out, str) else out
    return {"kind": kind, "id": "a", "name": "Shape", "edge": {"out": out, **(edge or {})}, **fields}


def frames(first: int = 0, last: int = 1, fps: float = 30) -> SampleTimes:
    return SampleTimes.frames(fps, first, last)


def points(one: Scene, when: SampleTimes | None = None) -> Points:
    return Sampler(one).edges.points("a", when or frames())


def told(one: Scene, *names: str, numbers: Any = None, when: SampleTimes | None = None) -> list[np.ndarray]:
    """What points know, or the value of a parameter, each (points, times)."""
    sampler = Sampler(one)
    where = inside(sampler, "a.edge.out", when or frames(), {"a": numbers} if numbers is not None else {})
    return [np.broadcast_to(sampler.evaluate(f"a.{n}", where)[..., 0], where.shape) for n in names]


def outline(one: Scene, when: SampleTimes | None = None) -> np.ndarray:
    """The points of the only layer's curves, (times or 1, any, 2)."""
    node = display_list(Sampler(one), when or frames()).nodes[0]
    rows = node.channels["points.0"].rows
    return rows.reshape(len(rows), -1, 2).astype(float)


class WhereTheyLie(unittest.TestCase):
    def test_a_circle_has_a_point_every_so_many_pixels(self) -> None:
        one = scene(shape(size=[200, 200]))
        x, y, u, i, n, facing = told(one, "x", "y", "u", "i", "n", "facing")
        many = np.ceil(np.pi * 200 / 6)
        self.assertEqual((len(x), n[0, 0]), (many, many))
        np.testing.assert_allclose(np.hypot(x, y), 100, atol=0.04)
        np.testing.assert_allclose(u[:, 0], i[:, 0] / many, atol=1e-12)
        turned = np.rad2deg(np.arctan2(y, x)) - facing
        np.testing.assert_allclose(np.cos(np.deg2rad(turned)), 1, atol=1e-6)
        gaps = np.hypot(*np.diff(np.stack([x[:, 0], y[:, 0]]), axis=1))
        self.assertLess(np.ptp(gaps), 1e-3)

    def test_there_are_at_least_twenty_four(self) -> None:
        self.assertEqual(points(scene(shape(size=[20, 20]))).most, 24)

    def test_height_goes_from_the_bottom_to_the_top(self) -> None:
        y, height = told(scene(shape("star")), "y", "height")
        self.assertEqual((height[np.argmax(y)][0], height[np.argmin(y)][0]), (0, 1))
        np.testing.assert_allclose(height, (y.max() - y) / np.ptp(y), atol=1e-12)

    def test_corners_are_points_and_stay_corners_unless_they_are_smoothed(self) -> None:
        kept, smooth = (scene(shape("rectangle", size=[120, 80], edge={"corners": c})) for c in ("kept", "smoothed"))
        corners = {(-60.0, -40.0), (60.0, -40.0), (60.0, 40.0), (-60.0, 40.0)}
        x, y = told(kept, "x", "y")
        self.assertLessEqual(corners, set(zip(x[:, 0].round(6), y[:, 0].round(6), strict=True)))
        # With corners the curves are the rectangle itself; smoothed, they swing out of it round the corners.
        inside_it = np.abs(outline(kept)[0]) <= [60.0001, 40.0001]
        self.assertTrue(inside_it.all())
        self.assertFalse((np.abs(outline(smooth)[0]) <= [60.0001, 40.0001]).all())

    def test_outwards_is_away_from_what_is_filled_in_holes_too(self) -> None:
        ring = "M-50 -50H50V50H-50Z M-20 -20V20H20V-20Z"
        for data in (ring, "M-50 -50V50H50V-50Z M-20 -20H20V20H-20Z"):
            x, y, facing = told(scene(shape("path", data=data)), "x", "y", "facing")
            outer = np.maximum(np.abs(x), np.abs(y)) > 35
            away = np.cos(np.deg2rad(facing)) * x + np.sin(np.deg2rad(facing)) * y
            self.assertTrue((away[outer] > 0).all())
            self.assertTrue((away[~outer] < 0).all())

    def test_an_open_line_has_points_at_both_its_ends_and_stays_open(self) -> None:
        one = scene(shape("line", out=8, start=[-90, 0], end=[90, 0]))
        x, u = told(one, "x", "u")
        self.assertEqual((x[0, 0], x[-1, 0], u[0, 0], u[-1, 0]), (-90, 90, 0, 1))
        np.testing.assert_allclose(outline(one)[0][:, 1], -8, atol=1e-5)
        self.assertNotIn("Z", display_list(Sampler(one), frames()).nodes[0].fixed["verbs"][0])

    def test_outlines_of_nothing_are_nothing(self) -> None:
        for fields in (
            {"kind": "ellipse", "size": [0, 0]},
            {"kind": "text", "text": ""},
            {"kind": "path", "data": "M 4 4"},
        ):
            with self.subTest(fields):
                one = scene(shape(out="20 * sin(90 * i)", edge={"shells": 2}, **fields))
                drawn = pixels(display_list(Sampler(one), frames()), 0, Look(scale=0.2))
                self.assertEqual(np.ptp(np.asarray(drawn).reshape(-1, 4), axis=0).max(), 0)


class WhatIsDrawn(unittest.TestCase):
    def test_a_circle_moved_outwards_is_a_larger_circle(self) -> None:
        for out in (-30, 0, 25):
            made = outline(scene(shape(size=[200, 200], out=out)))[0]
            on_it = made[np.r_[0, 3 : len(made) : 3]]
            np.testing.assert_allclose(np.hypot(*on_it.T), 100 + out, atol=0.05)

    def test_as_many_waves_as_one_asks_for_close_without_a_seam(self) -> None:
        one = scene(shape(size=[300, 300], out="10 * sin(360 * 12 * u)", edge={"detail": 3}))
        (values,) = told(one, "edge.out")
        self.assertEqual(int((np.diff(np.sign(values[:, 0] + 1e-9), append=values[:1, 0] + 1e-9) > 0).sum()), 12)
        made = outline(one)[0]
        np.testing.assert_allclose(made[0], made[-1], atol=1e-5)

    @settings(max_examples=12, deadline=None)
    @given(st.sampled_from(["ellipse", "star", "gear", "rectangle"]), st.integers(0, 60), st.data())
    def test_a_point_alone_is_what_it_is_among_all(self, kind: str, frame: int, data: st.DataObject) -> None:
        one = scene(shape(kind, out=FLICKER + " + 3 * i / n"))
        whole = told(one, "edge.out", when=frames(0, 61))[0]
        some = data.draw(st.lists(st.integers(0, len(whole) - 1), min_size=1, max_size=4, unique=True))
        alone = told(one, "edge.out", numbers=np.array(some), when=frames(frame, frame + 1))[0]
        np.testing.assert_array_equal(alone[:, 0], whole[some, frame])

    def test_a_frame_alone_is_what_it_is_among_all_while_the_outline_grows(self) -> None:
        one = scene(shape(out=FLICKER, size=SIZES, edge={"shells": 1, "stops": []}))
        sampler = Sampler(one)
        among = display_list(sampler, frames(0, 90)).nodes[0]
        # Few numbers of points follow one another, each as fine as was asked.
        self.assertLess(len(among.fixed["verbs"]), 8)
        for frame in (0, 33, 89):
            alone = display_list(Sampler(one), frames(frame, frame + 1)).nodes[0]
            which = int(among.channels["which"].rows[frame, 0])
            self.assertEqual(alone.fixed["verbs"], [among.fixed["verbs"][which]])
            for name in ("points", "inner.0"):
                np.testing.assert_array_equal(
                    alone.channels[f"{name}.0"].rows[0], among.channels[f"{name}.{which}"].rows[frame]
                )

    def test_shells_shrink_to_a_point_and_have_their_share_of_the_edge(self) -> None:
        edge = {"shells": 2, "innermost": 50, "share": 0, "about": [10, 20]}
        one = scene(shape(size=[200, 200], out=30, edge=edge))
        node = display_list(Sampler(one), frames()).nodes[0]

        def far(name: str, centre: tuple[float, float]) -> np.ndarray:
            made = node.channels[name].rows.reshape(-1, 2)
            return np.hypot(*(made[np.r_[0, 3 : len(made) : 3]] - centre).T)

        np.testing.assert_allclose(far("points.0", (0, 0)), 130, atol=0.05)
        # Half-way: three quarters of the size about the point, and half of the edge.
        np.testing.assert_allclose(far("inner.0.0", (2.5, 5)), 75 + 15, atol=0.05)
        np.testing.assert_allclose(far("inner.1.0", (5, 10)), 50, atol=0.05)

    def test_shells_have_the_colours_of_their_ramp_from_the_outermost_in(self) -> None:
        stops = [{"id": "p", "offset": 0, "colour": "#ff0000"}, {"id": "q", "offset": 100, "colour": "#00ff00"}]
        keys = [{"frame": 0, "value": 1, "ease": "hold"}, {"frame": 10, "value": 3, "ease": "hold"}]
        one = scene(shape(edge={"stops": stops, "shells": {"rest": 1, "keys": keys}}))
        node = display_list(Sampler(one), frames(0, 11)).nodes[0]
        colours = [np.broadcast_to(node.channels[f"inner_colour.{j}"].rows, (11, 4))[[0, 10]] for j in range(3)]
        np.testing.assert_allclose([one[0] for one in colours], [[0, 1, 0, 1], [0, 1, 0, 0], [0, 1, 0, 0]], atol=1e-6)
        np.testing.assert_allclose(
            [one[1] for one in colours], [[1, 0, 0, 1], [0.5, 0.5, 0, 1], [0, 1, 0, 1]], atol=1e-6
        )

    def test_a_moment_of_its_own_for_each_point(self) -> None:
        still = "10 * sin(360 * t) * height"
        late = {
            "chain": [
                {"kind": "formula", "id": "f", "text": still},
                {"kind": "shift", "id": "l", "delay": {"chain": [{"kind": "formula", "id": "g", "text": "u / 2"}]}},
            ]
        }
        hardly = {"rest": [200, 100], "keys": [{"frame": 0, "value": [200, 100]}, {"frame": 90, "value": [201, 101]}]}
        one = scene(shape(size=hardly, out=late))
        when = SampleTimes(np.array([1.2]))
        values, u, height = told(one, "edge.out", "u", "height", when=when)
        np.testing.assert_allclose(values, 10 * np.sin(2 * np.pi * (1.2 - u / 2)) * height, atol=0.2)


class InArrays(unittest.TestCase):
    def flock(self, count: int, **fields: Any) -> Scene:
        inner = shape(out="4 * outer.i + i", size=[100, 100], **fields)
        return scene(
            {
                "kind": "array",
                "id": "row",
                "name": "Row",
                "layers": [inner],
                "arrangement": {"kind": "row", "count": count},
            }
        )

    def test_points_of_copies_know_both(self) -> None:
        one = self.flock(3)
        (values,) = told(one, "edge.out")
        many = int(np.ceil(np.pi * 100 / 6))
        expected = 4 * np.repeat(np.arange(3), many) + np.tile(np.arange(many), 3)
        np.testing.assert_array_equal(values[:, 0], expected)

    def test_copies_that_live_later_show_earlier_outlines(self) -> None:
        def row(later: float) -> Any:
            inner = shape("star", out=FLICKER)
            array = {
                "kind": "array",
                "id": "row",
                "name": "Row",
                "layers": [inner],
                "later": later,
                "arrangement": {"kind": "row", "count": 2},
            }
            return display_list(Sampler(scene(array)), frames(30, 31)).nodes[0].nodes[0].channels["points.0"]

        together, apart = row(0), row(0.5)
        self.assertEqual((together.each, apart.each), (1, 2))
        earlier = display_list(Sampler(scene(shape("star", out=FLICKER))), frames(15, 16)).nodes[0]
        half = apart.rows.reshape(2, -1)
        np.testing.assert_array_equal(half[0], together.rows[0])
        np.testing.assert_array_equal(half[1], earlier.channels["points.0"].rows[0])

    def test_many_copies_have_fewer_points_and_it_is_told(self) -> None:
        one = self.flock(1000)
        sampler = Sampler(one)
        self.assertIn(sampler.edges.points("a", inside(sampler, "a.size", frames())).most, (39, 40))
        [fault] = sampler.faults.values()
        self.assertIn("each copy of this outline has at most 40", fault.message)

    def test_copies_know_how_high_up_they_stand(self) -> None:
        grid = {
            "kind": "array",
            "id": "g",
            "name": "G",
            "layers": [{"kind": "ellipse", "id": "e", "name": "E"}],
            "arrangement": {"kind": "grid", "columns": 1, "rows": 3},
        }
        sampler = Sampler(scene(grid))
        where = inside(sampler, "g.copy_position", frames())
        np.testing.assert_allclose(sampler.evaluate("g.height", where)[:, 0, 0], [1, 0.5, 0])


class Bounds(unittest.TestCase):
    def test_a_detail_too_fine_is_drawn_as_finely_as_may_be_and_told(self) -> None:
        sampler = Sampler(scene(shape("star", edge={"detail": 0.001})))
        made = sampler.edges.points("a", frames())
        self.assertLessEqual(made.most, 2000)
        self.assertGreater(made.most, 1900)
        [fault] = sampler.faults.values()
        self.assertEqual(fault.parameter, "a.edge.detail")
        self.assertRegex(fault.message, r"asks for [\d,]+ points; an outline has at most 2,000")

    def test_an_edge_of_a_million_pixels_is_drawn_without_complaint(self) -> None:
        drawn = pixels(display_list(Sampler(scene(shape(out=1e6))), frames()), 0, Look(scale=0.1))
        self.assertEqual(drawn.shape[2], 4)

    def test_what_is_set_out_of_bounds_is_refused(self) -> None:
        now = project(scene(shape()))
        for parameter, value in (("a.edge.detail", 0), ("a.edge.shells", 25), ("a.edge.shells", 1.5)):
            with self.subTest(parameter, value=value), self.assertRaises(Refused):
                edit(now, "set value", parameter=parameter, value=value, frame=0)


def edit(now: Project, kind: str, **fields: Any) -> Project:
    return EDIT.validate_python({"kind": kind, "scene": "s", **fields}).apply(now)


class Edits(unittest.TestCase):
    def test_an_edge_is_given_moved_and_taken_off_with_what_followed_it(self) -> None:
        bare = {"kind": "star", "id": "a", "name": "Star"}
        now = project(scene(bare, {"kind": "ellipse", "id": "b", "name": "Dot"}))
        now = edit(now, "set edge", layer="a")
        now = edit(now, "write formula", parameter="a.edge.out", text="12 * height")
        now = edit(now, "link to", parameter="b.rotation", driver="a.edge.out@greatest")
        self.assertEqual(Sampler(now.scenes[0]).sample("b.rotation", 0)[0], 12)
        again = project_file.read(project_file.write(now))
        self.assertEqual(again, now)
        now = edit(now, "set edge", layer="a", on=False)
        self.assertIsNone(now.scenes[0].index.layers["a"].edge)  # type: ignore[attr-defined]
        self.assertEqual(Sampler(now.scenes[0]).sample("b.rotation", 0)[0], 12)
        self.assertEqual(now.scenes[0].index.parameters["b.rotation"].parameter.chain, ())

    def test_only_what_has_an_outline_has_an_edge(self) -> None:
        now = project(scene({"kind": "group", "id": "g", "name": "Boats"}))
        with self.assertRaisesRegex(Refused, "Boats has no outline"):
            edit(now, "set edge", layer="g")

    def test_shell_colours_are_added_and_removed(self) -> None:
        now = edit(project(scene({"kind": "star", "id": "a", "name": "Star"})), "set edge", layer="a", stops=("p", "q"))
        now = edit(now, "change stops", layer="a", of="edge", id="m")
        edge = now.scenes[0].index.layers["a"].edge  # type: ignore[attr-defined]
        self.assertEqual([(stop.id, stop.offset.rest) for stop in edge.stops], [("p", 0), ("m", 50), ("q", 100)])
        now = edit(now, "change stops", layer="a", of="edge", remove="m")
        with self.assertRaisesRegex(Refused, "two colours"):
            edit(now, "change stops", layer="a", of="edge", remove="q")
        with self.assertRaisesRegex(Refused, "no gradient"):
            edit(now, "change stops", layer="a")

    def test_a_scene_with_edges_can_be_doubled_and_its_layers_too(self) -> None:
        now = edit(project(scene({"kind": "star", "id": "a", "name": "Star"})), "set edge", layer="a")
        now = edit(now, "write formula", parameter="a.edge.out", text="9 * u + x")
        now = edit(now, "duplicate layers", layers=("a",))
        now = EDIT.validate_python({"kind": "duplicate scene", "scene": "s"}).apply(now)
        self.assertEqual(project_file.read(project_file.write(now)), now)
        for one in now.scenes:
            first, second = (node.channels["points.0"].rows for node in display_list(Sampler(one), frames()).nodes)
            np.testing.assert_array_equal(first, second)
