"""Integrals over panels: exact for what they are told of, and close for what nobody told."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.motion.panels import LEAST_RATE, MOST_RATE, Panels, panel_rate
from jaunty_lever.core.motion.phase import Beyond, Phase

Floats = np.ndarray


def _pieces(edges: list[float], heights: list[float]):  # type: ignore[no-untyped-def]
    """A function in steps, and its integral from 0 by sums."""
    cuts, steps = np.array(sorted(edges)), np.array(heights[: len(edges) + 1])

    def rate(times: Floats) -> Floats:
        return steps[np.searchsorted(cuts, times, side="right")]

    def integral(time: float) -> float:
        whole = np.concatenate([[0.0], cuts[(cuts > 0) & (cuts < time)], [time]])
        return float((rate((whole[1:] + whole[:-1]) / 2) * np.diff(whole)).sum())

    return rate, cuts, integral


_edges = st.lists(st.floats(0.01, 9.99), min_size=1, max_size=6, unique=True)
_heights = st.lists(st.floats(-50, 50), min_size=7, max_size=7)


class Integrated(unittest.TestCase):
    @settings(max_examples=80)
    @given(_edges, _heights, st.floats(0, 10))
    def test_steps_that_are_told_are_added_up_exactly(
        self, edges: list[float], heights: list[float], time: float
    ) -> None:
        rate, cuts, integral = _pieces(edges, heights)
        given_ = Phase(rate, cuts, 0.0, 0, 10, Beyond()).at(np.array([time]))[0]
        self.assertAlmostEqual(given_, integral(time), delta=1e-9)

    @settings(max_examples=60)
    @given(st.lists(st.floats(-5, 5), min_size=1, max_size=5), st.floats(-8, 8))
    def test_polynomials_are_exact_on_both_sides_of_0(self, factors: list[float], time: float) -> None:
        whole = np.polynomial.Polynomial(factors)
        exact = whole.integ()(time)
        given_ = Phase(whole, np.zeros(0), 0.0, -8, 8, Beyond()).at(np.array([time]))[0]
        self.assertAlmostEqual(given_, exact, delta=1e-9 * max(1.0, abs(whole(np.linspace(-8, 8, 99))).max() * 8))

    @settings(max_examples=40)
    @given(st.floats(0.1, 200), st.floats(0, 6), st.floats(0, 60))
    def test_swings_far_apart_or_close_together(self, frequency: float, start: float, time: float) -> None:
        turn = 2 * np.pi * frequency
        exact = (np.cos(start) - np.cos(turn * time + start)) / turn
        given_ = Phase(lambda t: np.sin(turn * t + start), np.zeros(0), frequency, 0, 60, Beyond()).at(np.array([time]))
        self.assertAlmostEqual(given_[0], exact, delta=1e-7)

    def test_a_narrow_bump_between_two_samples_is_not_missed_when_its_ends_are_told(self) -> None:
        ends = np.array([3.0001, 3.0003])

        def bump(times: Floats) -> Floats:
            return np.where((times >= ends[0]) & (times < ends[1]), 1e6, 0.0)

        given_ = Phase(bump, ends, 0.0, 0, 8, Beyond()).at(np.array([3.0, 3.0002, 8.0]))
        np.testing.assert_allclose(given_, [0, 100, 200], atol=1e-6)


class Far(unittest.TestCase):
    @given(st.floats(1, 1e9))
    def test_what_rests_goes_on_as_a_straight_line(self, time: float) -> None:
        phase = Phase(lambda t: np.where(t < 2, 3.0, 7.0), np.array([2.0]), 0.0, 0, 8, Beyond(below=3.0, above=7.0))
        low, high = phase.at(np.array([-time, 8 + time]))
        self.assertAlmostEqual(low, -3 * time, delta=1e-9 * time)
        self.assertAlmostEqual(high, 6 + 7 * 6 + 7 * time, delta=1e-9 * (time + 50))

    @given(st.integers(0, 10**6), st.floats(0, 3))
    def test_what_repeats_is_counted_in_laps(self, laps: int, rest: float) -> None:
        def saw(times: Floats) -> Floats:
            return np.mod(times, 3.0)

        phase = Phase(saw, np.arange(0.0, 13, 3), 1 / 3, 0, 12, Beyond(period=3.0))
        exact = laps * 4.5 + rest**2 / 2
        self.assertAlmostEqual(phase.at(np.array([laps * 3 + rest]))[0], exact, delta=1e-9 * max(1.0, exact))


class Shape(unittest.TestCase):
    def test_panels_lie_side_by_side_over_the_whole_stretch(self) -> None:
        breaks = np.array([0.3, 0.3 + 1e-16, 1.7, 5.0, 99.0])
        panels = Panels(lambda t: np.abs(np.sin(40 * t)), breaks, -2, 6, 13, 1e-9)
        self.assertEqual((panels.starts[0], panels.starts[-1] + panels.widths[-1]), (-2, 6))
        np.testing.assert_allclose(panels.starts[1:], (panels.starts + panels.widths)[:-1], atol=1e-12)
        for edge in (0.3, 1.7):
            self.assertLess(np.abs(panels.starts - edge).min(), 1e-12)

    def test_how_many_to_a_second(self) -> None:
        self.assertEqual((panel_rate(0), panel_rate(1e9)), (LEAST_RATE, MOST_RATE))
        self.assertGreaterEqual(panel_rate(30), 4 * 30)
