"""Flicker: right off at random moments, each copy at its own, and never anything between."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.breaks import breaks_of
from jaunty_lever.core.evaluation.periods import periods_of
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from tests.core.scenes import apply, project, scene

FINE = SampleTimes(np.arange(20_000) / 1_000)


def lamps(count: int = 3, rest: float = 80, **fields: Any) -> Scene:
    chain = [{"kind": "flicker", "id": "f", **fields}]
    lamp = {"kind": "ellipse", "id": "e", "name": "E", "opacity": {"rest": rest, "chain": chain}}
    array = {"kind": "array", "id": "a", "name": "A", "arrangement": {"kind": "row", "count": count}, "layers": [lamp]}
    return Scene.model_validate({"id": "s", "name": "S", "length": 300, "fps": 30, "layers": [array]})


def light(of: Scene, samples: SampleTimes = FINE) -> Any:
    """The lamps' opacity, (lamps, moments)."""
    sampler = Sampler(of)
    return sampler.evaluate("e.opacity", inside(sampler, "e.opacity", samples))[..., 0]


def outages(row: Any) -> Any:
    """How long each outage of a row lasts, in moments."""
    edges = np.flatnonzero(np.diff(np.concatenate([[0], row == 0, [0]])))
    return np.diff(edges.reshape(-1, 2), axis=1).ravel()


class Flickers(unittest.TestCase):
    @settings(max_examples=25, deadline=None)
    @given(st.floats(0.2, 9), st.floats(0, 100), st.floats(0, 100), st.floats(0, 100), st.integers(1, 99_999))
    def test_it_is_on_or_off_and_never_beyond(
        self, frequency: float, hold: float, chance: float, random: float, seed: int
    ) -> None:
        fields = {"frequency": frequency, "hold": hold, "chance": chance, "random": random, "seed": seed}
        seen = light(lamps(2, **fields))
        self.assertLessEqual(set(np.unique(seen)), {0.0, 80.0})

    def test_each_turn_has_an_outage_as_long_as_is_said(self) -> None:
        seen = light(lamps(1, frequency=2, hold=30, random=0, seed=5))
        # 20 s at twice a second; 30 % of half a second each.
        self.assertEqual(len(outages(seen[0])), 40)
        np.testing.assert_allclose(outages(seen[0]), 150, atol=1.5)
        self.assertAlmostEqual(float((seen == 0).mean()), 0.3, delta=0.01)
        varied = outages(light(lamps(1, frequency=2, hold=30, random=100, seed=5))[0])
        self.assertLess(varied.min(), 60)
        self.assertLessEqual(varied.max(), 151)
        few = outages(light(lamps(1, frequency=2, hold=30, chance=25, seed=5))[0])
        self.assertTrue(3 <= len(few) <= 18)

    def test_copies_go_off_at_moments_of_their_own_or_at_once(self) -> None:
        own, alike = light(lamps(frequency=3)), light(lamps(frequency=3, over="alike"))
        self.assertGreater(np.mean(own[0] != own[1]), 0.05)
        # One is worked out for all of them.
        self.assertEqual((len(own), len(alike)), (3, 1))

    def test_it_comes_round(self) -> None:
        one = lamps(frequency=3.3, repeat=2)
        seen = light(one)
        np.testing.assert_array_equal(seen[:, :2_000], seen[:, 2_000:4_000])
        cycle = periods_of(Sampler(one)).of("e.opacity")
        self.assertEqual(cycle.period if cycle else None, 2)
        self.assertIsNone(periods_of(Sampler(lamps())).of("e.opacity"))

    def test_its_edges_are_known(self) -> None:
        """So that what is smoothed or summed up over it is exact."""
        made = project(scene({"rotation": {"rest": 9, "chain": [{"kind": "flicker", "id": "f", "seed": 3}]}}))
        sampler = Sampler(made.scenes[0])
        line = sampler.line("layer0.rotation")
        edges = breaks_of(sampler, None).of_each(line, 1, np.array([0]), np.array([4])).of(0)
        seen = sampler.track("layer0.rotation", SampleTimes(np.arange(4_000) / 1_000))[:, 0]
        jumps = np.flatnonzero(np.diff(seen)) / 1_000
        self.assertGreater(len(jumps), 8)
        for jump in jumps:
            self.assertLess(np.abs(edges - jump).min(), 0.0011)

    def test_what_is_new_goes_down_to_the_least_or_leaps_aside(self) -> None:
        made = project(scene({"opacity": 70, "position": [100, 50]}))
        for parameter, off in (("layer0.opacity", 0.0), ("layer0.position", (110.0, 60.0))):
            after = apply(made, "add modifier", parameter=parameter, modifier="flicker", id="f")
            (step,) = after.scenes[0].index.parameters[parameter].parameter.chain
            self.assertEqual(getattr(step, "off").rest, off)  # noqa: B009

    def test_what_makes_no_sense_is_told(self) -> None:
        sampler = Sampler(lamps(hold=140, frequency=-2))
        sampler.evaluate("e.opacity", inside(sampler, "e.opacity", FINE))
        told = " ".join(fault.message for fault in sampler.faults.values())
        for words in ("frequency", "Hold"):
            self.assertIn(words, told)
