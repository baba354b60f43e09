"""States of a scene that are tried, kept, undone and redone share what is known of them: each gives what it gives by
itself."""

import random
import re
import unittest
from typing import Any

from pydantic import ValidationError

from jaunty_lever.core.display.display_list import DisplayList, display_list
from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.evaluation.upstream import Upstream
from jaunty_lever.core.view.question import Question
from jaunty_lever.core.view.scene_view import scene_view
from jaunty_lever.demo import demo_project
from tests.core.scenes import apply, project, scene
from tests.numbers import Rigs, digest, of_nodes


def shown(scene: Scene, cache: Cache, frames: SampleTimes) -> tuple[str, list[tuple[object, ...]], DisplayList]:
    """What a scene shows, as a digest, and its faults."""
    sampler = Sampler(scene, cache)
    drawn = display_list(sampler, frames)
    faults = sorted((one.parameter, one.modifier, one.message, one.time) for one in sampler.faults.values())
    return digest(drawn.background.rows, *of_nodes(drawn.nodes)), faults, drawn


def any_edit(rigs: Rigs, dice: random.Random, scene: Scene) -> dict[str, object]:
    """Of a value, a chain or a link mostly, and of what there is and stands in what."""
    layers, steps = [*scene.index.layers, "none"], [*scene.index.modifiers, "none"]
    layer, other = dice.choice(layers), dice.choice(layers)
    others: list[dict[str, object]] = [
        {"kind": "change layer", "layer": layer, "hidden": dice.random() < 0.5},
        {"kind": "change layer", "layer": layer, "name": f"Name {dice.randrange(99)}"},
        {"kind": "change layer", "layer": layer, "stays": True},
        {"kind": "set matte", "layer": layer, "matte": other},
        {"kind": "add filter", "layer": layer, "filter": "blur", "id": f"blur{dice.randrange(9999)}"},
        {"kind": "arrange layer", "layer": layer, "position": 0},
        {"kind": "remove layers", "layers": [layer]},
        {"kind": "add layer", "layer": dice.choice(["star", "light", "block"]), "id": f"new{dice.randrange(9999)}"},
        {"kind": "bypass", "modifier": dice.choice(steps)},
        {"kind": "set value", "parameter": "wind.value", "value": dice.uniform(0, 9), "frame": 0},
        {"kind": "set value", "parameter": "dusk.value", "value": dice.uniform(0, 90), "frame": 0},
        {"kind": "remove modifier", "modifier": dice.choice(steps)},
        {"kind": "set value", "parameter": f"{layer}.depth", "value": dice.choice([0, 60]), "frame": 0},
        {"kind": "change scene", "length": dice.choice([60, 90])},
        {"kind": "set value", "parameter": "s.perspective", "value": dice.choice([0, 700]), "frame": 0},
    ]
    return rigs.edit(scene) if dice.random() < 0.55 else dice.choice(others)


