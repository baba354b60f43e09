"""Hollow zones, turned ones, and those with the shape of something drawn: how near copies are, and where they are
pushed; against plain geometry."""

import math
import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.geometry.outline import Outline
from jaunty_lever.core.geometry.segments import nearest, segments_of
from jaunty_lever.formats import project_file

from .scenes import apply, project, scene
from .test_arrays import array, row, values

ONE = SampleTimes(np.zeros(1))
PLAIN = {"kind": "zone", "id": "z", "name": "Near", "edge": "linear", "inner": 0}
CRATE = {"kind": "rectangle", "name": "Crate", "size": [100, 60], "position": [320, 180]}


def rowed(zone: dict[str, Any], *others: dict[str, Any], push: dict[str, Any] | None = None, **fields: Any) -> Scene:
    """Nine copies 40 px apart about (320, 180), the zone among their gauges, other layers below."""
    chain = [] if push is None else [{"kind": "push", "id": "p", "zone": "z", "force": 30, **push}]
    fields = {"arrangement": row(9), "position": [320, 180], "copy_position": {"chain": chain}} | fields
    return scene(array(gauges=[PLAIN | zone], **fields), *others)


def near(one: Scene, samples: SampleTimes = ONE) -> np.ndarray:
    return values(one, "z.value", samples)[:, :, 0]


def moved(one: Scene) -> np.ndarray:
    return values(one, "a.copy_position", ONE)[:, 0]


ALONG = np.arange(-160, 161, 40.0)
"""Where copies stand, from the middle of the row."""


