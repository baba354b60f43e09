"""Values over (element, time): a thousand elements at once are a thousand single ones, to the last bit."""

import copy
import itertools
import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.axes import Axes
from jaunty_lever.core.document.layers import ArrayLayer
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.elements import Elements
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.motion import MODIFIERS

from .scenes import driven, rigs_of_all, scene

MANY = 1000
FRAMES = 12


_numbers = itertools.count()


def over(name: str = "i", times: float = 1.0, plus: float = 0.0) -> dict[str, Any]:
    """A setting that differs from element to element."""
    return {
        "chain": [
            {
                "kind": "follow",
                "id": f"f{next(_numbers)}",
                "driver": f"element.{name}",
                "times": times,
                "plus": plus,
            }
        ]
    }


def elements(count: int = MANY) -> Elements:
    return Elements.of("all", count)


def copied(one: Scene) -> Scene:
    """A scene whose layers stand in an array, a thousand times."""
    grid = {"kind": "grid", "columns": 8, "rows": MANY // 8, "gap": [31, 17]}
    array = ArrayLayer.model_validate({"kind": "array", "id": "all", "name": "All", "arrangement": grid})
    return one.changed(layers=(array.changed(layers=one.layers),))


def asked(count: int = MANY, frames: int = FRAMES) -> SampleTimes:
    return SampleTimes.frames(30, 20, 20 + frames, elements=elements(count))


def whole(values: np.ndarray, samples: SampleTimes) -> np.ndarray:
    return np.broadcast_to(values, (*samples.shape, values.shape[2]))


CHAINS: dict[str, list[dict[str, Any]]] = {
    "a wave whose phase follows the element": [{"kind": "wave", "id": "w", "amplitude": 40, "phase": over("u")}],
    "a wave whose frequency differs": [{"kind": "wave", "id": "w", "frequency": over("i", 1 / 60, 20 / 60)}],
    "a stream of its own for each wiggle": [{"kind": "wiggle", "id": "w", "octaves": 3, "frequency": 3}],
    "a wiggle that repeats": [
        {"kind": "wiggle", "id": "w", "repeat": over("col", 0.5, 0.5), "frequency": over("u", 2, 1)}
    ],
    "a shift for each element": [{"kind": "wave", "id": "w"}, {"kind": "shift", "id": "s", "delay": over("col", 0.1)}],
    "a shift of wiggles": [{"kind": "wiggle", "id": "w"}, {"kind": "shift", "id": "s", "delay": over("i", 1 / 30)}],
    "a choice for each element": [
        {
            "kind": "wave",
            "id": "w",
            "shape": {
                "chain": [
                    {
                        "kind": "stops",
                        "id": "q",
                        "driver": "element.col",
                        "low": 0,
                        "high": 4,
                        "count": 5,
                        "stop_1": "sine",
                        "stop_2": "triangle",
                        "stop_3": "saw",
                        "stop_4": "square",
                        "stop_5": "pulse",
                    }
                ]
            },
        }
    ],
    "a rate that moves and differs": [
        {
            "kind": "rate",
            "id": "r",
            "rate": {"chain": [{"kind": "wave", "id": "v", "shape": "square", "frequency": over("u", 2, 0.5)}]},
        }
    ],
    "smoothed, one after the other": [
        {"kind": "wave", "id": "w", "phase": over("u")},
        {"kind": "smooth", "id": "m", "length": over("u", 0.3, 0.1)},
    ],
    "remapped along a curve of its own": [
        {"kind": "wave", "id": "w"},
        {
            "kind": "remap",
            "id": "r",
            "from_low": -10,
            "from_high": 10,
            "ends": "stop",
            "ease": "cubic-bezier",
            "x1": over("u"),
        },
    ],
    "nested": [
        {"kind": "wiggle", "id": "w", "amplitude": {"chain": [{"kind": "wave", "id": "v", "phase": over("u")}]}},
        {"kind": "limit", "id": "l", "low": -5, "high": over("col", 2)},
        {"kind": "hold steps", "id": "h", "rate": over("col", 2, 3)},
        {"kind": "adjust", "id": "a", "times": 2, "strength": over("u", 100)},
        {"kind": "round", "id": "o", "step": 0.25},
    ],
    "keys, for each at its own moment": [{"kind": "shift", "id": "s", "delay": over("col", 0.05)}],
    "a swing that overshoots, each by itself": [{"kind": "overshoot", "id": "o", "frequency": over("u", 2, 1)}],
    "a bounce of its own": [{"kind": "bounce", "id": "o", "gravity": over("u", 900, 400)}],
    "in a window": [
        {"kind": "wave", "id": "w", "windows": [{"start": 22, "end": 29, "fade_in": 3}], "phase": over("u")}
    ],
    "a figure": [{"kind": "rate", "id": "r", "rate": over("x")}],
}

KEYED = [
    {"frame": 0, "value": 0, "ease": "linear"},
    {"frame": 14, "value": 40, "ease": "linear"},
    {"frame": 22, "value": 10, "ease": "linear"},
]


def rig(chain: list[dict[str, Any]], **own: Any) -> Sampler:
    field = {"rest": 3, "chain": chain, **own}
    return Sampler(copied(scene({"rotation": field})))


def spread(rig: dict[str, Any], seed: int) -> dict[str, Any]:
    """A rig some of whose settings differ from element to element."""
    rng = np.random.default_rng(seed)
    made = copy.deepcopy(rig)
    for layer in made["layers"]:
        for field in layer.values():
            for modifier in field.get("chain", ()) if isinstance(field, dict) else ():
                for name, one in specs_of(MODIFIERS[modifier["kind"]]).items():
                    value = modifier.get(name, one.default)
                    if isinstance(value, float) and not one.stepped and one.owner != "weights" and rng.random() < 0.3:
                        modifier[name] = {
                            "rest": value,
                            "chain": [
                                {
                                    "kind": "follow",
                                    "id": f"f{next(_numbers)}",
                                    "driver": "element.u",
                                    "times": value / 2,
                                    "plus": value,
                                }
                            ],
                        }
    return made


class ManyAreAsOne(unittest.TestCase):
    def test_a_thousand_at_once_are_a_thousand_single_ones(self) -> None:
        samples = asked()
        for said, chain in CHAINS.items():
            own = {"keys": KEYED} if "keys" in said or "overshoot" in said or "bounce" in said else {}
            with self.subTest(said):
                together = whole(rig(chain, **own).evaluate("layer0.rotation", samples), samples)
                for k in (0, 1, 2, 7, 333, 998, 999):
                    one = samples.one(k)
                    alone = whole(rig(chain, **own).evaluate("layer0.rotation", one), one)
                    np.testing.assert_array_equal(together[k], alone[0], err_msg=f"element {k}")
                # They do differ, or the test says nothing.
                self.assertGreater(np.ptp(together, axis=0).max(), 0)

    def test_order_and_company_change_nothing(self) -> None:
        samples = asked(60)
        order = np.random.default_rng(3).permutation(60)[:40]
        some = SampleTimes(samples.times, samples.grid, samples.elements.part(order))  # type: ignore[union-attr]
        for said, chain in CHAINS.items():
            own = {"keys": KEYED} if "keys" in said or "overshoot" in said or "bounce" in said else {}
            with self.subTest(said):
                all_of_them = whole(rig(chain, **own).evaluate("layer0.rotation", samples), samples)
                np.testing.assert_array_equal(
                    whole(rig(chain, **own).evaluate("layer0.rotation", some), some), all_of_them[order]
                )

    def test_the_first_element_is_what_stands_in_no_array(self) -> None:
        chain = [{"kind": "wiggle", "id": "w", "octaves": 2}, {"kind": "wave", "id": "v", "phase": over("i", 0.1)}]
        made = rig(chain)
        samples = asked(5)
        np.testing.assert_array_equal(
            made.evaluate("layer0.rotation", samples)[0], made.track("layer0.rotation", SampleTimes.frames(30, 20, 32))
        )

    def test_a_delay_for_each_is_the_same_as_a_moment_for_each(self) -> None:
        wave = {"kind": "wiggle", "id": "w", "frequency": 4}
        delays = np.arange(9) / 10
        late = rig([wave, {"kind": "shift", "id": "s", "delay": over("i", 0.1)}])
        samples = asked(9)
        moved = SampleTimes(samples.times[None, :] - delays[:, None], None, samples.elements)
        np.testing.assert_allclose(
            late.evaluate("layer0.rotation", samples), rig([wave]).evaluate("layer0.rotation", moved), atol=1e-9
        )

    def test_a_text_for_each(self) -> None:
        one = scene(
            {
                "kind": "text",
                "text": {
                    "rest": "",
                    "chain": [{"kind": "readout", "id": "r", "driver": "element.i", "suffix": " of 4"}],
                },
            }
        )
        samples = SampleTimes(np.zeros(1), None, elements(4))
        words, which = Sampler(copied(one)).texts("layer0.text", samples)
        self.assertEqual([words[k] for k in which], ["0 of 4", "1 of 4", "2 of 4", "3 of 4"])

    def test_where_there_are_no_elements_there_is_nothing(self) -> None:
        nobody = SampleTimes(np.arange(3) / 30, None, elements(4).part(np.zeros(0, dtype=np.int64)))
        formula = {"kind": "formula", "id": "m", "text": "base + element.i + noise(i, t) + (layer0.opacity @ (t - i))"}
        for kind, modifier in MODIFIERS.items():
            if "number" not in modifier.kinds:
                continue
            with self.subTest(kind):
                plain = {"kind": kind, "id": "m"} | ({"driver": "element.i"} if modifier.linked else {})
                made = rig([formula if kind == "formula" else plain], keys=KEYED)
                self.assertEqual(whole(made.evaluate("layer0.rotation", nobody), nobody).shape, (0, 3, 1))

    @settings(max_examples=60, deadline=None)
    @given(rigs_of_all(), st.integers(0, 99))
    def test_any_rig_over_elements(self, rig: Any, seed: int) -> None:
        one = copied(driven(spread(rig, seed)))
        samples = SampleTimes(np.random.default_rng(seed).uniform(0, 9, 8), None, elements(6))
        for parameter in ("layer0.rotation", "layer0.position"):
            together = whole(Sampler(one, Cache()).evaluate(parameter, samples), samples)
            for k in (0, 3, 5):
                alone = samples.one(k)
                np.testing.assert_array_equal(
                    together[k], whole(Sampler(one, Cache()).evaluate(parameter, alone), alone)[0], err_msg=parameter
                )


class WhatVaries(unittest.TestCase):
    """Axes are known before anything is worked out, and what does not vary is worked out once."""

    def shape(self, chain: list[dict[str, Any]], **own: Any) -> tuple[int, ...]:
        return rig(chain, **own).evaluate("layer0.rotation", asked(50)).shape

    def test_axes_without_variation_have_one_entry(self) -> None:
        self.assertEqual(self.shape([]), (1, 1, 1))
        self.assertEqual(self.shape([{"kind": "adjust", "id": "a", "plus": 4}]), (1, 1, 1))
        self.assertEqual(self.shape([{"kind": "wave", "id": "w"}]), (1, FRAMES, 1))
        self.assertEqual(self.shape([{"kind": "adjust", "id": "a", "plus": over()}]), (50, 1, 1))
        self.assertEqual(self.shape([{"kind": "wave", "id": "w", "phase": over()}]), (50, FRAMES, 1))
        self.assertEqual(self.shape([{"kind": "wiggle", "id": "w"}]), (50, FRAMES, 1))
        self.assertEqual(self.shape([{"kind": "limit", "id": "w"}], keys=KEYED), (1, FRAMES, 1))

    def test_what_stands_outside_is_the_same_for_all(self) -> None:
        lead = {"rotation": {"chain": [{"kind": "wiggle", "id": "w"}]}}
        follow = [
            {"kind": "follow", "id": "f", "driver": "layer0.rotation"},
            {"kind": "adjust", "id": "a", "plus": over()},
        ]
        made = scene(lead, {"rotation": {"chain": follow}})
        one = copied(made.changed(layers=made.layers[1:]))
        sampler = Sampler(one.changed(layers=(made.layers[0], *one.layers)))
        samples = SampleTimes.frames(30, 0, 9, elements=elements(5))
        self.assertEqual(sampler.axes.of("layer0.rotation"), Axes(times=True))
        values = sampler.evaluate("layer1.rotation", samples)
        alone = sampler.track("layer0.rotation", SampleTimes.frames(30, 0, 9))
        np.testing.assert_array_equal(values, alone[None] + np.arange(5.0)[:, None, None])
        self.assertEqual(sampler.evaluate("layer0.rotation", samples).shape, (1, 9, 1))

    def test_a_fault_is_told_where_it_happens(self) -> None:
        made = rig([{"kind": "wave", "id": "w", "frequency": over("i", -1, 2)}])
        samples = asked(5)
        values = whole(made.evaluate("layer0.rotation", samples), samples)
        self.assertEqual([fault.message for fault in made.faults.values()], ["The frequency is below 0"])
        # The elements whose frequency makes no sense rest; the others move.
        self.assertEqual([bool(np.ptp(row) > 0) for row in values], [True, True, False, False, False])
        np.testing.assert_array_equal(values[3:], np.full((2, FRAMES, 1), 3.0))

    @settings(max_examples=60, deadline=None)
    @given(rigs_of_all(), st.lists(st.floats(0, 20), min_size=2, max_size=6))
    def test_what_the_graph_calls_still_never_moves(self, rig: Any, times: list[float]) -> None:
        one = driven(rig)
        sampler = Sampler(one)
        for parameter in one.index.parameters:
            if not sampler.axes.of(parameter).times:
                values = sampler.sample(parameter, times)
                np.testing.assert_array_equal(values, np.broadcast_to(values[0], values.shape), err_msg=parameter)
