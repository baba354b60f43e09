"""Moments that are worked out fall on the very frames they mean, whatever the rate."""

import unittest
from fractions import Fraction

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jaunty_lever.core.evaluation.sample_times import SampleTimes, worked_out
from jaunty_lever.core.evaluation.sampler import Sampler
from tests.core.scenes import scene

RATES = (12, 17, 24, 25, 30, 48, 50, 60, 100, 120, 240, 30000 / 1001, 60000 / 1001)


class Grid(unittest.TestCase):
    def test_a_frame_less_some_frames_is_that_very_frame(self) -> None:
        frames = np.arange(2000.0)
        for fps in RATES:
            for late in (1, 7, 250, 1999):
                there = worked_out(frames / fps - late / fps, fps)
                np.testing.assert_array_equal(there, (frames - late) / fps, f"{fps} {late}")

    @given(
        st.lists(st.floats(-1e12, 1e12) | st.sampled_from([np.inf, -np.inf, np.nan]), min_size=1, max_size=20),
        st.sampled_from(RATES),
    )
    def test_any_time_becomes_a_finite_one_and_stays_it(self, times: list[float], fps: float) -> None:
        once = worked_out(np.array(times), fps)
        self.assertTrue(np.isfinite(once).all())
        np.testing.assert_array_equal(worked_out(once, fps), once)
        near = np.abs(np.array(times)) < 9_999
        np.testing.assert_allclose(once[near], np.array(times)[near], rtol=0, atol=1e-11)

    @given(st.integers(0, 5000), st.integers(0, 999_999))
    def test_delays_of_six_decimals_are_kept_exactly(self, frame: int, micro: int) -> None:
        there = float(worked_out(np.array([frame / 25 - micro / 1e6]), 25)[0])
        self.assertEqual(there, float(Fraction(frame, 25) - Fraction(micro, 1_000_000)))

    def test_the_same_moments_are_known_by_the_same_name(self) -> None:
        times = np.array([0.25, 1.5, 7.75])
        self.assertEqual(SampleTimes(times).key, SampleTimes(times.copy()).key)
        self.assertNotEqual(SampleTimes(times).key, SampleTimes(times[::-1].copy()).key)
        self.assertNotEqual(SampleTimes.frames(30, 0, 300).key, SampleTimes.frames(25, 0, 300).key)

    def test_stretches_hold_their_start_and_never_their_stop(self) -> None:
        for start, stop, step, frames in (
            (0, 3, 1, [0, 1, 2]),
            (2, 4, 0.5, [2, 2.5, 3, 3.5]),
            (5, 5, 1, []),
            (6, 5, 1, []),
        ):
            np.testing.assert_array_equal(SampleTimes.frames(10, start, stop, step).times, np.array(frames) / 10)

    @given(st.sampled_from(RATES), st.integers(0, 120))
    def test_a_follower_late_by_frames_holds_the_drivers_own_bits(self, fps: float, late: int) -> None:
        keys = [{"frame": 7 * k, "value": (k * 37) % 91, "ease": "hold"} for k in range(40)]
        follow = {"kind": "follow", "id": "f", "driver": "layer0.rotation", "delay": late / fps}
        one = scene({"rotation": {"keys": keys}}, {"rotation": {"chain": [follow]}}, fps=fps)
        led = Sampler(one).sample("layer1.rotation", np.arange(late, 280) / fps)
        np.testing.assert_array_equal(led, Sampler(one).sample("layer0.rotation", np.arange(280 - late) / fps))
