"""Recipes: the ready ones put on layers, ones made from a rig, and files that are wrong."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.edits.recipes import recipe_of
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.trains import train_of
from jaunty_lever.drawing.frames import pixels
from jaunty_lever.formats import recipe_file
from jaunty_lever.recipes import ready

from .scenes import apply, project, scene

LAYERS = (
    {"position": (400, 300)},
    {"position": (700, 300)},
    {"kind": "picture", "picture": "p", "width": 1600, "height": 900, "position": (640, 360)},
)


def put(state: Project, recipe: Recipe, salt: str = "one", **parts: Any) -> Project:
    return apply(state, "apply recipe", recipe=plain(recipe), parts=parts, salt=salt)


class Ready(unittest.TestCase):
    def test_each_moves_its_layers_by_two_or_three_levers_in_one_step(self) -> None:
        self.assertEqual(len(ready()), 39)
        for name, recipe in ready().items():
            with self.subTest(name):
                swing = {
                    "chain": [{"kind": "wave", "id": "swing", "weights": [0, 1], "amplitude": 200, "frequency": 0.5}],
                    "rest": (400, 300),
                }
                turn = {"chain": [{"kind": "rate", "id": "turn", "rate": 35}]}
                first = {
                    **LAYERS[0],
                    **({"position": swing} if name == "brightness-follows" else {}),
                    **({"rotation": turn} if name == "on-twos" else {}),
                }
                state = project(scene(first, *LAYERS[1:]))
                if name == "hand-held-camera":
                    state = project(scene(*LAYERS[:3], {"kind": "camera"}))
                layers = (
                    ["layer3"]
                    if name == "hand-held-camera"
                    else ["layer2"]
                    if name in ("hand-held", "wall-of-one-clip")
                    else ["layer0", "layer1"]
                )
                after = put(state, recipe, **{part.id: [layers[k]] for k, part in enumerate(recipe.parts)})
                self.assertIn(len(after.scenes[0].levers), (2, 3))
                sampler = Sampler(after.scenes[0])
                samples = SampleTimes.frames(30, 0, 90)
                moved = [
                    node.id
                    for node in after.scenes[0].index.parameters.values()
                    if node.top in layers
                    and node.within is None
                    and np.ptp(sampler.track(node.id, samples), axis=0).any()
                ]
                parts = [part.id for part in recipe.parts if part.fields]
                # One pull moves nothing by itself: it waits for the hand.
                if name == "opposite-pull":
                    after = apply(after, "set value", parameter=f"{after.scenes[0].levers[1].id}.value", value=-35)
                    heights = [Sampler(after.scenes[0]).sample(f"{layer}.position", 0)[1] for layer in layers]
                    self.assertEqual(heights, [265, 335])
                elif after.scenes[0].index.arrays:
                    # What comes with a recipe of many is drawn many times.
                    picture = pixels(display_list(sampler, samples), 40)
                    self.assertGreater(len(np.unique(picture, axis=0)), 20)
                else:
                    self.assertGreaterEqual(len(moved), len(parts))
                self.assertFalse(sampler.faults)

    def test_one_recipe_on_several_layers_has_seeds_apart_and_levers_in_common(self) -> None:
        state = put(project(scene(*LAYERS)), ready()["flicker"], light=["layer0", "layer1"])
        sampler = Sampler(state.scenes[0])
        one, two = (sampler.track(f"layer{k}.opacity", SampleTimes.frames(30, 0, 300))[:, 0] for k in (0, 1))
        self.assertLess(abs(np.corrcoef(one, two)[0, 1]), 0.6)
        self.assertEqual([lever.name for lever in state.scenes[0].levers], ["Flicker depth", "Flicker pace"])
        again = put(state, ready()["flicker"], salt="two", light=["layer2"])
        self.assertEqual([lever.name for lever in again.scenes[0].levers][2:], ["Flicker depth 2", "Flicker pace 2"])

    def test_gears_of_a_pair_mesh_and_the_screw_counts_its_teeth(self) -> None:
        wheels = [
            {"kind": "gear", "teeth": 20, "position": (300, 300)},
            {"kind": "gear", "teeth": 31, "position": (555, 300)},
        ]
        state = put(project(scene(*wheels)), ready()["gear-pair"], first=["layer0"], second=["layer1"])
        train = train_of(state.scenes[0].index, "layer1.rotation")
        assert train is not None
        self.assertEqual(train.wheels["layer1.rotation"], -train.wheels["layer0.rotation"] * 20 / 31)
        state = put(project(scene({}, {})), ready()["screw-drive"], screw=["layer0"], wheel=["layer1"])
        turned = (
            Sampler(state.scenes[0]).sample("layer1.rotation", 31.0)[0]
            - Sampler(state.scenes[0]).sample("layer1.rotation", 0.0)[0]
        )
        self.assertAlmostEqual(turned, 360, places=9)

    def test_what_does_not_fit_is_refused(self) -> None:
        state = project(scene(*LAYERS))
        for recipe, parts, said in (
            ("hand-held", {"picture": ["layer0"]}, "has to be a picture; Layer 0 is a ellipse"),
            ("flicker", {}, "Choose a layer for What flickers"),
            ("gear-pair", {"first": ["layer0"], "second": ["layer0"]}, "another layer"),
            ("gear-pair", {"first": ["layer0", "layer1"], "second": ["layer1"]}, "one layer for each"),
        ):
            with self.subTest(said), self.assertRaisesRegex(Refused, said):
                put(state, ready()[recipe], **parts)


class Made(unittest.TestCase):
    def rig(self) -> Project:
        follow = {"kind": "follow", "id": "hears", "driver": "wind.value", "times": 2}
        flicker = {"kind": "wiggle", "id": "flickers", "amplitude": {"rest": 0, "chain": [follow]}}
        turned = {"kind": "follow", "id": "turns", "driver": "layer0.rotation", "times": -1}
        return project(
            scene(
                {"opacity": {"rest": 80, "chain": [flicker]}},
                {"rotation": {"rest": 0, "chain": [turned]}},
                levers=({"id": "wind", "name": "Wind", "value": 9},),
            )
        )

    def test_a_chain_goes_to_another_project_with_its_lever(self) -> None:
        made = recipe_of(self.rig().scenes[0], "Gusty", "", "layer0.opacity")
        kept = recipe_file.read(recipe_file.write(made).encode())
        self.assertEqual(kept, made)
        other = put(project(scene({"opacity": 50})), kept, **{"part-own": ["layer0"]})
        (lever,) = other.scenes[0].levers
        self.assertEqual((lever.name, lever.value.rest), ("Wind", 9))
        spread = Sampler(other.scenes[0]).track("layer0.opacity", SampleTimes.frames(30, 0, 300))
        self.assertTrue(10 < np.abs(spread - 50).max() <= 18)

    def test_layers_go_with_all_that_is_on_them_and_outside_drivers_become_parts(self) -> None:
        made = recipe_of(self.rig().scenes[0], "Fan", "", layers=("layer1",))
        self.assertEqual([part.name for part in made.parts], ["Layer 0"])
        turning = {"rotation": {"chain": [{"kind": "rate", "id": "r", "rate": 90}]}}
        other = put(
            project(scene(turning)),
            recipe_file.read(recipe_file.write(made).encode()),
            **{made.parts[0].id: ["layer0"]},
        )
        new = other.scenes[0].layers[1]
        self.assertEqual(Sampler(other.scenes[0]).sample(f"{new.id}.rotation", 1.0)[0], -90)

    def test_files_that_are_wrong_say_where(self) -> None:
        good = {"format": "jaunty-lever recipe", "version": 1, **plain(ready()["spin"])}
        chain = good["parts"][0]["fields"]["rotation"]["parameter"]["chain"][0]
        cases: list[tuple[Any, str]] = [
            (b"{", "not JSON"),
            ({**good, "format": "jaunty-lever project"}, "not a Jaunty Lever recipe"),
            ({**good, "version": 99}, "version 99"),
            ({**good, "parts": [{**good["parts"][0], "kinds": ["spoon"]}]}, "no layer called “spoon”"),
            (
                {**good, "parts": [{**good["parts"][0], "fields": {"points": good["parts"][0]["fields"]["rotation"]}}]},
                "has no points",
            ),
            ({**good, "levers": []}, "which is not there"),
            ({**good, "levers": good["levers"] * 2}, "stands 2 times"),
            ({**good, "more": 1}, "not known here"),
        ]
        loop = {**chain, "rate": {"rest": 0, "chain": [{"kind": "follow", "id": "f", "driver": "wheel.rotation"}]}}
        cases.append(
            (
                {
                    **good,
                    "parts": [
                        {**good["parts"][0], "fields": {"rotation": {"parameter": {"rest": 0, "chain": [loop]}}}}
                    ],
                },
                "depend on themselves",
            )
        )
        for data, said in cases:
            with self.subTest(said), self.assertRaisesRegex(recipe_file.BadFile, said):
                recipe_file.read(data) if isinstance(data, bytes) else recipe_file.from_data(data)


if __name__ == "__main__":
    unittest.main()
