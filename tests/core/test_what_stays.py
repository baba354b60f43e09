"""What stays as it is seen: what listened to something that is deleted, and layers whose pivot is moved."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.checks.formulas import mistakes
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.edits.deleting import left_behind
from jaunty_lever.core.evaluation.placing import world_matrix
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.replacing import replaced
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene

AT = 20


def at(one: Project, parameter: str, frame: float = AT) -> list[float]:
    sampler = Sampler(one.scenes[0])
    return [float(v) for v in sampler.track(parameter, SampleTimes(np.array([frame / 30])))[0]]


def rig() -> Project:
    """A lever that moves, a layer that turns, an array with a sweep; and formulas and links to all of them."""
    wave = {"kind": "wave", "id": "wave1", "amplitude": 7, "frequency": 0.4}
    levers = (
        {"id": "wind", "name": "Wind", "kind": "number", "value": {"rest": 12, "chain": [wave]}},
        {"id": "gust", "name": "Gust", "kind": "percentage", "value": 30},
        {"id": "mood", "name": "Mood", "kind": "choice", "options": ["calm", "wild"], "value": "wild"},
        {"id": "tint", "name": "Tint", "kind": "colour", "value": "#336699"},
        {"id": "lit", "name": "Lit", "kind": "switch", "value": True},
    )
    turn = {"rest": 3, "chain": [{"kind": "rate", "id": "rate1", "rate": 20}]}
    sweep = {"kind": "sweep", "id": "front", "name": "Front"}
    array = {
        "kind": "array",
        "id": "row",
        "name": "Line",
        "arrangement": {"kind": "row", "count": 3},
        "gauges": [sweep],
        "layers": [{"kind": "ellipse", "id": "bead", "name": "Bead"}],
    }
    dot = {"kind": "ellipse", "id": "dot", "name": "Dot", "rotation": turn, "position": [30, -40]}
    one = project(scene({}, {}, dot, array, levers=levers))
    for parameter, text in (
        ("layer0.rotation", "$Wind * 2 + base"),
        ("layer0.opacity", "clamp($Gust + 5%, 0%, 100%)"),
        ("layer0.scale", 'if $Mood == "wild" then (50, 60) else (1, 1)'),
        ("layer0.fill.colour", "mix($Tint, #ffffff, 0.25)"),
        ("layer0.position", "(Dot.position.x + 1, Dot.rotation @ (t - 0.1))"),
        ("layer1.rotation", "if $Lit then mean(Line.copy_rotation) + 4 else 9"),
        ("layer1.position", "Dot.position * 2"),
        ("bead.opacity", "100% * (1 - Line.Front)"),
    ):
        one = apply(one, "write formula", parameter=parameter, text=text)
    one = apply(one, "link to", parameter="layer1.opacity", driver="gust.value")
    assert not list(mistakes(one.scenes[0])), [wrong.mistake.message for wrong in mistakes(one.scenes[0])]
    return one


class Deleted(unittest.TestCase):
    def test_formulas_keep_the_number_of_the_playhead(self) -> None:
        for edit, listening in (
            ({"kind": "remove lever", "lever": "wind"}, ("layer0.rotation",)),
            ({"kind": "remove lever", "lever": "gust"}, ("layer0.opacity", "layer1.opacity")),
            ({"kind": "remove lever", "lever": "mood"}, ("layer0.scale",)),
            ({"kind": "remove lever", "lever": "tint"}, ("layer0.fill.colour",)),
            ({"kind": "remove lever", "lever": "lit"}, ("layer1.rotation",)),
            ({"kind": "remove layers", "layers": ["row"]}, ("layer1.rotation",)),
            ({"kind": "remove gauge", "gauge": "front"}, ("bead.opacity",)),
        ):
            with self.subTest(edit):
                one = rig()
                edit = {"scene": "s", "frame": AT, **edit}
                told = left_behind(one, EDIT.validate_python(edit), AT)
                self.assertEqual({left.parameter for left in told}, set(listening))
                after = EDIT.validate_python(edit).apply(one)
                for parameter in listening:
                    np.testing.assert_allclose(at(after, parameter), at(one, parameter), atol=1e-5, err_msg=parameter)
                self.assertEqual(list(mistakes(after.scenes[0])), [])
                self.assertEqual(project_file.read(project_file.write(after).encode()), after)

    def test_a_value_at_another_time_stands_still(self) -> None:
        one = rig()
        after = apply(one, "remove layers", layers=["dot"], frame=AT)
        before = at(one, "dot.rotation")[0]
        np.testing.assert_allclose(at(after, "layer0.position"), [31, before], atol=1e-5)
        np.testing.assert_allclose(at(after, "layer1.position", 200), [60, -80])
        self.assertEqual(list(mistakes(after.scenes[0])), [])

    def test_settings_of_a_modifier_that_is_removed(self) -> None:
        one = apply(rig(), "link to", parameter="layer1.rotation", driver="wave1.amplitude")
        one = apply(one, "write formula", parameter="layer1.scale", text="Wind.Wave.amplitude * (1, 2)")
        self.assertEqual(list(mistakes(one.scenes[0])), [])
        for edit in (
            {"kind": "remove modifier", "modifier": "wave1"},
            {"kind": "clear chain", "parameter": "wind.value"},
        ):
            whole = EDIT.validate_python({"scene": "s", "frame": AT, **edit})
            told = {left.parameter: left.becomes for left in left_behind(one, whole, AT)}
            self.assertIn("layer1.scale", told)
            after = whole.apply(one)
            self.assertEqual(at(after, "layer1.scale"), [7, 14])
            self.assertEqual(at(after, "layer1.rotation"), at(one, "layer1.rotation"))
            self.assertEqual(list(mistakes(after.scenes[0])), [])

    def test_settings_far_inside_a_gauge_and_of_what_it_pushed(self) -> None:
        one = apply(rig(), "add gauge", array="row", gauge="zone", id="z", name="Lamp")
        one = apply(one, "add modifier", parameter="row.copy_position", modifier="push", id="p")
        one = apply(one, "add modifier", parameter="z.size", modifier="wave", id="w")
        one = apply(one, "add modifier", parameter="w.frequency", modifier="adjust", id="a")
        for parameter, driver in (("row.copy_rotation", "p.force"), ("row.copy_opacity", "a.times")):
            one = apply(one, "link to", parameter=parameter, driver=driver)
        self.assertEqual(list(mistakes(one.scenes[0])), [])
        after = apply(one, "remove gauge", gauge="z", frame=AT)
        for parameter in ("row.copy_rotation", "row.copy_opacity"):
            self.assertEqual(at(after, parameter), at(one, parameter))
            heard = after.scenes[0].index.parameters[parameter].parameter
            self.assertFalse(any(step.linked for step in heard.chain), parameter)
        self.assertNotIn("p", after.scenes[0].index.modifiers)

    def test_nothing_listens(self) -> None:
        one = project(scene({}, {}))
        edit = EDIT.validate_python({"kind": "remove layers", "scene": "s", "layers": ["layer1"]})
        self.assertEqual(left_behind(one, edit, 0), [])

    def test_texts_that_cannot_be_read_keep_their_shape(self) -> None:
        def written(reference: str) -> Any:
            return "5" if reference == "a.b" else None

        for old, new in (
            ("$<a.b> +", "5 +"),
            ("$<a.b>.x + $<c.d>", "5.x + $<c.d>"),
            ("$<a.b>.y @ (t - 1)", "5.y"),
            ("x1 = $<a.b>\nx1 * 2 # $<a.b>", "x1 = 5\nx1 * 2 # $<a.b>"),
        ):
            self.assertEqual(replaced(old, written), new)


class Pivots(unittest.TestCase):
    """A pivot that is moved leaves the layer where it is seen, whatever stands in its chains."""

    def seen(self, one: Project) -> np.ndarray:
        matrix = world_matrix(Sampler(one.scenes[0]), "layer0", SampleTimes(np.array([AT / 30])))[0, 0]
        return np.array([matrix[0] * x + matrix[2] * y + matrix[4] for x, y in ((0, 0), (50, 20))])

    def test_through_any_chain(self) -> None:
        chains: dict[str, list[dict[str, Any]]] = {
            "nothing": [],
            "a wiggle": [{"kind": "wiggle", "id": "w", "amplitude": [20, 20]}],
            "twice as far": [{"kind": "adjust", "id": "a", "times": 2}],
            "a limit": [{"kind": "limit", "id": "l", "low": [0, 0], "high": [100, 100]}],
            "a limit at its end": [{"kind": "limit", "id": "l", "low": [0, 0], "high": [30, 40]}],
            "a soft limit": [{"kind": "limit", "id": "l", "low": [0, 0], "high": [100, 100], "softness": 60}],
            "a formula": [{"kind": "formula", "id": "f", "text": "(10 * t, 40)"}],
            "a formula and more": [
                {"kind": "formula", "id": "f", "text": "(10 * t, 40)"},
                {"kind": "adjust", "id": "a", "times": 3, "plus": [1, 1]},
            ],
        }
        for name, chain in chains.items():
            for pivot in (
                [],
                [{"kind": "adjust", "id": "p", "times": 0.5}],
                [{"kind": "formula", "id": "q", "text": "(3, 4)"}],
            ):
                layer = {
                    "position": {"rest": [30, 40], "chain": chain},
                    "pivot": {"rest": [5, 6], "chain": pivot},
                    "rotation": 30,
                    "scale": [150, 80],
                }
                one = project(scene(layer))
                made = apply(one, "move pivot", layer="layer0", to=[25, -10], frame=AT)
                with self.subTest(name, pivot=pivot):
                    np.testing.assert_allclose(self.seen(made), self.seen(one), atol=1e-4)
                    np.testing.assert_allclose(at(made, "layer0.pivot"), [25, -10], atol=1e-4)
                    again = apply(made, "move pivot", layer="layer0", to=[0, 0], frame=AT)
                    np.testing.assert_allclose(self.seen(again), self.seen(one), atol=1e-4)
                    self.assertLessEqual(len(again.scenes[0].layers[0].position.chain), len(chain) + 1)
