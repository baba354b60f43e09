"""The formula language: what it computes, and what it says of mistakes."""

import re
import unittest
from typing import Any

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.specs import ParameterSpec
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.format import number_text
from jaunty_lever.core.formula.names import bind, mistake_in, shown
from jaunty_lever.core.formula.nodes import Mistake
from jaunty_lever.core.formula.older import upgraded
from tests.core.scenes import apply, project, scene

TIMES = np.arange(120) / 30
LEVERS = (
    {"id": "wind", "name": "Wind", "low": 0, "high": 15, "value": 3},
    {"id": "force", "name": "Wind force!", "value": 2},
    {"id": "night", "name": "Night", "kind": "switch", "value": True},
    {"id": "sky", "name": "Sky", "kind": "colour", "value": "#204060"},
    {"id": "mode", "name": "Mode", "kind": "choice", "options": ["calm", "storm"], "value": "storm"},
)
DRUM = {"name": "Drum", "rotation": {"chain": [{"kind": "rate", "id": "r", "rate": 90}]}, "position": [3, 4]}
BUOY = {"name": "Bell buoy", "position": {"chain": [{"kind": "wave", "id": "v", "amplitude": 10}]}}


def written(text: str, field: str = "rotation", rest: Any = 5) -> Any:
    """A project whose third layer has the formula on one of its values."""
    own = {field: rest} if field != "text" else {"kind": "text", "text": rest}
    made = project(scene(DRUM, BUOY, {"name": "Float", **own}, levers=LEVERS))
    return apply(made, "write formula", parameter=f"layer2.{field}", text=text, id="f")


def values(text: str, field: str = "rotation", rest: Any = 5, times: Any = TIMES) -> Any:
    sampler = Sampler(written(text, field, rest).scenes[0])
    found = sampler.sample(f"layer2.{field}", times)
    assert not sampler.faults, sampler.faults
    return found


def mistake(text: str, spec: ParameterSpec | None = None) -> Mistake | None:
    index = scene(DRUM, BUOY, levers=LEVERS).index
    return mistake_in(text, spec or ParameterSpec("angle", 0.0, "Rotation", "°"), index, lambda _: None)


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
        one, other = (values(f"noise(t * 3, {seed})", times=long)[:, 0] for seed in (1, 2))
        self.assertLessEqual(np.abs(one).max(), 1)
        self.assertGreater(np.sqrt((one**2).mean()), 0.4)
        self.assertLess(abs(np.corrcoef(one, other)[0, 1]), 0.1)
        rows = values("noise(t * 3, t / 2, 4)", times=long)[:, 0]
        self.assertTrue(np.abs(np.diff(rows)).max() < 0.4 and np.abs(rows).max() <= 1)
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
    from jaunty_lever.core.evaluation.sample_times import SampleTimes

    return SampleTimes.frames(30, 0, 90)


PERCENT = {"opacity": 57, "scale": [120, 80]}


def share(text: str, field: str = "opacity", rest: Any = 80) -> Any:
    """What a formula gives in a scene with a lever Load of 57 % and a layer Part with percentages, at one moment."""
    levers = (*LEVERS, {"id": "load", "name": "Load", "kind": "percentage", "value": 57})
    made = project(scene(DRUM, BUOY, {"name": "Float", field: rest}, {"name": "Part", **PERCENT}, levers=levers))
    made = apply(made, "write formula", parameter=f"layer2.{field}", text=text, id="f")
    sampler = Sampler(made.scenes[0])
    found = sampler.sample(f"layer2.{field}", 0.0)
    assert not sampler.faults, sampler.faults
    return found if len(found) > 1 else found[0]


