"""What is new lies where one looks, and Reset leads back to that."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.display.extent import reach
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.extent import extent_of
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler


def dot(k: int, x: float, y: float, **fields: Any) -> dict[str, Any]:
    return {"kind": "ellipse", "id": f"d{k}", "name": f"D{k}", "position": [x, y], "size": [40, 20], **fields}


def project(*layers: dict[str, Any]) -> Project:
    scene = Scene.model_validate({"id": "s", "name": "S", "layers": layers, "width": 800, "height": 600})
    return Project.model_validate({"id": "p", "name": "P"}).changed(scenes=(scene,))


def apply(made: Project, kind: str, **fields: Any) -> Project:
    return EDIT.validate_python({"kind": kind, "scene": "s", **fields}).apply(made)


def box(made: Project, layer: str) -> tuple[float, ...]:
    found = extent_of(Sampler(made.scenes[0]), [layer], SampleTimes(np.zeros(1)))
    assert found is not None
    return found


def seen(made: Project) -> list[Any]:
    scene = made.scenes[0]
    return [reach(node) for node in display_list(Sampler(scene), SampleTimes.frames(30, 0, 3)).nodes]


class Groups(unittest.TestCase):
    def test_a_group_turns_about_the_middle_of_what_is_in_it_and_moves_nothing(self) -> None:
        old = project(dot(1, 100, 100), dot(2, 300, 200, rotation=30))
        made = apply(old, "group layers", layers=["d1", "d2"], id="g")
        for layer in ("d1", "d2"):
            np.testing.assert_allclose(box(made, layer), box(old, layer))
            self.assertEqual(made.scenes[0].index.layers[layer], old.scenes[0].index.layers[layer])
        group = made.scenes[0].index.layers["g"]
        left, top, right, bottom = box(made, "g")
        np.testing.assert_allclose(group.position.rest, ((left + right) / 2, (top + bottom) / 2), atol=1e-3)
        self.assertEqual(group.position.rest, group.pivot.rest)
        # In a group that is turned and scaled too.
        around = {"kind": "group", "id": "o", "name": "O", "rotation": 40, "scale": [50, 80], "position": [90, 9]}
        deep = project({**around, "layers": [dot(1, 100, 100), dot(2, 300, 200)]})
        made = apply(deep, "group layers", layers=["d1", "d2"], id="g")
        np.testing.assert_allclose(box(made, "d1"), box(deep, "d1"))
        turned = apply(made, "set value", parameter="g.rotation", value=180)
        # Half a turn about the middle: the same place is covered.
        np.testing.assert_allclose(box(turned, "g"), box(made, "g"), atol=6)

    def test_what_is_added_to_a_group_lies_in_the_middle_of_it(self) -> None:
        made = apply(project(dot(1, 100, 100), dot(2, 300, 200)), "group layers", layers=["d1", "d2"], id="g")
        left, top, right, bottom = box(made, "g")
        made = apply(made, "add layer", layer="ellipse", id="new", parent="g")
        found = box(made, "new")
        self.assertAlmostEqual((found[0] + found[2]) / 2, (left + right) / 2, 2)
        self.assertAlmostEqual((found[1] + found[3]) / 2, (top + bottom) / 2, 2)
        empty = apply(project(), "add layer", layer="group", id="g")
        one = apply(empty, "add layer", layer="ellipse", id="new", parent="g")
        found = box(one, "new")
        self.assertEqual(((found[0] + found[2]) / 2, (found[1] + found[3]) / 2), (400, 300))


class Reset(unittest.TestCase):
    def test_reset_is_what_a_new_one_has(self) -> None:
        for kind, field in (
            ("ellipse", "position"),
            ("texture", "size"),
            ("texture", "position"),
            ("block", "tilt"),
            ("light", "depth"),
            ("camera", "aim"),
            ("text", "text"),
            ("star", "outer"),
        ):
            with self.subTest(kind, field=field):
                made = apply(project(), "add layer", layer=kind, id="n")
                new = getattr(made.scenes[0].index.layers["n"], field).rest
                value: Any = "Ahoy" if kind == "text" else [5, 6] if isinstance(new, tuple) else 7
                made = apply(made, "set value", parameter=f"n.{field}", value=value)
                self.assertNotEqual(getattr(made.scenes[0].index.layers["n"], field).rest, new)
                made = apply(made, "reset value", parameter=f"n.{field}")
                self.assertEqual(getattr(made.scenes[0].index.layers["n"], field).rest, new)

    def test_a_texture_and_a_row_are_as_large_as_the_stage(self) -> None:
        fog = apply(project(), "add layer", layer="texture", id="f")
        self.assertEqual(box(fog, "f"), (0, 0, 800, 600))
        row = apply(project(dot(1, 400, 300)), "repeat layers", layers=["d1"], id="a")
        left, _, right, _ = box(row, "a")
        self.assertAlmostEqual(right - left, 0.92 * 800, delta=5)
        np.testing.assert_allclose((left + right) / 2, 400, atol=3)

    def test_blocks_stand_straight_on_a_ground_whichever_came_first(self) -> None:
        made = apply(project(), "add layer", layer="block", id="b")
        self.assertEqual(made.scenes[0].index.layers["b"].tilt.rest, (-24, 32))
        made = apply(made, "repeat layers", layers=["b"], id="a")
        made = apply(made, "add layer", layer="block", id="own", parent="a")
        made = apply(made, "set value", parameter="own.tilt", value=[5, 6])
        made = apply(made, "set arrangement", array="a", arrangement="ground")
        made = apply(made, "add layer", layer="block", id="later", parent="a")
        tilts = [made.scenes[0].index.layers[one].tilt.rest for one in ("b", "own", "later")]
        self.assertEqual(tilts, [(0, 0), (5, 6), (0, 0)])

    def test_words_of_a_new_text_are_its_kind_and_older_files_keep_theirs(self) -> None:
        made = apply(project(), "add layer", layer="text", id="n")
        self.assertEqual(made.scenes[0].index.layers["n"].text.rest, "Text")
