"""What is worked out for many copies at once is what each of them is by itself, to the last bit, and what one layer
is."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.placing import copy_placing
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import copies_at, inside
from jaunty_lever.core.gauges.push import push
from jaunty_lever.core.kernels.digest import digest_of
from jaunty_lever.core.kernels.sine import cosine, sine, swing

from .scenes import scene
from .test_arrays import FRAMES, array, follow, formula, row, values, wave

COPIES = 37


def pushed(**fields: Any) -> list[dict[str, Any]]:
    """Positions of copies by waves, a wiggle along them and a push."""
    wiggle = {"kind": "wiggle", "id": "wi", "amplitude": [14, 14], "over": "along", "along": 9}
    return [
        wave(amplitude=[60, 30], along=1.5),
        wiggle,
        {"kind": "push", "id": "p", "zone": "z", "force": 40, **fields},
    ]


def crowd(chain: list[dict[str, Any]], position: Any = None, **zone: Any) -> Scene:
    """A row of copies whose positions have a chain, with a zone over its middle."""
    place = {"rest": [0, 0], "chain": chain} if position is None else {**position, "chain": chain}
    over = {"kind": "zone", "id": "z", "name": "Zone", "centre": [640, 360], "size": [150, 90], **zone}
    return scene(array(copy_position=place, arrangement=row(COPIES), position=[640, 360], gauges=[over]))


def _without_last(layer: Any) -> Any:
    """An array whose copies' rotation has one modifier less."""
    own = layer.copy_rotation
    return layer.changed(copy_rotation=own.changed(chain=own.chain[:-1]))


