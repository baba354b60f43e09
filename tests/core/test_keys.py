"""Keys and eases against independent numbers."""

import json
import unittest
from pathlib import Path

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.motion.easing import solve
from tests.core.scenes import scene

CASES = json.loads(Path(__file__).with_name("motion-cases.json").read_text())


class Keys(unittest.TestCase):
    def test_reference_cases(self) -> None:
        cases = [case for case in CASES if case["modifier"] == "keys"]
        self.assertTrue(cases)
        for case in cases:
            keys = [{"frame": t * 100, "value": v, "ease": e} for t, v, e in case["keys_s"]]
            one = scene({"rotation": {"keys": keys}}, fps=100)
            values = Sampler(one).sample("layer0.rotation", case["times_s"])[:, 0]
            np.testing.assert_allclose(values, case["values"], rtol=1e-9, atol=1e-7)

    def test_hold_jumps_at_the_next_key_and_ends_stay(self) -> None:
        keys = [
            {"frame": 10, "value": 1, "ease": "hold"},
            {"frame": 20, "value": 5, "ease": "linear"},
            {"frame": 30, "value": 9},
        ]
        values = Sampler(scene({"rotation": {"keys": keys}})).sample(
            "layer0.rotation", np.array([0, 10, 19.999, 20, 25, 99]) / 30
        )
        np.testing.assert_allclose(values[:, 0], [1, 1, 1, 5, 7, 9])

    def test_vectors_and_colours_travel_by_component(self) -> None:
        one = scene(
            {
                "position": {
                    "keys": [{"frame": 0, "value": [0, 10], "ease": "linear"}, {"frame": 10, "value": [10, 30]}]
                },
                "fill": {
                    "kind": "solid",
                    "colour": {
                        "keys": [{"frame": 0, "value": "#000000", "ease": "linear"}, {"frame": 10, "value": "#ff0000"}]
                    },
                },
            }
        )
        np.testing.assert_allclose(Sampler(one).sample("layer0.position", 5 / 30), [5, 20])
        np.testing.assert_allclose(Sampler(one).sample("layer0.fill.colour", 5 / 30), [0.5, 0, 0, 1])

    @given(st.floats(0, 1), st.floats(0, 1), st.floats(0, 1))
    def test_the_curve_is_solved_to_a_billionth(self, s: float, x1: float, x2: float) -> None:
        u = solve(s, x1, x2)
        self.assertAlmostEqual(3 * u * (1 - u) ** 2 * x1 + 3 * u**2 * (1 - u) * x2 + u**3, s, delta=1e-9)