class Shares(unittest.TestCase):
    def test_a_share_fills_a_percentage_and_is_its_fraction_elsewhere(self) -> None:
        for text, wanted in {
            "50%": 50,
            "a = 50%; a": 50,
            "mix(20%, 80%, 0.5)": 50,
            "2 * 50%": 100,
            "50% * 2": 100,
            "base": 80,
            "base * 50%": 40,
            "base + 10%": 90,
            "-base": -80,
            "base / 2": 40,
            "$load": 57,
            "min($load, base, 90%)": 57,
            "max(base, 0)": 80,
            "clamp($load, 60%, 70%)": 60,
            "round(57.3%, 1%)": 57,
            "abs(-30%)": 30,
            "if $load > 50% then 20% else 80%": 20,
            "if $load > 0.5 then 20% else 80%": 20,
            "Part.opacity - 7%": 50,
            "50": 50,
            "base / 1%": 80,
            "$load / base * 80": 57,
            "12 + 3": 15,
            "1 - $load": 0.43,
            "Part.scale.x": 120,
            "remap($load, 0%, 100%, 10%, 20%)": 15.7,
            "(50%)": 50,
        }.items():
            with self.subTest(text):
                self.assertAlmostEqual(share(text), wanted, places=12)
        for text, wanted in {
            "50%": 0.5,
            "$load": 0.57,
            "50% * 8": 4,
            "2 * 50%": 1,
            "base + 50%": 5.5,
            "$load / 1%": 57,
        }.items():
            with self.subTest(text):
                self.assertAlmostEqual(share(text, "rotation", 5), wanted, places=12)
        np.testing.assert_array_equal(share("base * 2", "scale", [50, 70]), [100, 140])
        np.testing.assert_array_equal(share("(50%, 80%)", "scale", [1, 1]), [50, 80])

    def test_nothing_is_lost_on_the_way_through_a_percentage(self) -> None:
        # 57/100 · 100 is no 57; floor of it would be 56.
        self.assertEqual((share("$load"), share("floor($load / 1%)")), (57, 57))

    @example("(50%) * ($<load.value>)", "opacity")
    @settings(max_examples=200, deadline=None)
    @given(
        st.recursive(
            st.sampled_from(
                [
                    "50%",
                    "0.5",
                    "7",
                    "$<load.value>",
                    "$<layer3.opacity>",
                    "base",
                    "$<wind.value>",
                    "$<layer3.scale>.x",
                    "$<load.value> @ (t - 1)",
                    "t",
                ]
            ),
            lambda inner: st.one_of(
                st.tuples(inner, st.sampled_from(["+", "-", "*", "/"]), inner).map(
                    lambda p: f"({p[0]}) {p[1]} ({p[2]})"
                ),
                st.tuples(st.sampled_from(["abs", "sqrt", "floor"]), inner).map(lambda p: f"{p[0]}({p[1]})"),
                st.tuples(inner, inner).map(lambda p: f"max({p[0]}, {p[1]})"),
                inner.map(lambda one: f"a = {one}\na * 2") | inner.map(lambda one: f"({one})"),
            ),
            max_leaves=6,
        ).filter(lambda text: text.count("\n") <= 1 and (not text.count("=") or text.startswith("a ="))),
        st.sampled_from(["opacity", "rotation"]),
    )
    def test_formulas_of_the_first_version_keep_their_values(self, text: str, field: str) -> None:
        levers = (*LEVERS, {"id": "load", "name": "Load", "kind": "percentage", "value": 57})
        whole = scene(DRUM, BUOY, {"name": "Float", field: 40}, {"name": "Part", **PERCENT}, levers=levers)
        parameters = whole.index.parameters
        spec = parameters[f"layer2.{field}"].spec
        made = upgraded(text, spec, lambda i: parameters[i].spec if i in parameters else None)
        wanted = first_version(text, spec, 40.0, 2.0)
        chain = [{"kind": "formula", "id": "f", "text": made}]
        one = scene(DRUM, BUOY, {field: {"rest": 40, "chain": chain}}, {"name": "Part", **PERCENT}, levers=levers)
        sampler = Sampler(one)
        given = sampler.sample(f"layer2.{field}", 2.0)[0]
        if wanted is None or not np.isfinite(wanted):
            return
        self.assertEqual(sampler.faults, {}, made)
        self.assertAlmostEqual(given, wanted, delta=1e-9 * max(1, abs(wanted)), msg=f"{text} -> {made}")


