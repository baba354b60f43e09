"""The formula language: what it computes."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.format import number_text
from tests.core.formulas import TIMES, values, written
from tests.core.scenes import apply, project, scene


class Values(unittest.TestCase):
    def test_arithmetic_and_units(self) -> None:
        for text, expected in {
            "1 + 2 * 3": 7,
            "(1 + 2) * 3": 9,
            "2 ^ 3 ^ 2": 512,
            "-2 ^ 2": -4,
            "7 % 3": 1,
            "-7 % 3": 2,
            "7 % -3": -2,
            "1/4": 0.25,
            ".5turn": 180,
            "200ms * 10": 2,
            "1rad": 180 / np.pi,
            "12f": 0.4,
            "50% * 8": 4,
            "2e3": 2000,
            "10 - 4 - 3": 3,
            "if 2 > 1 then 4 else 5": 4,
            "if not (2 > 1) and true then 4 else 5": 5,
            "8 / 4 / 2": 1,
            "1 < 2 or false": 1,
            "base": 5,
            "i + n + u + row + col": 1,
            "fps": 30,
            "length": 10,
            "pi": np.pi,
            "PI": np.pi,
            "(1, 2).y + (1, 2, 3).z": 5,
            "#ff8000.g * 255": 128,
            "true + 1": 2,
            "a = 3\n b = a * 2\n b + a": 9,
            "a = 3; a * 2": 6,
            "clamp(\n  5,\n  0, # a remark\n  3)": 3,
            "1 +\n 2": 3,
            "if 3 % 2 == 1\n then 1\n else 2": 1,
        }.items():
            with self.subTest(text):
                np.testing.assert_allclose(values(text)[:, 0], expected, rtol=1e-12, atol=1e-12)

    def test_functions(self) -> None:
        for text, expected in {
            "abs(-3)": 3,
            "sign(-2)": -1,
            "floor(-0.5)": -1,
            "ceil(0.2)": 1,
            "frac(-0.25)": 0.75,
            "min(3, 1, 2)": 1,
            "max(3, 1, 2)": 3,
            "clamp(9, 0, 4)": 4,
            "mix(10, 20, 0.25)": 12.5,
            "step(1, 0.9)": 0,
            "step(1, 1)": 1,
            "smoothstep(0, 2, 1)": 0.5,
            "sqrt(16)": 4,
            "exp(0)": 1,
            "log(exp(2))": 2,
            "pow(2, 5)": 32,
            "sin(30)": 0.5,
            "cos(60deg)": 0.5,
            "tan(45)": 1,
            "asin(0.5)": 30,
            "acos(0)": 90,
            "atan(1)": 45,
            "atan(1, -1)": 135,
            "length((3, 4))": 5,
            "remap(5, 0, 10, 20, 40)": 30,
            "round(2.5)": 3,
            "round(7, 5)": 5,
            "wrap(370, 0, 360)": 10,
            "wrap(-10, 0, 360)": 350,
            "fold(12, 0, 10)": 8,
            "fold(-3, 0, 10)": 3,
            "osc(0.25)": 1,
            "tri(0.25)": 1,
            "tri(0.5)": 0,
            "saw(0.25)": 0.5,
            "square(0.4)": 1,
            "square(0.4, 0.3)": -1,
            "rgb(1, 0.5, 0).g": 0.5,
            "rgba(0, 0, 0, 0.3).a": 0.3,
            "hsl(120, 1, 0.25).g": 0.5,
            "SQRT(9)": 3,
        }.items():
            with self.subTest(text):
                np.testing.assert_allclose(values(text)[:, 0], expected, rtol=1e-9, atol=1e-9)

    def test_time_levers_and_parameters_at_any_time(self) -> None:
        np.testing.assert_allclose(values("t")[:, 0], TIMES)
        np.testing.assert_allclose(values("f")[:, 0], TIMES * 30)
        np.testing.assert_allclose(
            values("base + clamp($wind * 4, 0, 30) * osc(0.5 * t + u)")[:, 0], 5 + 12 * np.sin(np.pi * TIMES), atol=1e-9
        )
        np.testing.assert_allclose(values("drum.rotation @ (t - 0.5)")[:, 0], 90 * (TIMES - 0.5))
        np.testing.assert_allclose(values("DRUM.Rotation / 2")[:, 0], 45 * TIMES)
        np.testing.assert_allclose(values('"Bell buoy".position.x')[:, 0], 10 * np.sin(2 * np.pi * TIMES), atol=1e-9)
        np.testing.assert_allclose(values("bell_buoy.position.x @ 0.25")[:, 0], 10)
        np.testing.assert_allclose(values("drum.rotation.rate.rate")[:, 0], 90)
        np.testing.assert_allclose(values('$"Wind force!" + $night')[:, 0], 3)
        np.testing.assert_allclose(values('if $mode == "storm" then 1 else 2')[:, 0], 1)
        np.testing.assert_allclose(values("$sky.b * 255")[:, 0], 96)

    def test_vectors_colours_texts_and_percentages(self) -> None:
        np.testing.assert_allclose(values("base + (1, 2) * t", "position", [10, 20])[30], [11, 22])
        np.testing.assert_allclose(values("7", "position", [10, 20])[0], [7, 7])
        np.testing.assert_allclose(values("mix(#000000, $sky, 0.5)", "stroke", "#ffffff")[0] * 255, [16, 32, 48, 255])
        np.testing.assert_allclose(values("50%", "opacity")[0], 50)
        np.testing.assert_allclose(values("base * 50%", "opacity", 80)[0], 40)
        np.testing.assert_allclose(values("20% + 30%", "opacity")[0], 50)
        made = written('"Start in " + text(ceil(3 - t), 0) + " s"', "text", "now")
        words, which = Sampler(made.scenes[0]).texts("layer2.text", _moments())
        self.assertEqual(Sampler(made.scenes[0]).track("layer2.text", _moments()).tolist(), [[0.0]])
        self.assertEqual(
            [words[k] for k in which[[0, 1, 31, 61]]], ["Start in 3 s", "Start in 3 s", "Start in 2 s", "Start in 1 s"]
        )

    def test_noise_and_random_keep_their_promises(self) -> None:
        long = np.arange(20_000) / 30
        one, other = (values(f"noise(t * 3, 0, 0, {seed})", times=long)[:, 0] for seed in (1, 2))
        self.assertLessEqual(np.abs(one).max(), 1)
        self.assertGreater(np.sqrt((one**2).mean()), 0.4)
        self.assertLess(abs(np.corrcoef(one, other)[0, 1]), 0.1)
        # Coherent in all that it takes, with octaves too: a little further along any of them, nearly the same value.
        for text in ("noise(t / 20)", "noise(3, t / 20)", "noise(3, 0.4, t / 20)", "noise(t / 20, t / 30, t / 40, 7)"):
            way = values(text, times=long)[:, 0]
            self.assertTrue(np.abs(np.diff(way)).max() < 0.02 and np.ptp(way) > 1.2 and np.abs(way).max() <= 1, text)
        rough, fine = (values(text, times=long)[:, 0] for text in ("fbm(t, 0.5, 0.5, 1)", "fbm(t, 0.5, 0.5, 6, 0.6)"))
        np.testing.assert_allclose(rough, values("noise(t, 0.5, 0.5)", times=long)[:, 0], atol=1e-12)
        self.assertGreater(np.abs(np.diff(fine, 2)).mean(), 3 * np.abs(np.diff(rough, 2)).mean())
        self.assertLessEqual(np.abs(fine).max(), 1)
        even = values("random(f, 9)", times=np.arange(4000) / 30)[:, 0]
        self.assertTrue(0 <= even.min() < 0.01 and 0.99 < even.max() < 1)
        self.assertAlmostEqual(even.mean(), 0.5, delta=0.03)
        held = values("random(t)", times=np.arange(90) / 30)[:, 0]
        self.assertEqual(len(set(held.tolist())), 3)

    @settings(max_examples=60, deadline=None)
    @given(
        st.floats(-1e3, 1e3),
        # Dividing by a number next to 0 overflows, which is a told fault and has its own test.
        st.floats(-1e3, 1e3).filter(lambda b: b == 0 or abs(b) > 1e-6),
        st.floats(0.01, 100),
        st.sampled_from(["+", "-", "*", "/", "%"]),
    )
    def test_operators_are_those_of_arithmetic(self, a: float, b: float, c: float, sign: str) -> None:
        expected = {
            "+": a + b + c,
            "-": a - b - c,
            "*": a * b * c,
            "/": a / (b or 1) / c,
            "%": np.mod(np.mod(a, b or 1), c),
        }
        text = f"({a!r}) {sign} ({(b or 1) if sign in '/%' else b!r}) {sign} ({c!r})"
        np.testing.assert_allclose(values(text, times=[0.0])[0, 0], expected[sign], rtol=1e-9, atol=1e-9)

    def test_long_stretches_are_the_same_worked_out_apart(self) -> None:
        text = "base + noise(t, 3) * osc(t) - (if t > 9 then sqrt(t - 9) else 1 / (t + 1))"
        long = np.arange(70_000) / 3000
        whole = values(text, times=long)
        np.testing.assert_array_equal(values(text, times=long[::7]), whole[::7])


def _moments() -> Any:

    return SampleTimes.frames(30, 0, 90)


class Figures(unittest.TestCase):
    def test_numbers_as_people_read_them(self) -> None:
        for arguments, expected in (
            ((56.98214, 0), "57"),
            ((-0.2, 0), "0"),
            ((-0.0, 2), "0.00"),
            ((1234567.891, 1, ","), "1,234,567.9"),
            ((1234.5, 2, ".", False, ","), "1.234,50"),
            ((3, 0, "", True), "+3"),
            ((-3, 0, "", True), "−3"),
            ((0.1 + 0.2,), "0.3"),
            ((1e9, 0, "\u202f"), "1\u202f000\u202f000\u202f000"),
            ((2.5, 0), "2"),
            ((12.0,), "12"),
        ):
            self.assertEqual(number_text(*arguments), expected)

    def test_a_text_shows_a_lever(self) -> None:
        made = project(
            scene(
                {"kind": "text", "text": "…"},
                levers=({"id": "p", "name": "Progress", "kind": "percentage", "value": 56.98214},),
            )
        )
        made = apply(made, "link to", parameter="layer0.text", driver="p.value", id="r")
        words, _ = Sampler(made.scenes[0]).texts("layer0.text", _moments())
        self.assertEqual(words, ("57 %",))
        for field, value in (("r.decimals", 1), ("r.prefix", "at "), ("r.suffix", "%"), ("r.sign", "always")):
            made = apply(made, "set value", parameter=field, value=value)
        words, _ = Sampler(made.scenes[0]).texts("layer0.text", _moments())
        self.assertEqual(words, ("at +57.0%",))
