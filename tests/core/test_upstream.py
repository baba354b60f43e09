"""What a value depends on: known from the state before where nothing upstream has changed, and never otherwise."""

import random
import unittest
from typing import Any

from pydantic import ValidationError

from jaunty_lever.core.document.index import SceneIndex
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.axes import AxesOfScene
from jaunty_lever.core.evaluation.upstream import Upstream
from jaunty_lever.demo import demo_project
from tests.core.test_gate import Hostile, start
from tests.numbers import Rigs


def keys(found: Upstream, scene: Scene) -> dict[str, bytes]:
    """The keys of all that a scene has, in an order of its own."""
    names = list(scene.index.parameters)
    random.Random(len(names)).shuffle(names)
    return {name: found.key(name) for name in names}


class TakenOver(unittest.TestCase):
    def follow(self, before: Upstream | None, scene: Scene) -> Upstream:
        """What is known of a scene after another state of it: the same as by itself."""
        found = Upstream(scene.index, before)
        self.assertEqual(keys(found, scene), keys(Upstream(scene.index), scene))
        return found

    def test_after_any_edit_it_is_what_it_would_be_alone(self) -> None:
        kept = 0
        for seed in range(25):
            hostile, now = Hostile(seed), start()
            found = self.follow(None, now.scenes[0])
            for _ in range(120):
                try:
                    after = EDIT.validate_python(hostile.edit(now)).apply(now)
                except (ValidationError, UnicodeEncodeError, Refused):
                    continue
                if not after.scenes or after.scenes[0].id != "s":
                    continue
                # What comes after, what comes instead, and what is taken back.
                found, now = self.follow(found, after.scenes[0]), after
                kept += 1
            self.follow(found, start().scenes[0])
        self.assertGreater(kept, 500)

    def test_in_the_sample_too_where_much_is_read_off_copies(self) -> None:
        dice = random.Random(4)
        for scene in demo_project().scenes:
            project: Project = demo_project()
            found = self.follow(None, scene)
            names = [
                node
                for node in scene.index.parameters.values()
                if node.spec.kind in ("number", "percentage", "length", "angle")
            ]
            for _ in range(12):
                node = dice.choice(names)
                edits: list[dict[str, Any]] = [
                    {"kind": "set value", "parameter": node.id, "value": dice.uniform(0, 20), "frame": 0},
                    {"kind": "bypass chain", "parameter": node.id},
                    {"kind": "add modifier", "parameter": node.id, "modifier": "wave"},
                    {"kind": "link to", "parameter": node.id, "driver": dice.choice(names).id},
                    {"kind": "change scene", "length": dice.choice([90, 300])},
                ]
                try:
                    project = EDIT.validate_python({"scene": scene.id, **dice.choice(edits)}).apply(project)
                except (ValidationError, Refused):
                    continue
                here = project.scene(scene.id)
                assert here is not None
                found = self.follow(found, here)

    def test_in_random_rigs_with_their_axes(self) -> None:
        for seed in range(80):
            rigs = Rigs(seed)
            now = rigs.project()
            found = self.follow(None, now.scenes[0])
            for _ in range(8):
                try:
                    now = EDIT.validate_python({"scene": "s", **rigs.edit(now.scenes[0])}).apply(now)
                except (ValidationError, Refused):
                    continue
                scene = now.scenes[0]
                found = self.follow(found, scene)
                axes, alone = AxesOfScene.known(scene.index), AxesOfScene(SceneIndex(scene))
                for name in scene.index.parameters:
                    self.assertEqual(axes.of(name), alone.of(name), name)

    def test_what_lies_downstream_alone_is_worked_out_anew(self) -> None:
        project = demo_project()
        scene = project.scene("evening-quay")
        assert scene is not None
        before = Upstream(scene.index)
        keys(before, scene)
        edit = {"kind": "set value", "scene": scene.id, "parameter": "dusk.value", "value": 70, "frame": 0}
        after = EDIT.validate_python(edit).apply(project).scene(scene.id)
        assert after is not None
        taken = Upstream(after.index, before)
        same = [name for name in scene.index.parameters if taken.as_before(name)]
        self.assertGreater(len(same), 0.9 * len(scene.index.parameters))
        self.assertNotIn("dusk.value", same)
        for name in same:
            taken.key(name)
        self.assertEqual(taken._keys, {}, "nothing has been worked out anew")


if __name__ == "__main__":
    unittest.main()
