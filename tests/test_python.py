"""The interface for Python: the examples of its page, as they stand there, and what they leave out."""

import contextlib
import doctest
import os
import shutil
import tempfile
import unittest
from pathlib import Path

import numpy as np

import jaunty_lever
from jaunty_lever.core.edits import Refused
from jaunty_lever.scripting import OpenProject
from tests.core.scenes import project, scene

ROOT = Path(__file__).parent.parent
SAMPLE = ROOT / "jaunty_lever/demo/lantern-quay.lever.json"


class InFolder(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.addCleanup(os.chdir, os.getcwd())
        os.chdir(self.folder)
        shutil.copy(SAMPLE, self.folder)

    def test_the_examples_of_its_page(self) -> None:
        text = (ROOT / "docs/python.md").read_text(encoding="utf-8")
        test = doctest.DocTestParser().get_doctest(text, {}, "docs/python.md", None, 0)
        runner = doctest.DocTestRunner(optionflags=doctest.ELLIPSIS)
        said: list[str] = []
        runner.run(test, out=said.append)
        self.assertGreater(runner.tries, 20)
        self.assertEqual(runner.failures, 0, "".join(said))

    def test_a_table_comes_in_and_gets_other_rows_by_its_name(self) -> None:
        project = jaunty_lever.open("lantern-quay.lever.json")
        ships = self.folder / "ships.csv"
        ships.write_text("Ship;Length\nGull;9,5\n")
        self.assertEqual(project.bring_in_table(ships)[0], "Its values are separated by semicolons")
        self.assertEqual(project.tables["ships"], [{"Ship": "Gull", "Length": "9,5"}])
        ships.write_text("Ship,Length\nTern,7\nSkua,8\n")
        self.assertEqual(project.bring_in_table(ships)[0], "1 rows become 2")
        self.assertEqual([row["Ship"] for row in project.tables["ships"]], ["Tern", "Skua"])
        self.assertEqual(len(project.tables), 3)

    def test_an_export_that_fails_leaves_nothing(self) -> None:
        quay = jaunty_lever.open("lantern-quay.lever.json")["evening-quay"]
        for wrong in ({"size": 90}, {"colour": "red"}):
            with self.assertRaises(Refused):
                quay.export("mp4", "film.mp4", stop=1, **wrong)
        with self.assertRaises(OSError):
            quay.export("mp4", "nowhere/film.mp4", stop=1)
        with contextlib.suppress(Refused):
            quay.export("film", "film.mp4")
        self.assertEqual([path.name for path in self.folder.iterdir()], ["lantern-quay.lever.json"])


class Values(unittest.TestCase):
    def test_keys_components_and_texts(self) -> None:
        title = {
            "kind": "text",
            "id": "title",
            "name": "Title",
            "text": {"keys": [{"frame": 0, "value": "one"}, {"frame": 5, "value": "two"}]},
        }
        opened = OpenProject(project(scene({"position": (10, 20)}, title)))
        one = opened["Test"]
        self.assertEqual(one["Title/text"].texts([0, 4.9, 5]), ["one", "one", "two"])
        with self.assertRaises(TypeError):
            one["Title/text"].sample()
        one["Layer 0/position.y"].set(7)
        np.testing.assert_array_equal(one["Layer 0/position"].sample(3), [[10, 7]])
        one["Layer 0/rotation"].set(0, frame=0)
        one["Layer 0/rotation"].set(90, frame=10)
        self.assertEqual(float(one["Layer 0/rotation"].sample(10)[0, 0]), 90)
        with self.assertRaises(KeyError) as caught:
            one["Layer 0/rotaton"]
        self.assertIn("Did you mean", str(caught.exception))
        with self.assertRaises(KeyError):
            opened["Nowhere"]

    def test_formulas_are_set_as_fields_take_them(self) -> None:
        opened = OpenProject(project(scene({"position": (10, 20)})))
        one = opened["Test"]
        one["Layer 0/rotation"].set("= 20 * t")
        np.testing.assert_allclose(one["Layer 0/rotation"].sample([0, 30])[:, 0], [0, 20])
        with self.assertRaisesRegex(Refused, "write \\(x, y\\)"):
            one["Layer 0/position.x"].set("= 3")

    def test_whatever_does_not_fit_is_refused(self) -> None:
        opened = OpenProject(project(scene({})))
        font = {"id": "font-1", "name": "False", "data": "AAAA"}
        for edit in (
            {"kind": "nonsense"},
            {"kind": "set value", "scene": "s"},
            {"kind": "set value", "scene": "s", "parameter": "layer0.rotation", "value": "ten"},
            {"kind": "add font", "font": font},
        ):
            with self.assertRaises(Refused):
                opened.apply(**edit)

    def test_values_of_sparks_have_a_row_for_each_spark(self) -> None:
        dot = {"kind": "ellipse", "id": "d", "name": "D"}
        throw = {"kind": "emitter", "rate": 3, "lifetime": 0.5, "speed": 60, "direction": 90}
        array = {"kind": "array", "id": "a", "name": "Sparks", "arrangement": throw, "layers": [dot]}
        opened = OpenProject(project(scene(array, length=60)))
        value = opened["Test"]["Sparks/copy scale"]
        made, (numbers, births) = value.sample(), value.sparks()
        self.assertEqual(made.shape, (len(numbers), 60, 2))
        np.testing.assert_array_equal(numbers, np.arange(6))
        np.testing.assert_allclose(births, np.arange(6) / 3, atol=1e-9)
        t = np.arange(60) / 30
        alive = (t >= births[:, None] - 1e-9) & (t < births[:, None] + 0.5 - 1e-9)
        np.testing.assert_array_equal(np.isfinite(made[..., 0]), alive)
        with self.assertRaises(TypeError):
            opened["Test"]["Sparks/rotation"].sparks()
