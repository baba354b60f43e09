"""Follow, links and circles."""

import unittest

import numpy as np

from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from tests.core.scenes import apply, project, scene


def linked(**follow: object):  # type: ignore[no-untyped-def]
    keys = [{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 300, "value": 10}]
    lever = {"id": "lever", "name": "Wind", "high": 10, "value": {"keys": keys}}
    chain = [{"kind": "follow", "id": "f", "driver": "lever.value", **follow}]
    return scene({"rotation": {"rest": 5, "chain": chain}, "position": [3, 4]}, {"rotation": 1}, levers=(lever,))


class Following(unittest.TestCase):
    def value(self, **follow: object) -> float:
        return float(Sampler(linked(**follow)).sample("layer0.rotation", 3.0)[0])

    def test_times_plus_delay_speed_and_blend(self) -> None:
        self.assertAlmostEqual(self.value(), 3)
        self.assertAlmostEqual(self.value(times=-2, plus=1), -5)
        self.assertAlmostEqual(self.value(delay=1.5), 1.5)
        self.assertAlmostEqual(self.value(delay=1, speed=2), 5)
        self.assertAlmostEqual(self.value(blend="add"), 8)
        self.assertAlmostEqual(self.value(blend="multiply"), 15)
        self.assertAlmostEqual(self.value(strength=50), 4)

    def test_a_component_can_drive(self) -> None:
        one = linked(driver="layer0.position", component=1)
        self.assertEqual(Sampler(one).sample("layer0.rotation", 1.0)[0], 4)

    def test_a_circle_is_refused_and_named_even_with_a_delay(self) -> None:
        made = project(scene({}, {}, {}))
        made = apply(made, "link to", parameter="layer1.rotation", driver="layer0.rotation", delay=0.5)
        made = apply(made, "link to", parameter="layer2.rotation", driver="layer1.rotation")
        with self.assertRaises(Refused) as refused:
            apply(made, "link to", parameter="layer0.rotation", driver="layer2.rotation")
        for name in ("Layer 0 / rotation", "Layer 1 / rotation", "Layer 2 / rotation"):
            self.assertIn(name, refused.exception.message)

    def test_a_value_cannot_drive_its_own_modifiers_settings(self) -> None:
        made = apply(project(), "add modifier", parameter="layer0.rotation", modifier="wiggle", id="w")
        with self.assertRaises(Refused):
            apply(made, "link to", parameter="w.amplitude", driver="layer0.rotation")

    def test_kinds_that_do_not_fit_are_refused(self) -> None:
        for parameter, driver in (("layer0.rotation", "layer0.fill.colour"), ("layer0.rotation", "layer0.position")):
            with self.assertRaises(Refused):
                apply(project(), "link to", parameter=parameter, driver=driver)

    def test_a_lever_recomputes_only_what_it_drives(self) -> None:
        chain = [{"kind": "wiggle", "id": "w"}]
        follow = [{"kind": "follow", "id": "f", "driver": "lever.value"}]
        lever = {"id": "lever", "name": "Wind"}
        one = scene({"rotation": {"chain": chain}, "opacity": {"chain": follow}}, levers=(lever,))
        cache, samples = Cache(), SampleTimes.frames(30, 0, 300)
        for parameter in one.index.parameters:
            Sampler(one, cache).track(parameter, samples)
        moved = apply(project(one), "set value", parameter="lever.value", value=7).scenes[0]
        again = Sampler(moved, cache)
        for parameter in moved.index.parameters:
            again.track(parameter, samples)
        self.assertEqual(again.computed, {"layer0.opacity"})
        self.assertEqual(again.sample("layer0.opacity", 0.0)[0], 7)


class Windows(unittest.TestCase):
    def test_fades_lie_inside_and_windows_may_overlap(self) -> None:
        windows = [
            {"start": 30, "end": 60, "fade_in": 10, "fade_out": 0},
            {"start": 90, "end": 120},
            {"start": 110, "end": 150, "fade_out": 20},
        ]
        chain = [{"kind": "follow", "id": "f", "driver": "lever.value", "windows": windows}]
        one = scene({"rotation": {"rest": 0, "chain": chain}}, levers=({"id": "lever", "name": "A", "value": 1},))
        frames = np.array([29.9, 30, 35, 40, 60, 60.1, 100, 115, 130, 140, 150, 151])
        shares = Sampler(one).sample("layer0.rotation", frames / 30)[:, 0]
        np.testing.assert_allclose(shares, [0, 0, 0.5, 1, 1, 0, 1, 1, 1, 0.5, 0, 0], atol=1e-9)
