"""What is accepted can be worked out: no edit after which asking for values falls over."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.checks.formulas import mistakes
from jaunty_lever.core.checks.run import faults as found_faults
from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.arrangement import ARRANGEMENTS
from jaunty_lever.core.document.clips import Timing
from jaunty_lever.core.document.model import Model
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.view.faults import faults
from jaunty_lever.core.words import sentence
from jaunty_lever.demo import demo_project
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene

TAKEN = ("mean(X.rotation)", "copy(3, X.rotation)", "least(X.position).x", "greatest(X.rotation)")


def drawn(one: Project) -> Sampler:
    """A sampler that has drawn the first scene."""
    sampler = Sampler(one.scenes[0])
    display_list(sampler, SampleTimes.frames(30, 0, 3))
    return sampler


def array(*layers: dict[str, Any], **fields: Any) -> dict[str, Any]:
    return {
        "kind": "array",
        "id": "a",
        "name": "A",
        "layers": list(layers),
        "arrangement": {"kind": "row", "count": 4},
        **fields,
    }


class Taken(unittest.TestCase):
    """A value of copies as one, of what has no copies."""

    def test_it_is_a_mistake_that_is_told_and_stays_local(self) -> None:
        for text in TAKEN:
            one = project(scene({"rotation": 7}, {"name": "X"}))
            one = apply(one, "write formula", parameter="layer0.rotation", text=text)
            sampler = drawn(one)
            self.assertEqual(sampler.sample("layer0.rotation", 0.0)[0], 7)
            (wrong,) = mistakes(one.scenes[0])
            self.assertIn("it is one value already", wrong.mistake.message)
            self.assertEqual(project_file.read(project_file.write(one).encode()), one)

    def test_also_when_its_array_is_left_and_the_layer_renamed(self) -> None:
        for text in TAKEN:
            inner = {"kind": "ellipse", "id": "x", "name": "X", "rotation": 30, "position": [5, 0]}
            one = project(scene(array(inner), {"rotation": 7}))
            one = apply(one, "write formula", parameter="layer1.rotation", text=text)
            self.assertNotEqual(drawn(one).sample("layer1.rotation", 0.0)[0], 7)
            out = apply(one, "arrange layer", layer="x", parent=None, position=0)
            for here in (out, apply(out, "change layer", layer="x", name="Other")):
                self.assertEqual(drawn(here).sample("layer1.rotation", 0.0)[0], 7, text)
                self.assertEqual(len(list(mistakes(here.scenes[0]))), 1)

    def test_a_link_that_takes_one_of_many_keeps_its_array(self) -> None:
        inner = {"kind": "ellipse", "id": "x", "name": "X", "rotation": 30}
        one = project(scene(array(inner), {"rotation": 7}))
        one = apply(one, "link to", parameter="layer1.rotation", driver="x.rotation@mean")
        self.assertEqual(drawn(one).sample("layer1.rotation", 0.0)[0], 30)
        with self.assertRaisesRegex(Refused, "it is one value already"):
            apply(one, "arrange layer", layer="x", parent=None, position=0)
        # What came by another way is a fault of its own.
        layers = (
            one.scenes[0].layers[0].changed(layers=()),
            *one.scenes[0].layers[1:],
            one.scenes[0].layers[0].layers[0],
        )
        sampler = drawn(one.changed(scenes=(one.scenes[0].changed(layers=layers),)))
        self.assertEqual(sampler.sample("layer1.rotation", 0.0)[0], 7)
        self.assertIn("no copies", next(iter(sampler.faults.values())).message)


class Refusals(unittest.TestCase):
    """What does not fit is refused in a sentence."""

    def test_any_arrangement_becomes_any_other(self) -> None:
        dot = {"kind": "ellipse", "id": "d", "name": "D"}
        for old in ARRANGEMENTS:
            for new in ARRANGEMENTS:
                one = project(scene({**array(dot), "arrangement": {"kind": old}}))
                drawn(apply(one, "set arrangement", array="a", arrangement=new))

    def test_profiles_keep_their_percents_at_another_frame_rate(self) -> None:
        keys = [{"frame": f, "value": v} for f, v in ((0, 0), (33, 1), (100, 0))]
        sweep = {"kind": "sweep", "id": "g", "name": "G", "profile": {"rest": 0, "keys": keys}}
        life = {"kind": "life", "id": "h", "name": "H", "profile": {"rest": 0, "keys": keys}}
        one = project(scene({**array(), "gauges": [sweep, life]}))
        for fps in (60, 24):
            made = apply(one, "change scene", fps=fps).scenes[0].layers[0]
            for gauge in made.gauges:  # type: ignore[attr-defined]
                self.assertEqual([key.frame for key in gauge.profile.keys], [0, 33, 100])

    def test_settings_of_a_colour_that_nobody_has_set(self) -> None:
        within = {"kind": "wiggle", "id": "w", "mode": "within"}
        one = project(scene({"fill": {"kind": "solid", "colour": {"rest": "#ff0000", "chain": [within]}}}))
        node = one.scenes[0].index.parameters["layer0.fill.colour"]
        self.assertIn("between #808080 and", sentence(one.scenes[0].index, node))
        for kind, more in (("set key", {"frame": 3}), ("add modifier", {"modifier": "wave"}), ("make lever", {})):
            made = apply(one, kind, parameter="w.low", **more)
            self.assertEqual(project_file.read(project_file.write(made).encode()), made)
            drawn(made)

    def test_long_cells_and_names_of_tables(self) -> None:
        table = {"kind": "add table", "id": "t", "name": "T", "columns": [{"id": "c", "name": "C"}], "data": "x"}
        one = EDIT.validate_python(table).apply(project(scene({})))
        long = "y" * 140_000
        for edit, told in (
            ({"kind": "replace table", "table": "t", "columns": [{"id": "c", "name": "C"}], "data": long}, "20,000"),
            ({"kind": "add table", "columns": [{"id": "d", "name": "D"}], "data": long}, "20,000"),
            ({"kind": "follow column", "table": "t", "column": "c", "scene": "s", "parameter": "p" * 400}, "300"),
            ({"kind": "follow column", "table": "t", "column": "c" * 400, "scene": "s", "parameter": "p"}, "deleted"),
            ({"kind": "follow column", "table": "t", "column": "c", "scene": "s" * 400, "parameter": "p"}, "."),
        ):
            with self.assertRaisesRegex(Refused, told):
                EDIT.validate_python(edit).apply(one)


class Compared(unittest.TestCase):
    """Documents are compared by what they say, whatever has been worked out from them."""

    def test_arrays_kept_beside_fields_have_no_say(self) -> None:
        one, other = (Timing(tick=0.04, runs=((3, 1), (2, 2))) for _ in range(2))
        self.assertEqual((one.begins.tolist(), other.begins.tolist()), ([0, 0.04, 0.08, 0.12, 0.2],) * 2)
        self.assertTrue(one == other and hash(one) == hash(other))
        self.assertNotEqual(one, Timing(tick=0.05, runs=one.runs))

    def test_every_model_of_the_sample_project_can_be_compared_after_it_was_drawn(self) -> None:
        one, other = demo_project(), project_file.read(project_file.write(demo_project()).encode())
        for whole in (one, other):
            for here in whole.scenes:
                display_list(Sampler(here), SampleTimes.frames(here.fps, 0, 2))
        kinds = set()

        def walked(a: Any, b: Any) -> None:
            if isinstance(a, Model):
                kinds.add(type(a))
                self.assertTrue(a == b, type(a))
                for name in type(a).model_fields:
                    walked(getattr(a, name), getattr(b, name))
            elif isinstance(a, tuple):
                for part, own in zip(a, b, strict=True):
                    walked(part, own)

        walked(one, other)
        self.assertGreater(len(kinds), 40)
        self.assertFalse(one == other.changed(name="Other"))
        self.assertTrue(np.all([hash(layer) is not None for layer in one.scenes[0].levers]))


class Many(unittest.TestCase):
    """Counts that formulas make are bounded through all levels, and told with their first frame."""

    def test_copies_of_copies(self) -> None:
        dot = {"kind": "ellipse", "id": "d", "name": "D"}
        count = {"rest": 5, "chain": [{"kind": "formula", "id": "f", "text": "if f < 10 then 5 else 20000"}]}
        inner = {
            "kind": "array",
            "id": "b",
            "name": "B",
            "layers": [dot],
            "arrangement": {
                "kind": "row",
                "count": {"rest": 5, "chain": [{"kind": "formula", "id": "g", "text": "20000"}]},
            },
        }
        one = scene(array(inner) | {"arrangement": {"kind": "row", "count": count}})
        sampler = Sampler(one)
        listed = display_list(sampler, SampleTimes.frames(30, 0, 20))
        row = next(node for node in listed.nodes[0].walk() if node.id == "b")
        counts = row.channels["count"].rows
        # Each has as many as there is room for when there are most around.
        self.assertTrue((counts == 1).all())
        told = [fault for fault in sampler.faults.values() if "20,000 copies" in fault.message]
        self.assertEqual(min(round(fault.time * 30) for fault in told), 0)
        # A copy alone has what it has among all.
        alone = inside(sampler, "b.n", SampleTimes(np.array([15 / 30])), {"a": 7, "b": 0})
        self.assertEqual(sampler.evaluate("b.n", alone)[0, 0, 0], 1)

    def test_what_swings_a_million_times_a_second_is_bounded_and_told(self) -> None:
        inner = {"kind": "wave", "id": "in", "amplitude": 1e6, "frequency": 1e6, "phase": 0.1}
        wave = {"kind": "wave", "id": "w", "amplitude": 20, "frequency": {"rest": 1e6, "chain": [inner]}}
        sampler = Sampler(scene({"rotation": {"rest": 0, "chain": [wave]}}))
        values = sampler.sample("layer0.rotation", np.arange(300) / 30)
        self.assertLessEqual(np.abs(values).max(), 20)
        self.assertIn("swings too often", " ".join(fault.message for fault in sampler.faults.values()))


class Faults(unittest.TestCase):
    """What is at fault is named once, with its origin, wherever it comes in."""

    def rig(self) -> Any:
        bad = [{"kind": "formula", "id": "bad", "text": "if f < 12 then base else 1 / (f - f)"}]
        lever = {"id": "speed", "name": "Speed", "kind": "number", "value": {"rest": 20, "chain": bad}}
        follows = {"rest": 5, "chain": [{"kind": "follow", "id": "f", "driver": "speed.value"}]}
        rate = {"rest": 0, "chain": [{"kind": "rate", "id": "r", "rate": follows}, {"kind": "limit", "id": "l"}]}
        pin = {"rest": 0, "chain": [{"kind": "follow", "id": "g", "driver": "layer0.rotation"}]}
        return scene({"rotation": rate}, {"rotation": pin}, {}, levers=(lever,))

    def test_they_reach_whatever_depends_on_them(self) -> None:
        one = self.rig()
        for chosen, through in (("layer0.rotation", ["r"]), ("layer1.rotation", ["g"]), ("layer2.rotation", [])):
            sampler = Sampler(one)
            display_list(sampler, SampleTimes.frames(30, 0, 30))
            (told,) = faults(sampler, chosen)
            self.assertEqual((told["parameter"], told["frame"], told["through"]), ("speed.value", 12, through))
        checks = [check.text for check in found_faults(Sampler(one))]
        self.assertEqual(
            checks,
            [
                "Speed: Division by 0, first at frame 12. It reaches Layer 0 / rotation, Layer 1 / rotation, "
                "which go on with "
                "what is left."
            ],
        )

    def test_long_stretches_of_faults(self) -> None:
        one = scene({"rotation": {"rest": 3, "chain": [{"kind": "formula", "id": "f", "text": "1 / (f - f)"}]}})
        for many in (16_384, 16_385, 40_000, 100_003):
            sampler = Sampler(one)
            values = sampler.sample("layer0.rotation", np.arange(many) / 1000)
            self.assertTrue((values == 3).all())
            self.assertEqual([fault.time for fault in sampler.faults.values()], [0.0])
