"""Emitters: births and flights against numbers worked out independently, and the laws of sparks."""

import json
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from jaunty_lever.core.display.display_list import DisplayList, display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import copies_at, inside
from jaunty_lever.core.kernels.flight import fly
from jaunty_lever.drawing.frames import Look, pixels
from tests.core.scenes import project, scene

CASES = json.loads((Path(__file__).parent / "element-cases.json").read_text(encoding="utf-8"))
Floats = NDArray[np.float64]


def emitter(
    fps: float = 30, length: int = 120, inner: Any = None, gauges: Any = (), layers: Any = (), **fields: Any
) -> Scene:
    array = {
        "kind": "array",
        "id": "sparks",
        "name": "Sparks",
        "position": [300, 200],
        "arrangement": {"kind": "emitter", **fields},
        "gauges": gauges,
        "layers": inner or [{"kind": "ellipse", "id": "dot", "name": "Dot"}],
    }
    return scene(array, *layers, fps=fps, length=length)


def keyed(*keys: tuple[float, float]) -> dict[str, Any]:
    return {"rest": 0, "keys": [{"frame": at, "value": value, "ease": "linear"} for at, value in keys]}


def of_spark(sampler: Sampler, what: str, number: int, times: Floats) -> Floats:
    """What a spark knows at some moments, whether alive or not: (times, components)."""
    samples = copies_at(sampler, "sparks", SampleTimes(times), np.array([number]))
    return np.broadcast_to(sampler.evaluate(f"sparks.{what}", samples)[0], (len(times), 2 if what == "place" else 1))


def birth(sampler: Sampler, number: int) -> float:
    """When a spark is born, by its age far later."""
    return 50.0 - float(of_spark(sampler, "age", number, np.array([50.0]))[0, 0])


def seen(sampler: Sampler, time: float) -> dict[int, tuple[float, ...]]:
    """The sparks alive at a moment: place by number."""
    samples = copies_at(sampler, "sparks", SampleTimes(np.array([time])))
    place = sampler.evaluate("sparks.place", samples)
    assert samples.elements is not None
    return {int(k): tuple(place[j, 0].tolist()) for j, k in enumerate(samples.elements.numbers)}


class Reference(unittest.TestCase):
    def test_flights(self) -> None:
        cases = [case for case in CASES if case["what"] == "flight"]
        self.assertGreaterEqual(len(cases), 2)
        for case in cases:
            s, ages = case["settings"], np.array(case["ages_s"])
            born = np.zeros((11, 1))
            born[:, 0] = [0, 1e9, 0, 0, *s["velocity"], s["drag"], *s["gravity"], 0, 0]
            out = np.empty((8, len(ages)))
            fly(0, len(ages), np.zeros(len(ages), dtype=np.int64), ages, born, 0.0, out)
            np.testing.assert_allclose(out[2:4].T, case["moved"], atol=1e-8)

    def test_births(self) -> None:
        cases = [case for case in CASES if case["what"] == "births"]
        self.assertGreaterEqual(len(cases), 4)
        for case in cases:
            s = case["settings"]
            rate = s["rate"] if isinstance(s["rate"], int | float) else keyed(*((t * 30, v) for t, v in s["rate"]))
            made = Sampler(emitter(rate=rate, pre_roll=s["pre_roll_s"], lifetime=600))
            flock = made.sparks.alive("sparks", SampleTimes(np.array([s["until_s"] + 1e-9])))
            ages = made.sparks.known(
                "sparks", "age", copies_at(made, "sparks", SampleTimes(np.array([s["until_s"] + 1e-9])))
            )
            np.testing.assert_allclose(s["until_s"] + 1e-9 - ages[:, 0, 0], case["births_s"], atol=2e-6)
            self.assertEqual(flock.numbers.tolist(), list(range(len(case["births_s"]))))


SHAPES = st.sampled_from(["point", "line", "disc", "outline"])
RATES = st.floats(0, 60) | st.lists(st.floats(0, 40), min_size=2, max_size=4).map(
    lambda rates: keyed(*((30.0 * k, rate) for k, rate in enumerate(rates)))
)
EMITTERS = st.fixed_dictionaries(
    {
        "rate": RATES,
        "lifetime": st.floats(0, 3) | st.just(keyed((0, 0.2), (90, 2.5))),
        "lifetime_random": st.floats(0, 100),
        "drag": st.floats(0, 4) | st.just(0.0),
        "shape": SHAPES,
        "births": st.sampled_from(["evenly", "at random"]),
        "pre_roll": st.floats(0, 2),
        "spin": st.floats(-90, 90),
        "facing": st.booleans(),
        "repeat": st.sampled_from([0, 0, 1.3, 4]),
        "on_top": st.sampled_from(["newest", "oldest"]),
        "speed": st.just(keyed((0, 40), (60, 400))),
        "seed": st.integers(1, 99),
        "direction": st.floats(-180, 180),
    }
)


