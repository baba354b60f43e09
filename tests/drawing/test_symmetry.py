"""Turns after which a thing looks the same: told by what it is made of, and judged by how it is drawn."""

import unittest
from fractions import Fraction
from typing import Any

import numpy as np

from jaunty_lever.core.checks import seam
from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.symmetry import smallest_turn, turn_of_train
from jaunty_lever.drawing.frames import Look, pixels
from tests.core.scenes import scene

DARK = {"kind": "solid", "colour": "#203040"}
SPOT = {"kind": "ellipse", "id": "spot", "name": "Spot", "position": [0, 0], "size": [24, 24], "fill": DARK}
BAR = {**SPOT, "kind": "rectangle", "size": [40, 12]}


def star(**more: Any) -> dict[str, Any]:
    return {"kind": "star", "points": 5, "fill": DARK, **more}


def ring(*inside: dict[str, Any], **more: Any) -> dict[str, Any]:
    arrangement = {"kind": "ring", "count": 8, "radius": 90, **more.pop("ring", {})}
    return {"kind": "array", "arrangement": arrangement, "layers": list(inside), **more}


#: A layer, one of its angles, and the turn after which it looks the same.
KINDS: tuple[tuple[dict[str, Any], str, Any], ...] = (
    (star(), "rotation", 72),
    (star(pivot=[9, 0]), "rotation", 360),
    (star(scale=[100, 60]), "rotation", 360),
    (star(tilt=[0, 30]), "rotation", 360),
    (star(scale={"rest": [100, 100], "chain": [{"kind": "wave", "id": "w", "amplitude": [20, 5]}]}), "rotation", 360),
    (star(tilt={"rest": [0, 0], "chain": [{"kind": "wave", "id": "w"}]}), "rotation", 360),
    (star(points={"rest": 5, "chain": [{"kind": "wave", "id": "w"}]}), "rotation", 360),
    (
        {"kind": "ellipse", "size": {"rest": [90, 40], "chain": [{"kind": "wave", "id": "w"}]}, "fill": DARK},
        "rotation",
        180,
    ),
    (
        star(
            fill={
                "kind": "linear",
                "stops": [
                    {"offset": 0, "colour": "#203040", "id": "a"},
                    {"offset": 100, "colour": "#c09060", "id": "b"},
                ],
            }
        ),
        "rotation",
        360,
    ),
    ({"kind": "polygon", "sides": 6, "fill": DARK}, "rotation", 60),
    ({"kind": "rectangle", "size": [90, 90], "fill": DARK}, "rotation", 90),
    ({"kind": "rectangle", "size": [90, 40], "fill": DARK}, "rotation", 180),
    ({"kind": "gear", "teeth": 16, "module": 10, "fill": DARK}, "rotation", Fraction(45, 2)),
    ({"kind": "gear", "teeth": 12, "form": "rack", "fill": DARK}, "rotation", 360),
    (
        {"kind": "group", "layers": [{**star(), "id": "s1", "name": "S", "points": 6}, {**BAR, "id": "b1"}, SPOT]},
        "rotation",
        180,
    ),
    ({"kind": "group", "layers": [{**star(), "id": "s1", "name": "S", "position": [5, 0]}]}, "rotation", 360),
    (ring(SPOT), "rotation", 45),
    (ring(BAR), "rotation", 45),
    (ring(BAR, ring={"facing": False}), "rotation", 180),
    (ring(SPOT, ring={"arc": 300}), "rotation", 360),
    (ring({**BAR, "rotation": {"rest": 0, "chain": [{"kind": "wave", "id": "w", "along": 1}]}}), "rotation", 360),
    (ring({**BAR, "rotation": {"rest": 0, "chain": [{"kind": "wave", "id": "w"}]}}, later=0.1), "rotation", 360),
    (ring({**BAR, "rotation": {"rest": 0, "chain": [{"kind": "wave", "id": "w"}]}}), "rotation", 45),
    (ring(BAR), "arrangement.start", 45),
    (ring(BAR), "copy_rotation", 180),
    (ring({**star(), "id": "s1", "name": "S"}, copy_scale=[40, 40]), "copy_rotation", 72),
)


def drawn(one: Scene, angle: str, by: float) -> np.ndarray:
    sampler = Sampler(seam_turned(one, angle, by))
    return pixels(display_list(sampler, SampleTimes(np.array([0.4]))), 0, Look(False, 0.5)).astype(int)


def seam_turned(one: Scene, angle: str, by: float) -> Scene:
    layer = one.layers[0]
    owner, _, field = angle.rpartition(".")
    turned = one.index.parameters[f"layer0.{angle}"].parameter.changed(rest=10.0 + by)
    if owner:
        layer = layer.changed(**{owner: getattr(layer, owner).changed(**{field: turned})})
    else:
        layer = layer.changed(**{field: turned})
    return one.changed(layers=(layer,))