class Hollow(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(st.floats(0, 99), st.floats(0, 100), st.sampled_from(["disc", "box", "bar"]))
    def test_a_ring_is_strongest_where_it_is_drawn(self, hollow: float, inner: float, shape: str) -> None:
        zone = {"centre": [320, 180], "size": [100, 100], "hollow": hollow, "inner": inner, "shape": shape}
        h, q, d = hollow / 100, inner / 100, np.abs(ALONG) / 100
        apart = np.abs(d - h) / (1 - h)
        soft = np.clip((1 - apart) / (1 - q), 0, 1) if q < 1 else (apart <= 1) * 1.0
        np.testing.assert_allclose(near(rowed(zone))[:, 0], np.where(apart <= q, 1, soft), atol=1e-9)

    def test_it_is_pushed_away_from_to_either_side_and_led_round_one_way(self) -> None:
        zone = {"centre": [320, 180], "size": [200, 200], "hollow": 50}
        much = np.clip(1 - np.abs(np.abs(ALONG) / 200 - 0.5) / 0.5, 0, 1)
        # Inside of 100 px its middle is the way out.
        side = np.sign(ALONG) * np.where(np.abs(ALONG) < 100, -1, 1)
        flat = rowed(zone, push={})
        np.testing.assert_allclose(moved(flat)[:, 0], 30 * much * side, atol=1e-9)
        np.testing.assert_allclose(moved(rowed(zone, push={"way": "towards"})), -moved(flat), atol=1e-9)
        round_it = moved(rowed(zone, push={"way": "around"}))
        np.testing.assert_allclose(round_it[:, 1], 30 * much * np.sign(ALONG), atol=1e-9)

    def test_walls_keep_copies_out_of_the_band_alone(self) -> None:
        # Of a ring from 60 to 140 px, the copies at 80 and 120 are put out to its nearer side.
        zone = {"centre": [320, 180], "size": [200, 200], "hollow": 50, "inner": 40}
        stood = ALONG + moved(rowed(zone, push={"walls": True, "force": 0}))[:, 0]
        wanted = np.array([-160, -140, -60, -40, 0, 40, 60, 140, 160.0])
        np.testing.assert_allclose(stood, wanted, atol=1e-9)

    def test_a_single_key_is_a_value_like_any_other(self) -> None:
        zone = {"centre": [320, 180], "size": [200, 200], "inner": 30}
        for name, value in (("hollow", 50), ("size_depth", 80)):
            keyed = rowed(zone | {name: {"keys": [{"frame": 0, "value": value}]}}, push={})
            np.testing.assert_array_equal(moved(keyed), moved(rowed(zone | {name: value}, push={})), err_msg=name)
            self.assertEqual(keyed.index.solid_zone("z"), name == "size_depth")

    def test_a_hollow_of_nothing_is_what_it_was(self) -> None:
        for push in ({}, {"way": "around", "walls": True, "random": [40, 20]}):
            zone = {"centre": [325, 190], "size": [130, 90], "angle": 20, "inner": 30}
            lever = {"rest": 0, "keys": [{"frame": 0, "value": 0}, {"frame": 9, "value": 0}]}
            np.testing.assert_allclose(
                moved(rowed(zone | {"hollow": lever}, push=push)), moved(rowed(zone, push=push)), atol=1e-9
            )


class Turned(unittest.TestCase):
    def test_a_quarter_turn_seen_from_above_changes_width_for_depth(self) -> None:
        zone = {"centre": [320, 180], "size": [50, 400], "size_depth": 200, "shape": "box"}
        quarter, swapped = {**zone, "turn": 90}, {**zone, "size": [200, 400], "size_depth": 50}
        np.testing.assert_allclose(near(rowed(quarter)), near(rowed(swapped)), atol=1e-9)
        self.assertGreater(near(rowed(quarter))[6, 0], near(rowed(zone))[6, 0])
        for way in ("away", "around"):
            push = {"way": way, "walls": True}
            inner = {"inner": 60}
            np.testing.assert_allclose(
                moved(rowed(quarter | inner, push=push)), moved(rowed(swapped | inner, push=push)), atol=1e-6
            )

    def test_it_turns_clockwise_on_the_plan(self) -> None:
        # The long axis points to the right and to the viewer.
        zone = {"centre": [320, 180], "size": [200, 400], "size_depth": 20, "shape": "box", "turn": 30}
        deep = {"rest": 0, "chain": [{"kind": "formula", "id": "d", "text": "(i - 4) * 40 * tan(30)"}]}
        on_it = near(rowed(zone, copy_depth=deep))[:, 0]
        long = np.abs(ALONG) / math.cos(math.radians(30)) / 200
        np.testing.assert_allclose(on_it, np.clip(1 - long, 0, 1), atol=1e-6)


class Drawn(unittest.TestCase):
    def test_inside_an_outline_it_is_1_and_fades_outside(self) -> None:
        zone = {"shape": "outline", "outline": "layer1", "size": [80, 1]}
        wanted = np.clip(1 - np.maximum(np.abs(ALONG) - 50, 0) / 80, 0, 1)
        np.testing.assert_allclose(near(rowed(zone, CRATE))[:, 0], wanted, atol=1e-9)
        reversed_one = near(rowed({**zone, "backwards": True}, CRATE))[:, 0]
        np.testing.assert_allclose(reversed_one, 1 - wanted, atol=1e-9)

    def test_a_line_is_near_to_both_sides(self) -> None:
        wanted = np.clip(1 - np.minimum(np.abs(np.abs(ALONG) - 50), 30) / 20, 0, 1)
        zone = {"shape": "line", "outline": "layer1", "size": [20, 1]}
        np.testing.assert_allclose(near(rowed(zone, CRATE))[:, 0], wanted, atol=1e-9)
        data = {"shape": "line", "data": "M320 0V400", "size": [100, 1]}
        np.testing.assert_allclose(near(rowed(data))[:, 0], np.clip(1 - np.abs(ALONG) / 100, 0, 1), atol=1e-9)

    def test_it_goes_with_its_layer_and_changes_with_it(self) -> None:
        keys = [{"frame": 0, "value": [320, 180], "ease": "linear"}, {"frame": 10, "value": [420, 180]}]
        lead = {**CRATE, "position": {"keys": keys}, "rotation": 90, "size": {"chain": []}} | {"size": [60, 100]}
        one = rowed({"shape": "outline", "outline": "layer1", "size": [50, 1]}, lead)
        for frame in (0, 5, 10):
            away = np.abs(ALONG - 10 * frame)
            wanted = np.clip(1 - np.maximum(away - 50, 0) / 50, 0, 1)
            np.testing.assert_allclose(near(one, SampleTimes.frames(30, frame, frame + 1))[:, 0], wanted, atol=1e-9)

    def test_of_curves_it_is_right_to_half_a_pixel(self) -> None:
        disc = {"kind": "ellipse", "name": "Buoy", "size": [200, 200], "position": [320, 180]}
        found = near(rowed({"shape": "outline", "outline": "layer1", "size": [100, 1]}, disc))[:, 0]
        np.testing.assert_allclose(found, np.clip(1 - np.maximum(np.abs(ALONG) - 100, 0) / 100, 0, 1), atol=0.005)

    def test_copies_are_pushed_out_of_an_outline_by_the_nearest_way(self) -> None:
        tall = {**CRATE, "size": [100, 400]}
        zone = {"shape": "outline", "outline": "layer1", "size": [80, 1]}
        much = near(rowed(zone, tall))[:, 0]
        side = np.where(ALONG == 0, 0, np.sign(ALONG))
        out = moved(rowed(zone, tall, push={}))
        np.testing.assert_allclose(out[:4, 0], (30 * much * side)[:4], atol=1e-9)
        np.testing.assert_allclose(out[5:, 0], (30 * much * side)[5:], atol=1e-9)
        self.assertAlmostEqual(abs(out[4, 0]), 30)
        walls = moved(rowed({**zone, "inner": 25}, tall, push={"walls": True, "force": 0}))
        np.testing.assert_allclose((ALONG + walls[:, 0])[[2, 3, 5, 6]], [-80, -70, 70, 80], atol=1e-9)

    def test_walls_of_a_line_with_an_end_in_depth(self) -> None:
        zone = {"shape": "line", "data": "M320 0V400", "size": [100, 1], "size_depth": 80, "inner": 50}
        deep = {"chain": [{"kind": "push", "id": "p", "zone": "z", "force": 0, "walls": True}]}
        one = rowed(zone, copy_depth=deep)
        nearer = np.abs(values(one, "a.copy_depth", ONE)[:, 0, 0])
        # A tube half as wide and deep as the zone: x²/50² + z²/40² = 1.
        wanted = 40 * np.sqrt(np.maximum(1 - (ALONG / 50) ** 2, 0))
        np.testing.assert_allclose(nearer, wanted, atol=1e-4)

    def test_nothing_drawn_is_nowhere_near(self) -> None:
        np.testing.assert_array_equal(near(rowed({"shape": "outline"}))[:, 0], 0)
        np.testing.assert_array_equal(moved(rowed({"shape": "line"}, push={})), 0)
        point = near(rowed({"shape": "line", "data": "M320 180", "size": [100, 1]}))[:, 0]
        np.testing.assert_allclose(point, np.clip(1 - np.abs(ALONG) / 100, 0, 1), atol=1e-9)

    @settings(max_examples=60, deadline=None)
    @given(st.lists(st.tuples(st.floats(-90, 90), st.floats(-90, 90)), min_size=3, max_size=7), st.integers(0, 99))
    def test_the_nearest_spot_is_the_nearest_of_many(self, corners: list[tuple[float, float]], seed: int) -> None:
        outline = Outline("M" + "L" * (len(corners) - 1) + "Z", np.array(corners).reshape(1, -1))
        x, y = np.random.default_rng(seed).uniform(-120, 120, (2, 40))
        which, reach = np.zeros(40, dtype=np.int64), np.full(40, np.inf)
        apart, at_x, at_y, _ = nearest(x, y, segments_of(outline, True), which, reach)
        loop = np.array([*corners, corners[0]])
        share = np.linspace(0, 1, 400)[:, None, None]
        spots = (loop[:-1] + share * (loop[1:] - loop[:-1])).reshape(-1, 2)
        far = np.hypot(x[:, None] - spots[:, 0], y[:, None] - spots[:, 1]).min(axis=1)
        np.testing.assert_allclose(np.abs(apart), far, atol=0.4)
        np.testing.assert_allclose(np.hypot(x - at_x, y - at_y), np.abs(apart), atol=1e-9)


class Kept(unittest.TestCase):
    def made(self, **zone: Any) -> Project:
        return project(rowed({"size": [80, 80], **zone}, CRATE, push={}))

    def test_a_zone_takes_the_outline_of_a_layer_and_its_data(self) -> None:
        made = apply(self.made(), "change gauge", gauge="z", outline="layer1")
        one = made.scenes[0]
        np.testing.assert_allclose(
            near(one)[:, 0], near(rowed({"shape": "outline", "outline": "layer1", "size": [80, 80]}, CRATE))[:, 0]
        )
        typed = apply(made, "change gauge", gauge="z", outline="", data="M320 0V400").scenes[0]
        self.assertGreater(near(typed)[4, 0], 0.9)
        for wrong, message in (
            ({"outline": "e0"}, "in its own array"),
            ({"outline": "a"}, "in its own array"),
            ({"outline": "none"}, "not there"),
            ({"data": "M 1"}, "Near: "),
        ):
            with self.assertRaisesRegex(Refused, message):
                apply(self.made(), "change gauge", gauge="z", **wrong)
        with self.assertRaises(Refused):
            added = apply(self.made(), "add gauge", array="a", gauge="random", id="r")
            apply(added, "change gauge", gauge="r", outline="layer1")

    def test_values_follow_an_edit_of_what_is_drawn(self) -> None:
        path = {"kind": "path", "name": "Rope", "data": "M0 -200V200", "position": [320, 180]}
        start = project(rowed({"shape": "line", "outline": "layer1", "size": [60, 1]}, path, push={}))
        self.assertEqual((near(start.scenes[0])[:, 0] > 0).nonzero()[0].tolist(), [3, 4, 5])
        before = moved(start.scenes[0])
        for edit, fields in (
            ("change layer", {"layer": "layer1", "data": "M80 -200V200"}),
            ("set value", {"parameter": "layer1.position", "value": [200, 180], "frame": 0}),
        ):
            now = apply(start, edit, **fields).scenes[0]
            fresh = Scene.model_validate(now.model_dump())
            np.testing.assert_array_equal(near(now), near(fresh))
            np.testing.assert_array_equal(moved(now), moved(fresh))
            self.assertGreater(np.abs(moved(now) - before).max(), 1)

    def test_where_what_is_drawn_is_deleted_the_zone_stays_as_it_is(self) -> None:
        start = self.made(shape="outline", outline="layer1")
        gone = apply(start, "remove layers", layers=["layer1"]).scenes[0]
        np.testing.assert_allclose(near(gone), near(start.scenes[0]), atol=1e-9)
        np.testing.assert_allclose(moved(gone), moved(start.scenes[0]), atol=1e-9)

    def test_a_file_keeps_it_and_a_copy_of_both_leads_it_over(self) -> None:
        start = self.made(shape="line", outline="layer1")
        again = project_file.read(project_file.write(start).encode()).scenes[0]
        np.testing.assert_array_equal(near(again), near(start.scenes[0]))
        both = apply(start, "duplicate layers", layers=["a", "layer1"]).scenes[0]
        zones = [gauge for layer in both.layers for gauge in getattr(layer, "gauges", ())]
        self.assertEqual(len({zone.outline for zone in zones}), 2)

    def test_what_is_drawn_may_not_follow_its_own_zone(self) -> None:
        start = self.made(shape="outline", outline="layer1")
        with self.assertRaisesRegex(Refused, "circle"):
            apply(start, "link to", parameter="layer1.rotation", driver="z.value@mean")
        linked = apply(self.made(), "link to", parameter="layer1.rotation", driver="z.value@mean")
        with self.assertRaisesRegex(Refused, "circle"):
            apply(linked, "change gauge", gauge="z", outline="layer1")