class Laws(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(EMITTERS, st.floats(0, 4))
    def test_any_spark_at_any_moment_alone_is_what_it_is_among_all(self, fields: dict[str, Any], time: float) -> None:
        made = emitter(**fields)
        whole = Sampler(made)
        samples = copies_at(whole, "sparks", SampleTimes(np.array([0.0, time, 3.9, time])))
        place, facing = whole.evaluate("sparks.place", samples), whole.evaluate("sparks.facing", samples)
        assert samples.elements is not None and samples.elements.when is not None
        mine = np.flatnonzero(samples.elements.when == 1)
        alone = seen(Sampler(made), time)
        numbers = samples.elements.numbers[mine].tolist()
        self.assertEqual(list(alone), numbers)
        self.assertEqual([alone[k] for k in numbers], [tuple(place[j, 0].tolist()) for j in mine])
        for j in mine[:3]:
            one, number = Sampler(made), int(samples.elements.numbers[j])
            self.assertEqual(of_spark(one, "place", number, np.array([time]))[0].tolist(), place[j, 0].tolist())
            self.assertEqual(
                of_spark(one, "facing", number, np.array([time]))[0, 0],
                np.broadcast_to(facing, (len(samples.elements), 1, 1))[j, 0, 0],
            )

    def test_a_lifetime_keyed_up_for_an_instant_is_that_of_who_is_born_then(self) -> None:
        # Spark 20 is born at frame 60; the lifetime is long for two hundredths of a frame around it, of 3,000 frames.
        keys = [(0.0, 0.1), (59.985, 0.1), (59.995, 30.0), (60.005, 30.0), (60.015, 0.1)]
        made = emitter(length=3000, rate=10, lifetime=keyed(*keys), gravity=[0, 0])
        for time in (2.5, 20.0, 31.9):
            self.assertIn(20, seen(Sampler(made), time), time)
        self.assertNotIn(20, seen(Sampler(made), 32.1))
        whole = copies_at(Sampler(made), "sparks", SampleTimes(np.arange(0, 3000, 7) / 30)).elements
        assert whole is not None and whole.when is not None
        self.assertEqual(
            int((whole.numbers == 20).sum()), int(((np.arange(0, 3000, 7) >= 60) & (np.arange(0, 3000, 7) < 960)).sum())
        )

    @settings(max_examples=20, deadline=None)
    @given(st.lists(st.floats(0, 60), min_size=2, max_size=5), st.floats(0.1, 4))
    def test_as_many_are_born_as_the_integral_of_the_rate_says(self, rates: list[float], time: float) -> None:
        made = emitter(rate=keyed(*((30.0 * k, rate) for k, rate in enumerate(rates))), lifetime=600)
        moments = np.linspace(0, time, 20_001)
        rate = np.interp(moments, np.arange(len(rates)), rates)
        whole = float(np.trapezoid(rate, moments))
        count = int(Sampler(made).layouts.count("sparks", SampleTimes(np.array([time])))[0, 0])
        self.assertLessEqual(abs(count - (whole + 0.5)), 0.5 + 1e-3)

    @settings(max_examples=20, deadline=None)
    @given(EMITTERS, st.floats(0, 4), st.sampled_from([0.7, 1.0, 2.6]), st.integers(1, 5))
    def test_rounds_meet_without_a_seam(self, fields: dict[str, Any], time: float, again: float, rounds: int) -> None:
        made = Sampler(emitter(**fields | {"repeat": again}))
        now, later = seen(made, time), seen(made, time + rounds * again)
        near = [k for k in {*now, *later} if k not in now or k not in later]
        # At the very moment of a birth or an end, rounding may take either side.
        for k in near:
            life = float(of_spark(made, "life", k, np.array([time]))[0, 0])
            self.assertLess(min(life, 1 - life), 1e-6)
        for k in now.keys() & later.keys():
            np.testing.assert_allclose(now[k], later[k], atol=1e-6)

    def test_what_decides_is_taken_at_the_birth(self) -> None:
        still = Sampler(emitter(rate=2, lifetime=600, speed_random=0, spread=0, speed=100, gravity=(0, 100)))
        moved = Sampler(
            emitter(
                rate=2,
                lifetime=600,
                speed_random=0,
                spread=0,
                speed=100,
                gravity={
                    "rest": [0, 100],
                    "keys": [
                        {"frame": 44, "value": [0, 100], "ease": "hold"},
                        {"frame": 45, "value": [0, 900], "ease": "hold"},
                    ],
                },
            )
        )
        times = np.array([3.5])
        for number, same in ((0, True), (2, True), (3, False), (5, False)):
            self.assertEqual(
                np.array_equal(of_spark(still, "place", number, times), of_spark(moved, "place", number, times)), same
            )
        self.assertAlmostEqual(birth(still, 5), 2.5)
        np.testing.assert_allclose(of_spark(still, "place", 0, np.array([2.0]))[0], (0, -200 + 200))

    def test_a_start_follows_a_layer_as_it_stood(self) -> None:
        lead = {
            "kind": "ellipse",
            "id": "hammer",
            "name": "Hammer",
            "position": {
                "rest": [0, 0],
                "keys": [
                    {"frame": 0, "value": [0, 0], "ease": "linear"},
                    {"frame": 60, "value": [200, 0], "ease": "linear"},
                ],
            },
        }
        made = Sampler(
            emitter(rate=1, lifetime=600, speed=0, gravity=(0, 0), outline="hammer", layers=[lead], origin=(0, -10))
        )
        places = seen(made, 3.0)
        np.testing.assert_allclose(
            [places[k] for k in range(4)], [(x - 300, -210) for x in (0, 100, 200, 200)], atol=1e-9
        )


class InsideSparks(unittest.TestCase):
    """A pattern lives from its spark's birth on, with random streams of its own; drawing has the sparks of each
    frame."""

    def drawn(self, made: Scene, *frames: int) -> DisplayList:
        return display_list(Sampler(made), SampleTimes(np.array(frames) / made.fps))

    def test_the_pattern_begins_at_each_birth(self) -> None:
        turning = [{"kind": "ellipse", "id": "dot", "name": "Dot", "rotation": keyed((0, 0), (30, 90))}]
        made = Sampler(emitter(rate=2, lifetime=5, inner=turning))
        samples = inside(made, "dot.rotation", SampleTimes(np.array([1.25])))
        turned = made.evaluate("dot.rotation", samples)[:, 0, 0]
        np.testing.assert_allclose(turned, [90, 0.75 * 90, 0.25 * 90])
        # Its own wander goes with the spark, not with the place that it is drawn at.
        shaky = [
            {
                "kind": "ellipse",
                "id": "dot",
                "name": "Dot",
                "rotation": {"rest": 0, "chain": [{"kind": "wiggle", "id": "w"}]},
            }
        ]
        made = Sampler(emitter(rate=4, lifetime=1, inner=shaky))
        early, late = (inside(made, "dot.rotation", SampleTimes(np.array([t]))) for t in (1.1, 1.9))
        assert early.elements is not None and late.elements is not None
        self.assertEqual(early.elements.numbers.tolist(), [1, 2, 3, 4])
        alone = Sampler(emitter(rate=4, lifetime=1, inner=shaky))
        values = made.evaluate("dot.rotation", late)[:, 0, 0]
        again = alone.evaluate(
            "dot.rotation", inside(alone, "dot.rotation", SampleTimes(np.array([1.9])), {"sparks": 5})
        )[0, 0, 0]
        self.assertEqual(values[late.elements.numbers.tolist().index(5)], again)

    def test_each_frame_draws_those_that_are_alive_then(self) -> None:
        made = emitter(rate=10, lifetime=0.5, lifetime_random=60, speed=50, spread=90)
        table = self.drawn(made, 0, 15, 40)
        (node,) = table.nodes
        counts = node.channels["count"].rows[:, 0].astype(int).tolist()
        self.assertEqual(node.fixed["copies"], max(counts))
        for row, frame in enumerate((0, 15, 40)):
            alive = list(seen(Sampler(made), frame / 30).values())
            self.assertEqual(len(alive), counts[row])
            moved = node.channels["moved"].rows[row].reshape(-1, 2)[: len(alive)]
            np.testing.assert_allclose(moved, np.array(alive).reshape(-1, 2), atol=1e-4)

    def test_sparks_in_arrays_and_arrays_in_sparks_draw_the_same_one_by_one(self) -> None:
        row = {
            "kind": "array",
            "id": "row",
            "name": "Row",
            "arrangement": {"kind": "row", "count": 3},
            "layers": [{"kind": "ellipse", "id": "dot", "name": "Dot", "opacity": keyed((0, 100), (30, 0))}],
        }
        inner = emitter(rate=6, lifetime=0.8, inner=[row], spin=40, pre_roll=1)
        outer_row = {
            "kind": "array",
            "id": "outer",
            "name": "Outer",
            "arrangement": {"kind": "row", "count": 2},
            "later": 0.2,
            "layers": [layer.model_dump() for layer in inner.layers],
        }
        twice = {
            "kind": "array",
            "id": "outer",
            "name": "Outer",
            "arrangement": {"kind": "emitter", "rate": 3, "lifetime": 1},
            "layers": [layer.model_dump() for layer in inner.layers],
        }
        for whole in (inner, scene(outer_row, length=120), scene(twice, length=120)):
            both = [pixels_of(self.drawn(whole, 10, 25), 1), pixels_of(self.drawn(whole, 25), 0)]
            np.testing.assert_array_equal(*both)
            self.assertGreater(len(np.unique(both[0])), 3)
        copies = display_list(Sampler(scene(outer_row, length=120)), SampleTimes(np.array([1.0])))
        ((sparks,),) = ([node for node in copies.walk() if node.id == "sparks"],)
        rows = sparks.channels["moved"].rows.reshape(2, -1, 2)
        self.assertFalse(np.allclose(rows[0], rows[1]))

    def test_a_pattern_knows_its_sparks_life(self) -> None:
        curve = {"kind": "life", "id": "grow", "name": "Grow"}
        chain = [{"kind": "follow", "id": "f", "driver": "grow.value", "times": 90}]
        dot = [{"kind": "ellipse", "id": "dot", "name": "Dot", "rotation": {"rest": 0, "chain": chain}}]
        for again in (0, 4):
            made = Sampler(emitter(rate=1, lifetime=2, inner=dot, gauges=[curve], repeat=again))
            turned = made.evaluate("dot.rotation", inside(made, "dot.rotation", SampleTimes(np.array([3.5]))))
            np.testing.assert_allclose(turned[:, 0, 0], [67.5, 22.5])

    def test_curves_over_a_life(self) -> None:
        curve = {"kind": "life", "id": "grow", "name": "Grow", "profile": keyed((0, 0), (50, 2), (100, 0))}
        made = Sampler(emitter(rate=1, lifetime=2, gauges=[curve]))
        samples = copies_at(made, "sparks", SampleTimes(np.array([1.5])))
        np.testing.assert_allclose(made.evaluate("grow.value", samples)[:, 0, 0], [1.0, 1.0])

    def test_taken_as_one_only_those_alive_count(self) -> None:
        follower = {
            "kind": "ellipse",
            "id": "lamp",
            "name": "Lamp",
            "rotation": {"rest": 0, "chain": [{"kind": "follow", "id": "f", "driver": "sparks.copy_rotation@mean"}]},
        }
        made = emitter(rate=2, lifetime=1, layers=[follower])
        array = made.layers[0].changed(copy_rotation=made.layers[0].copy_rotation.changed(chain=()))  # type: ignore[attr-defined]
        made = made.changed(layers=(array, made.layers[1]))
        now = EDIT.validate_python(
            {
                "kind": "write formula",
                "scene": "s",
                "parameter": "sparks.copy_rotation",
                "text": "age * 10",
                "id": "own",
            }
        ).apply(project(made))
        value = Sampler(now.scenes[0]).sample("lamp.rotation", np.array([1.25, 3.0]))[:, 0]
        np.testing.assert_allclose(value, [(7.5 + 2.5) / 2, (5 + 0) / 2], atol=1e-9)


class TooMuch(unittest.TestCase):
    def test_odd_rates_and_lifetimes_throw_nothing_and_no_error(self) -> None:
        for fields in (
            {"rate": 0},
            {"rate": keyed((0, -5), (30, -5))},
            {"lifetime": 0},
            {"rate": 0, "pre_roll": 600},
            {"repeat": 0.01, "rate": 5},
        ):
            with self.subTest(fields):
                made = Sampler(emitter(**fields))
                self.assertLessEqual(int(made.layouts.count("sparks", SampleTimes(np.array([0.0, 1.0, 2.0]))).max()), 1)
                display_list(made, SampleTimes.frames(30, 0, 10))

    def test_too_many_keep_the_newest_and_say_so(self) -> None:
        made = Sampler(emitter(rate=keyed((0, 10), (30, 90_000)), lifetime=5))
        flock = made.sparks.alive("sparks", SampleTimes(np.array([0.5, 2.0])))
        self.assertEqual(np.bincount(flock.when)[1], 5_000)
        self.assertIn("at most 5,000 sparks", next(iter(made.faults.values())).message)
        newest = flock.numbers[flock.when == 1]
        self.assertEqual(newest.tolist(), list(range(int(newest[-1]) - 4_999, int(newest[-1]) + 1)))


def pixels_of(table: DisplayList, frame: int) -> NDArray[np.uint8]:
    return np.asarray(pixels(table, frame, Look(scale=0.25)))