class SameAgain(unittest.TestCase):
    def test_what_is_told_to_look_the_same_is_drawn_so(self) -> None:
        for layer, angle, turn in KINDS:
            with self.subTest(layer=layer["kind"], angle=angle, turn=turn):
                one = scene({"position": [640, 360], **layer})
                told = smallest_turn(one.index, one.index.parameters[f"layer0.{angle}"])
                self.assertEqual(told, turn)
                before, after = drawn(one, angle, 0.0), drawn(one, angle, float(turn))
                self.assertGreater(before.std(), 5)
                # Curves are drawn as straight pieces, which fall elsewhere on what is small and round.
                self.assertLess(np.abs(after - before).max(), 64)
                self.assertLess(np.abs(after - before).mean(), 0.01)
                half = np.abs(drawn(one, angle, float(turn) / 2) - before)
                self.assertGreater((half > 64).sum(), 50, "half of it is seen")

    def test_a_train_is_back_after_a_tooth_and_the_sheet_offers_that(self) -> None:
        rate = {"rest": 0, "chain": [{"kind": "rate", "id": "r", "rate": 100}]}
        screw = {
            "kind": "gear",
            "id": "g",
            "driver": "layer0.rotation",
            "mesh": "screw",
            "driver_teeth": 1,
            "driven_teeth": 43,
        }
        wheel = {"kind": "gear", "teeth": 43, "fill": DARK, "rotation": {"rest": 0, "chain": [screw]}}
        screwed = scene(
            {"kind": "rectangle", "size": [90, 30], "rotation": {**rate, "chain": [{**rate["chain"][0], "rate": 36}]}},
            wheel,
        )  # type: ignore[index,dict-item]
        self.assertEqual(seam.perfect(screwed).frames, 300)
        self.assertEqual(list(seam.jumps(Sampler(screwed))), [])
        # Two wheels in mesh: 100° a second would go on by 1,000°; the nearest that fits is a whole number of teeth.
        mesh = {"kind": "gear", "id": "g", "driver": "layer0.rotation", "driver_teeth": 16, "driven_teeth": 24}
        first = {"kind": "gear", "teeth": 16, "rotation": rate}
        pair = scene(first, {"kind": "gear", "teeth": 24, "rotation": {"rest": 0, "chain": [mesh]}})
        self.assertEqual(turn_of_train(pair.index, pair.index.parameters["layer0.rotation"]), Fraction(45, 2))
        self.assertEqual(len(list(seam.jumps(Sampler(pair)))), 2)
        (edit,) = seam.rounding(pair)
        self.assertEqual((edit["parameter"], Fraction(edit["text"])), ("r.rate", Fraction(99)))
        # A crank on the same axis is seen to turn: only whole turns will do.
        crank = {"rotation": {"rest": 0, "chain": [{"kind": "follow", "id": "f", "driver": "layer0.rotation"}]}}
        arm = scene(first, {"kind": "rectangle", "pivot": [40, 0], **crank})
        (edit,) = seam.rounding(arm)
        self.assertEqual(Fraction(edit["text"]), 108)

    def test_what_is_seen_at_neither_end_does_not_jump(self) -> None:
        def keyed(*values: Any) -> dict[str, Any]:
            whole = len(values) - 1
            return {
                "rest": 0,
                "keys": [{"frame": k * 300 // whole, "value": v, "ease": "linear"} for k, v in enumerate(values)],
            }

        pulse = {"scale": keyed([10, 10], [90, 90]), "opacity": keyed(0, 100, 0)}
        self.assertEqual(list(seam.jumps(Sampler(scene(pulse)))), [])
        # From no size to clear: the end shows nothing, and neither does the start.
        grown = {"scale": keyed([0, 0], [90, 90]), "opacity": keyed(100, 0)}
        self.assertEqual(list(seam.jumps(Sampler(scene(grown)))), [])
        seen = scene({**pulse, "opacity": keyed(20, 100, 0)})
        self.assertEqual({jump.node.id for jump in seam.jumps(Sampler(seen))}, {"layer0.scale", "layer0.opacity"})
        group = {"kind": "group", "opacity": keyed(0, 100, 0), "layers": [{**SPOT, "position": keyed([0, 0], [80, 0])}]}
        self.assertEqual(list(seam.jumps(Sampler(scene(group)))), [])
        # Points of an edge are as clear as their layer.
        edge = {
            "out": {"rest": 0, "chain": [{"kind": "follow", "id": "f", "driver": "element.i", "times": keyed(0, 2)}]}
        }
        self.assertEqual(
            {one.node.id for one in seam.jumps(Sampler(scene({"edge": edge})))} - {"f.times"}, {"layer0.edge.out"}
        )
        self.assertEqual(list(seam.jumps(Sampler(scene({"edge": edge, "opacity": keyed(0, 100, 0)})))), [])
        # Of copies, those that are seen have a say.
        row = {
            "kind": "array",
            "arrangement": {"kind": "row", "count": 3},
            "copy_rotation": keyed(0, 90),
            "layers": [BAR],
        }
        number = {"kind": "follow", "id": "f", "driver": "element.i", "times": -200, "plus": 100, "blend": "replace"}
        fading = {"rest": 0, "chain": [number, {"kind": "limit", "id": "l", "low": 0, "high": 100}]}
        (jump,) = seam.jumps(Sampler(scene({**row, "copy_opacity": fading})))
        self.assertAlmostEqual(jump.value, 90)
        self.assertEqual(list(seam.jumps(Sampler(scene({**row, "copy_opacity": keyed(0, 100, 0)})))), [])
