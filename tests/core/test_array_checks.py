"""What the program notices of arrays, what it says of them, and what of a chain goes from copies to other values."""

import unittest
from typing import Any

from jaunty_lever.core.arrays_in_words import array_sentence
from jaunty_lever.core.checks.run import run
from jaunty_lever.core.checks.seam import jumps, perfect
from jaunty_lever.core.document.layers import LAYER_KINDS, ArrayLayer
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.formula.names import bind
from jaunty_lever.core.ties import ties
from jaunty_lever.core.words import sentence

from .scenes import apply, project, scene
from .test_arrays import array, formula, row, wave


def kinds(one: Scene) -> dict[str, str]:
    return {check.kind: check.text for check in run(Sampler(one))}


def mended(one: Scene, kind: str) -> Scene:
    """The scene after the first mend of a check."""
    check = next(check for check in run(Sampler(one)) if check.kind == kind)
    now = project(one)
    for edit in check.mends[0].edits:
        now = EDIT.validate_python({"scene": "s", **edit}).apply(now)
    return now.scenes[0]


#: What layers of some kinds cannot do without.
NEEDED: dict[str, dict[str, Any]] = {
    "picture": {"picture": "p", "width": 8, "height": 8},
    "clip": {"clip": "c", "width": 8, "height": 8, "timing": {"tick": 0.04, "runs": [[2, 1]]}, "sound": False},
}


class Noticed(unittest.TestCase):
    def test_copies_that_all_move_alike_and_the_mend(self) -> None:
        one = scene(array({"rotation": {"chain": [wave()]}}, arrangement=row(40)))
        self.assertEqual(kinds(one)["copies alike"], "The 40 copies of Dots all move alike.")
        self.assertNotIn("copies alike", kinds(mended(one, "copies alike")))
        wiggle = {"kind": "wiggle", "id": "g", "over": "alike"}
        alike = scene(array(arrangement=row(4), copy_rotation={"chain": [wiggle]}))
        self.assertNotIn("copies alike", kinds(mended(alike, "copies alike")))
        self.assertNotIn("copies alike", kinds(scene(array(arrangement=row(40)))))

    def test_copies_that_lie_on_others(self) -> None:
        self.assertIn(
            "8 copies of Dots lie entirely on others", kinds(scene(array(arrangement=row(9, 0))))["copies stacked"]
        )
        apart = {"rest": [0, 0], **formula("(40 * i, 0)")}
        self.assertNotIn("copies stacked", kinds(scene(array(arrangement=row(9, 0), copy_position=apart))))

    def test_a_sweep_that_touches_nothing_and_a_zone_that_nobody_enters(self) -> None:
        sweep = {"kind": "sweep", "id": "g", "name": "Gust", "travel": 0}
        zone = {"kind": "zone", "id": "z", "name": "Far", "centre": [9000, 0]}
        found = kinds(scene(array(arrangement=row(5), gauges=[sweep, zone])))
        self.assertEqual(set(found), {"sweep idle", "zone empty"})
        self.assertEqual(found["zone empty"], "No copy of Dots ever enters Far.")
        near = {**zone, "centre": [0, 0]}
        self.assertEqual(kinds(scene(array(arrangement=row(5), gauges=[{**sweep, "travel": 50}, near]))), {})

    def test_more_than_plays(self) -> None:
        grid = {"kind": "grid", "columns": 80, "rows": 60, "gap": [9, 9]}
        self.assertIn("4,800 shapes", kinds(scene(array(arrangement=grid)))["many copies"])


class Said(unittest.TestCase):
    def told(self, **fields: Any) -> str:
        one = scene(array(**fields))
        layer = one.layers[0]
        assert isinstance(layer, ArrayLayer)
        return array_sentence(one, layer)

    def test_an_array_in_a_sentence(self) -> None:
        self.assertEqual(
            self.told(arrangement=row(40), later=0.1, order={"origin": [50, 50]}),
            "40 copies in a row, each 3 frames later than the one before, from the middle.",
        )
        self.assertEqual(self.told(arrangement={"kind": "ring", "count": 1}), "1 copy in a ring.")
        self.assertEqual(
            self.told(arrangement={"kind": "scatter", "count": 9}, order={"measure": "shuffled", "backwards": True}),
            "9 copies scattered, shuffled, the last first.",
        )

    def test_a_zone_drives_what_it_pushes(self) -> None:
        zone = {"kind": "zone", "id": "z", "name": "Kite"}
        push = {"kind": "push", "id": "p", "zone": "z", "force": 40}
        one = scene(array(gauges=[zone], copy_position={"rest": [0, 0], "chain": [push]}))
        self.assertEqual(
            [(t.driver, t.follower, t.does) for t in ties(one.index)], [("z.value", "a.copy_position", "away by 40 px")]
        )
        self.assertIn(
            "is pushed away from Dots Kite by 40 px", sentence(one.index, one.index.parameters["a.copy_position"])
        )


