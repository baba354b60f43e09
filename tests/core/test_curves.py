"""Curves over a passage: drawn at one go, kept by name in the project, and in its file."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jaunty_lever.core.document.curves import MOST_CURVES, READY
from jaunty_lever.core.document.keys import EASES
from jaunty_lever.core.document.line_style import LineStyle
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.document.specs import specs_of
from jaunty_lever.core.edits.base import Gone, Refused
from jaunty_lever.core.motion.easing import profile_of
from jaunty_lever.core.soundness.gate import problems
from jaunty_lever.formats import project_file

from .scenes import EDIT, apply, project, scene

SPEC = specs_of(LineStyle)["profile"]
PLACES = st.lists(st.integers(0, 1000), min_size=1, max_size=12, unique=True).map(sorted)


def lined() -> Any:
    return project(scene({"line": {}}, {"line": {}}))


def points(*of: tuple[float, float]) -> list[dict[str, Any]]:
    return [{"frame": at, "value": value, "ease": "linear"} for at, value in of]


def put(whole: Project, kind: str, **fields: Any) -> Project:
    """The project after an edit that is of no scene."""
    return EDIT.validate_python({"kind": kind, **fields}).apply(whole)


class Drawn(unittest.TestCase):
    @given(PLACES, st.data())
    def test_it_passes_through_all_its_points_and_comes_in_again_from_its_file(self, at: list[int], data: Any) -> None:
        values = [data.draw(st.integers(-300, 300)) / 100 for _ in at]
        made = apply(
            lined(),
            "draw curve",
            parameter="layer0.line.profile",
            points=points(*((a / 10, v) for a, v in zip(at, values, strict=True))),
        )
        own = made.scenes[0].layers[0].line.profile
        np.testing.assert_allclose(profile_of(own, SPEC)(np.array(at) / 1000), values, atol=1e-9)
        kept = put(made, "keep curve", name="Reed", points=[one.model_dump() for one in own.keys])
        self.assertEqual(project_file.read(project_file.write(kept)), kept)
        again = apply(kept, "draw curve", parameter="layer1.line.profile", points=list(kept.curves[0].points))
        self.assertEqual(again.scenes[0].layers[1].line.profile.keys, own.keys)

    def test_what_is_no_curve_is_refused_in_words(self) -> None:
        for wrong, words in (
            (points((0, 0), (101, 1)), "101 %"),
            (points((50, 0), (50, 1)), "two points stand at 50 %"),
            (points((60, 0), (50, 1)), "two points stand at 50 %, or one stands before"),
            ([{"frame": 0, "value": "red"}], "no number"),
        ):
            with self.assertRaisesRegex(ValueError, words):
                apply(lined(), "draw curve", parameter="layer0.line.profile", points=wrong)
        with self.assertRaisesRegex(Refused, "plays no curve"):
            apply(lined(), "draw curve", parameter="layer0.opacity", points=points((0, 1)))


class Kept(unittest.TestCase):
    def test_by_a_name_of_its_own_or_in_place_of_one_of_the_same_name(self) -> None:
        made = put(lined(), "keep curve", id="a", name="Reed", points=points((0, 0), (100, 1)))
        made = put(made, "keep curve", name="Reed", points=points((0, 1)))
        self.assertEqual([one.name for one in made.curves], ["Reed", "Reed 2"])
        made = put(made, "keep curve", name="Reed", points=points((0, 0.5)), replace=True)
        self.assertEqual([(one.name, len(one.points)) for one in made.curves], [("Reed", 1), ("Reed 2", 1)])
        made = put(made, "remove curve", curve="a")
        self.assertEqual([one.name for one in made.curves], ["Reed 2"])
        with self.assertRaises(Gone):
            put(made, "remove curve", curve="a")
        with self.assertRaisesRegex(Refused, "taken already"):
            put(made, "keep curve", id=made.curves[0].id, name="Other", points=points((0, 1)))

    def test_there_is_a_most(self) -> None:
        many = tuple(READY[0].changed(id=f"c{k}", name=f"C {k}") for k in range(MOST_CURVES + 1))
        self.assertEqual(list(problems(lined().changed(curves=many[:-1]))), [])
        self.assertIn("at most 100 curves", next(one.text for one in problems(lined().changed(curves=many))))
        twice = lined().changed(curves=(many[0], many[0]))
        self.assertIn("stands 2 times", next(one.text for one in problems(twice)))

    def test_what_there_is_to_begin_with_lies_where_its_points_do(self) -> None:
        for one in READY:
            self.assertTrue({point.ease for point in one.points} <= {"hold", *EASES})
            made = apply(lined(), "draw curve", parameter="layer0.line.profile", points=list(one.points))
            at = np.array([point.frame for point in one.points]) / 100
            heights = [point.value for point in one.points]
            np.testing.assert_allclose(profile_of(made.scenes[0].layers[0].line.profile, SPEC)(at), heights, atol=1e-9)