def first_version(text: str, spec: ParameterSpec, base: float, t: float) -> float | None:
    """What the first version of the language made of a formula: percentages as numbers of percent, 50% as 0.5."""
    known = {"$<load.value>": "57.0", "$<layer3.opacity>": "57.0", "$<wind.value>": "3.0", "$<layer3.scale>.x": "120.0"}
    line = text.replace("$<load.value> @ (t - 1)", "57.0")
    for name, number in known.items():
        line = line.replace(name, number)
    step, _, result = line.rpartition("\n")
    line = result if not step else re.sub(r"\ba\b", f"({step[4:]})", result)
    line = re.sub(r"(\d+)%", lambda m: f"P({int(m[1]) / 100!r})", line).replace("base", repr(base))
    line = re.sub(r"\bt\b", repr(t), line)
    try:
        made = eval(line, {"P": _P, "abs": abs, "sqrt": np.sqrt, "floor": np.floor, "max": _greatest})
    except (ZeroDivisionError, ValueError, OverflowError, SyntaxError):
        return None
    if not np.isfinite(float(made)):
        return None
    shared = isinstance(made, _P) and spec.unit == "%"
    return float(made) * (100 if shared else 1)


class _P(float):
    """A literal with %, or what the first version took for one."""

    def __add__(self, other: Any) -> Any:
        return _P(float(self) + other) if isinstance(other, _P) else float(self) + other

    def __sub__(self, other: Any) -> Any:
        return _P(float(self) - other) if isinstance(other, _P) else float(self) - other

    def __abs__(self) -> Any:
        return _P(abs(float(self)))


def _greatest(a: Any, b: Any) -> Any:
    made = max(float(a), float(b))
    return _P(made) if isinstance(a, _P) and isinstance(b, _P) else made