class Copied(unittest.TestCase):
    def test_chains_go_from_copy_values_to_ordinary_ones_and_back(self) -> None:
        chain = [wave(), {"kind": "shift", "id": "s", "delay": 0.2}]
        one = project(scene(array(copy_rotation={"rest": 0, "chain": chain}), {}))
        there = apply(one, "paste chain", source="a.copy_rotation", targets=["layer1.rotation"], seed=1)
        self.assertEqual(
            [m.kind for m in there.scenes[0].index.parameters["layer1.rotation"].parameter.chain], ["wave", "shift"]
        )
        back = apply(there, "paste chain", source="layer1.rotation", targets=["a.copy_scale", "e0.opacity"], seed=2)
        self.assertEqual(len(back.scenes[0].index.parameters["e0.opacity"].parameter.chain), 2)

    def test_what_only_a_copy_knows_stays_behind(self) -> None:
        late = apply(project(scene(array(), {})), "later each", parameter="a.copy_rotation", seconds=0.1, id="late")
        late = apply(late, "link to", parameter="a.copy_opacity", driver="element.u", id="k")
        with self.assertRaises(Refused) as caught:
            apply(late, "paste chain", source="a.copy_opacity", targets=["layer1.opacity"], seed=1)
        self.assertIn("stands in no array", caught.exception.message)
        # Among copies it goes along.
        made = apply(late, "paste chain", source="a.copy_opacity", targets=["e0.opacity"], seed=1)
        self.assertEqual(len(made.scenes[0].index.parameters["e0.opacity"].parameter.chain), 1)

    def test_an_array_in_itself_and_layers_out_of_it(self) -> None:
        one = project(
            scene(
                array({"rotation": formula("u * 90")}),
                {"rotation": {"chain": [{"kind": "follow", "id": "f", "driver": "e0.rotation@1"}]}},
            )
        )
        with self.assertRaises(Refused):
            apply(one, "arrange layer", layer="a", parent="a", position=0)
        # A layer that leaves the array is one thing again; who took one of its many values is told.
        with self.assertRaises(Refused) as caught:
            apply(one, "arrange layer", layer="e0", parent=None, position=0)
        self.assertIn("one value already", caught.exception.message)


class Together(unittest.TestCase):
    """What is said of a value of many holds for all of them."""

    def rig(self, length: int) -> Scene:
        text = "(10 + i) / 10"
        wave = {
            "kind": "wave",
            "id": "w",
            "amplitude": 20,
            "frequency": {"rest": 1, "chain": [{"kind": "formula", "id": "f", "text": text}]},
        }
        array = {
            "kind": "array",
            "id": "row",
            "name": "Row",
            "arrangement": {"kind": "row", "count": 15},
            "layers": [{"kind": "ellipse", "id": "dot", "name": "Dot"}],
            "copy_rotation": {"rest": 0, "chain": [wave]},
        }
        return scene(array, length=length)

    def test_fifteen_copies_are_back_when_the_last_of_them_is(self) -> None:
        made = perfect(self.rig(90))
        self.assertEqual((made.frames, made.never), (300, ()))

    def test_a_seam_that_only_one_copy_has_is_found(self) -> None:
        # After 30 frames the first copy is back, and the others are not.
        self.assertEqual([jump.node.id for jump in jumps(Sampler(self.rig(30)))], ["row.copy_rotation"])
        self.assertEqual(list(jumps(Sampler(self.rig(300)))), [])


class Names(unittest.TestCase):
    def test_names_on_one_layer_are_unique(self) -> None:
        for kind, cls in LAYER_KINDS.items():
            fields: dict[str, Any] = {"line": {}} if "line" in cls.model_fields else {}
            fields |= {"edge": {}} if "edge" in cls.model_fields else {}
            one = scene({"kind": kind, "id": "it", "name": "It", **fields, **NEEDED.get(kind, {})})
            names = [
                tuple(label for _, label in node.trail) for node in one.index.parameters.values() if node.top == "it"
            ]
            twice = {name for name in names if names.count(name) > 1}
            with self.subTest(kind):
                self.assertEqual(twice, set())
        line = scene({"kind": "line", "id": "it", "name": "It", "line": {"start": 20, "end": 60}})
        for text, value in (("It.end.x", 80), ("It.to * 100", 60), ("It.from * 100", 20)):
            chain = [{"kind": "formula", "id": "f", "text": bind(text, line.index, lambda _: None)}]
            made = scene({"rotation": {"rest": 0, "chain": chain}}, line.layers[0].model_dump(mode="json"))
            self.assertAlmostEqual(float(Sampler(made).sample("layer0.rotation", 0.0)[0]), value)
