"""Steer: several gauges and levers on one value add up, and nothing that it has is lost."""

import json
import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.soundness import problems
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene

FRAMES = SampleTimes(np.arange(60) / 30)


def values(of: Scene, parameter: str) -> Any:
    """A value of all copies over two seconds, (copies, frames, components)."""
    sampler = Sampler(of)
    return sampler.evaluate(parameter, inside(sampler, parameter, FRAMES))


def row_of(count: int = 5) -> Project:
    """A row of copies with two sweeps, a random and a noise."""
    made = apply(project(scene({"opacity": 80})), "repeat layers", layers=["layer0"], id="a", count=count)
    for id, kind in (("one", "sweep"), ("two", "sweep"), ("odd", "random"), ("cloud", "noise")):
        made = apply(made, "add gauge", array="a", gauge=kind, id=id, seed=3)
    return made


def tied(of: Project, gauge: str, text: str, way: str, parameter: str = "a.copy_position", id: str = "") -> Project:
    """A value led by a gauge."""
    ways = {parameter: way}
    return apply(of, "tie to gauge", gauge=gauge, values={parameter: text}, ways=ways, id=id or f"by-{gauge}")


class Led(unittest.TestCase):
    def test_towards_by_and_times_are_what_their_mathematics_says(self) -> None:
        made = apply(row_of(), "add modifier", parameter="a.copy_position", modifier="wiggle", id="w", seed=8)
        before = values(made.scenes[0], "a.copy_position")
        g = values(made.scenes[0], "one.value")
        self.assertGreater(g.max() - g.min(), 0.9)
        for way, text, meant in (
            ("towards", "30, -60", before + g * (np.array([30, -60]) - before)),
            ("by", "30, -60", before + g * np.array([30, -60])),
            ("times", "2, 0.5", before * (1 + g * (np.array([2, 0.5]) - 1))),
            ("by", "12", before + g * 12),
        ):
            with self.subTest(way=way, text=text):
                after = tied(made, "one", text, way)
                np.testing.assert_allclose(values(after.scenes[0], "a.copy_position"), meant, atol=1e-9)
                self.assertEqual(project_file.read(project_file.write(after).encode()), after)

    def test_a_sweep_goes_beyond_the_goal_as_far_as_its_profile_does_unless_it_is_stopped(self) -> None:
        points = [{"frame": 0, "value": 0}, {"frame": 50, "value": 1.3}, {"frame": 100, "value": -0.12}]
        made = apply(row_of(), "draw curve", parameter="one.profile", points=points)
        made = tied(made, "one", "10", "by", "a.copy_rotation")
        led = values(made.scenes[0], "a.copy_rotation")
        self.assertGreater(led.max(), 11)
        self.assertLess(led.min(), -1)
        held = apply(made, "set value", parameter="by-one-0.stop", value=True).scenes[0]
        np.testing.assert_allclose(values(held, "a.copy_rotation"), np.clip(led, 0, 10), atol=1e-9)

    def test_levers_lead_from_one_end_to_the_other(self) -> None:
        made = apply(project(scene({"rotation": {"rest": 20}})), "add lever", id="wind", name="Wind", high=8)
        given = {"parameter": "layer0.rotation", "driver": "wind.value", "way": "steer", "source": ("2", "6")}
        made = apply(made, "link to", **given, steers="by", goal="90", id="led")
        for value, meant in ((2, 20.0), (5, 87.5), (6, 110.0), (8, 155.0)):
            now = apply(made, "set value", parameter="wind.value", value=value)
            self.assertAlmostEqual(float(values(now.scenes[0], "layer0.rotation").ravel()[0]), meant)
        turned = apply(made, "link to", **given, steers="by", goal="90", reverse=True, id="back").scenes[0]
        self.assertEqual(
            [one.id for one in turned.index.parameters["layer0.rotation"].parameter.chain], ["led", "back"]
        )
        with self.assertRaisesRegex(Refused, "put a Shift behind it"):
            apply(made, "link to", **given, goal="9", delay=1)
        with self.assertRaisesRegex(Refused, "Layer 0 / rotation: .*abc"):
            apply(made, "link to", **given, goal="abc")

    def test_the_gauge_or_lever_gone_what_it_led_stays_where_it_is_and_the_rest_plays_on(self) -> None:
        keys = [{"frame": 0, "value": [0, 0]}, {"frame": 50, "value": [40, 90]}]
        base = apply(project(scene({"position": {"keys": keys}})), "add lever", id="l", name="Lean", high=1)
        base = apply(base, "set value", parameter="l.value", value=0.4)
        for steers, goal in (("towards", "10, 20"), ("by", "10, -20"), ("times", "3, 3"), ("times", "3, 0.5")):
            with self.subTest(steers=steers, goal=goal):
                link = {"parameter": "layer0.position", "driver": "l.value", "way": "steer", "id": "led"}
                made = apply(base, "link to", **link, steers=steers, goal=goal)
                made = apply(made, "set value", parameter="led.strength", value=70)
                gone = apply(made, "remove lever", lever="l", frame=0)
                self.assertEqual(list(problems(gone)), [])
                was, now = (values(one.scenes[0], "layer0.position") for one in (made, gone))
                np.testing.assert_allclose(now, was, atol=1e-9)
                self.assertGreater(np.ptp(now), 10)


