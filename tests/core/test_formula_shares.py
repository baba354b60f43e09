"""Percentages in formulas, and what the first version made of them."""

import re
import unittest
from typing import Any

import numpy as np
from hypothesis import example, given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.specs import ParameterSpec
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.older import upgraded
from tests.core.formulas import BUOY, DRUM, LEVERS
from tests.core.scenes import apply, project, scene

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
