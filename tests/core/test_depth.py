"""Depth: projections worked out by hand, groups and copies in space, what is behind the viewer, and what stays as it
was."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.display.display_list import DisplayList, display_list
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.geometry.matrices import applied, product
from jaunty_lever.drawing.frames import exposure_of, pixels

CARD = {"kind": "rectangle", "size": [100, 60]}


def scene(*layers: dict[str, Any], perspective: float = 500, **fields: Any) -> Scene:
    """A stage of 1000 × 600 whose viewer stands before its middle."""
    whole = [{"id": f"l{k}", "name": f"L{k}", **layer} for k, layer in enumerate(layers)]
    return Scene.model_validate(
        {
            "id": "s",
            "name": "S",
            "width": 1000,
            "height": 600,
            "length": 60,
            "perspective": perspective,
            "layers": whole,
            **fields,
        }
    )


def drawn(one: Scene, frames: int = 1) -> DisplayList:
    return display_list(Sampler(one), SampleTimes.frames(30, 0, frames))


def on_stage(one: Scene, id: str, element: int = 0, frame: int = 0) -> np.ndarray:
    """The points of a shape as they are seen on the stage, (n, 2), of one of the copies around it."""

    def row(node: DisplayNode, name: str) -> np.ndarray:
        channel = node.channels[name]
        values = channel.rows[min(frame, len(channel.rows) - 1)].reshape(channel.each, -1)
        return np.asarray(values[min(element, channel.each - 1)], dtype=np.float64)

    def find(nodes: tuple[DisplayNode, ...], around: np.ndarray) -> np.ndarray | None:
        for node in nodes:
            matrix = product(around, row(node, "matrix"))
            if node.id == id:
                points = row(node, "points.0").reshape(-1, 2)
                return np.stack(applied(matrix, points[:, 0], points[:, 1]), axis=1)
            if node.kind == "array":
                matrix = product(matrix, np.concatenate([row(node, "turned"), row(node, "moved")]))
            found = find(node.nodes, matrix)
            if found is not None:
                return found
        return None

    found = find(drawn(one, frame + 1).nodes, np.array([1.0, 0, 0, 1, 0, 0]))
    assert found is not None
    return found


def by_hand(points: np.ndarray, *steps: np.ndarray, p: float = 500, at: tuple[float, float] = (500, 300)) -> np.ndarray:
    """Points (n, 2) through 4 × 4 matrices, the last first, and through the perspective."""
    whole = np.column_stack([points, np.zeros(len(points)), np.ones(len(points))])
    for step in reversed(steps):
        whole = whole @ step.T
    w = 1 - whole[:, 2] / p
    return np.stack([at[k] + (whole[:, k] - at[k]) / w for k in (0, 1)], axis=1)


def move(x: float, y: float, z: float = 0) -> np.ndarray:
    made = np.eye(4)
    made[:3, 3] = x, y, z
    return made


def turn(axis: str, degrees: float) -> np.ndarray:
    """As CSS turns: about z clockwise, about x the top goes away, about y the right side."""
    c, s = np.cos(np.deg2rad(degrees)), np.sin(np.deg2rad(degrees))
    made = np.eye(4)
    a, b = {"x": (1, 2), "y": (2, 0), "z": (0, 1)}[axis]
    made[a, a] = made[b, b] = c
    made[a, b], made[b, a] = -s, s
    return made


def size(x: float, y: float) -> np.ndarray:
    return np.diag([x, y, 1.0, 1.0])


CORNERS = np.array([[-50, -30], [50, -30], [50, 30], [-50, 30]], dtype=float)


class Projected(unittest.TestCase):
    def near(self, a: np.ndarray, b: np.ndarray, off: float = 1e-3) -> None:
        np.testing.assert_allclose(a, b, atol=off)

    def test_what_is_nearer_is_larger_about_where_the_viewer_stands(self) -> None:
        # 100 of 500 px nearer: everything is 1 / 0.8 as far from the middle.
        one = scene({**CARD, "position": [700, 300], "depth": 100})
        self.near(on_stage(one, "l0"), np.array([[687.5, 262.5], [812.5, 262.5], [812.5, 337.5], [687.5, 337.5]]))
        away = scene({**CARD, "position": [700, 300], "depth": -500})
        self.near(on_stage(away, "l0")[0], np.array([575, 285]))
        moved = scene({**CARD, "position": [700, 300], "depth": 100}, perspective_origin=[70, 50])
        self.near(on_stage(moved, "l0")[0], np.array([637.5, 262.5]))

    def test_a_tilted_card_by_hand(self) -> None:
        # Its right side lies 50·sin 60° further away: w = 1 + 43.301 / 500.
        one = scene({**CARD, "position": [700, 300], "tilt": [0, 60]})
        found = on_stage(one, "l0")
        w = 1 + 43.30127 / 500
        self.near(found[1], np.array([500 + 225 / w, 300 - 30 / w]))
        w = 1 - 43.30127 / 500
        self.near(found[0], np.array([500 + 175 / w, 300 - 30 / w]))

    def test_all_turns_together_against_matrices_of_four_rows(self) -> None:
        fields = {
            "position": [320, 210],
            "depth": 80,
            "rotation": 25,
            "tilt": [40, -35],
            "scale": [150, 80],
            "pivot": [20, -10],
        }
        steps = [move(320, 210, 80), turn("z", 25), turn("x", 40), turn("y", -35), size(1.5, 0.8), move(-20, 10)]
        self.near(on_stage(scene({**CARD, **fields}), "l0"), by_hand(CORNERS, *steps))
        # Without a perspective it is seen straight from before.
        flat = scene({**CARD, **fields}, perspective=0)
        self.near(on_stage(flat, "l0"), by_hand(CORNERS, *steps, p=1e15))

    def test_groups_in_groups_flat_and_not(self) -> None:
        inner = {**CARD, "id": "card", "name": "Card", "position": [60, -20], "tilt": [20, 50], "depth": 30}
        middle = {
            "kind": "group",
            "id": "m",
            "name": "M",
            "position": [10, 40],
            "tilt": [-30, 0],
            "depth": -60,
            "rotation": 15,
            "layers": [inner],
        }
        outer = {"kind": "group", "position": [400, 250], "rotation": -20, "scale": [120, 90], "layers": [middle]}
        steps = [
            move(400, 250),
            turn("z", -20),
            size(1.2, 0.9),
            move(10, 40, -60),
            turn("z", 15),
            turn("x", -30),
            move(60, -20, 30),
            turn("x", 20),
            turn("y", 50),
        ]
        self.near(on_stage(scene(outer), "card"), by_hand(CORNERS, *steps), 2e-3)

    def test_copies_stand_as_layers_would_and_live_at_their_own_moments(self) -> None:
        tilt = {"rest": [0, 0], "chain": [{"kind": "formula", "id": "f", "text": "(10 * i, 25 * i)"}]}
        depth = {"rest": 0, "chain": [{"kind": "formula", "id": "g", "text": "30 * i - 40"}]}
        swing = {"rest": [0, 0], "chain": [{"kind": "wave", "id": "w", "amplitude": [0, 40], "frequency": 0.7}]}
        array = {
            "kind": "array",
            "position": [500, 320],
            "rotation": 10,
            "copy_tilt": tilt,
            "copy_depth": depth,
            "later": 0.2,
            "arrangement": {"kind": "row", "count": 4, "gap": [120, 20]},
            "layers": [{**CARD, "id": "card", "name": "Card", "tilt": swing}],
        }
        one = scene(array)
        for copy in range(4):
            t = 15 / 30 - 0.2 * copy
            steps = [
                move(500, 320),
                turn("z", 10),
                move(-180 + 120 * copy, -30 + 20 * copy, 30 * copy - 40),
                turn("x", 10 * copy),
                turn("y", 25 * copy),
                turn("y", 40 * np.sin(2 * np.pi * 0.7 * t)),
            ]
            self.near(on_stage(one, "card", copy, 15), by_hand(CORNERS, *steps), 3e-3)

    def test_a_round_outline_stays_within_a_quarter_of_a_pixel(self) -> None:
        for tilt, depth in (([60, 0], 150), ([75, 30], 0), ([0, 80], -200)):
            one = scene({"kind": "ellipse", "size": [360, 300], "position": [560, 280], "tilt": tilt, "depth": depth})
            angle = np.linspace(0, 2 * np.pi, 721)[:-1]
            round_ = np.stack([180 * np.cos(angle), 150 * np.sin(angle)], axis=1)
            true = by_hand(round_, move(560, 280, depth), turn("x", tilt[0]), turn("y", tilt[1]))
            points = on_stage(one, "l0")
            curve = [points[:1]]
            t = np.linspace(0, 1, 900)[1:, None]
            for k in range(1, len(points), 3):
                p0, p1, p2, p3 = points[k - 1], points[k], points[k + 1], points[k + 2]
                curve.append((1 - t) ** 3 * p0 + 3 * (1 - t) ** 2 * t * p1 + 3 * (1 - t) * t**2 * p2 + t**3 * p3)
            line = np.concatenate(curve)
            far = np.hypot(*(true[:, None] - line[None]).transpose(2, 0, 1)).min(axis=1)
            self.assertLess(far.max(), 0.3, (tilt, depth))


class Drawn(unittest.TestCase):
    def colours(self, *layers: dict[str, Any], **fields: Any) -> np.ndarray:
        one = scene(*layers, background="#000000", **fields)
        return pixels(drawn(one), 0)[..., :3].reshape(-1, 3)

    def paint(self, colour: str) -> dict[str, Any]:
        return {"fill": {"kind": "solid", "colour": colour}, "position": [500, 300]}

    def test_what_is_behind_the_viewer_edge_on_or_out_of_all_bounds_harms_nothing(self) -> None:
        card = {**CARD, **self.paint("#ffffff")}
        behind = self.colours({**card, "depth": 600, "tilt": [10, 10]})
        self.assertEqual(behind.max(), 0)
        self.assertEqual(self.colours({**card, "tilt": [0, 90]}).max(), 0)
        for odd in (
            {"depth": 500},
            {"depth": 1e300},
            {"depth": -1e300, "tilt": [5, 5]},
            {"depth": 480, "tilt": [85, 0], "size": [900, 900]},
            {"tilt": [1e12, -1e12]},
            {"tilt": [90, 0]},
            {"tilt": [89.999, 0]},
            {"depth": 499.999, "tilt": [30, 30]},
        ):
            with self.subTest(**odd):
                table = drawn(scene({**card, **odd}))
                self.assertTrue(all(np.isfinite(c.rows).all() for c in table.channels().values()))
                pixels(table, 0)
        self.colours({**card, "tilt": [40, 30]}, perspective=1)

    def test_in_a_group_and_an_array_the_nearer_is_drawn_later_where_asked(self) -> None:
        near = {**CARD, "id": "near", "name": "Near", "depth": 50, "fill": {"kind": "solid", "colour": "#ff0000"}}
        far = {
            **CARD,
            "id": "far",
            "name": "Far",
            "depth": -50,
            "size": [300, 200],
            "fill": {"kind": "solid", "colour": "#00ff00"},
        }
        for asked, middle in ((False, [0, 255, 0]), (True, [255, 0, 0])):
            group = {"kind": "group", "position": [500, 300], "by_depth": asked, "layers": [near, far]}
            seen = pixels(drawn(scene(group)), 0)
            self.assertEqual(seen[300, 500, :3].tolist(), middle)
        depth = {"rest": 0, "chain": [{"kind": "formula", "id": "g", "text": "100 * cos(360 * t + 180 * i)"}]}
        card = {**CARD, "id": "card", "name": "Card"}
        array = {
            "kind": "array",
            "position": [500, 300],
            "by_depth": True,
            "copy_depth": depth,
            "arrangement": {"kind": "row", "count": 2, "gap": [10, 0]},
            "layers": [card],
        }
        node = drawn(scene(array), 30).nodes[0]
        order = node.channels["order"].rows.astype(int)
        self.assertEqual((order[0].tolist(), order[15].tolist()), ([1, 0], [0, 1]))

    def test_mattes_filters_and_motion_blur_hold_in_depth(self) -> None:
        turns = {"rest": [0, 0], "chain": [{"kind": "rate", "id": "r", "rate": [0, 400]}]}
        window = {"kind": "ellipse", "id": "w", "name": "W", "size": [60, 60], "position": [500, 300], "hidden": True}
        card = {
            **CARD,
            **self.paint("#ffffff"),
            "tilt": turns,
            "matte": {"layer": "w"},
            "filters": [{"kind": "blur", "id": "b", "radius": 2}],
        }
        one = scene(card, window, background="#000000", motion_blur=True)
        still = pixels(drawn(one), 0)[..., 0].astype(int)
        self.assertGreater(still[300, 500], 200)
        self.assertEqual(still[300, 460], 0)
        blurred = np.asarray(exposure_of(Sampler(one), 3).toarray())[..., :3]
        self.assertGreater(len(np.unique(blurred)), 20)

    def test_a_matte_lies_where_it_would_be_seen_and_what_stays_sharp_stays_in_its_group(self) -> None:
        hole = {"kind": "rectangle", "id": "hole", "name": "Hole", "size": [160, 90], "tilt": [10, 40], "hidden": True}
        hole["fill"] = {"kind": "solid", "colour": "#ffffff"}
        frame = {
            "kind": "group",
            "id": "g",
            "name": "G",
            "position": [420, 260],
            "tilt": [35, -20],
            "depth": 60,
            "layers": [hole],
        }
        sheet = {"kind": "rectangle", "size": [1000, 600], "position": [500, 300], "matte": {"layer": "hole"}}
        sheet["fill"] = {"kind": "solid", "colour": "#ffffff"}
        shown = {**frame, "layers": [{**hole, "hidden": False}]}
        meant = self.colours(shown).max(axis=1).astype(int)
        self.assertGreater((meant > 128).sum(), 3000)
        # On the stage, and in a group that lies in depth itself.
        tilted = {
            "kind": "group",
            "id": "h",
            "name": "H",
            "position": [500, 300],
            "tilt": [0, 1e-3],
            "layers": [{**sheet, "id": "in", "name": "In", "size": [4000, 4000], "position": [0, 0]}],
        }
        for layers in ((frame, sheet), (frame, tilted)):
            seen = self.colours(*layers).max(axis=1).astype(int)
            self.assertGreater((np.abs(seen - meant) <= 8).mean(), 0.999)
        still = {
            **CARD,
            "id": "card",
            "name": "Card",
            "tilt": [0, 50],
            "blurs": False,
            "fill": {"kind": "solid", "colour": "#ffffff"},
        }
        for group in ({"tilt": [30, 10]}, {"rotation": 20}):
            one = scene(
                {"kind": "group", "position": [300, 200], **group, "layers": [still]},
                background="#000000",
                motion_blur=True,
            )
            alike = np.asarray(exposure_of(Sampler(one), 3).toarray())[..., :3].astype(int)
            self.assertGreater(
                (np.abs(alike.max(axis=2) - pixels(drawn(one), 0)[..., :3].max(axis=2)) <= 8).mean(), 0.999
            )

    def test_without_depth_everything_stays_as_it_was(self) -> None:
        layers = (
            {**CARD, "position": [300, 200], "rotation": 20},
            {"kind": "group", "position": [600, 300], "layers": [{**CARD, "id": "in", "name": "In"}]},
        )
        plain, lensed = (drawn(scene(*layers, perspective=p)) for p in (0, 500))
        self.assertEqual(set(plain.channels()), set(lensed.channels()))
        # Beside something in depth, what is flat stays bit for bit.
        beside = drawn(scene(*layers, {**CARD, "tilt": [30, 0]}))
        self.assertLessEqual(set(plain.channels()), set(beside.channels()))
