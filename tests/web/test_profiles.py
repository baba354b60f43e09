"""Little curves as they are drawn, against what they are."""

import re
import unittest

import numpy as np

from jaunty_lever.core.document.gauge import LifeGauge
from jaunty_lever.core.document.parameter import Parameter
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.motion.easing import profile_of
from jaunty_lever.web.pages.profiles import path_of, points_of

SPEC = specs_of(LifeGauge)["profile"]


def drawn(path: str) -> np.ndarray:
    """Points on a path of moves, lines along an axis and cubics: (points, x y)."""
    found: list[np.ndarray] = []
    at = np.zeros(2)
    for verb, told in re.findall(r"([MHVLC])([^MHVLC]*)", path):
        numbers = np.array([float(number) for number in told.split()])
        if verb == "C":
            corners = np.vstack([at, numbers.reshape(3, 2)])
            u = np.linspace(0, 1, 41)[:, None]
            found.append(
                (1 - u) ** 3 * corners[0]
                + 3 * (1 - u) ** 2 * u * corners[1]
                + 3 * (1 - u) * u**2 * corners[2]
                + u**3 * corners[3]
            )
            at = corners[3]
            continue
        to = {"H": lambda n, at: [n[0], at[1]], "V": lambda n, at: [at[0], n[0]]}.get(verb, lambda n, at: n)(
            numbers, at
        )
        to = np.asarray(to, dtype=float)
        if verb in "HL":
            found.append(at + np.linspace(0, 1, 21)[1:-1, None] * (to - at))
        at = to
    return np.concatenate(found)


class Profiles(unittest.TestCase):
    def test_what_is_drawn_is_what_each_copy_plays(self) -> None:
        keys = [
            {"frame": 10, "value": 0.2, "ease": "ease-out"},
            {"frame": 30, "value": 1.4, "ease": [0.8, -0.4, 0.2, 1.6]},
            {"frame": 60, "value": 0.5, "ease": "hold"},
            {"frame": 80, "value": 0.9, "ease": "linear"},
            {"frame": 95, "value": 0},
        ]
        profile = Parameter.model_validate({"rest": 0, "keys": keys})
        spots = drawn(path_of(points_of(profile, SPEC)))
        # A whole unit is as high as the highest key.
        values = (25 - spots[:, 1]) / 24 * 1.4
        np.testing.assert_allclose(values, profile_of(profile, SPEC)(spots[:, 0] / 100), atol=0.004)
        self.assertEqual((spots[:, 0].min(), spots[:, 0].max()), (0.5, 99.75))

    def test_without_keys_it_goes_straight(self) -> None:
        self.assertEqual(path_of(points_of(Parameter(rest=0.0), SPEC)), "M0 25L100 1")
