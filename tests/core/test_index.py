"""Where things stand in a scene: after any edit it is what it would be if it were looked through as a whole."""

import random
import unittest

from pydantic import ValidationError

from jaunty_lever.core.document.difference import difference
from jaunty_lever.core.document.index import SceneIndex
from jaunty_lever.core.document.modifier import Modifier
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import EDIT, Refused
from tests.core.test_gate import Hostile, start
from tests.numbers import Rigs


def told(index: SceneIndex) -> dict[str, object]:
    """All that an index tells, in its order."""
    return {
        "parameters": list(index.parameters.items()),
        "modifiers": list(index.modifiers.items()),
        "known": sorted(index.known.items()),
        "own depths": sorted(index.own_depths.items()),
        "layers": [(name, id(layer)) for name, layer in index.layers.items()],
        "levers": [(name, id(lever)) for name, lever in index.levers.items()],
        "routes": {name: index.node_route(name) for name in (*index.layers, *index.levers, index.scene.id)},
        "steps": [entry.modifier.id for entry in sorted(index.steps_of(Modifier), key=lambda entry: entry.modifier.id)],
        "around": (index.parents, index.arrays, index.layer_routes, index.kinds),
    }


class AfterAnEdit(unittest.TestCase):
    def same(self, scene: Scene) -> None:
        self.assertEqual(told(scene.index), told(SceneIndex(scene)))
        for name, node in scene.index.parameters.items():
            self.assertIs(scene.index.parameters[name], node)
            self.assertIn(name, scene.index.parameters)
        self.assertEqual(len(scene.index.parameters), len(list(scene.index.parameters)))

    def test_whatever_it_is(self) -> None:
        for seed in range(12):
            hostile, now = Hostile(seed), start()
            for _ in range(100):
                try:
                    after = EDIT.validate_python(hostile.edit(now)).apply(now)
                except (ValidationError, UnicodeEncodeError, Refused):
                    continue
                for scene in after.scenes:
                    self.same(scene)
                if after.scenes and after.scenes[0].id == "s":
                    now = after

    def test_with_arrays_gauges_and_depth(self) -> None:
        for seed in range(60):
            rigs = Rigs(seed)
            now = rigs.project()
            for _ in range(10):
                try:
                    now = EDIT.validate_python({"scene": "s", **rigs.edit(now.scenes[0])}).apply(now)
                except (ValidationError, Refused):
                    continue
                self.same(now.scenes[0])

    def test_it_shares_all_that_the_edit_does_not_touch(self) -> None:
        now = Rigs(3).project()
        node = next(iter(now.scenes[0].index.parameters.of("wind").values()))
        edit = {"kind": "set value", "scene": "s", "parameter": node.id, "value": 7}
        before, after = now.scenes[0], EDIT.validate_python(edit).apply(now).scenes[0]
        new = difference(before, after)
        assert new is not None
        self.assertEqual((set(new.nodes), set(new.tops), new.frame), ({"wind"}, {"wind"}, False))
        others = [name for name, one in before.index.parameters.items() if one.top != "wind"]
        self.assertTrue(all(after.index.parameters[name] is before.index.parameters[name] for name in others))
        self.assertIs(after.index.parents, before.index.parents)

    def test_no_state_before_is_held_on_to(self) -> None:
        now = Rigs(5).project()
        dice = random.Random(1)
        for _ in range(5):
            edit = {"kind": "set value", "scene": "s", "parameter": "wind.value", "value": dice.uniform(0, 9)}
            now = EDIT.validate_python(edit).apply(now)
            self.assertNotIn("_before", now.scenes[0].__dict__)


if __name__ == "__main__":
    unittest.main()
