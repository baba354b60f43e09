"""Cameras, lights, blocks and balls, copies that stand in depth, and zones that push them there, against numbers worked
out by hand."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.geometry.solid import looking, through, turned_about
from jaunty_lever.core.view.question import Question
from jaunty_lever.core.view.scene_view import scene_view
from jaunty_lever.drawing.frames import exposure_of, pixels
from tests.core.test_depth import CARD, drawn, on_stage, scene

FRONT = {"kind": "camera", "id": "eye", "position": [500, 300], "depth": 500, "aim": [500, 300], "perspective": 500}
"""A camera that sees what the viewer of `scene` sees without one."""


def solid_of(one: Scene, frame: int = 0) -> dict[str, np.ndarray]:
    """What the first solid of a scene shows, by channel, its points on the stage."""
    node = next(node for node in drawn(one, frame + 1).walk() if node.kind == "shape")
    rows = {name: channel.rows[min(frame, len(channel.rows) - 1)] for name, channel in node.channels.items()}
    a, b, c, d, e, f = rows["matrix"].astype(np.float64)

    def led(numbers: np.ndarray) -> np.ndarray:
        x, y = numbers.reshape(-1, 2).T.astype(np.float64)
        return np.stack([a * x + c * y + e, b * x + d * y + f], axis=1)

    return rows | {name: led(row) for name, row in rows.items() if name.startswith(("points", "inner.", "line.0"))}


def _hull_area(points: np.ndarray) -> float:
    """The area of the convex hull of points (n, 2): the hull by its supporting lines, in order of angle."""
    chosen = []
    for a in points:
        for b in points:
            way = b - a
            if (way != 0).any() and ((points - a) @ np.array([way[1], -way[0]]) <= 1e-9).all():
                chosen += [a, b]
    rim = np.unique(np.round(chosen, 9), axis=0)
    about = rim - rim.mean(axis=0)
    rim = about[np.argsort(np.arctan2(about[:, 1], about[:, 0]))]
    return float(abs(np.sum(rim[:, 0] * np.roll(rim[:, 1], -1) - np.roll(rim[:, 0], -1) * rim[:, 1])) / 2)


class Cameras(unittest.TestCase):
    def test_one_that_stands_where_the_viewer_does_changes_nothing(self) -> None:
        card = {**CARD, "id": "card", "position": [620, 240], "depth": 90, "tilt": [30, -40], "rotation": 15}
        without, seen = (on_stage(scene(card, *more), "card") for more in ((), (FRONT,)))
        np.testing.assert_allclose(seen, without, atol=1e-3)

    def test_a_point_seen_from_the_side_by_hand(self) -> None:
        # Carried a quarter round to the right, the camera stands at x = 1000 and looks along −x: z is then to the left.
        card = {**CARD, "id": "card", "size": [0, 0], "position": [400, 260], "depth": 80}
        eye = {**FRONT, "around": [90, 0]}
        seen = on_stage(scene(card, eye), "card")[0]
        far = 1000 - 400
        np.testing.assert_allclose(seen, [500 - 80 * 500 / far, 300 - 40 * 500 / far], atol=1e-3)

    def test_from_above_rolled_and_out_of_a_group(self) -> None:
        card = {**CARD, "id": "card", "size": [0, 0], "position": [560, 300], "depth": 100}
        # From straight above x stays to the right, and what is nearer lies lower.
        seen = on_stage(scene(card, {**FRONT, "around": [0, 90]}), "card")[0]
        np.testing.assert_allclose(seen, [560, 400], atol=1e-3)
        # Rolled clockwise, what is seen turns the other way.
        seen = on_stage(scene(card, {**FRONT, "rotation": 90, "around": [0, 90]}), "card")[0]
        np.testing.assert_allclose(seen, [600, 240], atol=1e-3)
        # A camera in a group goes with it.
        held = {"kind": "group", "id": "dolly", "position": [30, 0], "layers": [{**FRONT, "name": "Eye"}]}
        plain = on_stage(scene(card), "card")[0]
        seen = on_stage(scene(card, held), "card")[0]
        np.testing.assert_allclose(seen, plain - [30 * 500 / 400, 0], atol=1e-3)

    @settings(max_examples=60, deadline=None)
    @given(
        st.tuples(*[st.floats(-900, 900)] * 3),
        st.tuples(*[st.floats(-900, 900)] * 3),
        st.floats(-400, 400),
        st.tuples(st.floats(-180, 180), st.floats(-80, 80)),
        st.tuples(st.floats(-170, 170), st.floats(-170, 170)),
    )
    def test_a_view_is_a_motion_that_brings_the_aim_before_the_stage(
        self, place: Any, aim: Any, turn: float, tilt: Any, around: Any
    ) -> None:
        place, aim = np.array(place, dtype=float), np.array(aim, dtype=float)
        eye = np.array([500.0, 300, 700])
        moved = turned_about(aim, place, np.array(around))
        self.assertAlmostEqual(np.linalg.norm(moved - aim), np.linalg.norm(place - aim), places=6)
        view = looking(moved, aim, np.array(turn), np.array(tilt), eye)
        np.testing.assert_allclose(view[:, :3] @ view[:, :3].T, np.eye(3), atol=1e-9)
        self.assertAlmostEqual(float(np.linalg.det(view[:, :3])), 1.0, places=9)
        np.testing.assert_allclose(through(view, moved), eye, atol=1e-6)
        level = looking(moved, aim, np.array(0.0), np.zeros(2), eye)
        far = float(np.linalg.norm(moved - aim))
        np.testing.assert_allclose(through(level, aim), eye - [0, 0, far], atol=1e-6)

    def test_what_is_degenerate_still_shows_something(self) -> None:
        card = {**CARD, "id": "card", "position": [500, 300]}
        for broken in (
            {"aim": [500, 300], "aim_depth": 500},
            {"perspective": 1},
            {"depth": 1e300},
            {"depth": 0},
            {"position": [1e300, -1e300]},
            {"around": [1e300, 1e300]},
            {"tilt": [90, 90], "rotation": 1e6},
        ):
            one = scene(card, {"kind": "block", "tilt": [20, 30]}, {"kind": "ball"}, {**FRONT, **broken})
            for node in drawn(one).walk():
                for name, channel in node.channels.items():
                    self.assertTrue(np.isfinite(channel.rows).all(), (broken, name))
            pixels(drawn(one), 0)

    def test_the_topmost_one_that_is_shown_counts_and_what_stays_is_not_seen_by_it(self) -> None:
        card = {**CARD, "id": "card", "size": [0, 0], "position": [600, 300]}
        lower, upper = {**FRONT, "id": "a", "depth": 1000}, {**FRONT, "id": "b", "depth": 250}
        at = [float(on_stage(scene(card, *eyes), "card")[0][0]) - 500 for eyes in ((lower, upper), (upper, lower))]
        np.testing.assert_allclose(at, [200, 50], atol=1e-3)
        hidden = scene(card, lower, {**upper, "hidden": True})
        self.assertAlmostEqual(float(on_stage(hidden, "card")[0][0]), 550, places=3)
        stays = scene({**card, "stays": True}, lower, upper)
        self.assertAlmostEqual(float(on_stage(stays, "card")[0][0]), 600, places=3)

    def test_a_new_one_sees_the_scene_as_it_was_and_stands_in_no_array(self) -> None:
        card = {**CARD, "id": "card", "position": [620, 240], "depth": 90, "tilt": [30, -40]}
        project = Project(id="p", name="P", scenes=(scene(card, perspective=730, perspective_origin=[20, 60]),))
        before = on_stage(project.scenes[0], "card")
        edit = EDIT.validate_python({"kind": "add layer", "scene": "s", "layer": "camera", "id": "eye"})
        np.testing.assert_allclose(on_stage(edit.apply(project).scenes[0], "card"), before, atol=1e-3)
        made = edit.apply(project)
        with self.assertRaisesRegex(Refused, "stands in no array"):
            EDIT.validate_python({"kind": "repeat layers", "scene": "s", "layers": ["eye"]}).apply(made)
        with self.assertRaisesRegex(Refused, "is not drawn"):
            EDIT.validate_python({"kind": "set matte", "scene": "s", "layer": "card", "matte": "eye"}).apply(made)

    def test_what_a_moving_camera_sees_blurs(self) -> None:
        turned = {"rest": [0, 0], "chain": [{"kind": "rate", "id": "r", "rate": [240, 0]}]}
        one = scene({"kind": "block", "position": [560, 300], "tilt": [10, 30]}, {**FRONT, "around": turned})
        sharp = pixels(drawn(one, 9), 8)
        blurred = np.asarray(exposure_of(Sampler(one.changed(motion_blur=True)), 8).toarray())
        self.assertGreater(
            len(np.unique(blurred.reshape(-1, 4), axis=0)), 20 * len(np.unique(sharp.reshape(-1, 4), axis=0)) / 10
        )
        self.assertGreater(np.abs(blurred.astype(int) - sharp).max(), 60)


class Solids(unittest.TestCase):
    def test_a_block_from_the_front_is_its_front_in_perspective(self) -> None:
        shown = solid_of(scene({"kind": "block", "position": [500, 300], "width": 100, "height": 60, "thickness": 100}))
        # Its front is 50 px nearer than its middle: 500/450 as large.
        size = 500 / 450
        corners = {(round(float(x), 2), round(float(y), 2)) for x, y in shown["points.0"]}
        self.assertEqual(
            corners,
            {(round(500 + x * 50 * size, 2), round(300 + y * 30 * size, 2)) for x in (-1, 1) for y in (-1, 1)},
        )
        # Neither side is seen: they have no size.
        for name in ("inner.0.0", "inner.1.0"):
            self.assertLess(float(np.ptp(shown[name], axis=0).max()), 1e-3)

    def test_a_block_that_rests_is_seen_by_a_viewer_that_moves(self) -> None:
        block = {"kind": "block", "position": [800, 300], "width": 100, "height": 60, "thickness": 100, "tilt": [0, 20]}
        keys = [{"frame": 0, "value": 300, "ease": "linear"}, {"frame": 10, "value": 5000}]
        for frame, far in ((0, 300), (5, 2650), (10, 5000)):
            moved = solid_of(scene(block, perspective={"keys": keys}), frame)
            still = solid_of(scene(block, perspective=far))
            for name in ("points.0", "inner.0.0", "inner.1.0"):
                np.testing.assert_allclose(moved[name], still[name], atol=1e-2)

    def test_a_block_from_twelve_sides_covers_what_its_corners_span(self) -> None:
        half = np.array([60.0, 40, 25])
        corners = np.array([[x, y, z] for x in (-1, 1) for y in (-1, 1) for z in (-1, 1)]) * half
        block = {"kind": "block", "position": [500, 300], "width": 120, "height": 80, "thickness": 50}
        for turn in range(0, 360, 60):
            for up in (-35, 50):
                eye = turned_about(np.array([500.0, 300, 0]), np.array([500.0, 300, 500]), np.array([turn, up]))
                view = looking(eye, np.array([500.0, 300, 0]), np.array(0.0), np.zeros(2), np.array([500.0, 300, 500]))
                spots = through(view, corners + [500, 300, 0])
                flat = [500, 300] + (spots[:, :2] - [500, 300]) / (1 - spots[:, 2:] / 500)
                one = scene(block, {**FRONT, "around": [turn, up]}, background="#00000000")
                shown = solid_of(one)
                with self.subTest(turn=turn, up=up):
                    # Each corner that is drawn is one of the eight, and the outermost all are.
                    drawn_at = np.concatenate([shown[name] for name in ("points.0", "inner.0.0", "inner.1.0")])
                    near = np.abs(drawn_at[:, None] - flat[None]).max(axis=2).min(axis=1)
                    middle = np.ptp(drawn_at, axis=0).max()
                    self.assertTrue(((near < 1e-2) | (near > 1)).all() and (near < middle).all())
                    np.testing.assert_allclose(drawn_at.min(axis=0), flat.min(axis=0), atol=1e-2)
                    np.testing.assert_allclose(drawn_at.max(axis=0), flat.max(axis=0), atol=1e-2)
                    # As much of the picture is covered as the hull of its corners.
                    covered = (pixels(drawn(one), 0)[..., 3] / 255).sum()
                    self.assertAlmostEqual(covered / _hull_area(flat), 1, delta=0.01)

    def test_faces_are_shaded_by_how_they_face_the_light(self) -> None:
        lamp = {"kind": "light", "position": [500, -1e6], "depth": 1e6, "strength": 100, "shade": 30}
        turned = {"kind": "block", "position": [500, 300], "tilt": [-30, 0], "colour": "#ffffff"}
        shown = solid_of(scene(turned, lamp, perspective=0))
        light = np.array([0, -1, 1]) / np.sqrt(2)
        s, c = np.sin(np.deg2rad(30)), np.cos(np.deg2rad(30))
        front, top = np.array([0, s, c]), np.array([0, -c, s])
        for name, normal in (("colour", front), ("inner_colour.1", top)):
            want = 0.3 + 0.7 * max(0.0, float(normal @ light))
            np.testing.assert_allclose(shown[name][:3], want, atol=1e-3)

    def test_a_block_on_its_base_grows_upwards_and_a_mirrored_one_has_the_same_faces(self) -> None:
        base = {
            "kind": "block",
            "position": [500, 300],
            "height": 80,
            "thickness": 0,
            "width": 40,
            "stands": "on its base",
        }
        corners = solid_of(scene(base, perspective=0))["points.0"][:5]
        np.testing.assert_allclose([corners[:, 1].min(), corners[:, 1].max()], [220, 300], atol=1e-3)
        turned = {"kind": "block", "position": [500, 300], "tilt": [-20, 30]}
        plain, mirrored = (pixels(drawn(scene({**turned, **more})), 0) for more in ({}, {"scale": [-100, 100]}))
        self.assertEqual(len(np.unique(mirrored.reshape(-1, 4), axis=0)) > 3, True)
        self.assertAlmostEqual(
            int((plain[..., 3] > 0).sum()), int((mirrored[..., 3] > 0).sum()), delta=plain.size * 0.001
        )

    def test_of_a_block_that_reaches_behind_the_viewer_what_lies_before_is_seen(self) -> None:
        # A floor under the viewer: it fills the lower half up to its horizon, and nothing above.
        floor = {"kind": "block", "position": [500, 500], "width": 4000, "height": 10, "thickness": 8000}
        seen = pixels(drawn(scene({**floor, "colour": "#ff0000"}, background="#00000000")), 0)
        self.assertTrue((seen[599, 10:990, 0] > 60).all())
        self.assertTrue((seen[:295, :, 0] == 0).all())
        # The same of a flat one.
        flat = {
            **CARD,
            "size": [4000, 8000],
            "position": [500, 500],
            "tilt": [90, 0],
            "fill": {"kind": "solid", "colour": "#ff0000"},
        }
        same = pixels(drawn(scene(flat, background="#00000000")), 0)
        self.assertTrue((same[598, 10:990, 0] > 200).all())
        self.assertTrue((same[:295, :, 0] == 0).all())

    def test_a_ball_is_as_large_as_its_rim_is_seen_and_lightest_towards_the_light(self) -> None:
        lamp = {"kind": "light", "position": [-1e6, 300], "depth": 0}
        shown = solid_of(scene({"kind": "ball", "position": [500, 300], "radius": 60}, lamp))
        x = shown["points.0"][:, 0]
        self.assertAlmostEqual(float(x.max()) - 500, 60 / np.sqrt(1 - (60 / 500) ** 2), places=2)
        self.assertLess(float(shown["centre"][0]), -55)
        lightest, darkest = shown["colour.0"][0], shown["colour.5"][0]
        self.assertGreater(lightest, 2 * darkest)
        gone = solid_of(scene({"kind": "ball", "position": [500, 300], "depth": 520, "radius": 60}))
        self.assertLess(float(np.ptp(gone["points.0"], axis=0).max()), 1e-3)


def array(arrangement: dict[str, Any], **fields: Any) -> dict[str, Any]:
    """An array about the middle of the stage."""
    return {
        "kind": "array",
        "id": "a",
        "position": [500, 300],
        "arrangement": arrangement,
        "layers": [{**CARD, "id": "card", "name": "Card", "size": [0, 0]}],
        **fields,
    }


def read(one: Scene, name: str, time: float = 0.0) -> np.ndarray:
    """What copies of the array `a` know, (copies, components)."""
    sampler = Sampler(one)
    where = inside(sampler, f"a.{name}", SampleTimes(np.array([time])))
    values = sampler.evaluate(f"a.{name}", where)
    return np.asarray(np.broadcast_to(values, (where.shape[0], 1, values.shape[2]))[:, 0])


class Copies(unittest.TestCase):
    def test_places_in_depth(self) -> None:
        for arrangement, want in (
            ({"kind": "row", "count": 3, "gap_depth": 50}, [-50, 0, 50]),
            ({"kind": "row", "count": 3, "fit": "span", "span_depth": 60}, [-30, 0, 30]),
            ({"kind": "grid", "columns": 2, "rows": 1, "levels": 2, "gap_depth": 80}, [-40, -40, 40, 40]),
            ({"kind": "ring", "count": 3, "rise": 10}, [-10, 0, 10]),
            ({"kind": "ground", "columns": 2, "rows": 2, "gap": [10, 70]}, [-35, -35, 35, 35]),
        ):
            one = scene(array(arrangement))
            np.testing.assert_allclose(read(one, "z")[:, 0], want)
            np.testing.assert_allclose(
                [on_stage(one, "card", k)[0][0] for k in range(len(want))],
                [500 + x / (1 - z / 500) for (x, _), z in zip(read(one, "place"), want, strict=True)],
                atol=1e-3,
            )
        self.assertEqual(len(read(scene(array({"kind": "grid", "levels": 3})), "i")), 72)
        np.testing.assert_array_equal(read(scene(array({"kind": "ground"})), "place")[:, 1], 0)
        z = read(scene(array({"kind": "scatter", "count": 400, "area_depth": 300})), "z")[:, 0]
        self.assertTrue((np.abs(z) <= 150).all() and z.std() > 70)
        np.testing.assert_array_equal(
            z[:90], read(scene(array({"kind": "scatter", "count": 90, "area_depth": 300})), "z")[:, 0]
        )

    def test_sparks_fly_towards_the_viewer_in_closed_form(self) -> None:
        thrown = {"kind": "emitter", "rate": 10, "lifetime": 5, "speed": 0, "gravity": [0, 0], "speed_depth": 100}
        ages = read(scene(array(thrown)), "age", 1.0)[:, 0]
        np.testing.assert_allclose(read(scene(array(thrown)), "z", 1.0)[:, 0], 100 * ages, atol=1e-9)
        slowed = scene(array({**thrown, "drag": 2}))
        np.testing.assert_allclose(read(slowed, "z", 1.0)[:, 0], 100 * (1 - np.exp(-2 * ages)) / 2, atol=1e-9)
        spread = read(scene(array({**thrown, "spread_depth": 40, "size_depth": 20})), "z", 1.0)[:, 0]
        self.assertTrue((np.abs(spread - 100 * ages) <= 40 * ages + 10 + 1e-9).all() and spread.std() > 0)

    def test_taken_apart_and_shown_as_dots_copies_stay_where_they_are_seen(self) -> None:
        tilted = {"rest": [0, 0], "chain": [{"kind": "formula", "id": "f", "text": "(10 * i, 5)"}]}
        laid = array({"kind": "ground", "columns": 2, "rows": 2, "gap": [60, 80]}, copy_tilt=tilted, by_depth=True)
        laid["layers"] = [{**CARD, "id": "card", "name": "Card"}]
        project = Project(id="p", name="P", scenes=(scene(laid, {**FRONT, "around": [20, 15]}),))
        before = pixels(drawn(project.scenes[0]), 0)
        seen = [on_stage(project.scenes[0], "card", k).mean(axis=0) for k in range(4)]
        answer, _ = scene_view(project, "s", Question(dots="a.u", stop=1), Cache())
        rows, each, data = answer["channels"][answer["dots"]["places"]]
        dots = np.frombuffer(data, dtype=np.float32).reshape(rows, each, 2)[0]
        np.testing.assert_allclose(dots, seen, atol=3)
        apart = EDIT.validate_python({"kind": "take apart", "scene": "s", "array": "a"}).apply(project).scenes[0]
        np.testing.assert_array_equal(pixels(drawn(apart), 0), before)

    def test_formulas_know_z_and_on_the_ground_orders_and_noises_go_by_the_plan(self) -> None:
        ground = {"kind": "ground", "columns": 3, "rows": 3, "gap": [40, 60]}
        moved = {"rest": 0, "chain": [{"kind": "formula", "id": "f", "text": "z / 2"}]}
        one = scene(array(ground, copy_depth=moved, order={"measure": "round", "origin": [50, 50]}))
        np.testing.assert_allclose(read(one, "copy_depth")[:, 0], [-30] * 3 + [0] * 3 + [30] * 3)
        np.testing.assert_allclose(read(one, "u")[:, 0].reshape(3, 3)[0], [1, 60 / np.hypot(40, 60), 1])
        noise = {"kind": "noise", "id": "g", "name": "G"}
        flat = array({"kind": "grid", "columns": 3, "rows": 3, "gap": [40, 60]}, gauges=[noise])
        heights = [read_gauge(scene(one)) for one in (array(ground, gauges=[noise]), flat)]
        np.testing.assert_allclose(heights[0], heights[1])
        self.assertGreater(heights[0].std(), 0)

    def test_a_zone_with_an_end_in_depth_is_near_and_pushes_in_three_dimensions(self) -> None:
        zone = {
            "kind": "zone",
            "id": "g",
            "name": "G",
            "centre": [500, 300],
            "size": [100, 100],
            "size_depth": 200,
            "inner": 0,
            "edge": "linear",
        }
        row = {"kind": "row", "count": 3, "gap": [0, 0], "gap_depth": 100}
        np.testing.assert_allclose(read_gauge(scene(array(row, gauges=[zone]))), [0.5, 1, 0.5])
        endless = {**zone, "size_depth": 0}
        np.testing.assert_allclose(read_gauge(scene(array(row, gauges=[endless]))), [1, 1, 1])
        push = {"kind": "push", "id": "p", "zone": "g", "force": 80}
        slanted = {"kind": "row", "count": 2, "gap": [60, 0], "gap_depth": 80}
        one = scene(array(slanted, gauges=[zone], copy_position={"rest": [0, 0], "chain": [push]}))
        away = np.array([30.0, 0, 40])
        near = 1 - np.hypot(30 / 100, 40 / 200)
        moved = away * (1 + 80 * near / 50)
        seen = on_stage(one, "card", 1)[0]
        np.testing.assert_allclose(seen, [500 + moved[0] / (1 - moved[2] / 500), 300], atol=1e-3)
        walls = scene(
            array(
                slanted,
                gauges=[{**zone, "inner": 90}],
                copy_position={"rest": [0, 0], "chain": [{**push, "force": 0, "walls": True}]},
            )
        )
        kept = away * 0.9 / np.hypot(0.3, 0.2)
        np.testing.assert_allclose(on_stage(walls, "card", 1)[0], [500 + kept[0] / (1 - kept[2] / 500), 300], atol=1e-3)

    def test_a_trace_is_the_way_on_which_its_point_is_seen(self) -> None:
        moving = {
            **CARD,
            "id": "card",
            "position": [400, 300],
            "depth": {"rest": 0, "chain": [{"kind": "formula", "id": "f", "text": "200 * t"}]},
        }
        one = scene(moving, {"kind": "trace", "id": "way", "follows": "card"}, FRONT)
        node = next(node for node in drawn(one, 60).walk() if node.kind == "trace")
        points = node.channels["points"].rows.reshape(-1, 2)
        np.testing.assert_allclose(points[0], [400, 300], atol=1e-3)
        last = 200 * 59 / 30
        np.testing.assert_allclose(points[-1], [500 - 100 / (1 - last / 500), 300], atol=1e-2)


def read_gauge(one: Scene) -> np.ndarray:
    """What the gauge `g` of the array `a` tells of each copy."""
    sampler = Sampler(one)
    where = inside(sampler, "g.value", SampleTimes(np.zeros(1)))
    return np.asarray(np.broadcast_to(sampler.evaluate("g.value", where), (where.shape[0], 1, 1))[:, 0, 0])


class Many(unittest.TestCase):
    def test_a_hundred_balls_by_waves_and_a_noise_in_three_axes_pushed_apart(self) -> None:
        def waves(id: str, reach: Any) -> list[dict[str, Any]]:
            noise = {"kind": "wiggle", "id": f"{id}-n", "amplitude": reach, "frequency": 0.5}
            slow = {"kind": "wave", "id": f"{id}-s", "amplitude": reach, "frequency": 0.3, "along": 2}
            return [{"kind": "wave", "id": f"{id}-w", "amplitude": reach, "along": 1}, slow, noise]

        force = {"rest": 60, "chain": [{"kind": "wave", "id": "pulse", "amplitude": 60}]}
        zone = {"kind": "zone", "id": "g", "name": "G", "centre": [500, 300], "size": [200, 200], "size_depth": 200}
        push = {"kind": "push", "id": "p", "zone": "g", "force": force, "random": 30}
        cloud = array(
            {"kind": "scatter", "count": 100, "area": [500, 400], "area_depth": 300},
            gauges=[zone],
            by_depth=True,
            copy_position={"rest": [0, 0], "chain": [*waves("xy", [40, 30]), push]},
            copy_depth={"rest": 0, "chain": waves("z", 50)},
            layers=[{"kind": "ball", "id": "ball", "name": "Ball", "radius": 9}],
        )
        still = {**cloud, "copy_position": {"rest": [0, 0], "chain": waves("xy", [40, 30])}}
        sizes = []
        for one in (scene(cloud, FRONT), scene(still, FRONT)):
            node = drawn(one, 30).nodes[0]
            order = node.channels["order"].rows
            self.assertTrue((np.sort(order, axis=1) == np.arange(100)).all())
            sizes.append(node.channels["turned"].values[..., 0])
        # Pushed towards the viewer or away, they are seen larger or smaller than without it.
        self.assertGreater(np.abs(sizes[0] - sizes[1]).max(), 0.05)

    def test_twenty_thousand_blocks(self) -> None:
        block = {"kind": "block", "id": "block", "name": "Block", "width": 8, "thickness": 8, "height": 20}
        one = scene(
            array({"kind": "ground", "columns": 200, "rows": 100, "gap": [12, 12]}, layers=[block], by_depth=True),
            {**FRONT, "around": [30, 20]},
        )
        node = next(node for node in drawn(one).walk() if node.kind == "shape")
        for name, channel in node.channels.items():
            self.assertTrue(np.isfinite(channel.rows).all(), name)
        self.assertEqual(node.channels["points.0"].each, 20_000)


class Unseen(unittest.TestCase):
    def test_nothing_is_drawn_for_camera_and_light(self) -> None:
        one = scene(FRONT, {"kind": "light"})
        self.assertEqual(display_list(Sampler(one), SampleTimes.frames(30, 0, 1)).nodes, ())
