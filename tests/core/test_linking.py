"""Linking in all its ways, cutting links, hands stopped by limits, snapshots and their blends."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import Gone, Refused
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.ties import deciding, ties

from .scenes import apply, project, scene


class Rig(unittest.TestCase):
    def setUp(self) -> None:
        swing = {"chain": [{"kind": "wave", "id": "w", "frequency": 0.5, "amplitude": 30}]}
        layers = [
            {"name": name, "rotation": swing if not k else 5 * k}
            for k, name in enumerate(("Crank", "Drum", "Fan", "Pump"))
        ]
        levers = (
            {"id": "wind", "name": "Wind", "value": 8, "high": 20},
            {"id": "on", "name": "On", "kind": "switch", "value": True},
            {"id": "sky", "name": "Sky", "kind": "choice", "options": ["clear", "grey", "storm"], "value": "grey"},
        )
        self.state: Project = project(scene(*layers, levers=levers))

    @property
    def scene(self) -> Scene:
        return self.state.scenes[0]

    def do(self, kind: str, **fields: Any) -> None:
        self.state = apply(self.state, kind, **fields)

    def at(self, parameter: str, time: float = 0.5) -> list[float]:
        return [round(float(v), 9) for v in Sampler(self.scene).sample(parameter, time)]

    def tie(self, parameter: str) -> str:
        found = deciding(self.scene.index, self.scene.index.parameters[parameter])
        return found.words if found else ""


class Ways(Rig):
    def test_a_ratio_is_kept_as_it_is_written(self) -> None:
        for text, words, value in (
            ("-14/35", "Crank rotation × −14/35", -12),
            ("2 : 1", "Crank rotation × 2/1", 60),
            ("360/31", "Crank rotation × 360/31", 30 * 360 / 31),
            ("0.4", "Crank rotation × 0.4", 12),
        ):
            with self.subTest(text):
                self.do(
                    "link to",
                    parameter="layer1.rotation",
                    driver="layer0.rotation",
                    way="ratio",
                    ratio=text,
                    position=0,
                )
                self.assertEqual(self.tie("layer1.rotation"), words)
                self.assertAlmostEqual(self.at("layer1.rotation")[0], value, places=6)
        self.assertEqual(len(self.scene.layers[1].rotation.chain), 1, "a new link takes the old one's place")

    def test_a_remap_takes_units_reverses_and_goes_in_one_cut(self) -> None:
        self.do(
            "link to",
            parameter="layer1.opacity",
            driver="wind.value",
            way="remap",
            source=("0", "20"),
            target=("0 %", "80 %"),
            reverse=True,
            ends="stop",
            position=0,
            id="link",
        )
        self.assertEqual(self.at("layer1.opacity"), [48])
        self.assertEqual(self.tie("layer1.opacity"), "Wind, 0–20 → 80–0 %")
        self.do("unlink", modifier="link", frame=0)
        self.assertEqual((self.scene.layers[1].opacity.rest, self.scene.layers[1].opacity.chain), (48, ()))

    def test_between_two_values(self) -> None:
        self.do(
            "link to",
            parameter="layer2.position",
            driver="wind.value",
            way="between",
            source=("0", "16"),
            target=("100", "300"),
            position=0,
        )
        self.assertEqual(self.at("layer2.position"), [200, 200])
        self.assertEqual(self.tie("layer2.position"), "Wind: 100 px to 300 px")
        self.do(
            "link to",
            parameter="layer2.fill.colour",
            driver="wind.value",
            source=("0", "8"),
            target=("#000000", "#ffffff"),
            way="between",
            position=0,
        )
        self.assertEqual(self.at("layer2.fill.colour"), [1, 1, 1, 1])

    def test_switches_and_choices_give_a_value_for_each_place(self) -> None:
        self.do("link to", parameter="w.strength", driver="on.value", way="stops", values=("0", "100"), position=0)
        self.do(
            "link to",
            parameter="layer2.opacity",
            driver="sky.value",
            way="stops",
            values=("100", "60", "25"),
            position=0,
        )
        self.do(
            "link to",
            parameter="layer3.fill.colour",
            driver="sky.value",
            way="stops",
            values=("#00f", "#888", "#000"),
            position=0,
        )
        self.assertEqual((self.at("layer0.rotation"), self.at("layer2.opacity")), ([30], [60]))
        self.do("set value", parameter="on.value", value=False)
        self.do("set value", parameter="sky.value", value="storm")
        self.assertEqual((self.at("layer0.rotation"), self.at("layer2.opacity")), ([0], [25]))
        self.assertEqual(self.at("layer3.fill.colour"), [0, 0, 0, 1])
        self.assertEqual(self.tie("layer2.opacity"), "Sky: 100 %, 60 %, 25 %")
        with self.assertRaisesRegex(Refused, "has 3 places"):
            self.do("link to", parameter="layer2.opacity", driver="sky.value", way="stops", values=("1", "2"))

    def test_several_at_once_each_more_and_later(self) -> None:
        self.do(
            "link to",
            parameter="layer1.rotation",
            also=["layer2.rotation", "layer3.rotation"],
            driver="layer0.rotation",
            plus_each=15,
            later_each=3,
            position=0,
        )
        for k in range(3):
            here = self.at(f"layer{k + 1}.rotation", 2.0)[0]
            self.assertAlmostEqual(here, self.at("layer0.rotation", 2.0 - k * 0.1)[0] + 15 * k, places=9)

    def test_layers_duplicated_together_are_linked_among_themselves(self) -> None:
        self.do("link to", parameter="layer1.rotation", driver="layer0.rotation", way="ratio", ratio="3", position=0)
        self.do("duplicate layers", layers=["layer0", "layer1"], salt="twins")
        new = [layer for layer in self.scene.layers if not layer.id.startswith("layer") or layer.id[5:] not in "0123"]
        self.assertEqual(len(new), 2)
        (link,) = new[1].rotation.chain
        self.assertEqual(link.references(), (f"{new[0].id}.rotation",))

    def test_only_one_axis_moves_when_asked(self) -> None:
        self.do("set value", parameter="layer1.position", value=(40, 70))
        self.do(
            "link to", parameter="layer1.position", driver="wind.value", way="ratio", ratio="-2", axis=1, position=0
        )
        self.assertEqual(self.at("layer1.position"), [40, -16])

    def test_mistakes_are_told_and_nothing_changes(self) -> None:
        self.do("link to", parameter="layer1.rotation", driver="layer0.rotation", delay=0.5, position=0)
        self.do("link to", parameter="layer2.rotation", driver="layer1.rotation", position=0)
        before = self.state
        for fields, said in (
            ({"driver": "layer0.rotation", "way": "ratio", "ratio": "1/0"}, "The ratio divides by 0"),
            ({"driver": "layer0.rotation", "way": "ratio", "ratio": "two"}, "not a number"),
            ({"driver": "layer0.rotation", "way": "remap", "source": ("3", "3"), "target": ("0", "1")}, "is empty"),
            (
                {"driver": "layer0.rotation", "way": "remap", "source": ("0 px", "3"), "target": ("0", "1")},
                "takes an angle, not pixels",
            ),
            ({"driver": "layer0.fill.colour"}, "cannot follow|components"),
            (
                {"driver": "wind.value", "way": "gears", "driver_teeth": 0, "driven_teeth": 20},
                "between 1 and 1,000,000",
            ),
            ({"driver": "wind.value", "way": "gears", "driver_teeth": 9.5, "driven_teeth": 20}, "not a whole number"),
            ({"driver": "wind.value", "way": "gears", "mesh": "glue"}, "must be one of"),
        ):
            with self.subTest(said), self.assertRaisesRegex(Refused, said):
                self.do("link to", parameter="layer3.rotation", position=0, **fields)
        with self.assertRaisesRegex(
            Refused, "circle: “Crank / rotation” → “Fan / rotation” → “Drum / rotation” → “Crank / rotation”"
        ):
            self.do("link to", parameter="layer0.rotation", driver="layer2.rotation", delay=1, position=0)
        with self.assertRaises(Gone):
            self.do("link to", parameter="layer3.rotation", driver="nobody.value")
        self.assertIs(self.state, before)

    def test_a_deleted_driver_leaves_every_kind_of_follower_where_it_stood(self) -> None:
        self.do("link to", parameter="layer1.rotation", driver="layer0.rotation", way="ratio", ratio="3/2", position=0)
        self.do(
            "link to",
            parameter="layer2.opacity",
            driver="layer0.rotation",
            way="remap",
            source=("-30", "30"),
            target=("0", "100"),
            position=0,
        )
        self.do(
            "link to",
            parameter="layer3.rotation",
            driver="layer0.rotation",
            way="gears",
            driver_teeth=10,
            driven_teeth=20,
            position=0,
        )
        before = [self.at(p, 12 / 30) for p in ("layer1.rotation", "layer2.opacity", "layer3.rotation")]
        self.do("remove layers", layers=["layer0"], frame=12)
        after = [self.at(p) for p in ("layer1.rotation", "layer2.opacity", "layer3.rotation")]
        np.testing.assert_allclose(after, before)
        self.assertEqual(list(ties(self.scene.index)), [])

    def test_the_hand_is_stopped_by_a_limit(self) -> None:
        self.do("add modifier", parameter="layer1.position", modifier="limit", id="ends")
        self.do("set value", parameter="ends.low", value=(0, -20))
        self.do("set value", parameter="ends.high", value=(0, 20))
        self.do(
            "link to",
            parameter="layer2.position",
            driver="layer1.position",
            component=1,
            way="ratio",
            ratio="-1",
            axis=1,
            position=0,
        )
        self.do("move layers", layers=["layer1"], by=(35, 300))
        self.assertEqual(self.scene.layers[1].position.rest, (0, 20))
        self.assertEqual(self.at("layer2.position"), [0, -20])
        self.do("set value", parameter="layer1.position", value=(0, 90))
        self.assertEqual(self.scene.layers[1].position.rest, (0, 90), "what is typed is kept; the Limit still holds it")


class Snapshots(Rig):
    def setUp(self) -> None:
        super().setUp()
        self.do("store snapshot", id="calm", name="Calm")
        self.do("set value", parameter="wind.value", value=18)
        self.do("set value", parameter="sky.value", value="storm")
        self.do("store snapshot", id="gale", name="Gale")

    def test_recall_and_blend(self) -> None:
        self.do("recall snapshot", snapshot="calm")
        self.assertEqual((self.scene.levers[0].value.rest, self.scene.levers[2].value.rest), (8, "grey"))
        self.do("blend snapshots", snapshots=["calm", "gale"], amount=30)
        self.assertEqual((self.scene.levers[0].value.rest, self.scene.levers[2].value.rest), (11, "grey"))
        self.do("blend snapshots", snapshots=["calm", "gale", "calm"], amount=50)
        self.assertEqual((self.scene.levers[0].value.rest, self.scene.levers[2].value.rest), (18, "storm"))

    def test_a_blend_that_is_a_lever_can_be_keyed_and_follows_its_snapshots(self) -> None:
        self.do("make blend", snapshots=["calm", "gale"], id="weather", name="Weather")
        self.assertEqual(self.at("wind.value"), [8])
        for frame, value in ((0, 0), (60, 100)):
            self.do("set value", parameter="weather.value", value=value, frame=frame, key=True)
            self.do("set ease", parameter="weather.value", frame=frame, ease="linear")
        self.assertEqual([self.at("wind.value", t)[0] for t in (0.0, 0.5, 1.0, 2.0)], [8, 10.5, 13, 18])
        self.assertEqual([self.at("sky.value", t)[0] for t in (0.4, 1.6)], [1, 2])
        self.assertFalse(self.scene.levers[2].value.chain, "a lever in which they agree is left alone")
        self.assertEqual(self.scene.levers[0].name, "Weather")
        # Its snapshot stored anew, the blend goes there.
        self.do("store snapshot", instead="gale", values={"wind": 4, "sky": "storm"})
        self.assertEqual(self.at("wind.value", 2.0), [4])
        copy = apply(self.state, "duplicate scene", salt="copy").scenes[1]
        self.assertEqual([one.name for one in copy.snapshots], ["Calm", "Gale"])
        again = apply(
            Project(id="p", name="P", scenes=(copy.changed(id="s"),)), "recall snapshot", snapshot=copy.snapshots[0].id
        )
        self.assertNotEqual(again.scenes[0], copy)

    def test_levers_that_have_gone_are_passed_over_and_told(self) -> None:
        self.do("remove lever", lever="sky")
        from jaunty_lever.core.edits import EDIT

        edit = EDIT.validate_python({"kind": "recall snapshot", "scene": "s", "snapshot": "calm"})
        self.assertEqual(edit.label(self.state), "Snapshot Calm recalled; 1 of its levers is gone")
        self.do("recall snapshot", snapshot="calm")
        self.assertEqual(self.scene.levers[0].value.rest, 8)
        for lever in ("wind", "on"):
            self.do("remove lever", lever=lever)
        with self.assertRaisesRegex(Refused, "None of this snapshot's levers"):
            self.do("recall snapshot", snapshot="calm")
        with self.assertRaises(Gone):
            self.do("recall snapshot", snapshot="nothing")

    def test_names_are_kept_apart(self) -> None:
        self.do("store snapshot", name="calm")
        self.assertEqual([one.name for one in self.scene.snapshots], ["Calm", "Gale", "calm 2"])
        with self.assertRaisesRegex(Refused, "already a snapshot named"):
            self.do("rename snapshot", snapshot="gale", name="CALM")
        with self.assertRaisesRegex(Refused, "needs a name"):
            self.do("store snapshot", name="  ")
        self.do("remove snapshot", snapshot="gale")
        self.assertEqual(len(self.scene.snapshots), 2)


if __name__ == "__main__":
    unittest.main()
