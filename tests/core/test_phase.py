"""The integrals of rates against closed forms, wherever a rate jumps or bends, near and far away."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.evaluation.sampler import Sampler
from tests.core.scenes import scene

RELATIVE = 1e-6


def sampler(rate: Any, *chain: Any, length: int = 300, lever_fields: Any = None) -> Sampler:
    """A rotation that goes on at `rate` (the lever's value: rest and keys) bent by a chain."""
    own = {"rest": 0, "chain": list(chain)} | (rate if isinstance(rate, dict) else {"rest": rate})
    lever = {"id": "lever", "name": "Speed", "value": own, **(lever_fields or {})}
    follow = {"kind": "follow", "id": "f", "driver": "lever.value"}
    turned = {"chain": [{"kind": "rate", "id": "r", "rate": {"rest": 0, "chain": [follow]}}]}
    return Sampler(scene({"rotation": turned}, levers=(lever,), length=length))


def turned(rate: Any, *chain: Any, times: Any = (0.0, 1.0, 7.3, 60.0), **fields: Any) -> np.ndarray:
    return sampler(rate, *chain, **fields).sample("layer0.rotation", np.asarray(times, dtype=float))[:, 0]


def wave(shape: str, **fields: Any) -> dict[str, Any]:
    return {"kind": "wave", "id": "w", "shape": shape, "amplitude": 45, "frequency": 1, **fields}


def up_to(x: float, one: Any) -> float:
    """The integral over x turns, from the integral over the first part of one turn."""
    whole = np.floor(x)
    return float(whole * one(1.0) + one(x - whole))


RAMP = {"rest": 0, "keys": [{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 300, "value": 100}]}
CYCLE = {"rest": 0, "keys": [{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 30, "value": 60}]}
TIMES = (0.4, 3.0, 7.3, 59.9, 60.0)


class Exact(unittest.TestCase):
    def near(self, given: Any, wanted: Any) -> None:
        np.testing.assert_allclose(given, wanted, rtol=RELATIVE, atol=1e-9)

    def test_a_square_whose_edges_lie_between_the_frames(self) -> None:
        given = turned(45, wave("square", duty=30, phase=0.99), times=TIMES)
        area = lambda x: up_to(x, lambda y: 90 * min(y, 0.3))  # noqa: E731
        self.near(given, [area(t + 0.99) - area(0.99) for t in TIMES])
        self.assertAlmostEqual(given[-1], 1620, places=6)

    @settings(max_examples=40, deadline=None)
    @given(
        st.sampled_from(["square", "saw", "triangle", "pulse"]),
        st.floats(0.1, 400),
        st.floats(0, 1),
        st.floats(0.5, 99),
    )
    def test_every_shape_at_any_frequency(self, shape: str, frequency: float, phase: float, duty: float) -> None:
        d = duty / 100
        parts = {
            "square": lambda x: 2 * min(x, d) - x,
            "saw": lambda x: x * x if x < 0.5 else 0.25 + (x - 0.5) * (x - 1.5),
            "triangle": lambda x: (
                2 * x * x if x < 0.25 else (0.125 + (x - 0.25) * (1.5 - 2 * x) if x < 0.75 else 2 * (x - 1) ** 2)
            ),
            "pulse": lambda x: min(x, d) / 2 - d / (4 * np.pi) * np.sin(2 * np.pi * min(x, d) / d),
        }
        given = turned(100, wave(shape, frequency=frequency, phase=phase, duty=duty), times=TIMES)
        area = lambda x: up_to(x, parts[shape])  # noqa: E731
        wanted = [100 * t + 45 * (area(frequency * t + phase) - area(phase)) / frequency for t in TIMES]
        self.near(given, wanted)

    def test_steps_of_a_ramp(self) -> None:
        # 10 a second, rounded down to whole tens: 0 for a second, 10 for a second, …
        down = turned(RAMP, {"kind": "round", "id": "o", "step": 10, "way": "down"}, times=[10.0])
        self.near(down, [450])
        self.near(turned(RAMP, {"kind": "hold steps", "id": "h", "rate": 7}, times=[3.0]), [10 / 49 * sum(range(21))])
        swing = turned(
            0, wave("sine", frequency=128), {"kind": "round", "id": "o", "step": 50, "way": "up"}, times=[10.0]
        )
        # The sine of 45 rounded up to 50s is 50 for half of the time and 0 for the other.
        self.near(swing, [250])

    def test_keys_that_are_looped(self) -> None:
        for way, area in (("repeat", 30 * 7 + 0.3**2 * 30), ("alternate", 30 * 7 + 30 * (1 - 0.7**2))):
            self.near(turned(CYCLE, {"kind": "loop", "id": "l", "after": way}, times=[7.3]), [area])
        grown = turned(CYCLE, {"kind": "loop", "id": "l", "after": "accumulate"}, times=[7.3])
        self.near(grown, [30 * 7.3**2])

    def test_corners_where_a_value_passes_an_end(self) -> None:
        size = {"kind": "adjust", "id": "a", "absolute": True}
        self.near(turned(0, wave("sine"), size, times=[10.0]), [45 * 10 * 2 / np.pi])
        # The sine kept within half of its height: π/6 of slope at either side, then level.
        level = {"kind": "limit", "id": "l", "low": 0, "high": 22.5}
        half = 45 * ((1 - np.cos(np.pi / 6)) * 2 + (np.pi - np.pi / 3) * 0.5) / (2 * np.pi)
        self.near(turned(0, wave("sine"), level, times=[10.0]), [10 * half])
        fold = {"kind": "remap", "id": "m", "from_high": 10, "to_high": 10, "ends": "fold"}
        self.near(turned(RAMP, fold, times=[10.0]), [50])
        self.near(turned(RAMP, {**fold, "ends": "wrap"}, times=[9.5]), [9 * 5 + 0.125 * 10])

    def test_windows_delays_and_shifts(self) -> None:
        shown = {
            "kind": "adjust",
            "id": "a",
            "plus": 10,
            "windows": [{"start": 10.3, "end": 40.7, "fade_in": 6, "fade_out": 3}],
        }
        self.near(turned(0, shown, times=[8.0]), [10 * (30.4 - 3 - 1.5) / 30])
        square = wave("square", duty=30)
        later = turned(45, square, {"kind": "shift", "id": "s", "delay": 0.123}, times=[10.0])
        area = lambda x: up_to(x, lambda y: 90 * min(y, 0.3))  # noqa: E731
        self.near(later, [area(9.877) - area(-0.123)])
        faster = turned(45, square, {"kind": "shift", "id": "s", "delay": 0.1, "speed": 2.5}, times=[10.0])
        self.near(faster, [(area(24.9) - area(-0.1)) / 2.5])
        other = {"id": "other", "name": "Other", "value": {"rest": 45, "chain": [square]}}
        heard = {"kind": "follow", "id": "o", "driver": "other.value", "delay": 0.377}
        lever = {"id": "lever", "name": "Speed", "value": {"rest": 0, "chain": [heard]}}
        follow = {"kind": "follow", "id": "f", "driver": "lever.value"}
        one = scene(
            {"rotation": {"chain": [{"kind": "rate", "id": "r", "rate": {"chain": [follow]}}]}}, levers=(other, lever)
        )
        self.near(Sampler(one).sample("layer0.rotation", [10.0])[0], [area(9.623) - area(-0.377)])

    def test_formulas_with_branches(self) -> None:
        for text, area in (
            ("if frac(3 * t) < 0.01 then 100 else 0", 10.0),
            ("floor(t * 7)", sum(range(70)) / 7),
            ("abs(t - 3.3333)", (3.3333**2 + 6.6667**2) / 2),
            ("square(0.9 * t, 0.25)", 9 * (-0.5) / 0.9),
            ("max(t, 2.7)", 2.7**2 + (100 - 2.7**2) / 2),
            ("a = clamp(t * 10, 20, 30)\na % 7", 0.2 * 5 + 3),
        ):
            with self.subTest(text):
                given = turned(0, {"kind": "formula", "id": "m", "text": text}, times=[10.0])
                if "%" in text:
                    # 20 for 2 s, a ramp to 30 in 1 s, 30 for 7 s; taken modulo 7.
                    ramp = (1 * 6.5 + 7 * 3.5 + 2 * 1) / 10
                    area = 6 * 2 + ramp + 2 * 7
                np.testing.assert_allclose(given, area, rtol=RELATIVE)

    def test_an_ease_that_is_vertical_in_its_middle(self) -> None:
        keys = [{"frame": 0, "value": 0, "ease": [1, 0, 0, 1]}, {"frame": 300, "value": 100}]
        self.near(turned({"keys": keys}, times=[10.0, 20.0]), [500, 1500])
        steep = [{"frame": 0, "value": 0, "ease": [0, 1, 1, 0]}, {"frame": 300, "value": 100}]
        self.near(turned({"keys": steep}, times=[10.0]), [500])

    @settings(max_examples=15, deadline=None)
    @given(st.integers(1, 9999), st.sampled_from([1, 3, 5]), st.floats(0.3, 9))
    def test_noise_in_steps(self, seed: int, octaves: int, frequency: float) -> None:
        wiggle = {
            "kind": "wiggle",
            "id": "w",
            "character": "stepped",
            "octaves": octaves,
            "frequency": frequency,
            "amplitude": 50,
            "seed": seed,
        }
        made = sampler(100, wiggle)
        finest = frequency * 2 ** (octaves - 1)
        count = int(8 * finest)
        values = made.sample("lever.value", (np.arange(count) + 0.5) / finest)[:, 0]
        self.near(made.sample("layer0.rotation", count / finest), values.sum() / finest)

    def test_any_order_and_any_stretch_gives_equal_numbers(self) -> None:
        chain = (wave("sine", frequency=3.1), {"kind": "round", "id": "o", "step": 7})
        times = np.random.default_rng(3).uniform(-5, 30, 200)
        whole = turned(3, *chain, times=times)
        for k in range(0, 200, 17):
            self.assertEqual(turned(3, *chain, times=times[k : k + 1])[0], whole[k])


class FarAway(unittest.TestCase):
    def test_a_keyed_rate_goes_on_straight_for_ever(self) -> None:
        given = turned(RAMP, times=[1e6, 1e9, -1e6])
        np.testing.assert_allclose(given, [500 + 100 * (1e6 - 10), 500 + 100 * (1e9 - 10), 0], rtol=1e-12, atol=1e-9)

    def test_a_rate_that_repeats_is_counted_in_whole_rounds(self) -> None:
        given = turned(45, wave("square", duty=30), times=[1e6, 123456.15])
        np.testing.assert_allclose(given, [27e6, 123456 * 27 + 90 * 0.15], rtol=1e-9)

    def test_what_neither_rests_nor_repeats_is_a_fault_beyond_its_reach(self) -> None:
        wandering = {"kind": "wiggle", "id": "w", "amplitude": 5}
        made = sampler(10, wandering)
        made.sample("layer0.rotation", [999.0])
        self.assertEqual(made.faults, {})
        value = made.sample("layer0.rotation", [1e7])
        self.assertEqual(value[0, 0], 0)
        self.assertIn("too far from the scene", next(iter(made.faults.values())).message)

    def test_noise_that_repeats_after_an_age_costs_nothing(self) -> None:
        keyed = {"keys": [{"frame": 0, "value": 1}, {"frame": 60, "value": 3}]}
        for repeat in (1e6, 1e9):
            chain = [{"kind": "wiggle", "id": "w", "frequency": keyed, "repeat": repeat}]
            one = Sampler(scene({"rotation": {"chain": chain}}))
            self.assertTrue(np.isfinite(one.sample("layer0.rotation", np.arange(300) / 30)).all())

    def test_listening_twice_at_every_step_of_a_long_chain_costs_little(self) -> None:
        levers = []
        for k in range(64):
            text = f"$<l{k - 1}.value> @ (t - 0.1) + 0.5 * ($<l{k - 1}.value> @ (t - 0.25))" if k else "osc(t)"
            levers.append(
                {"id": f"l{k}", "name": f"L{k}", "value": {"chain": [{"kind": "formula", "id": f"m{k}", "text": text}]}}
            )
        one = Sampler(scene({}, levers=tuple(levers)))
        times = np.arange(300) / 30
        given = one.sample("l63.value", times)[:, 0]
        # One factor for each step: e^(−2πi·0.1) + 0.5·e^(−2πi·0.25), to the 63rd power.
        factor = (np.exp(-0.2j * np.pi) + 0.5 * np.exp(-0.5j * np.pi)) ** 63
        np.testing.assert_allclose(
            given, (factor * np.exp(2j * np.pi * times)).imag, rtol=1e-6, atol=abs(factor) * 1e-6
        )


class Smoothed(unittest.TestCase):
    def test_a_fast_swing_leaves_nothing_behind(self) -> None:
        swing = {"kind": "wave", "id": "w", "frequency": 12, "amplitude": 100, "phase": 0.25}
        one = Sampler(scene({"rotation": {"chain": [swing, {"kind": "smooth", "id": "s", "length": 2}]}}))
        given = one.sample("layer0.rotation", np.arange(400) / 41)
        self.assertLess(np.abs(given).max(), 0.02)

    @settings(max_examples=40, deadline=None)
    @given(
        st.floats(0.05, 4),
        st.floats(0.2, 60),
        st.sampled_from(["sine", "square", "saw", "triangle"]),
        st.floats(0, 1),
        st.booleans(),
    )
    def test_any_wave_is_within_a_thousandth_of_its_true_mean(
        self, length: float, frequency: float, shape: str, phase: float, written: bool
    ) -> None:
        swing: dict[str, Any] = {
            "kind": "wave",
            "id": "w",
            "frequency": frequency,
            "amplitude": 50,
            "phase": phase,
            "shape": shape,
        }
        if written:
            call = {"sine": "osc", "square": "square", "saw": "saw", "triangle": "tri"}[shape]
            swing = {"kind": "formula", "id": "w", "text": f"50 * {call}({frequency!r} * t + {phase!r})"}
        one = scene({"rotation": {"chain": [swing, {"kind": "smooth", "id": "s", "length": length}]}})
        bare = scene({"rotation": {"chain": [swing]}})
        # Gauss's rule on every quarter of a swing: no shape jumps or bends inside one.
        nodes, shares = np.polynomial.legendre.leggauss(6)
        times, exact = np.array([0.31, 1.77, 4.05, 6.123]), []
        for time in times:
            first, last = time - length / 2, time + length / 2
            quarters = (
                np.arange(np.floor(4 * (frequency * first + phase)), 4 * (frequency * last + phase) + 1) / 4 - phase
            ) / frequency
            edges = np.concatenate([[first], quarters[(quarters > first) & (quarters < last)], [last]])
            halves, middles = np.diff(edges)[:, None] / 2, (edges[1:] + edges[:-1])[:, None] / 2
            places = middles + halves * nodes
            weights = halves * shares * np.exp(-0.5 * (4 * (places - time) / length) ** 2)
            heights = Sampler(bare).sample("layer0.rotation", places.ravel()).reshape(places.shape)
            exact.append((heights * weights).sum() / weights.sum())
        np.testing.assert_allclose(Sampler(one).sample("layer0.rotation", times)[:, 0], exact, atol=0.1)