class Mistakes(unittest.TestCase):
    def test_each_is_told_at_its_characters_with_the_reason(self) -> None:
        for text, piece, words in (
            ("drum.rotaton * 2", "rotaton", "There is no “rotaton” on Drum. Did you mean rotation?"),
            ("drun.rotation", "drun", "Did you mean Drum?"),
            ("$wnd * 2", "$wnd", "There is no lever “wnd”. Did you mean $Wind?"),
            ("wind * 2", "wind", "Did you mean $Wind?"),
            ("bse + 1", "bse", "Did you mean base?"),
            ("drum + 1", "drum", "Drum is a layer. Say which value of it"),
            ("drum.position.w", "w", "It has .x, .y."),
            ("clmp(1, 2, 3)", "clmp", "Did you mean clamp?"),
            ("clamp(1, 2)", "clamp(1, 2)", "clamp(x, low, high) takes 3 values, not 2."),
            ("12abc", "abc", "“abc” is no unit."),
            ("1 + ", "+", "a value is missing"),
            ("(1 + 2", "2", "A “)” is missing"),
            ("1 + 2)", ")", "closes nothing"),
            ("1 2", "2", "an operator is missing"),
            ("if t > 2 then 1", "1", "“else …” is missing"),
            ("#ff0000", "#ff0000", "Rotation needs a number, and this is a colour."),
            ('"abc"', '"abc"', "Rotation needs a number, and this is a text."),
            ("drum.position", "drum.position", "Take one component of it"),
            ("drum.position + #ff0000", "#ff0000", "do not go together"),
            ('"a" + 1', "1", "text( ) makes a text"),
            ("if (1, 2) then 1 else 2", "(1, 2)", "a yes or no"),
            ("rgb(1, 2)", "rgb(1, 2)", "takes 3 values, not 2"),
            ("sqrt(#ffffff)", "sqrt(#ffffff)", "this is a colour"),
            ("t @ 2", "t", "Before @ stands a parameter or a lever."),
            ("drum.rotation @ (1, 2)", "(1, 2)", "a time in seconds"),
            ("t = 3\nt", "t", "already has a meaning"),
            ("a = 1\na = 2\na", "a", "already a step"),
            ("a = 1", "1", "formula's result"),
            ("1\n2", "1", "Give this one a name"),
            ("1 = 2", "=", "compared with =="),
            ("1 § 2", "§", "means nothing here"),
            ('"open', '"open', "no closing quotation mark"),
            ("$ + 1", "$", "the name of a lever"),
            ("1, 2", ",", "only between values in brackets"),
            ("(1, 2, 3, 4)", "(1, 2, 3, 4)", "two or three components"),
            ("sin", "sin", "It is a function: sin(degrees)."),
            ("", "", "A formula is needed"),
        ):
            with self.subTest(text):
                found = mistake(text)
                assert found is not None, text
                self.assertIn(words, found.message)
                self.assertEqual(text[found.start : found.end], piece)

    def test_length_and_nesting_have_their_limits(self) -> None:
        self.assertIsNone(mistake("(" * 64 + "1" + ")" * 64))
        self.assertIn("64 deep", str(mistake("(" * 65 + "1" + ")" * 65)))
        self.assertIn("64 deep", str(mistake("abs(" * 65 + "1" + ")" * 65)))
        self.assertIn("64 deep", str(mistake("-" * 65 + "1")))
        self.assertIsNone(mistake("+".join(["1"] * 5000)))
        self.assertIn("at most 10,000 characters", str(mistake("1" + "+1" * 5000)))
        for text in ("(" * 9000, "-" * 9000, "if " * 3000, "a." * 4000 + "b", "1^" * 4000 + "1"):
            self.assertIsNotNone(mistake(text))

    @settings(max_examples=300, deadline=None)
    @given(st.text(alphabet='0123456789abt+-*/%^().,;=<>!@#$"_ \n\\’{}[]', max_size=40))
    def test_no_text_breaks_it(self, text: str) -> None:
        found = mistake(text)
        if found is not None:
            self.assertTrue(0 <= found.start <= found.end <= max(len(text), 1), (text, found.start, found.end))
            self.assertRegex(found.message, r"[.?…]$")

    def test_a_mistaken_formula_is_kept_passed_over_and_told(self) -> None:
        for text in ("base * ", "base * $gale", "1 2", "drum.rotaton"):
            made = written(text)
            sampler = Sampler(made.scenes[0])
            np.testing.assert_array_equal(sampler.sample("layer2.rotation", TIMES), np.full((120, 1), 5.0))
            ((fault),) = sampler.faults.values()
            self.assertEqual((fault.modifier, fault.time), ("f", 0.0))
            self.assertEqual(shown(_text(made), made.scenes[0].index), text.strip())

    def test_what_has_no_answer_at_some_time_is_told_with_its_first_frame(self) -> None:
        for text, words, first in (
            ("10 / (f - 12)", "Division by 0", 12),
            ("sqrt(0.5 - t)", "root of a negative", 16),
            ("log(1 - t)", "logarithm", 30),
            ("asin(t)", "asin", 31),
            ("t % (f - 20)", "Remainder", 20),
            ("(0 - f) ^ 0.5", "power", 1),
            ("remap(t, 0, f - 7, 0, 1)", "remap from", 7),
            ("exp(t * 400)", "finite", 54),
        ):
            with self.subTest(text):
                sampler = Sampler(written(text).scenes[0])
                found = sampler.sample("layer2.rotation", TIMES)
                self.assertTrue(np.isfinite(found).all())
                (fault,) = sampler.faults.values()
                self.assertIn(words, fault.message)
                self.assertEqual(round(fault.time * 30), first)
                self.assertEqual(found[first, 0], 5)
        guarded = Sampler(written("if f == 12 then 0 else 10 / (f - 12)").scenes[0])
        guarded.sample("layer2.rotation", TIMES)
        self.assertFalse(guarded.faults)


def _text(made: Any) -> str:
    text: str = made.scenes[0].index.modifiers["f"].modifier.text
    return text


_REFERENCES = [
    "Drum.rotation",
    "Drum.position",
    '"Bell buoy".position',
    "Bell_buoy.position",
    "$wind",
    '$"Wind force!"',
    "$night",
    "$sky",
    "$mode",
]
_numbers = st.sampled_from(["1", ".5", "2e3", "30deg", "50%", "4f", "t", "f", "pi", "base", "i"])
_references = st.sampled_from(_REFERENCES) | st.sampled_from(
    ["Drum.position.x", "Bell_buoy.position . y", "$sky.r", "Nobody.rotation", "$nothing"]
)
_gaps = st.sampled_from(["", " ", "  "])


