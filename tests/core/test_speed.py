"""How fast a value moves: in formulas, and as a way to follow."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.formula.compile import Mistake
from jaunty_lever.core.formula.names import mistake_in, shown
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene

FRAMES = SampleTimes(np.arange(90) / 30)


def values(of: Scene, parameter: str) -> Any:
    sampler = Sampler(of)
    return sampler.evaluate(parameter, inside(sampler, parameter, FRAMES))


def boat() -> Any:
    """A boat that goes 60 px right and 80 px down each second for two seconds and then rests; a wheel that turns."""
    keys = [{"frame": 0, "value": [0, 0], "ease": "linear"}, {"frame": 60, "value": [120, 160]}]
    wheel = {"rest": 0, "chain": [{"kind": "rate", "id": "r", "rate": -90}]}
    return project(scene({"position": {"keys": keys}, "rotation": wheel}, {"rotation": 0}))


class InFormulas(unittest.TestCase):
    def written(self, text: str) -> Any:
        made = apply(boat(), "write formula", parameter="layer1.rotation", text=text, id="f")
        return made, values(made.scenes[0], "layer1.rotation").ravel()

    def test_of_a_vector_of_a_component_and_of_an_angle(self) -> None:
        for text, fast, rests in (
            ("speed(layer_0.position)", 100, 0),
            ("speed(layer_0.position.x)", 60, 0),
            ("speed(layer_0.rotation)", 90, 90),
            ("2 * speed(layer_0.position.y) + 1", 161, 1),
        ):
            with self.subTest(text=text):
                made, seen = self.written(text)
                np.testing.assert_allclose(seen[2:58], fast, atol=1e-6)
                np.testing.assert_allclose(seen[62:], rests, atol=1e-6)
                index = made.scenes[0].index
                stored = index.parameters["layer1.rotation"].parameter.chain[0].text
                self.assertIn("speed(", shown(stored, index).replace(" ", ""))
                self.assertEqual(project_file.read(project_file.write(made).encode()), made)

    def test_a_wave_is_fastest_where_it_passes_its_middle(self) -> None:
        wave = {"rest": 0, "chain": [{"kind": "wave", "id": "w", "amplitude": 30, "frequency": 0.5}]}
        made = project(scene({"rotation": wave}, {"rotation": 0}))
        made = apply(made, "write formula", parameter="layer1.rotation", text="speed(layer_0.rotation)", id="f")
        seen = values(made.scenes[0], "layer1.rotation").ravel()
        t = np.arange(90) / 30
        # A fifth of a frame tells the slope within a ten-thousandth of the greatest.
        np.testing.assert_allclose(seen, np.abs(30 * np.pi * np.cos(np.pi * t)), atol=30 * np.pi * 1e-4)

    def test_what_it_cannot_be_of_is_said(self) -> None:
        one = boat().scenes[0]
        spec = one.index.parameters["layer1.rotation"].spec
        for text, words in (
            ("speed(3)", "takes a value or a lever"),
            ("speed()", "takes one value"),
            ("speed(layer_0.stroke)", "no number that moves"),
        ):
            found = mistake_in(text, spec, one.index, lambda _: None)
            self.assertIsInstance(found, Mistake)
            self.assertIn(words, str(found))

    def test_what_it_was_of_is_deleted_and_moves_no_more(self) -> None:
        for text in ("3 + speed(layer_0.position.x)", "3 + speed(layer_0.rotation)"):
            made, _ = self.written(text)
            left = apply(made, "remove layers", layers=["layer0"], frame=20).scenes[0]
            sampler = Sampler(left)
            np.testing.assert_array_equal(sampler.track("layer1.rotation", FRAMES), 3)
            self.assertEqual(dict(sampler.faults), {})

    def test_a_step_may_have_its_name(self) -> None:
        _, seen = self.written("speed = 4\nspeed * 2")
        np.testing.assert_array_equal(seen, 8)


class Followed(unittest.TestCase):
    def test_each_copy_glows_by_how_fast_it_moves_itself(self) -> None:
        made = apply(project(scene({"opacity": 100})), "repeat layers", layers=["layer0"], id="a", count=5)
        made = apply(made, "add modifier", parameter="a.copy_position", modifier="wave", id="w")
        made = apply(made, "set value", parameter="w.along", value=1.5)
        link = {"parameter": "a.copy_opacity", "driver": "a.copy_position", "component": 0, "way": "how fast"}
        ends = {"source": ("0", "40"), "target": ("10", "90"), "ends": "stop", "whole": True}
        made = apply(made, "link to", **link, **ends, id="l")
        place = values(made.scenes[0], "a.copy_position")
        seen = values(made.scenes[0], "a.copy_opacity")[..., 0]
        fast = np.linalg.norm(np.gradient(place, 1 / 30, axis=1), axis=-1)
        meant = 10 + np.clip(fast / 40, 0, 1) * 80
        np.testing.assert_allclose(seen[:, 2:-2], meant[:, 2:-2], atol=2.0)
        self.assertGreater(np.ptp(seen[:, 10]), 5)

    def test_a_vector_takes_it_for_all_its_components(self) -> None:
        link = {"parameter": "layer1.position", "driver": "layer0.rotation", "way": "how fast", "id": "l"}
        made = apply(boat(), "link to", **link, source=("0", "90"), target=("5", "25"))
        np.testing.assert_allclose(values(made.scenes[0], "layer1.position")[..., 2:60, :], 25, atol=1e-6)

    def test_what_stands_still_is_refused(self) -> None:
        made = apply(project(scene({"opacity": 100})), "repeat layers", layers=["layer0"], id="a", count=5)
        with self.assertRaisesRegex(Refused, "stands still"):
            link = {"parameter": "a.copy_opacity", "driver": "element.u", "way": "how fast", "id": "l"}
            apply(made, "link to", **link, source=("0", "1"), target=("0", "1"))
