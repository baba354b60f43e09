"""Places, orders, sweeps and zones against numbers worked out independently, and their laws."""

import json
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from jaunty_lever.core.arrangements.order import Measure, order_of
from jaunty_lever.core.arrangements.places import Places, gap_of_span, grid_of, path_of, ring_of, row_of
from jaunty_lever.core.document.arrangement import MEASURES
from jaunty_lever.core.gauges.edges import edge
from jaunty_lever.core.gauges.push import GIVEN, WAYS, push
from jaunty_lever.core.gauges.sweep import played, swept
from jaunty_lever.core.gauges.zone import SHAPES, distances, nearness
from jaunty_lever.core.geometry.along import track_of

CASES = json.loads((Path(__file__).parent / "element-cases.json").read_text(encoding="utf-8"))


def of(*kinds: str) -> list[dict[str, Any]]:
    return [case for case in CASES if case["what"] in kinds]


def grid(case: dict[str, Any]) -> Places:
    return grid_of(case["grid"]["columns"], case["grid"]["rows"], tuple(case["grid"]["gap"]))


class Reference(unittest.TestCase):
    def test_places(self) -> None:
        made = {
            "row": lambda s: row_of(s["count"], tuple(s["gap"])),
            "grid": lambda s: grid_of(s["columns"], s["rows"], tuple(s["gap"]), s["brick"]),
            "ring": lambda s: ring_of(s["count"], s["radius"], s["start"], s["arc"]),
        }
        cases = of("row", "grid", "ring")
        self.assertGreaterEqual(len(cases), 5)
        for case in cases:
            places = made[case["what"]](case["settings"])
            x, y = np.broadcast_arrays(places.x[0], places.y[0])
            np.testing.assert_allclose(np.stack([x, y], axis=1), case["places"], atol=1e-8)

    def test_orders(self) -> None:
        cases = of("order")
        self.assertGreaterEqual(len(cases), 36)
        for case in cases:
            s = case["settings"]
            order = order_of(grid(case), s["measure"], tuple(s["from"]), s["reversed"])
            np.testing.assert_allclose(order.u[0], case["u"], atol=1e-8, err_msg=str(s))
            self.assertEqual(order.rank[0].tolist(), case["rank"], s)

    def test_sweeps(self) -> None:
        cases = of("sweep")
        self.assertGreaterEqual(len(cases), 67)
        for case in cases:
            s = case["settings"]
            order = order_of(grid(case), case["order"]["measure"], tuple(case["order"]["from"]))
            travel, soft = s["travel"] / 100, s["soft"] / 100
            if "profile" in s:
                keys = np.array(s["profile"])
                amount = played(order.u[0], travel, soft, lambda x, keys=keys: np.interp(x, keys[:, 0], keys[:, 1]))
            else:
                circle = int(order.rank.max()) if s.get("wrap") else None
                amount = swept(order.u[0], travel, s["way"], s["width"] / 100, soft, edge(s["ease"]), circle)
            np.testing.assert_allclose(amount, case["amount"], atol=1e-8, err_msg=str(s))

    def test_zones_and_what_they_push(self) -> None:
        cases = of("zone", "push")
        self.assertGreaterEqual(len(cases), 12)
        for case in cases:
            s = case["settings"] if case["what"] == "zone" else case["zone"]
            points = np.array(case["at"], dtype=float)
            near = nearness(
                tuple(points.T), s["centre"], s["size"], s["angle"], s["shape"], s["inner"], edge(s["ease"])
            )
            if case["what"] == "zone":
                np.testing.assert_allclose(near, case["near"], atol=1e-8)
            else:
                moved = points + pushed(points, s, near, case["settings"]["force"], case["settings"]["way"])
                np.testing.assert_allclose(moved, case["moved"], atol=1e-7)


