"""Values that know their ends, and motions that suit what they are put on."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.notes import beyond_ends, notes
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler


def project(**fields: Any) -> Project:
    layer = {"kind": "ellipse", "id": "a", "name": "A", **fields}
    scene = Scene.model_validate({"id": "s", "name": "S", "layers": [layer], "fps": 30, "length": 120})
    return Project.model_validate({"id": "p", "name": "P"}).changed(scenes=(scene,))


def swing(rest: Any, amplitude: float, **more: Any) -> dict[str, Any]:
    return {"rest": rest, "chain": [{"kind": "wave", "id": "w", "amplitude": amplitude, "frequency": 1, **more}]}


def apply(made: Project, kind: str, **fields: Any) -> Project:
    return EDIT.validate_python({"kind": kind, "scene": "s", **fields}).apply(made)


def track(made: Project, parameter: str) -> Any:
    scene = made.scenes[0]
    return Sampler(scene).track(parameter, SampleTimes.frames(scene.fps, 0, scene.length))


class Ends(unittest.TestCase):
    def test_how_much_of_the_time_a_value_lies_beyond_is_told_and_one_press_keeps_it_within(self) -> None:
        for field, ends, rest, amplitude, words in (
            ("opacity", (0, 100), 80, 60, "over 100 %"),
            ("opacity", (0, 100), 50, 90, "under 0 % or over 100 %"),
            ("stroke_width", (0, None), 2, 4, "under 0 px"),
        ):
            with self.subTest(field, rest=rest):
                made = project(**{field: swing(rest, amplitude)})
                note = beyond_ends(Sampler(made.scenes[0]), f"a.{field}")
                assert note is not None
                values = track(made, f"a.{field}")[:, 0]
                low, high = ends[0], np.inf if ends[1] is None else ends[1]
                share = np.mean((values < low - 1e-6) | (values > high + 1e-6)) * 100
                self.assertIn(f"{words} in {share:.0f} % of the frames", note.text)
                (mend,) = note.mends
                for edit in mend.edits:
                    made = EDIT.validate_python(edit).apply(made)
                np.testing.assert_allclose(track(made, f"a.{field}")[:, 0], np.clip(values, low, high), atol=1e-9)
                self.assertIsNone(beyond_ends(Sampler(made.scenes[0]), f"a.{field}"))

    def test_what_stays_within_what_rests_and_what_has_no_ends_tells_nothing(self) -> None:
        for fields, parameter in (
            ({"opacity": swing(50, 20)}, "a.opacity"),
            ({"opacity": 140}, "a.opacity"),
            ({"rotation": swing(0, 900)}, "a.rotation"),
            ({"opacity": swing(50, 200)}, "w.amplitude"),
        ):
            with self.subTest(parameter):
                self.assertIsNone(beyond_ends(Sampler(project(**fields).scenes[0]), parameter))

    def test_a_colour_knows_its_ends_too_and_keeps_what_one_sees_through_it(self) -> None:
        made = apply(project(), "add modifier", parameter="a.fill.colour", modifier="wiggle", id="w", seed=3)
        made = apply(made, "set value", parameter="a.fill.colour", value="#80808080")
        made = apply(made, "set value", parameter="w.amplitude", value=2)
        colours = track(made, "a.fill.colour")
        self.assertGreater(np.ptp(colours[:, 0]), 0.5)
        np.testing.assert_allclose(colours[:, 3], 128 / 255)
        self.assertEqual(made.scenes[0].index.parameters["w.weights"].spec.component_names, ("r", "g", "b", "a"))
        note = beyond_ends(Sampler(made.scenes[0]), "a.fill.colour")
        assert note is not None
        for edit in note.mends[0].edits:
            made = EDIT.validate_python(edit).apply(made)
        limited = track(made, "a.fill.colour")
        np.testing.assert_allclose(limited, np.clip(colours, 0, 1), atol=1e-9)


class Fitted(unittest.TestCase):
    def test_within_begins_at_the_useful_range(self) -> None:
        made = apply(project(opacity=85), "add modifier", parameter="a.opacity", modifier="wiggle", id="w")
        made = apply(made, "set value", parameter="w.mode", value="within")
        values = track(made, "a.opacity")
        self.assertGreaterEqual(values.min(), 0)
        self.assertLessEqual(values.max(), 100)
        self.assertGreater(np.ptp(values), 50)

    def test_what_is_too_quick_for_the_rate_is_told(self) -> None:
        def told(kind: str, **settings: Any) -> str:
            chain = [{"kind": kind, "id": "w", **settings}]
            some = notes(Sampler(project(rotation={"rest": 0, "chain": chain}).scenes[0]), "a.rotation")
            return " ".join(note.text for note in some[0])

        for kind in ("wave", "wiggle"):
            self.assertIn("beyond 15 a second frames miss it", told(kind, frequency=16))
            self.assertEqual(told(kind, frequency=15), "")
        self.assertEqual(told("wiggle", frequency=40, character="jitter"), "")
