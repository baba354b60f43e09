"""What a page is told of where things in depth are seen: by the camera, for its handles, and from above."""

import itertools
import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.gauges.zone import distances
from jaunty_lever.core.view.question import Question
from jaunty_lever.core.view.scene_view import scene_view
from tests.core.test_space import CARD, FRONT, array, drawn, on_stage, read, scene


class SeenInDepth(unittest.TestCase):
    def test_zones_are_seen_by_the_camera_and_from_above(self) -> None:
        zone = {"kind": "zone", "id": "g", "name": "G", "centre": [520, 310], "size": [100, 80]}
        row = {"kind": "row", "count": 3, "gap": [0, 0], "gap_depth": 100}
        view = {**FRONT, "around": [20, 15]}
        for ends, depth in (({"size_depth": 60, "centre_depth": 120}, 120), ({}, 30)):
            # What is drawn of a zone at its centre is what would be seen of a dot there.
            dot = {**CARD, "id": "there", "name": "There", "position": [520, 310], "depth": depth, "scale": [2, 2]}
            one = scene(dot, array(row, gauges=[{**zone, **ends}], depth=30), view)
            answer, _ = scene_view(Project(id="p", name="P", scenes=(one,)), "s", Question(stop=1, plan=True), Cache())

            def numbers(key: str, told: Any = answer) -> np.ndarray:
                return np.frombuffer(told["channels"][key][2], dtype=np.float32).astype(float)

            x, y, w = numbers(answer["planes"]["g"]).reshape(3, 3) @ [520, 310, 1]
            np.testing.assert_allclose([x / w, y / w], on_stage(one, "there").mean(axis=0), atol=0.05)
            (told,) = answer["plan"]["zones"]
            self.assertEqual((told["id"], told["array"], told["disc"]), ("g", "a", True))
            np.testing.assert_allclose(numbers(told["spots"]), [520, ends.get("centre_depth", 0), 310])
            np.testing.assert_allclose(numbers(told["reach"]), [100, ends.get("size_depth", 0)])
        flat = scene(array({"kind": "row", "count": 3}, gauges=[zone]))
        self.assertEqual(
            scene_view(Project(id="p", name="P", scenes=(flat,)), "s", Question(stop=1), Cache())[0]["planes"], {}
        )

    def test_a_zone_that_is_turned_reaches_as_far_to_the_side_as_anything_in_it(self) -> None:
        x, y = np.meshgrid(np.linspace(-400, 400, 801), np.linspace(-400, 400, 801))
        for shape, angle in itertools.product(("disc", "box"), (0, 30, 90, 200)):
            zone = {
                "kind": "zone",
                "id": "g",
                "name": "G",
                "centre": [0, 0],
                "size": [150, 60],
                "angle": angle,
                "shape": shape,
            }
            inside = distances((x, y), (0, 0), (150, 60), angle, shape) <= 1  # type: ignore[arg-type]
            with self.subTest(shape=shape, angle=angle):
                self.assertAlmostEqual(self.reach(zone), np.abs(x[inside]).max(), delta=1.5)
        # A bar has no end along itself.
        bar = {"kind": "zone", "id": "g", "name": "G", "size": [150, 60], "shape": "bar"}
        self.assertEqual(self.reach(bar), 150)
        self.assertGreater(self.reach({**bar, "angle": 5}), 10_000)

    def reach(self, zone: dict[str, Any]) -> float:
        one = scene(array({"kind": "row", "count": 3, "gap_depth": 100}, gauges=[zone], depth=30), FRONT)
        answer, _ = scene_view(Project(id="p", name="P", scenes=(one,)), "s", Question(stop=1, plan=True), Cache())
        (told,) = answer["plan"]["zones"]
        return float(np.frombuffer(answer["channels"][told["reach"]][2], dtype=np.float32)[0])

    def test_what_is_dragged_of_an_array_lies_in_the_plane_of_its_copies(self) -> None:
        view = {**FRONT, "around": [35, 12]}
        for kind in ("grid", "ground"):
            laid = array({"kind": kind, "columns": 4, "rows": 3, "gap": [70, 50]}, tilt=[40, 20], depth=25, rotation=15)
            one = scene(laid, view)
            answer, _ = scene_view(Project(id="p", name="P", scenes=(one,)), "s", Question(stop=1), Cache())
            plane = np.frombuffer(answer["channels"][answer["planes"]["a"]][2], dtype=np.float32).astype(float)
            # A ground lies in x and z.
            flat = (
                read(one, "place")
                if kind == "grid"
                else np.stack([read(one, "place")[:, 0], read(one, "z")[:, 0]], axis=1)
            )
            x, y, w = plane.reshape(3, 3) @ np.vstack([flat.T, np.ones(12)])
            node = next(node for node in drawn(one, 1).walk() if node.kind == "array")
            a, b, c, d, e, f = node.channels["matrix"].rows[0].astype(float)
            moved = node.channels["moved"].rows[0].reshape(-1, 2).astype(float)
            seen = np.stack([a * moved[:, 0] + c * moved[:, 1] + e, b * moved[:, 0] + d * moved[:, 1] + f], axis=1)
            with self.subTest(kind):
                np.testing.assert_allclose(np.stack([x / w, y / w], axis=1), seen, atol=0.01)

    def test_sparks_are_seen_from_above_where_they_fly(self) -> None:
        thrown = {
            "kind": "emitter",
            "rate": 4,
            "lifetime": 1.5,
            "speed": 90,
            "spread": 70,
            "speed_depth": 100,
            "spread_depth": 30,
        }
        one = scene(array(thrown, depth=30), FRONT)
        answer, _ = scene_view(Project(id="p", name="P", scenes=(one,)), "s", Question(stop=60, plan=True), Cache())
        (told,) = answer["plan"]["sparks"]
        many, spots = (answer["channels"][told[name]] for name in ("counts", "spots"))
        counts = np.frombuffer(many[2], dtype=np.float32)
        rows = np.frombuffer(spots[2], dtype=np.float32).reshape(spots[0], spots[1], 3)
        self.assertEqual((counts[0], counts.max()), (1, 6))
        for frame in (0, 11, 40, 59):
            place, z = read(one, "place", frame / 30), read(one, "z", frame / 30)
            want = np.stack([500 + place[:, 0], 30 + z[:, 0], 300 + place[:, 1]], axis=1)
            np.testing.assert_allclose(rows[frame, : int(counts[frame])], want, atol=1e-3)
        # What does not lie in depth is not in the view from above.
        flat = scene(array({"kind": "emitter"}), {**CARD, "id": "deep", "name": "Deep", "depth": 5})
        answer, _ = scene_view(Project(id="p", name="P", scenes=(flat,)), "s", Question(stop=3, plan=True), Cache())
        self.assertEqual(answer["plan"]["sparks"], [])

    def test_everything_stands_where_it_is_while_something_lies_in_depth(self) -> None:
        one = scene(
            array({"kind": "ground", "columns": 2, "rows": 1, "gap": [100, 0]}, depth=-50),
            {**FRONT, "around": [90, 0]},
            {"kind": "light", "id": "lamp", "position": [10, 20], "depth": 30},
        )
        project = Project(id="p", name="P", scenes=(one,))
        answer, _ = scene_view(project, "s", Question(plan=True, stop=1), Cache())
        plan = answer["plan"]

        def spots(key: str) -> np.ndarray:
            rows, each, data = answer["channels"][key]
            return np.frombuffer(data, dtype=np.float32).reshape(rows, each, 3)[0]

        np.testing.assert_allclose(spots(plan["things"][0]["spots"]), [[450, -50, 300], [550, -50, 300]])
        np.testing.assert_allclose(spots(plan["camera"]["eye"]), [[1000, 0, 300]], atol=1e-3)
        np.testing.assert_allclose(spots(plan["light"]["spots"]), [[10, 30, 20]])
        flat = Project(id="p", name="P", scenes=(scene(CARD, perspective=0),))
        self.assertIsNone(scene_view(flat, "s", Question(plan=True, stop=1), Cache())[0]["plan"])