def _made_of(inner: Any) -> Any:
    """Every form of the grammar around smaller formulas."""
    pairs = st.tuples(inner, st.sampled_from(["+", "-", "*", "/", " % ", "^", "<", ">=", "==", " and ", " or "]), inner)
    return st.one_of(
        pairs.map("".join),
        inner.map(lambda one: f"({one})"),
        st.tuples(_gaps, inner, _gaps).map(lambda p: f"({''.join(p)})"),
        inner.map(lambda one: f"-{one}"),
        inner.map(lambda one: f"not {one}"),
        inner.map(lambda one: f"({one}).x"),
        st.tuples(inner, inner, inner).map(lambda p: f"if {p[0]} then {p[1]} else {p[2]}"),
        st.tuples(inner, inner).map(lambda p: f"({p[0]}, {p[1]})"),
        st.tuples(inner, inner).map(lambda p: f"max({p[0]}, {p[1]})"),
        st.tuples(_references, inner).map(lambda p: f"{p[0]} @ ({p[1]})"),
        st.tuples(_references, inner).map(lambda p: f"({p[0]}) @ ({p[1]})"),
        inner.map(lambda one: f"step_one = {one}; step_one * 2"),
        inner.map(lambda one: f"{one} # Drum.rotation is not meant"),
    )


class RoundTrip(unittest.TestCase):
    @settings(max_examples=400, deadline=None)
    @given(st.recursive(_numbers | _references, _made_of, max_leaves=12))
    def test_what_is_shown_is_bound_is_shown_and_means_the_same(self, text: str) -> None:
        index = scene(DRUM, BUOY, {"name": "Float"}, levers=LEVERS).index
        free = lambda _: None  # noqa: E731
        bound = bind(text, index, free)
        seen = shown(bound, index)
        again = bind(seen, index, free)
        self.assertEqual(again, bound)
        self.assertEqual(shown(again, index), seen)
        self.assertEqual(seen.count("("), text.count("("))
        spec = ParameterSpec("angle", 0.0, "Rotation", "°")
        typed, kept = mistake_in(text, spec, index, free), mistake_in(seen, spec, index, free)
        self.assertEqual(typed and typed.message, kept and kept.message)
        if typed is None:
            whole = [project(scene(DRUM, BUOY, {"name": "Float", "rotation": 5}, levers=LEVERS))]
            for one in (text, seen):
                whole.append(apply(whole[0], "write formula", parameter="layer2.rotation", text=one, id="f"))
            one, two = (Sampler(made.scenes[0]).sample("layer2.rotation", TIMES) for made in whole[1:])
            np.testing.assert_array_equal(one, two)

    def test_brackets_around_a_name_stay(self) -> None:
        for text in (
            "(Drum.position.x) * 2",
            "(Drum.rotation) * 2",
            "((Drum.rotation))",
            "2 * (Drum.position).y",
            "($Wind) @ (t - 1)",
        ):
            made = written(text)
            stored = next(iter(made.scenes[0].index.parameters["layer2.rotation"].parameter.chain)).text
            self.assertEqual(shown(stored, made.scenes[0].index), text)
            self.assertEqual(Sampler(made.scenes[0]).faults, {})

    def test_two_things_of_one_name_and_names_with_quotation_marks(self) -> None:
        twins = scene(
            {"name": "Twin", "rotation": 1}, {"name": "Twin", "rotation": 2}, {"name": '5" nail', "rotation": 3}, {}
        )
        text = "$<layer0.rotation> + 10 * $<layer1.rotation> + 100 * $<layer2.rotation>"
        self.assertEqual(bind(shown(text, twins.index), twins.index, lambda _: None), text)


