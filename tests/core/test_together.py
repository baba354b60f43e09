"""Edits of one layer, made on all that are chosen."""

import unittest
from typing import Any

from jaunty_lever.core.document.counterparts import counterpart, counterpart_modifier
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT, Refused


def layer(k: int, kind: str = "ellipse", **fields: Any) -> dict[str, Any]:
    return {"kind": kind, "id": f"l{k}", "name": f"Layer {k}", **fields}


def project(*layers: dict[str, Any]) -> Project:
    scene = Scene.model_validate({"id": "s", "name": "S", "layers": layers, "length": 60})
    return Project.model_validate({"id": "p", "name": "P"}).changed(scenes=(scene,))


def on_each(*edits: dict[str, Any], layers: tuple[str, ...] = ("l1", "l2", "l3")) -> Any:
    return EDIT.validate_python(
        {"kind": "on each", "scene": "s", "layers": layers, "edits": [{"scene": "s", **edit} for edit in edits]}
    )


def shaken(k: int, *names: str) -> dict[str, Any]:
    return {"rest": 10 * k, "chain": [{"kind": name, "id": f"{name}{n}-{k}"} for n, name in enumerate(names)]}


class Corresponding(unittest.TestCase):
    def test_what_corresponds_stands_at_the_same_place_by_kind_and_not_by_number(self) -> None:
        before = {"kind": "group", "id": "g", "name": "G", "layers": [layer(2, rotation=shaken(2, "limit", "wiggle"))]}
        index = project(layer(1, rotation=shaken(1, "wiggle", "limit", "wiggle")), before).scenes[0].index
        self.assertEqual(counterpart(index, "l1.rotation", "l2"), "l2.rotation")
        self.assertEqual(counterpart_modifier(index, "wiggle0-1", "l2"), "wiggle1-2")
        self.assertEqual(counterpart(index, "wiggle0-1.amplitude", "l2"), "wiggle1-2.amplitude")
        self.assertIsNone(counterpart_modifier(index, "wiggle2-1", "l2"))
        # A group has no fill, and a rotation; what is not there corresponds to nothing.
        self.assertIsNone(counterpart(index, "l1.fill.colour", "g"))
        self.assertEqual(counterpart(index, "l1.rotation", "g"), "g.rotation")
        self.assertIsNone(counterpart(index, "gone.rotation", "l2"))
        self.assertEqual(counterpart(index, "l1.rotation", "l1"), "l1.rotation")


