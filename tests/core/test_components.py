"""Formulas and ties of one component of a value, which leave the others alone."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.ties import deciding


def project() -> Project:
    layers = [
        {"kind": "ellipse", "id": name, "name": name, "position": [10 * k, 7], "rotation": 30 * k}
        for k, name in enumerate("abc", 1)
    ]
    scene = Scene.model_validate({"id": "s", "name": "S", "layers": layers, "fps": 10, "length": 20})
    return Project.model_validate({"id": "p", "name": "P"}).changed(scenes=(scene,))


def after(made: Project, *edits: dict[str, Any]) -> Project:
    for edit in edits:
        made = EDIT.validate_python({"scene": "s", **edit}).apply(made)
    return made


def values(made: Project, parameter: str = "a.position", frame: int = 5) -> list[float]:
    scene = made.scenes[0]
    return [float(v) for v in Sampler(scene).track(parameter, SampleTimes.frames(scene.fps, frame, frame + 1))[0]]


class Formulas(unittest.TestCase):
    def write(self, text: str, component: int | None = None, **more: Any) -> dict[str, Any]:
        return {"kind": "write formula", "parameter": "a.position", "text": text, "component": component, **more}

    def test_in_one_component_it_moves_that_alone_and_in_the_whole_all(self) -> None:
        made = after(project(), self.write("100 * t", 0, id="x"))
        np.testing.assert_allclose(values(made), [50, 7])
        # The other one gets a formula of its own, and the first is found again.
        made = after(made, self.write("= 20 * t", 1, id="y"), self.write("200 * t", 0))
        np.testing.assert_allclose(values(made), [100, 10])
        self.assertEqual([one.id for one in made.scenes[0].layers[0].position.chain], ["x", "y"])
        whole = after(project(), self.write("100 * t"))
        np.testing.assert_allclose(values(whole), [50, 50])
        # One component's formula stands behind that of the whole, which goes on for the other.
        np.testing.assert_allclose(values(after(whole, self.write("3", 1))), [50, 3])

    def test_who_drives_is_told_of_each_component(self) -> None:
        made = after(project(), self.write("100 * t", 0))
        index = made.scenes[0].index
        node = index.parameters["a.position"]
        self.assertIsNone(deciding(index, node))
        self.assertIsNone(deciding(index, node, 1))
        tie = deciding(index, node, 0)
        assert tie is not None
        self.assertTrue(tie.written)


class Ties(unittest.TestCase):
    def link(self, driver: str, axis: int | None, **more: Any) -> dict[str, Any]:
        return {"kind": "link to", "parameter": "a.position", "driver": driver, "axis": axis, **more}

    def test_a_tie_of_one_component_leaves_that_of_the_other(self) -> None:
        made = after(
            project(),
            self.link("b.rotation", 0, way="ratio", ratio="2"),
            self.link("c.rotation", 1, way="ratio", ratio="3"),
        )
        np.testing.assert_allclose(values(made), [120, 270])
        # A new one of the first takes the place of the first alone.
        again = after(made, self.link("c.rotation", 0, way="ratio", ratio="1"))
        np.testing.assert_allclose(values(again), [90, 270])
        self.assertEqual(len(again.scenes[0].layers[0].position.chain), 2)
        # One of all takes the place of both.
        whole = after(made, self.link("b.position", None))
        self.assertEqual(len(whole.scenes[0].layers[0].position.chain), 1)
        # And what drives all goes on driving the other when one gets a tie of its own.
        np.testing.assert_allclose(values(after(whole, self.link("c.rotation", 0, way="ratio", ratio="1"))), [90, 7])

    def test_cut_free_a_component_stays_where_it_is_and_the_other_goes_on(self) -> None:
        made = after(
            project(),
            self.link("b.rotation", 0, way="ratio", ratio="2", id="first"),
            self.link("c.rotation", 1, way="ratio", ratio="3", id="second"),
            {"kind": "unlink", "modifier": "first"},
            {"kind": "set value", "parameter": "c.rotation", "value": 10},
        )
        np.testing.assert_allclose(values(made), [120, 30])
        self.assertEqual([one.id for one in made.scenes[0].layers[0].position.chain], ["second"])

    def test_a_follow_that_is_taken_out_takes_its_remap_along(self) -> None:
        link = {"kind": "link to", "parameter": "a.opacity", "driver": "b.rotation", "way": "remap", "id": "f"}
        made = after(project(), {**link, "source": ["0", "90"], "target": ["0", "100"]})
        self.assertEqual([one.kind for one in made.scenes[0].layers[0].opacity.chain], ["follow", "remap"])
        edit = EDIT.validate_python({"kind": "remove modifier", "scene": "s", "modifier": "f"})
        self.assertIn("Follow and its Remap removed", edit.label(made))
        self.assertEqual(edit.apply(made).scenes[0].layers[0].opacity.chain, ())