class Lazy(unittest.TestCase):
    def test_only_what_decides_the_result_can_be_at_fault(self) -> None:
        for text, wanted in {
            "a = 1 / t\nif t > 0 then a else 7": 7,
            "a = 1 / t\n4": 4,
            "if t == 0 then 3 else 1 / t": 3,
            "if t == 0 or 1 / t > 2 then 1 else 2": 1,
            "if t > 0 and 1 / t > 2 then 1 else 2": 2,
            "a = 1 / t; b = a + 1\nif t > 0 then b else 5": 5,
        }.items():
            with self.subTest(text):
                sampler = Sampler(written(text).scenes[0])
                self.assertEqual((sampler.sample("layer2.rotation", [0.0, 1.0])[0, 0], sampler.faults), (wanted, {}))
        for text in ("a = 1 / t\na + 2", "if t < 1 then 1 / t else 3", "if 1 / t > 2 or true then 1 else 2"):
            sampler = Sampler(written(text).scenes[0])
            self.assertEqual(sampler.sample("layer2.rotation", 0.0)[0], 5)
            self.assertIn("Division by 0", [fault.message for fault in sampler.faults.values()])

    def test_what_is_no_number_is_a_fault_wherever_it_goes(self) -> None:
        endless = "(1e308 * 1e308)"
        for text in (
            f"noise({endless})",
            f"random({endless} - {endless})",
            f"$wind @ {endless}",
            f"if {endless} > 1 then 1 else 2",
        ):
            sampler = Sampler(written(text).scenes[0])
            self.assertEqual(sampler.sample("layer2.rotation", 0.0)[0], 5, text)
            self.assertTrue(any("not a finite number" in fault.message for fault in sampler.faults.values()), text)
        sampler = Sampler(written(f'"a" + text(1.5, 0 * {endless})', "text", "Rest").scenes[0])
        self.assertEqual(sampler.texts("layer2.text", SampleTimes(TIMES))[0], ("Rest",))
        self.assertEqual(len(sampler.faults), 1)

    def test_texts_that_double_stop_at_their_limit(self) -> None:
        text = (
            "a = text(123456)\n"
            + "\n".join(f"a{k} = {'a' if not k else f'a{k - 1}'} + {'a' if not k else f'a{k - 1}'}" for k in range(40))
            + "\na39"
        )
        sampler = Sampler(written(text, "text", "Rest").scenes[0])
        self.assertEqual(sampler.texts("layer2.text", SampleTimes(TIMES))[0], ("Rest",))
        self.assertIn("20,000 letters", next(iter(sampler.faults.values())).message)

    def test_capitals_speak_of_time_too(self) -> None:
        one = written("30 * OSC(T)").scenes[0]
        self.assertIsNone(Sampler(one).periods.of("layer2.rotation"))


class Names(unittest.TestCase):
    def seen(self, made: Any) -> str:
        return shown(_text(made), made.scenes[0].index)

    def test_names_belong_to_the_thing(self) -> None:
        made = written('drum.rotation + $wind + "Bell buoy".position.x')
        before = Sampler(made.scenes[0]).sample("layer2.rotation", TIMES)
        made = apply(made, "change layer", layer="layer0", name="Winch drum")
        made = apply(made, "change lever", lever="wind", name="Gale")
        self.assertEqual(self.seen(made), "Winch_drum.rotation + $Gale + Bell_buoy.position.x")
        np.testing.assert_array_equal(Sampler(made.scenes[0]).sample("layer2.rotation", TIMES), before)

    def test_what_is_deleted_stays_by_name_and_comes_back_by_name(self) -> None:
        made = written("$wind * 2")
        gone = apply(made, "remove lever", lever="wind")
        self.assertEqual(self.seen(gone), "$Wind * 2")
        sampler = Sampler(gone.scenes[0])
        self.assertEqual(sampler.sample("layer2.rotation", 0)[0], 5)
        self.assertIn("There is no lever “Wind”", next(iter(sampler.faults.values())).message)
        back = apply(gone, "add lever", name="Wind", id="other", value=7)
        self.assertEqual(Sampler(back.scenes[0]).sample("layer2.rotation", 0)[0], 14)

    def test_circles_are_refused_with_their_members(self) -> None:
        made = written("drum.rotation * 2")
        made = apply(made, "write formula", parameter="layer0.rotation", text="float.rotation @ (t - 1)", id="g")
        sampler = Sampler(made.scenes[0])
        sampler.sample("layer0.rotation", TIMES)
        self.assertIn("There is no", next(iter(sampler.faults.values())).message)
        from jaunty_lever.core.edits.base import circle_to

        one = made.scenes[0]
        told = mistake_in(
            "float.rotation", one.index.parameters["layer0.rotation"].spec, one.index, circle_to(one, "layer0.rotation")
        )
        self.assertIn("circle: “Drum / rotation” → “Float / rotation” → “Drum / rotation”", str(told))

    def test_copies_listen_to_copies(self) -> None:
        made = written("drum.rotation")
        made = apply(made, "group layers", layers=["layer0", "layer2"], id="group")
        made = apply(made, "duplicate layers", layers=["group"], salt="x")
        formulas = [e.modifier.text for e in made.scenes[0].index.modifiers.values() if e.modifier.kind == "formula"]
        self.assertEqual(len(set(formulas)), 2)


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