class AddingUp(unittest.TestCase):
    @settings(max_examples=25, deadline=None)
    @given(st.permutations(["one", "two", "odd", "cloud"]), st.lists(st.integers(-90, 90), min_size=4, max_size=4))
    def test_sums_do_not_depend_on_their_order(self, order: list[str], amounts: list[int]) -> None:
        by = dict(zip(["one", "two", "odd", "cloud"], amounts, strict=True))
        made = apply(row_of(), "add modifier", parameter="a.copy_position", modifier="wave", id="w")
        alone = values(made.scenes[0], "a.copy_position")
        meant = alone + sum(values(made.scenes[0], f"{g}.value") * np.array([n, -n]) for g, n in by.items())
        for gauge in order:
            made = tied(made, gauge, f"{by[gauge]}, {-by[gauge]}", "by")
        np.testing.assert_allclose(values(made.scenes[0], "a.copy_position"), meant, atol=1e-9)
        # The wave is there, and so is each of them; one is taken off and the others stay.
        chain = made.scenes[0].index.parameters["a.copy_position"].parameter.chain
        self.assertEqual([one.id for one in chain], ["w", *(f"by-{gauge}-0" for gauge in order)])

    def test_at_no_strength_it_is_nothing_to_the_bit_and_a_share_is_one_axis_alone(self) -> None:
        made = apply(row_of(), "add modifier", parameter="a.copy_position", modifier="wiggle", id="w", seed=8)
        before = values(made.scenes[0], "a.copy_position")
        made = tied(made, "one", "30, -60", "towards")
        off = apply(made, "set value", parameter="by-one-0.strength", value=0).scenes[0]
        np.testing.assert_array_equal(values(off, "a.copy_position"), before)
        axis = apply(made, "set value", parameter="by-one-0.weights", value=[0, 1]).scenes[0]
        np.testing.assert_array_equal(values(axis, "a.copy_position")[..., 0], before[..., 0])
        self.assertGreater(np.abs(values(axis, "a.copy_position")[..., 1] - before[..., 1]).max(), 1)

    def test_twenty_of_them_on_one_value(self) -> None:
        made = row_of()
        for k in range(20):
            made = tied(made, "one", "2", "by", "a.copy_rotation", f"t{k}")
        g = values(made.scenes[0], "one.value")
        np.testing.assert_allclose(values(made.scenes[0], "a.copy_rotation"), 40 * g, atol=1e-9)
        self.assertEqual(project_file.read(project_file.write(made).encode()), made)


class Older(unittest.TestCase):
    """What was tied by a Between up to the eighth version."""

    def between(self, **more: Any) -> Project:
        links = [
            {"kind": "follow", "id": "tie-f", "driver": "one.value"},
            {"kind": "remap", "id": "tie-r", "from_high": 1},
        ]
        tie = {"kind": "between", "id": "tie", "a": 100, "b": 20, "amount": {"rest": 0, "chain": links}} | more
        data = json.loads(project_file.write(row_of()))
        data["scenes"][0]["layers"][0]["copy_opacity"] = {"rest": 100, "chain": [tie]}
        return project_file.read(json.dumps(data | {"version": 9}).encode())

    def opened(self, of: Project) -> Project:
        data = json.loads(project_file.write(of))
        return project_file.read(json.dumps(data | {"version": 8}).encode())

    def kinds(self, of: Project) -> list[str]:
        return [one.kind for one in of.scenes[0].index.parameters["a.copy_opacity"].parameter.chain]

    def test_it_is_led_over_and_gives_the_same(self) -> None:
        for more in ({}, {"stop": False}, {"strength": 40}, {"b": {"chain": [{"kind": "wave", "id": "wv"}]}}):
            with self.subTest(more):
                was = self.between(**more)
                now = self.opened(was)
                self.assertEqual((self.kinds(was), self.kinds(now)), (["between"], ["steer"]))
                np.testing.assert_allclose(*(values(p.scenes[0], "a.copy_opacity") for p in (now, was)), atol=1e-9)

    def test_what_does_more_than_that_stays_as_it_is(self) -> None:
        later = [{"kind": "follow", "id": "tie-f", "driver": "one.value", "delay": 0.5}]
        for more in ({"a": 90}, {"a": {"keys": [{"frame": 0, "value": 100}]}}, {"amount": {"chain": later}}):
            with self.subTest(more):
                was = self.between(**more)
                self.assertEqual(self.opened(was), was)
        heard = apply(self.between(), "link to", parameter="a.copy_rotation", driver="tie.b", id="hears")
        self.assertEqual(self.opened(heard), heard)