class Alone(unittest.TestCase):
    def same_alone(self, one: Scene, parameter: str, copies: range = range(0, COPIES, 4)) -> np.ndarray:
        together, sampler = values(one, parameter), Sampler(one, Cache())
        for k in copies:
            alone = sampler.evaluate(parameter, inside(sampler, parameter, FRAMES, {"a": k}))
            np.testing.assert_array_equal(np.broadcast_to(alone, (1, *together.shape[1:]))[0], together[k])
        return together

    @settings(max_examples=30, deadline=None)
    @given(
        st.sampled_from(["away", "towards", "around"]),
        st.sampled_from(["disc", "box", "bar"]),
        st.sampled_from(["linear", "smooth"]),
        st.sampled_from([0, 40]),
        st.sampled_from([0, 60]),
        st.sampled_from([0, 30]),
        st.booleans(),
        st.sampled_from([40, {"rest": 0, "chain": [wave(id="slow")]}, {"rest": 0, **formula("20 + i")}]),
    )
    def test_a_push(
        self, way: str, shape: str, edge: str, inner: float, random: float, angle: float, walls: bool, force: Any
    ) -> None:
        chain = pushed(way=way, random=random, walls=walls, force=force)
        together = self.same_alone(crowd(chain, shape=shape, edge=edge, inner=inner, angle=angle), "a.copy_position")
        before = values(crowd(chain[:2]), "a.copy_position")
        moved = np.abs(together - before).max(axis=2) > 0
        self.assertTrue(moved.any() and not moved.all(), "the zone reaches some of them")

    @settings(max_examples=40, deadline=None)
    @given(
        st.sampled_from(["smooth", "billow", "ridged", "stepped", "jitter"]),
        st.sampled_from(["each its own", "alike", "along"]),
        st.sampled_from(["both", "only above", "only below"]),
        st.integers(1, 4),
        st.floats(0, 8) | st.just({"rest": 1, "keys": [{"frame": 0, "value": 0.2}, {"frame": 90, "value": 4}]}),
        st.sampled_from([0, 2.5]),
        st.floats(0, 1),
        st.integers(0, 2**32),
    )
    def test_wandering(
        self,
        character: str,
        over: str,
        direction: str,
        octaves: int,
        frequency: Any,
        repeat: float,
        kept: float,
        seed: int,
    ) -> None:
        wiggle = {
            "kind": "wiggle",
            "id": "w",
            "amplitude": [20, 9],
            "character": character,
            "over": over,
            "along": 5,
            "direction": direction,
            "octaves": octaves,
            "frequency": frequency,
            "repeat": repeat,
            "persistence": kept,
        }
        one = crowd([wiggle, wave(amplitude=[3, 5], along=1.5)])
        together = self.same_alone(one, "a.copy_position", range(0, COPIES, 12))
        # Moments that do not follow one another are worked out one by one.
        order = np.random.default_rng(seed).permutation(FRAMES.times.size)
        sampler = Sampler(one, Cache())
        shuffled = sampler.evaluate("a.copy_position", copies_at(sampler, "a", SampleTimes(FRAMES.times[order])))
        np.testing.assert_array_equal(np.broadcast_to(shuffled, together.shape), together[:, order])

    def test_a_copy_in_the_very_middle_of_a_zone_is_led_out_of_it(self) -> None:
        one = crowd([{"kind": "push", "id": "p", "zone": "z", "force": 40}])
        together = self.same_alone(one, "a.copy_position")
        # The middle one of the row stands there: no way leads away from the centre, so it takes one of its own.
        self.assertAlmostEqual(np.hypot(*together[COPIES // 2, 0]), 40, places=9)

    def test_overshoots_with_keys(self) -> None:
        keys = {"keys": [{"frame": 0, "value": [0, 80], "ease": "ease-in"}, {"frame": 20, "value": [0, 0]}]}
        for settings_ in (
            {"decay": 2, "amplitude": formula("0.5 + i / 40")},
            {"decay": formula("1 + u", "d"), "which": "all"},
            {"frequency": formula("1 + i / 20", "f")},
            {"frequency": {"keys": [{"frame": 0, "value": 1}, {"frame": 50, "value": 3}]}},
        ):
            chain = [{"kind": "overshoot", "id": "o", **settings_}]
            together = self.same_alone(crowd(chain, keys), "a.copy_position")
            self.assertGreater(np.abs(together[:, 21:]).max(), 1)

    def test_an_overshoot_of_one_copy_is_that_of_a_layer_with_its_settings(self) -> None:
        keys = {"keys": [{"frame": 0, "value": 80, "ease": "ease-in"}, {"frame": 20, "value": 0}]}
        chain = [{"kind": "overshoot", "id": "o", "frequency": 1.5, "amplitude": formula("0.5 + i / 40")}]
        many = values(scene(array(copy_rotation={**keys, "chain": chain}, arrangement=row(9))), "a.copy_rotation")
        for k in (0, 4, 8):
            chain[0]["amplitude"] = 0.5 + k / 40
            single = Sampler(scene({"id": "e", "name": "E", "rotation": {**keys, "chain": chain}}), Cache())
            np.testing.assert_allclose(many[k], single.evaluate("e.rotation", FRAMES)[0], atol=1e-12)

    def test_what_does_not_change_is_smoothed_to_itself_to_the_last_bit(self) -> None:
        smooth = {"kind": "smooth", "id": "s", "length": 0.4}
        for chain in ([], [wave(amplitude=0, shape="square")]):
            still = {
                "rest": 0,
                "chain": [{"kind": "formula", "id": "f", "text": "0.53 * (i + 1) + 0 * t"}, *chain, smooth],
            }
            one = scene(array(copy_rotation=still, arrangement=row(COPIES)))
            before = values(one.changed(layers=(_without_last(one.layers[0]),)), "a.copy_rotation")
            np.testing.assert_array_equal(values(one, "a.copy_rotation"), before)

    def test_smoothed_copies(self) -> None:
        smooth = {"kind": "smooth", "id": "s", "length": 0.4}
        by_place = {"rest": 0, "chain": [follow("element.u", times=0.5)]}
        for name, chain in {
            "waves": [follow("element.u", times=90), wave(along=2), smooth],
            "jumps, each at its own moments": [wave(along=2, shape="square"), smooth],
            "corners inside jumps": [
                wave(along=2, shape="saw"),
                {"kind": "limit", "id": "l", "low": -3, "high": 4},
                smooth,
            ],
            "chance": [{"kind": "wiggle", "id": "w", "octaves": 3}, smooth],
            "swings of unlike pace": [wave(frequency={"rest": 2, "chain": [follow("element.i", times=3)]}), smooth],
            "unlike windows, and none": [wave(shape="square"), {**smooth, "length": by_place}],
            "what stands still, and windows of none": [{**smooth, "length": by_place}],
            "unlike lags": [wave(along=1), {**smooth, "lag": by_place}],
            "what nobody knows the breaks of": [
                wave(along=1),
                {"kind": "formula", "id": "f", "text": "base + 9 * noise(40 * t)"},
                smooth,
            ],
            "twice": [wave(along=2, shape="square"), smooth, {**smooth, "id": "s2", "length": 1}],
        }.items():
            with self.subTest(name):
                rig = {"rotation": {"rest": 0, "chain": chain}}
                self.same_alone(scene(array(rig, arrangement=row(COPIES))), "e0.rotation", range(0, COPIES, 12))
                self.same_alone(scene(array(rig, arrangement=row(5), later=0.13)), "e0.rotation", range(0, 5, 2))

    def test_the_matrices_of_copies_are_told_by_their_values(self) -> None:
        one = crowd(pushed())
        sampler = Sampler(one, Cache())
        copies = copies_at(sampler, "a", FRAMES)
        told = copy_placing(sampler, "a", copies)
        moved, place = (sampler.evaluate(f"a.{name}", copies) for name in ("copy_position", "place"))
        np.testing.assert_allclose(told[..., 4:], moved + place, rtol=1e-15)
        np.testing.assert_array_equal(told[..., :4], np.broadcast_to([1, 0, 0, 1], (*told.shape[:2], 4)))


class Kernels(unittest.TestCase):
    @given(st.floats(-1e6, 1e6), st.floats(-8, 8))
    def test_sines_of_sums(self, turns: float, lead: float) -> None:
        exact = np.sin(2 * np.pi * ((turns - np.floor(turns)) + (lead - np.floor(lead))))
        self.assertAlmostEqual(swing(turns, lead, 3.0), 3 * exact, places=12)
        self.assertEqual(swing(turns, 0.0, 3.0), 3 * sine(turns))

    def test_quarter_turns_are_exact(self) -> None:
        self.assertEqual([cosine(k / 4) for k in range(5)], [1, 0, -1, 0, 1])
        self.assertEqual([sine(k / 2) for k in range(3)], [0, 0, 0])

    def test_a_push_does_not_depend_on_where_the_work_is_cut(self) -> None:
        """Threads take stretches of any length: each sample is its own."""
        rng = np.random.default_rng(3)
        many, each = 11, 70
        x, y = rng.uniform(-80, 80, (2, many * each))
        placed = rng.uniform(-200, 200, (2, many))
        one = [np.array([v]) for v in (0.0, 10.0, 10.0, 120.0, 80.0, 20.0, 0.3)]
        near, cx, cy, wide, high, angle, inner = one
        matrix = np.array([[1.1], [0.2], [-0.3], [0.9], [5.0], [-7.0]])

        def made(cuts: list[int]) -> np.ndarray:
            out = np.full((2, many * each), np.nan)
            for first, last in zip(cuts, cuts[1:], strict=False):
                push(
                    first,
                    last,
                    x,
                    y,
                    placed,
                    matrix,
                    each,
                    near,
                    cx,
                    cy,
                    wide,
                    high,
                    angle,
                    inner,
                    np.array([30.0]),
                    np.zeros(1),
                    np.zeros(1),
                    np.arange(many),
                    1,
                    0,
                    0,
                    1,
                    False,
                    False,
                    out,
                )
            return out

        whole = made([0, many * each])
        self.assertTrue(np.isfinite(whole).all())
        np.testing.assert_array_equal(whole, made([0, 1, 33, 70, 141, 500, 770]))

    def test_equal_content_has_one_key_and_other_content_another(self) -> None:
        rows = np.arange(12.0).reshape(3, 4)
        self.assertEqual(digest_of(rows), digest_of(rows.copy()))
        self.assertEqual(digest_of(rows[:, 1]), digest_of(rows[:, 1].copy()))
        self.assertNotEqual(digest_of(rows), digest_of(np.nextafter(rows, 99)))
        one, other = (
            display_list(Sampler(scene({"id": "e", "name": "E", "position": [x, 5]})), SampleTimes.frames(30, 0, 2))
            for x in (5, 6)
        )
        self.assertNotEqual(one.nodes[0].channels["matrix"].key, other.nodes[0].channels["matrix"].key)


if __name__ == "__main__":
    unittest.main()
