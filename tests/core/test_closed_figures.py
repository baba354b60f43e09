"""The figure that two circling points draw where the lines that follow them cross: closed, and as its formula has
it."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.layers import TraceLayer
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.traces import Traced, traced

from .scenes import scene

LEFT, RIGHT = np.array([226.0, 640.0]), np.array([1054.0, 640.0])
FAR_LEFT, FAR_RIGHT = np.array([1190.0, -270.0]), np.array([90.0, -270.0])
RADII = 168, 138


def drawn(first: int, second: int, pace: Any, length: int) -> Traced:
    """The trace of the crossing over a scene; `pace`: figures a second."""

    def pin(id: str, centre: np.ndarray, radius: int, turns: int) -> dict[str, Any]:
        speed = {"rest": 0, "chain": [{"kind": "follow", "id": f"{id}-s", "driver": "pace.value", "times": turns}]}
        circles = {"kind": "figure", "id": f"{id}-c", "size": [radius, radius], "speed": speed}
        place = {"rest": centre.tolist(), "chain": [circles]}
        return {"kind": "ellipse", "id": id, "name": id, "size": [8, 8], "position": place}

    def follows(pin: str) -> dict[str, Any]:
        return {"rest": [0, 0], "chain": [{"kind": "follow", "id": f"{pin}-f", "driver": f"{pin}.position"}]}

    crosses = {
        "kind": "crossing",
        "id": "x",
        "a": FAR_LEFT.tolist(),
        "a2": follows("one"),
        "b": FAR_RIGHT.tolist(),
        "b2": follows("two"),
    }
    point = {"kind": "ellipse", "id": "dot", "name": "Dot", "position": {"rest": [0, 0], "chain": [crosses]}}
    layers = (pin("one", LEFT, RADII[0], first), pin("two", RIGHT, RADII[1], second), point)
    lever = {"kind": "number", "id": "pace", "name": "Pace", "low": 0, "high": 9, "value": pace}
    made = scene(
        *layers, {"kind": "trace", "id": "line", "name": "Line", "follows": "dot"}, length=length, levers=[lever]
    )
    sampler = Sampler(made)
    layer = sampler.index.layers["line"]
    assert isinstance(layer, TraceLayer)
    return traced(sampler, layer)


def figure(first: int, second: int, rounds: np.ndarray) -> np.ndarray:
    """Where the lines cross after so many rounds of the whole, by the formula."""

    def at(centre: np.ndarray, radius: int, turns: int) -> np.ndarray:
        way = 2 * np.pi * turns * rounds
        return centre + radius * np.stack([np.cos(way), np.sin(way)], axis=1)

    def cross(one: np.ndarray, other: np.ndarray) -> np.ndarray:
        return np.asarray(one[..., 0] * other[..., 1] - one[..., 1] * other[..., 0])

    one, two = at(LEFT, RADII[0], first) - FAR_LEFT, at(RIGHT, RADII[1], second) - FAR_RIGHT
    share = cross(FAR_RIGHT - FAR_LEFT, two) / cross(one, two)
    return np.asarray(FAR_LEFT + share[:, None] * one)


def length_of(line: np.ndarray) -> float:
    return float(np.hypot(*np.diff(line, axis=0).T).sum())


def furthest(points: np.ndarray, line: np.ndarray) -> float:
    """How far the furthest of some points lies from a line, px."""
    begin, way = line[:-1], np.diff(line, axis=0)
    size = np.maximum((way**2).sum(axis=1), 1e-18)
    far = 0.0
    for some in np.array_split(points, max(len(points) // 200, 1)):
        off = some[:, None] - begin
        share = np.clip((off * way).sum(axis=2) / size, 0, 1)
        far = max(far, float(np.hypot(*np.moveaxis(off - share[..., None] * way, -1, 0)).min(axis=1).max()))
    return far


class ClosedFigures(unittest.TestCase):
    def check(self, first: int, second: int, pace: Any, length: int) -> None:
        made = drawn(first, second, pace, length)
        self.assertEqual(made.count.tolist(), [len(made.points)], "one line without a gap")
        truth = figure(first, second, np.linspace(0, 1, 6_000 * first + 1))
        self.assertLess(furthest(truth[::7], made.points), 0.25)
        self.assertLess(furthest(made.points, truth), 0.25)
        self.assertLess(np.hypot(*(made.points[-1] - made.points[0])), 1e-6)
        self.assertAlmostEqual(length_of(made.points) / length_of(truth), 1, delta=1e-3)

    def test_at_a_steady_pace(self) -> None:
        # The last frame is the one at which the figure closes.
        for first, second in ((2, 1), (3, 2), (5, 4), (10, 7)):
            with self.subTest(f"{first} : {second}"):
                self.check(first, second, 0.25, 121)

    def test_as_quick_as_can_be(self) -> None:
        self.check(10, 7, 3.0, 11)

    def test_at_a_pace_that_is_keyed(self) -> None:
        # ∫ of what grows evenly from 0 to 0.5 in four seconds: one whole round.
        keys = [{"frame": 0, "value": 0, "ease": "linear"}, {"frame": 120, "value": 0.5, "ease": "linear"}]
        self.check(5, 4, {"rest": 0, "keys": keys}, 121)


if __name__ == "__main__":
    unittest.main()