class Together(unittest.TestCase):
    def rests(self, made: Project, field: str = "rotation") -> list[Any]:
        return [getattr(one, field).rest for one in made.scenes[0].layers]

    def test_typing_acts_on_each_by_itself_where_it_is_relative(self) -> None:
        old = project(*(layer(k, rotation=10 * k, position=[k, 7]) for k in (1, 2, 3)))
        for text, then in (
            ("45", [45, 45, 45]),
            ("+20", [30, 40, 50]),
            ("+-5", [5, 15, 25]),
            ("*1.5", [15, 30, 45]),
            ("/4", [2.5, 5, 7.5]),
            ("+10%", [11, 22, 33]),
            ("+1turn", [370, 380, 390]),
        ):
            with self.subTest(text):
                made = on_each({"kind": "set value", "parameter": "l3.rotation", "text": text}).apply(old)
                self.assertEqual(self.rests(made), then)
        one = on_each({"kind": "set value", "parameter": "l3.position", "text": "*10", "component": 0}).apply(old)
        self.assertEqual(self.rests(one, "position"), [(10, 7), (20, 7), (30, 7)])
        pulled = on_each({"kind": "set value", "parameter": "l1.position", "by": [1, -2]}).apply(old)
        self.assertEqual(self.rests(pulled, "position"), [(2, 5), (3, 5), (4, 5)])

    def test_a_step_that_says_nothing_is_refused_with_what_would_do(self) -> None:
        old = project(layer(1), layer(2), layer(3))
        for text, words in (("+", "Write how much"), ("/0", "divided by 0"), ("*turn", "not a number"), ("*2deg", "")):
            with self.subTest(text), self.assertRaisesRegex(Refused, words):
                on_each({"kind": "set value", "parameter": "l1.rotation", "text": text}).apply(old)

    def test_modifiers_are_added_each_with_an_id_and_a_seed_of_its_own_and_taken_off_again(self) -> None:
        old = project(layer(1), layer(2), layer(3))
        added = on_each(
            {"kind": "add modifier", "parameter": "l2.rotation", "modifier": "wiggle", "id": "mine", "seed": 5}
        )
        made = added.apply(old)
        self.assertEqual(made, added.apply(old))
        steps = [one.rotation.chain[0] for one in made.scenes[0].layers]
        self.assertEqual(len({step.id for step in steps}), 3)
        self.assertEqual(len({step.seed.rest for step in steps}), 3)
        self.assertEqual(steps[1].id, "mine")
        wider = on_each({"kind": "set value", "parameter": "mine.amplitude", "value": 33}).apply(made)
        self.assertEqual([one.rotation.chain[0].amplitude.rest for one in wider.scenes[0].layers], [33, 33, 33])
        off = on_each({"kind": "bypass", "modifier": "mine", "bypassed": True}).apply(made)
        self.assertEqual([one.rotation.chain[0].bypassed for one in off.scenes[0].layers], [True] * 3)
        gone = on_each({"kind": "remove modifier", "modifier": "mine"}).apply(made)
        self.assertEqual(gone.scenes[0].layers, old.scenes[0].layers)

    def test_who_has_no_such_thing_is_left_out_and_named(self) -> None:
        old = project(layer(1), layer(2, "group", layers=[]), layer(3, hidden=True))
        coloured = on_each({"kind": "set value", "parameter": "l1.fill.colour", "text": "#00ff00"})
        made = coloured.apply(old)
        self.assertEqual(made.scenes[0].layers[1], old.scenes[0].layers[1])
        self.assertEqual(made.scenes[0].layers[2].fill.colour.rest, made.scenes[0].layers[0].fill.colour.rest)
        self.assertIn("and on 1 other; left out: Layer 2, has no such value", coloured.label(old))
        with self.assertRaisesRegex(Refused, "not a number"):
            on_each({"kind": "set value", "parameter": "l1.rotation", "text": "many"}).apply(old)
        # What belongs to none of them is edited alone.
        alone = on_each({"kind": "set value", "parameter": "l1.rotation", "value": 4}, layers=("l2", "l3")).apply(old)
        self.assertEqual(self.rests(alone), [4, 0, 0])

    def test_a_group_and_what_lies_in_it_are_both_changed(self) -> None:
        group = layer(1, "group", rotation=5, layers=[layer(2, rotation=7), layer(3, rotation=9)])
        old = project(group)
        made = on_each({"kind": "set value", "parameter": "l2.rotation", "text": "+1"}).apply(old)
        index = made.scenes[0].index
        self.assertEqual([index.layers[f"l{k}"].rotation.rest for k in (1, 2, 3)], [6, 8, 10])
        some = on_each({"kind": "set value", "parameter": "l2.rotation", "text": "+1"}, layers=("l2", "l3")).apply(old)
        index = some.scenes[0].index
        self.assertEqual([index.layers[f"l{k}"].rotation.rest for k in (1, 2, 3)], [5, 8, 10])

    def test_only_edits_of_one_scene_are_made_on_each(self) -> None:
        old = project(layer(1), layer(2), layer(3))
        inner = {
            "kind": "on each",
            "layers": ["l1"],
            "edits": [{"kind": "reset value", "scene": "s", "parameter": "l1.x"}],
        }
        for edit in (inner, {"kind": "rename project", "name": "Q"}):
            with self.assertRaises(Refused):
                EDIT.validate_python(
                    {"kind": "on each", "scene": "s", "layers": ["l1"], "edits": [{"scene": "s", **edit}]}
                    if "scene" not in edit and edit is inner
                    else {"kind": "on each", "scene": "s", "layers": ["l1"], "edits": [edit]}
                ).apply(old)
        far = {"kind": "on each", "scene": "s", "layers": ["l1"]}
        with self.assertRaises(Refused):
            EDIT.validate_python(
                {**far, "edits": [{"kind": "reset value", "scene": "t", "parameter": "l1.rotation"}]}
            ).apply(old)