class Shared(unittest.TestCase):
    def same(self, scene: Scene, cache: Cache, frames: SampleTimes, told: object) -> None:
        alone = Scene.model_validate(plain(scene))
        self.assertEqual(shown(scene, cache, frames)[:2], shown(alone, Cache(), frames)[:2], told)

    def walk(self, now: Project, rigs: Rigs, dice: random.Random, steps: int) -> int:
        """Tries edits, keeps some, goes back and forth."""
        cache, past, made = Cache(), [now], 0
        first = now.scenes[0]
        frames = SampleTimes.frames(first.fps, 0, 24, 1.5)
        if dice.random() < 0.5:
            # What curves have asked for is known already when it is drawn.
            sampler = Sampler(first, cache)
            for node in first.index.parameters.values():
                if node.spec.kind != "text":
                    sampler.evaluate(node.id, inside(sampler, node.id, frames))
        shown(first, cache, frames)
        for _ in range(steps):
            edit = {"scene": now.scenes[0].id, **any_edit(rigs, dice, now.scenes[0])}
            try:
                tried = EDIT.validate_python(edit).apply(now)
            except (ValidationError, Refused):
                continue
            made += 1
            self.same(tried.scenes[0], cache, frames, edit)
            chance = dice.random()
            if chance < 0.6:
                now = tried
                past.append(now)
            elif chance < 0.8:
                now = dice.choice(past)
                self.same(now.scenes[0], cache, frames, "gone back")
        return made

    def test_random_rigs(self) -> None:
        made = sum(self.walk(Rigs(seed).project(), Rigs(seed + 500), random.Random(seed), 9) for seed in range(90))
        self.assertGreater(made, 200)

    def test_what_was_known_before_it_was_drawn_goes_by_its_lever_too(self) -> None:
        follow = {"chain": [{"kind": "follow", "id": "f", "driver": "wind.value"}]}
        wind = {"id": "wind", "name": "Wind", "value": {"rest": 3, "chain": [{"kind": "wiggle", "id": "w"}]}}
        one, cache, frames = scene({"rotation": follow}, {}, levers=(wind,)), Cache(), SampleTimes.frames(30, 0, 9)
        Sampler(one, cache).evaluate("layer0.rotation", frames)
        before = shown(one, cache, frames)[2]
        moved = apply(project(one), "set value", parameter="wind.value", value=9).scenes[0]
        after = shown(moved, cache, frames)[2]
        self.assertIsNot(after.nodes[0], before.nodes[0])
        self.assertIs(after.nodes[1], before.nodes[1])
        self.same(moved, cache, frames, "the lever")

    def test_what_was_kept_is_what_the_next_pull_stands_over(self) -> None:
        levers = tuple(
            {"id": name, "name": name, "value": {"chain": [{"kind": "wiggle", "id": f"{name}-w"}]}}
            for name in ("a", "b")
        )

        def follow(k: int, lever: str) -> dict[str, Any]:
            return {"rotation": {"chain": [{"kind": "follow", "id": f"f{k}", "driver": f"{lever}.value"}]}}

        one = scene(
            *(follow(k, "a") for k in range(90)), *(follow(k, "b") for k in range(90, 93)), *[{}] * 200, levers=levers
        )
        cache, frames, now = Cache(), SampleTimes.frames(30, 0, 9), project(one)
        shown(one, cache, frames)
        now = apply(now, "set value", parameter="a.value", value=5)
        kept = shown(now.scenes[0], cache, frames)[2]
        for value in (3, 4):
            pulled = apply(now, "set value", parameter="b.value", value=value).scenes[0]
            drawn = shown(pulled, cache, frames)[2]
            new = [place for place, (a, b) in enumerate(zip(kept.nodes, drawn.nodes, strict=True)) if a is not b]
            self.assertEqual(new, [90, 91, 92])
            keys = Upstream.known(pulled.index)
            self.assertTrue(all(keys.as_before(f"layer{k}.rotation") for k in range(90)), "nothing of it is stale")
            self.same(pulled, cache, frames, value)

    def test_a_driver_that_leaves_its_array_drives_all_copies_alike(self) -> None:
        driver = {"kind": "ellipse", "id": "g", "name": "G", "rotation": {"chain": [{"kind": "wiggle", "id": "w"}]}}
        follow = {"chain": [{"kind": "follow", "id": "f", "driver": "g.rotation"}]}
        dot = {"kind": "ellipse", "id": "dot", "name": "Dot", "rotation": follow}
        row = {"kind": "row", "count": 4}
        one = scene({"kind": "array", "id": "a", "name": "A", "arrangement": row, "layers": [driver, dot]})
        cache, frames = Cache(), SampleTimes.frames(30, 0, 9)
        shown(one, cache, frames)
        moved = apply(project(one), "arrange layer", layer="g", position=0).scenes[0]
        self.assertEqual(moved.index.parents["g"], None)
        self.same(moved, cache, frames, "moved out")

    def test_scenes_of_the_sample(self) -> None:
        whole = demo_project()
        for number, one in enumerate(whole.scenes):
            with self.subTest(one.id):
                now = whole.changed(scenes=(one,))
                self.walk(now, Rigs(number), random.Random(number), 5)

    def test_what_an_edit_leaves_alone_is_the_very_same_node(self) -> None:
        whole, cache = demo_project(), Cache()
        quay = whole.scene("evening-quay")
        assert quay is not None
        frames = SampleTimes.frames(quay.fps, 0, quay.length)
        before = shown(quay, cache, frames)[2]
        edit = {"kind": "set value", "scene": quay.id, "parameter": "dusk.value", "value": 70, "frame": 0}
        after = EDIT.validate_python(edit).apply(whole).scene(quay.id)
        assert after is not None
        same = [a is b for a, b in zip(before.nodes, shown(after, cache, frames)[2].nodes, strict=True)]
        self.assertGreater(sum(same), len(same) - 6)
        self.assertLess(sum(same), len(same))


class Asker:
    """A page that has its last answer, and of channels only those that this one names."""

    def __init__(self, cache: Cache) -> None:
        self.cache, self.told, self.nodes, self.channels = cache, None, [], {}  # type: ignore[var-annotated]

    def ask(self, now: Project, **fields: Any) -> dict[str, Any]:
        question = Question(stop=12, only_new=True, token="last", **fields)
        body, self.told = scene_view(now, now.scenes[0].id, question, self.cache, self.told)
        if body["nodes"] is None:
            self.nodes = list(self.nodes)
            for place, node in body["new_nodes"]:
                self.nodes[place] = node
        else:
            self.nodes = body["nodes"]
        everything = {**self.channels, **body["channels"]}
        named = set(re.findall(r"'([0-9a-f]{16,}-\d+-\d+-\d+)'", repr([self.nodes, body])))
        self.channels = {key: everything[key] for key in named}
        assert self.channels or not self.nodes
        return body


class Sent(unittest.TestCase):
    def test_who_hears_of_what_is_new_has_what_who_hears_all_has(self) -> None:
        partly = 0
        for seed in range(40):
            rigs, dice, cache = Rigs(seed), random.Random(seed), Cache()
            now, page = rigs.project(), Asker(cache)
            page.ask(now)
            for _ in range(8):
                try:
                    tried = EDIT.validate_python({"scene": "s", **any_edit(rigs, dice, now.scenes[0])}).apply(now)
                except (ValidationError, Refused):
                    continue
                chosen = dice.choice([None, *tried.scenes[0].index.parameters])
                partly += page.ask(tried, chosen=chosen)["nodes"] is None
                whole, _ = scene_view(tried, "s", Question(stop=12), Cache())
                self.assertEqual(page.nodes, whole["nodes"])
                now = dice.choice([now, tried])
        self.assertGreater(partly, 100)

    def test_of_a_lever_that_moves_one_thing_one_thing_is_sent(self) -> None:
        whole, page = demo_project(), Asker(Cache())
        now = whole.changed(scenes=(whole.scenes[0],))
        self.assertIsNone(page.ask(now)["new_nodes"])
        lever = {"kind": "set value", "scene": now.scenes[0].id, "parameter": "dusk.value", "value": 81, "frame": 0}
        body = page.ask(EDIT.validate_python(lever).apply(now))
        self.assertLess(len(body["new_nodes"]), 4)
        self.assertEqual(len(body["channels"]), 1)
        self.assertEqual(page.ask(EDIT.validate_python(lever).apply(now))["channels"], {})


if __name__ == "__main__":
    unittest.main()