def pushed(
    points: np.ndarray, zone: dict[str, Any], near: np.ndarray, force: float, way: str, walls: bool = False
) -> np.ndarray:
    """How far points are moved by a zone, (n, 2)."""
    out = np.empty((2, len(points)))
    settings = (*zone["centre"], *zone["size"], zone["angle"], zone["inner"], force, 0.0, 0.0)
    x, y = (np.ascontiguousarray(part) for part in points.T)
    flat = np.array([[1.0], [0.0], [0.0], [1.0], [0.0], [0.0]])
    numbers, shape = np.arange(len(points)), SHAPES.index(zone["shape"])
    arrays = (x, y, np.zeros((2, 1)), flat, 1, near, *(np.array([float(v)]) for v in settings))
    push(0, len(points), *arrays, numbers, 1, WAYS.index(way), shape, GIVEN, False, walls, out)
    return out.T - points


_places = st.builds(
    grid_of, st.integers(1, 9), st.integers(1, 9), st.tuples(st.floats(1, 90), st.floats(1, 90)), st.floats(0, 1)
) | st.builds(
    ring_of, st.integers(1, 40), st.floats(1, 300), st.floats(-360, 360), st.sampled_from([360.0, 200.0, -90.0])
)
_points = st.tuples(st.floats(0, 100), st.floats(0, 100))
_measures: st.SearchStrategy[Measure] = st.sampled_from(MEASURES)
_shares = st.floats(0, 1)


class Laws(unittest.TestCase):
    @given(_places, _measures, _points, st.booleans(), st.integers(1, 999))
    def test_an_order_counts_from_0_to_1_without_a_gap(
        self, places: Places, measure: Measure, origin: tuple[float, float], backwards: bool, seed: int
    ) -> None:
        order = order_of(places, measure, origin, backwards, seed)
        self.assertTrue(((order.u >= 0) & (order.u <= 1)).all())
        self.assertEqual(sorted(set(order.rank[0].tolist())), list(range(int(order.rank.max()) + 1)))
        self.assertEqual(order.most.tolist(), [order.rank.max()])
        # Whoever stands further along the order has no smaller rank.
        sequence = np.argsort(order.u[0], kind="stable")
        self.assertTrue((np.diff(order.rank[0][sequence]) >= 0).all())
        if measure == "shuffled":
            self.assertEqual(len(set(order.rank[0].tolist())), len(places))

    @given(_places, _measures, _points)
    def test_backwards_is_the_mirror_image(self, places: Places, measure: Measure, origin: tuple[float, float]) -> None:
        one, two = (order_of(places, measure, origin, backwards) for backwards in (False, True))
        np.testing.assert_allclose(two.u, 1 - one.u)
        np.testing.assert_array_equal(two.rank, one.rank.max() - one.rank)

    @given(st.lists(_shares, min_size=1, max_size=20), _shares, _shares, st.sampled_from(["linear", "smooth"]))
    def test_at_both_ends_of_its_travel_a_sweep_is_done(
        self, u: list[float], width: float, soft: float, ease: Any
    ) -> None:
        for way, ends in (("enter", (0, 1)), ("leave", (1, 0))):
            for travel, wanted in zip((0.0, 1.0), ends, strict=True):
                amount = swept(u, travel, way, width, soft, edge(ease))  # type: ignore[arg-type]
                np.testing.assert_allclose(amount, wanted, atol=1e-12)
        for way, wanted in (("pulse", 0), ("notch", 1)):
            # An edge narrower than what the place of a front can be told to.
            if soft > 1e-9:
                for travel in (0.0, 1.0):
                    inner = swept(u, travel, way, width, soft, edge(ease))  # type: ignore[arg-type]
                    np.testing.assert_allclose(inner, wanted, atol=1e-9)

    @given(st.integers(2, 60), st.floats(0, 5), st.floats(0.05, 0.9), st.floats(0.01, 0.5))
    def test_on_a_circle_a_whole_turn_changes_nothing(
        self, count: int, travel: float, width: float, soft: float
    ) -> None:
        u = np.arange(count) / (count - 1)
        one, two = (swept(u, t, "pulse", width, soft, edge("linear"), count - 1) for t in (travel, travel + 1))
        np.testing.assert_allclose(one, two, atol=1e-9)

    def test_a_span_is_filled_by_its_gap(self) -> None:
        places = row_of(9, (gap_of_span(400, 9), 0))
        self.assertEqual((places.x[0, 0], places.x[0, -1]), (-200, 200))
        self.assertEqual(gap_of_span(400, 1), 0)

    def test_whoever_stands_on_the_centre_is_pushed_somewhere_of_its_own(self) -> None:
        zone = {"centre": [0, 0], "size": [50, 50], "angle": 0, "inner": 0.2, "shape": "disc"}
        x, y = pushed(np.zeros((5, 2)), zone, np.ones(5), 1.0, "away").T
        np.testing.assert_allclose(np.hypot(x, y), 1)
        self.assertEqual(len(set(zip(x.round(6).tolist(), y.round(6).tolist(), strict=True))), 5)

    @given(
        st.lists(st.tuples(st.floats(-90, 90), st.floats(-90, 90)), min_size=1, max_size=12),
        st.sampled_from(["disc", "box", "bar"]),
        st.floats(0.1, 0.9),
        st.floats(-180, 180),
        st.floats(0, 80),
        st.sampled_from(WAYS),
    )
    def test_walls_keep_out_of_the_inner_part(
        self, at: list[tuple[float, float]], shape: Any, inner: float, angle: float, force: float, way: str
    ) -> None:
        points = np.array(at)
        zone = {"centre": [5, -3], "size": [60, 40], "angle": angle, "inner": inner, "shape": shape}
        near = nearness(tuple(points.T), zone["centre"], zone["size"], angle, shape, inner, edge("smooth"))  # type: ignore[arg-type]
        moved = points + pushed(points, zone, near, force, way, walls=True)
        out = distances(tuple(moved.T), zone["centre"], zone["size"], angle, shape)  # type: ignore[arg-type]
        self.assertTrue((out[near > 0] >= inner - 1e-7).all(), out)


