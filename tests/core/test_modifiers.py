"""What each modifier promises, beyond its reference numbers; and what it does with settings that make no sense."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.notes import notes
from jaunty_lever.core.evaluation.sampler import Sampler
from tests.core.scenes import apply, project, scene

FINE = np.linspace(0, 6, 6001)
FALL = [{"frame": 0, "value": 0, "ease": "ease-in"}, {"frame": 30, "value": 100}]
WAVE: dict[str, Any] = {"kind": "wave", "id": "w", "amplitude": 40, "frequency": 0.9}


def sampler(*chain: dict[str, Any], keys: Any = (), rest: Any = 0, field: str = "rotation") -> Sampler:
    made = [{"id": f"m{k}", **step} for k, step in enumerate(chain)]
    return Sampler(scene({field: {"rest": rest, "keys": keys, "chain": made}}))


def values(*chain: dict[str, Any], times: Any = FINE, field: str = "rotation", **own: Any) -> Any:
    found = sampler(*chain, field=field, **own).sample(f"layer0.{field}", times)
    return found if field == "position" else found[:, 0]


def told(*chain: dict[str, Any], **own: Any) -> list[str]:
    made = sampler(*chain, **own)
    return [note.text for some in notes(made, f"layer0.{own.get('field', 'rotation')}") for note in some]


class Landing(unittest.TestCase):
    def test_bounces_never_pass_the_floor_and_get_lower_by_the_square_of_the_rebound(self) -> None:
        y = values({"kind": "bounce", "gravity": 900, "rebound": 0.6}, keys=FALL)
        after = FINE > 1
        self.assertLessEqual(y[after].max(), 100 + 1e-9)
        lows = [100 - y[k] for k in range(1, len(y) - 1) if after[k] and y[k] < y[k - 1] and y[k] <= y[k + 1]]
        np.testing.assert_allclose(np.array(lows[1:4]) / lows[:3], 0.36, rtol=0.01)
        self.assertEqual(y[-1], 100)

    def test_flights_too_short_to_divide_by_are_over(self) -> None:
        for rebound in (0.5, 1, 1e-300):
            small = {"kind": "bounce", "when": "drop", "gravity": 4, "height": 1e-320, "rebound": rebound}
            np.testing.assert_array_equal(values(small, rest=7), 7)

    def test_what_the_station_says_of_a_bounce_is_what_happens(self) -> None:
        (text,) = told({"kind": "bounce", "gravity": 900, "rebound": 0.6}, keys=FALL)
        y = values({"kind": "bounce", "gravity": 900, "rebound": 0.6}, keys=FALL, times=np.arange(30, 200) / 30)
        rest = int(text.split("at rest from frame ")[1].split()[0])
        self.assertTrue(np.all(y[rest - 30 :] == 100) and y[rest - 32] < 100)
        fine = values({"kind": "bounce", "gravity": 900, "rebound": 0.6}, keys=FALL)
        heights = [100 - fine[k] for k in range(1001, 6000) if fine[k] < fine[k - 1] and fine[k] <= fine[k + 1]]
        self.assertTrue(text.startswith(f"{sum(h > 0.5 for h in heights)} bounces can be seen"), text)

    def test_a_rebound_of_1_never_ends_and_of_0_does_not_bounce(self) -> None:
        self.assertGreater(100 - values({"kind": "bounce", "gravity": 900, "rebound": 1}, keys=FALL)[-1000:].min(), 15)
        self.assertIn("for ever", told({"kind": "bounce", "rebound": 1}, keys=FALL)[0])
        self.assertTrue(np.all(values({"kind": "bounce", "rebound": 0}, keys=FALL)[1001:] == 100))

    def test_a_vector_bounces_back_the_way_it_came_or_along_one_axis(self) -> None:
        keys = [{"frame": 0, "value": [0, 0], "ease": "linear"}, {"frame": 30, "value": [30, 40]}]
        p = values({"kind": "bounce", "gravity": 100}, keys=keys, field="position")[1001:]
        moved = p[np.abs(p - [30, 40]).max(axis=1) > 1e-9] - [30, 40]
        np.testing.assert_allclose(moved[:, 0] / moved[:, 1], 0.75, rtol=1e-9)
        p = values({"kind": "bounce", "gravity": 100, "along": "y"}, keys=keys, field="position")[1001:]
        self.assertTrue(np.all(p[:, 0] == 30) and p[:, 1].min() < 40)

    def test_arriving_at_rest_is_told_with_the_mend(self) -> None:
        calm = [{**FALL[0], "ease": "ease-out"}, FALL[1]]
        for kind in ("bounce", "overshoot"):
            made = sampler({"kind": kind}, keys=calm)
            ((note,),) = notes(made, "layer0.rotation")
            self.assertIn("arrives at rest", note.text)
            mended = apply(project(made.scene), **dict(note.mends[0].edits[0]))
            self.assertNotIn("at rest, so", notes(Sampler(mended.scenes[0]), "layer0.rotation")[0][0].text)
        ((without,),) = notes(bare := sampler({"kind": "bounce"}), "layer0.rotation")
        self.assertIn("nothing to bounce from", without.text)
        dropped = apply(project(bare.scene), **dict(without.mends[0].edits[0]))
        self.assertIn("can be seen", notes(Sampler(dropped.scenes[0]), "layer0.rotation")[0][0].text)
        self.assertIn("nothing to repeat", told({"kind": "loop"}, keys=FALL[:1])[0])

    def test_vertical_eases_arrive_with_the_speed_over_a_thousandth_of_their_span(self) -> None:
        steep = [{**FALL[0], "ease": [0.2, 0, 1, 0]}, FALL[1]]
        y = values({"kind": "bounce", "gravity": 9000, "rebound": 0.5}, keys=steep)
        speed = 1000 * (100 - values(keys=steep, times=[0.999])[0])
        self.assertAlmostEqual(100 - y[1000:].min(), (speed * 0.5) ** 2 / (2 * 9000), delta=0.02)

    @settings(max_examples=30, deadline=None)
    @given(st.floats(0.5, 6), st.floats(0, 10), st.sampled_from(["linear", "ease-in", (0.3, 0.2, 0.6, 0.4)]))
    def test_an_overshoot_leaves_the_key_at_the_speed_it_arrived(
        self, frequency: float, decay: float, ease: Any
    ) -> None:
        keys = [{**FALL[0], "ease": ease}, FALL[1]]
        h = 1e-5
        a, b, c = values(
            {"kind": "overshoot", "frequency": frequency, "decay": decay}, keys=keys, times=[1 - h, 1, 1 + h]
        )
        self.assertAlmostEqual((b - a) / h, (c - b) / h, delta=0.2)

    def test_the_overshoot_told_is_the_one_that_comes(self) -> None:
        (text,) = told({"kind": "overshoot", "frequency": 2, "decay": 5}, keys=FALL)
        y = values({"kind": "overshoot", "frequency": 2, "decay": 5}, keys=FALL)
        self.assertIn(f"by {y.max() - 100:.2f}°".rstrip("0"), text)


class Looping(unittest.TestCase):
    def test_ways_before_and_times(self) -> None:
        times = np.array([-0.25, 0.25, 1.25, 2.25, 3.25, 9])
        keys = [{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 30, "value": 100}]
        for settings_, expected in (
            ({"after": "repeat", "before": "repeat"}, [75, 25, 25, 25, 25, 0]),
            ({"after": "alternate"}, [0, 25, 75, 25, 75, 100]),
            ({"after": "accumulate", "before": "accumulate"}, [-25, 25, 125, 225, 325, 900]),
            ({"after": "continue", "before": "continue"}, [-25, 25, 125, 225, 325, 900]),
            ({"after": "repeat", "cycles": 2}, [0, 25, 25, 25, 100, 100]),
            ({"after": "alternate", "cycles": 1}, [0, 25, 75, 0, 0, 0]),
            ({"after": "accumulate", "cycles": 1}, [0, 25, 125, 200, 200, 200]),
            ({"after": "hold"}, [0, 25, 100, 100, 100, 100]),
        ):
            with self.subTest(settings_):
                np.testing.assert_allclose(
                    values({"kind": "loop", **settings_}, keys=keys, times=times), expected, atol=1e-9
                )

    def test_a_stretch_of_keys_or_frames_is_repeated(self) -> None:
        keys = [
            {"frame": 0, "value": 0, "ease": "linear"},
            {"frame": 30, "value": 100, "ease": "linear"},
            {"frame": 60, "value": 40},
        ]
        y = values({"kind": "loop", "stretch": "last keys", "count": 2}, keys=keys, times=[0.5, 1.5, 2.5, 3.5])
        np.testing.assert_allclose(y, [50, 70, 70, 70])
        y = values(
            {"kind": "loop", "stretch": "from … to", "start": 15, "end": 30}, keys=keys, times=[0.25, 0.75, 1.25, 1.75]
        )
        np.testing.assert_allclose(y, [25, 75, 75, 75])
        made = sampler({"kind": "loop", "stretch": "from … to", "start": 30, "end": 30}, keys=keys)
        made.sample("layer0.rotation", 0)
        self.assertIn("does not end after it starts", next(iter(made.faults.values())).message)

    @settings(max_examples=25, deadline=None)
    @given(st.integers(1, 20), st.sampled_from(["repeat", "accumulate"]))
    def test_a_smooth_seam_has_no_jump(self, seam: int, way: str) -> None:
        keys = [{"frame": 10, "value": 5, "ease": "ease"}, {"frame": 40, "value": 90}]
        y = values({"kind": "loop", "after": way, "seam": seam}, keys=keys)
        self.assertLess(np.abs(np.diff(y)).max(), 90 / seam * 30 / 1000 * 4 + 1)


class Shaping(unittest.TestCase):
    def test_a_curve_whose_points_are_keyed_gives_one_sample_the_bits_of_many(self) -> None:
        moving = {"rest": 0.3, "keys": [{"frame": 0, "value": 0.1}, {"frame": 60, "value": 0.9}]}
        bent = {"kind": "remap", "from_high": 40, "ends": "stop", "ease": "cubic-bezier", "x1": moving, "x2": 0.4}
        times = np.arange(200) / 37
        many = values({**WAVE, "offset": 20}, bent, times=times)
        singly = [values({**WAVE, "offset": 20}, bent, times=times[k : k + 1])[0] for k in range(200)]
        np.testing.assert_array_equal(singly, many)

    def test_a_loop_carries_on_at_the_slope_that_its_stretch_ends_with(self) -> None:
        keys = [{"frame": 0, "value": 0, "ease": "ease-in"}, {"frame": 60, "value": 100}]
        h = 1e-6
        for end in (17, 30, 45):
            loop = {"kind": "loop", "after": "continue", "stretch": "from … to", "start": 0, "end": end}
            at = end / 30
            a, b, c = values(loop, keys=keys, times=[at + 0.1, at + 0.2, at + 0.3])
            before, there = values(keys=keys, times=[at - h, at])
            self.assertAlmostEqual((c - b) / 0.1, (there - before) / h, delta=2e-3)
            self.assertAlmostEqual(b - a, c - b, places=9)

    @settings(max_examples=50, deadline=None)
    @given(st.floats(-50, 50), st.floats(0, 60), st.floats(0, 100))
    def test_a_limit_is_never_passed_and_its_corners_have_no_kink(self, low: float, span: float, soft: float) -> None:
        y = values({**WAVE, "amplitude": 100}, {"kind": "limit", "low": low, "high": low + span, "softness": soft})
        self.assertTrue(low <= y.min() and y.max() <= low + span)
        if soft > 20 and span > 5:
            x = values({**WAVE, "amplitude": 100})
            slope = np.diff(y)[np.abs(np.diff(x)) > 0.05] / np.diff(x)[np.abs(np.diff(x)) > 0.05]
            self.assertTrue(slope.min() >= -1e-6 and slope.max() <= 1 + 1e-6)

    def test_a_limit_tells_the_frames_at_which_it_is_reached(self) -> None:
        (text,) = told(
            {"kind": "limit", "low": -1000, "high": 50},
            keys=[{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 100, "value": 100}],
        )
        self.assertEqual(text, "Reaches high at frames 50–299.")
        (text,) = told(
            {"kind": "remap", "from_low": 0, "from_high": 40},
            keys=[{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 100, "value": 100}],
        )
        self.assertIn("leaves its range at frames 41–299: there it carries on.", text)
        self.assertIn(
            "3 : 2 in lowest terms; it closes after 2.5 s",
            told({"kind": "figure", "p": 6, "q": 4, "speed": 0.2}, rest=[0, 0], field="position")[0],
        )
        text = told({"kind": "rate"}, {"kind": "hold steps", "rate": 15}, {"kind": "adjust"})[0]
        self.assertEqual(
            text, "Each value stands for 2 frames. It holds Rate; Adjust after it still moves at every frame."
        )

    def test_eases_and_steps_of_a_remap(self) -> None:
        ramp = [{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 100, "value": 100}]
        base = {"kind": "remap", "from_low": 0, "from_high": 100, "to_low": 0, "to_high": 10, "ends": "stop"}
        times = np.arange(0, 101, 10) / 30
        eased = values(
            {**base, "ease": "cubic-bezier", "x1": 0.42, "y1": 0, "x2": 0.58, "y2": 1}, keys=ramp, times=times
        )
        keyed = [{"frame": 0, "value": 0, "ease": "ease-in-out"}, {"frame": 100, "value": 10}]
        np.testing.assert_allclose(eased, values(keys=keyed, times=times), atol=1e-9)
        np.testing.assert_allclose(
            values({**base, "ease": "steps", "steps": 4}, keys=ramp, times=times),
            [0, 0, 0, 2.5, 2.5, 5, 5, 5, 7.5, 7.5, 10],
        )

    @settings(max_examples=25, deadline=None)
    @given(st.floats(0.05, 3), st.floats(0, 1), st.floats(0.1, 3))
    def test_smooth_is_the_weighted_mean_of_its_window(self, length: float, lag: float, frequency: float) -> None:
        times = np.array([0.3, 1.7, 4.05])
        y = values({**WAVE, "frequency": frequency}, {"kind": "smooth", "length": length, "lag": lag}, times=times)
        around = (np.arange(4000) + 0.5) / 4000 - 0.5
        weights = np.exp(-0.5 * (4 * around) ** 2)
        window = times[:, None] - lag + length * around
        exact = (40 * np.sin(2 * np.pi * frequency * window) * weights).sum(axis=1) / weights.sum()
        np.testing.assert_allclose(y, exact, atol=40 * 2e-3 * max(1.0, (frequency * length) ** 2))
        moving = {"rest": length, "keys": [{"frame": 0, "value": length}, {"frame": 9, "value": length}]}
        each = values({**WAVE, "frequency": frequency}, {"kind": "smooth", "length": moving, "lag": lag}, times=times)
        np.testing.assert_allclose(each, y, atol=40 * 2e-3 * max(1.0, (frequency * length) ** 2))

    def test_smooth_leaves_the_even_alone_and_rounds_a_jump(self) -> None:
        np.testing.assert_allclose(values({"kind": "smooth", "length": 1}, rest=1 / 3), 1 / 3, rtol=1e-12)
        ramp = values({"kind": "rate", "rate": 60}, {"kind": "smooth", "length": 0.7, "lag": 0.2}, times=FINE[1000:])
        np.testing.assert_allclose(ramp, 60 * (FINE[1000:] - 0.2), atol=1e-9)
        jump = [{"frame": 0, "value": 0, "ease": "hold"}, {"frame": 60, "value": 100}]
        y = values({"kind": "smooth", "length": 1}, keys=jump)
        self.assertTrue(np.all(np.diff(y) >= -0.02) and y[1400] == 0 and abs(y[2600] - 100) < 1e-12 * 100)
        self.assertTrue(y.min() > -0.1 and y.max() < 100.1)
        self.assertAlmostEqual(y[2000], 50, delta=0.5)

    def test_rounding_adjusting_and_times(self) -> None:
        for way, expected in (("nearest", [-0.3, 0.3]), ("down", [-0.3, 0.2]), ("up", [-0.2, 0.3])):
            got = [values({"kind": "round", "step": 0.1, "way": way}, rest=r, times=[0])[0] for r in (-0.26, 0.26)]
            np.testing.assert_allclose(got, expected, atol=1e-9)
        self.assertEqual(values({"kind": "round", "step": 0.1, "way": "down"}, rest=0.3, times=[0])[0], 0.1 * 3)
        self.assertEqual(
            values({"kind": "adjust", "times": 2, "plus": -10, "absolute": True, "reverse": True}, rest=3, times=[0])[
                0
            ],
            -4,
        )
        x = values({"kind": "rate", "rate": 60}, {"kind": "shift", "speed": -1, "delay": -2}, times=[0.5])
        self.assertEqual(x[0], 90)
        y = values(
            {
                "kind": "rate",
                "rate": {"keys": [{"frame": 0, "value": 60, "ease": "linear"}, {"frame": 60, "value": -60}]},
            },
            times=[2],
        )
        self.assertAlmostEqual(y[0], 0, places=9)


class Nonsense(unittest.TestCase):
    def test_settings_that_make_no_sense_pass_on_what_comes_in_and_are_named(self) -> None:
        for settings_, words in (
            ({"kind": "wave", "frequency": -1}, "frequency is below 0"),
            ({"kind": "wave", "shape": "pulse", "duty": 101}, "duty"),
            ({"kind": "limit", "low": 5, "high": 4}, "Low is above high"),
            ({"kind": "limit", "softness": -1}, "soft corners"),
            ({"kind": "round", "step": 0}, "step is not above 0"),
            ({"kind": "remap", "from_low": 7, "from_high": 7}, "range it comes from is empty"),
            ({"kind": "remap", "ease": "ease"}, "ends that stop"),
            ({"kind": "hold steps", "rate": 0}, "rate is not above 0"),
            ({"kind": "bounce", "gravity": 0}, "Gravity"),
            ({"kind": "bounce", "rebound": 1.5}, "rebound"),
            ({"kind": "overshoot", "frequency": 0}, "frequency is not above 0"),
            ({"kind": "overshoot", "decay": -1}, "decay"),
            ({"kind": "smooth", "length": -1}, "length is below 0"),
            ({"kind": "wiggle", "frequency": -2}, "frequency"),
        ):
            with self.subTest(settings_):
                made = sampler(settings_, keys=FALL)
                bare = values(keys=FALL, times=FINE[:50])
                np.testing.assert_array_equal(made.sample("layer0.rotation", FINE[:50])[:, 0], bare)
                (fault,) = made.faults.values()
                self.assertIn(words, fault.message)
        late = {
            "kind": "remap",
            "from_low": {"keys": [{"frame": 0, "value": 0, "ease": "hold"}, {"frame": 12, "value": 100}]},
        }
        made = sampler(late)
        made.sample("layer0.rotation", np.arange(90) / 30)
        self.assertEqual([round(f.time * 30) for f in made.faults.values()], [12])

    def test_equal_ends_strength_over_100_and_overlapping_windows(self) -> None:
        self.assertTrue(np.all(values(WAVE, {"kind": "limit", "low": 3, "high": 3, "softness": 50}) == 3))
        np.testing.assert_array_equal(values({**WAVE, "strength": 500}), values(WAVE))
        windows = [{"start": 70, "end": 80}, {"start": 75, "end": 90, "fade_in": 5}, {"start": 120, "end": 120}]
        y = values({**WAVE, "windows": windows}, times=np.arange(200) / 30)
        whole = values(WAVE, times=np.arange(200) / 30)
        self.assertEqual(sorted(np.flatnonzero(y)), [k for k in [*range(70, 91), 120] if whole[k] != 0])
        np.testing.assert_array_equal(y[70:81], whole[70:81])

    def test_a_chain_holds_only_so_many_that_change_time(self) -> None:
        made = project(scene({}))
        for k in range(3):
            made = apply(made, "add modifier", parameter="layer0.rotation", modifier="smooth", id=f"s{k}")
        with self.assertRaisesRegex(Refused, "at most 3 of Smooth"):
            apply(made, "add modifier", parameter="layer0.rotation", modifier="smooth")

    def test_a_long_train_of_followers_is_worked_out(self) -> None:
        layers = [{"rotation": {"chain": [WAVE]}}]
        layers += [
            {"rotation": {"chain": [{"kind": "follow", "id": f"f{k}", "driver": f"layer{k}.rotation"}]}}
            for k in range(400)
        ]
        one = scene(*layers)
        np.testing.assert_array_equal(
            Sampler(one).sample("layer400.rotation", FINE), Sampler(one).sample("layer0.rotation", FINE)
        )
