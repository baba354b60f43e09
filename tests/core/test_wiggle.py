"""Wiggle: what it promises of range, feel, seeds, phase and repetition."""

import itertools
import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.evaluation.integrals import integral
from jaunty_lever.core.evaluation.sampler import Sampler
from tests.core.scenes import keys, scene, wiggling


def noise(times: Any, parameter: str = "rotation", **setting: Any) -> Any:
    """N at times: a Wiggle of amplitude 1 around 0."""
    return Sampler(wiggling(parameter, **({"amplitude": 1, "frequency": 1} | setting))).sample(
        f"layer0.{parameter}", times
    )


class Range(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(
        st.sampled_from(["smooth", "billow", "ridged", "stepped", "jitter"]),
        st.integers(1, 8),
        st.floats(0, 1),
        st.integers(1, 99_999),
        st.sampled_from(["both", "only above", "only below"]),
    )
    def test_never_further_than_the_amplitude(
        self, character: str, octaves: int, persistence: float, seed: int, direction: str
    ) -> None:
        n = noise(
            np.arange(4000) / 37,
            character=character,
            octaves=octaves,
            persistence=persistence,
            seed=seed,
            direction=direction,
        )
        self.assertLessEqual(np.abs(n).max(), 1)
        if direction == "only above":
            self.assertGreaterEqual(n.min(), 0)
        if direction == "only below":
            self.assertLessEqual(n.max(), 0)

    def test_comes_within_a_tenth_of_the_amplitude_on_either_side(self) -> None:
        characters, many = ["smooth", "stepped", "jitter", "billow", "ridged"], [(1, 0.5), (3, 0.5), (8, 0.5), (8, 1)]
        for character, (octaves, persistence), seed in itertools.product(characters, many, [1, 77]):
            times = np.arange(400_000) / 40.003
            n = noise(times, character=character, octaves=octaves, persistence=persistence, seed=seed)
            with self.subTest(character=character, octaves=octaves, persistence=persistence):
                self.assertTrue(0.9 < n.max() <= 1 and -1 <= n.min() < -0.9, (n.min(), n.max()))

    def test_a_further_octave_without_strength_changes_nothing(self) -> None:
        times = np.arange(900) / 31
        for character in ("billow", "ridged", "stepped"):
            one = noise(times, character=character)
            np.testing.assert_allclose(noise(times, character=character, octaves=4, persistence=0), one, atol=1e-12)

    def test_only_below_mirrors_only_above(self) -> None:
        times = np.arange(500) / 30
        np.testing.assert_array_equal(noise(times, direction="only below"), -noise(times, direction="only above"))

    def test_within_stays_inside_and_stands_still_when_the_ends_are_equal(self) -> None:
        times = np.arange(9000) / 30
        values = noise(times, rest=77, mode="within", low=-3, high=9)
        self.assertTrue(-3 <= values.min() < -2 and 8 < values.max() <= 9)
        self.assertEqual(set(noise(times, mode="within", low=4, high=4).ravel()), {4.0})

    def test_a_locked_axis_does_not_move_and_tied_components_move_as_one(self) -> None:
        times = np.arange(300) / 30
        values = noise(times, "position", rest=[5, 7], weights=[1, 0])
        self.assertGreater(np.ptp(values[:, 0]), 0.5)
        self.assertEqual(set(values[:, 1]), {7.0})
        tied = noise(times, "position", rest=[0, 0], apart=0)
        np.testing.assert_array_equal(tied[:, 0], tied[:, 1])


class Feel(unittest.TestCase):
    times = np.arange(2_000 * 64) / 64

    def test_it_feels_like_its_numbers(self) -> None:
        for seed in (1, 2, 77):
            n = noise(self.times, seed=seed)[:, 0]
            slope = np.gradient(n, self.times)
            turns = np.count_nonzero(np.diff(np.sign(np.diff(n)))) / 2000
            self.assertGreaterEqual(np.sqrt((n**2).mean()), 0.4)
            self.assertTrue(0.7 <= turns <= 1.5, turns)
            self.assertGreaterEqual(np.abs(slope[::64]).mean(), 0.5 * np.abs(slope).mean())

    def test_smooth_has_no_jump_in_value_or_slope(self) -> None:
        fine = np.arange(0, 20, 1e-4)
        n = noise(fine, octaves=3)[:, 0]
        slope = np.diff(n) / 1e-4
        self.assertLess(np.abs(np.diff(n)).max(), 2e-3)
        self.assertLess(np.abs(np.diff(slope)).max(), 0.12)

    def test_seeds_and_components_do_not_move_together(self) -> None:
        pairs = [noise(self.times[: 1000 * 64], seed=seed)[:, 0] for seed in (1, 2, 3, 4096)]
        pairs += list(noise(self.times[: 1000 * 64], "position", rest=[0, 0], seed=5).T)
        for one, two in itertools.combinations(pairs, 2):
            self.assertLess(abs(np.corrcoef(one, two)[0, 1]), 0.1)

    def test_stepped_holds_a_value_for_a_period_and_jitter_for_a_frame(self) -> None:
        stepped = noise(np.arange(60) / 30, character="stepped", frequency=3)[:, 0]
        self.assertEqual(len(set(stepped)), 6)
        self.assertEqual(len(set(stepped[:10])), 1)
        halves = noise(np.arange(60) / 60, character="jitter")[:, 0]
        self.assertEqual(len(set(halves)), 30)
        np.testing.assert_array_equal(halves[::2], halves[1::2])


class Phase(unittest.TestCase):
    def test_a_keyed_frequency_runs_on_its_integral(self) -> None:
        """From 1 to 5 a second over 4 s linearly: φ = t + t²/2, then 5 a second."""
        ramp = {"rest": 1, "keys": [{"frame": 0, "value": 1, "ease": "linear"}, {"frame": 120, "value": 5}]}
        times = np.arange(600) / 100
        phase = np.where(times < 4, times + times**2 / 2, 12 + 5 * (times - 4))
        np.testing.assert_allclose(noise(times, frequency=ramp), noise(phase), atol=1e-6)

    @settings(max_examples=25, deadline=None)
    @given(keys(0, 12).filter(lambda k: len(k) > 1))
    def test_the_integral_holds_for_any_keys(self, frequency: Any) -> None:
        one = wiggling(frequency={"rest": 1, "keys": frequency})
        sampler = Sampler(one)
        phase = integral(sampler, "w.frequency", 0, 10)
        fine = (np.arange(2_000_000) + 0.5) / 200_000
        rate = np.maximum(sampler.sample("w.frequency", fine)[:, 0], 0)
        sums = np.concatenate([[0], np.cumsum(rate) / 200_000])
        for second in (1, 3.5, 10):
            self.assertAlmostEqual(
                phase.at(np.array([second]))[0], sums[round(second * 200_000)], delta=max(sums[-1], 1) * 3e-5
            )

    def test_a_lever_that_speeds_it_up_never_makes_it_jump(self) -> None:
        lever = {
            "id": "lever",
            "name": "Rate",
            "high": 10,
            "value": {"keys": [{"frame": 30, "value": 0.5}, {"frame": 60, "value": 9}]},
        }
        chain = [
            {
                "kind": "wiggle",
                "id": "w",
                "amplitude": 1,
                "frequency": {"chain": [{"kind": "follow", "id": "f", "driver": "lever.value"}]},
            }
        ]
        one = scene({"rotation": {"chain": chain}}, levers=(lever,))
        fine = Sampler(one).sample("layer0.rotation", np.arange(0, 4, 1e-4))[:, 0]
        self.assertLess(np.abs(np.diff(fine)).max(), 9 * 4 * 1e-4)

    def test_a_frequency_below_zero_is_passed_over_and_reported_with_its_first_frame(self) -> None:
        falling = {"rest": 1, "keys": [{"frame": 0, "value": 2, "ease": "linear"}, {"frame": 40, "value": -2}]}
        one = wiggling(rest=7, frequency=falling)
        sampler = Sampler(one)
        values = sampler.sample("layer0.rotation", np.arange(60) / 30)[:, 0]
        self.assertEqual(set(values[21:]), {7.0})
        self.assertGreater(np.ptp(values[:20]), 0)
        (fault,) = sampler.faults.values()
        self.assertEqual((fault.modifier, round(fault.time * 30)), ("w", 21))
        self.assertIn("below 0", fault.message)


class Repeat(unittest.TestCase):
    def test_value_and_slope_at_the_end_equal_those_at_the_start(self) -> None:
        for octaves, frequency in itertools.product((1, 4), (0.3, 1.7, 5)):
            times = np.array([0, 1e-5, 2.5, 2.5 + 1e-5, 2.5 - 1e-5, -1e-5])
            n = noise(times, frequency=frequency, octaves=octaves, repeat=2.5)[:, 0]
            self.assertAlmostEqual(n[0], n[2], places=9)
            self.assertAlmostEqual((n[1] - n[0]) / 1e-5, (n[2] - n[4]) / 1e-5, delta=0.02)

    def test_the_frequency_is_rounded_to_a_whole_number_of_places(self) -> None:
        times = np.arange(90) / 30
        np.testing.assert_allclose(
            noise(times, frequency=1.1, repeat=3), noise(times, frequency=1.0, repeat=3), atol=1e-12
        )

    def test_it_repeats_whatever_the_character(self) -> None:
        for character in ("smooth", "billow", "ridged", "stepped", "jitter"):
            times = np.arange(60) / 30
            np.testing.assert_allclose(
                noise(times, character=character, repeat=2), noise(times + 4, character=character, repeat=2), atol=1e-9
            )