class Extents(unittest.TestCase):
    """What is left of rounding is no extent."""

    def test_copies_along_a_level_path_count_from_one_end_to_the_other(self) -> None:
        for data, first in (
            ("M -50 20 L 70 20", (0, 0)),
            ("M 70 20 L -50 20", (100, 0)),
            ("M 20 -50 L 20 70", (0, 0)),
            ("M 0.1 0.2 L 0.7 0.2", (0, 0)),
        ):
            places = path_of(9, [track_of(data)], np.zeros(1, dtype=np.int64), 0.0, 1.0, False)
            for measure in ("diagonal", "square", "round"):
                self.assertEqual(order_of(places, measure, first).rank[0].tolist(), list(range(9)), (data, measure))

    def test_a_row_counts_by_its_place(self) -> None:
        for gap in ((0, 60), (0, -60), (1e-12, 60)):
            down = row_of(5, gap)
            self.assertEqual(order_of(down, "rows").rank[0].tolist(), [0, 1, 2, 3, 4], gap)
            self.assertEqual(order_of(down, "columns").rank[0].tolist(), [0] * 5, gap)
            self.assertEqual(order_of(down, "diagonal", (50, 50)).rank[0].tolist(), [2, 1, 0, 1, 2], gap)
        for gap in ((60, 0), (-60, 0), (60, 30), (0, 0)):
            self.assertEqual(order_of(row_of(5, gap), "columns").rank[0].tolist(), [0, 1, 2, 3, 4], gap)
        self.assertEqual(order_of(row_of(5, (60, 1e-12)), "rows").rank[0].tolist(), [0] * 5)
        self.assertEqual(order_of(row_of(5, (60, 30)), "diagonal").rank[0].tolist(), [0, 1, 2, 3, 4])
