"""Places along lines and scattered over areas, and what is laid out while it moves."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.arrangements.order import order_of
from jaunty_lever.core.arrangements.places import path_of, rails_of, row_of, scatter_of
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import EDIT
from jaunty_lever.core.evaluation.placing import world_matrix
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.geometry.along import Track, track_of
from jaunty_lever.core.geometry.matrices import applied, inverted, layer_matrix, product
from jaunty_lever.formats import project_file

from .scenes import project, scene
from .test_arrays import array, row, values

CIRCLE = "M 100 0 A 100 100 0 0 1 -100 0 A 100 100 0 0 1 100 0 Z"
ONE = np.zeros(1, dtype=np.int64)


def along(data: str, count: int, start: float = 0, end: float = 1, facing: bool = True) -> np.ndarray:
    """Places along path data, (count, 3): x, y, angle."""
    made = path_of(count, [track_of(data)], ONE, start, end, facing)
    return np.stack(np.broadcast_arrays(made.x[0], made.y[0], made.angle[0]), axis=1)


class Along(unittest.TestCase):
    def test_a_closed_line_is_shared_out_evenly(self) -> None:
        made = along(CIRCLE, 8)
        turn = np.arange(8) * 45
        np.testing.assert_allclose(made[:, 0], 100 * np.cos(np.deg2rad(turn)), atol=0.02)
        np.testing.assert_allclose(made[:, 1], 100 * np.sin(np.deg2rad(turn)), atol=0.02)
        np.testing.assert_allclose(np.mod(made[:, 2] - turn - 90 + 180, 360) - 180, 0, atol=0.05)

    def test_an_open_one_begins_and_ends_with_a_copy(self) -> None:
        made = along("M 0 0 L 30 0 L 30 70", 11)
        np.testing.assert_allclose(made[:4, 0], [0, 10, 20, 30], atol=1e-9)
        np.testing.assert_allclose(made[4:, 1], np.arange(10, 71, 10), atol=1e-9)
        np.testing.assert_allclose(made[[0, 10], 2], [0, 90], atol=1e-9)
        self.assertFalse(along("M 0 0 L 30 0", 3, facing=False)[:, 2].any())

    def test_by_length_and_not_by_the_curves_own_pace(self) -> None:
        # A curve whose points lie bunched at one end: places stay equally far apart.
        made = along("M 0 0 C 5 0 10 0 400 0", 41)
        np.testing.assert_allclose(np.diff(made[:, 0]), 10, atol=1e-4)

    def test_it_slides_along_and_round(self) -> None:
        np.testing.assert_allclose(along(CIRCLE, 4, 0.25, 1.25), along(CIRCLE, 4, 0.25, 1.25), atol=1e-9)
        np.testing.assert_allclose(along("M 0 0 L 100 0", 3, 0.2, 0.6)[:, 0], [20, 40, 60], atol=1e-9)
        np.testing.assert_allclose(along("M 0 0 L 100 0", 2, -1, 9)[:, 0], [0, 100], atol=1e-9)

    def test_what_has_no_length_is_a_point(self) -> None:
        np.testing.assert_array_equal(along("M 5 7", 3), [[5, 7, 0]] * 3)
        self.assertEqual(Track("", np.zeros(0)).length, 0)

    def test_several_stretches_are_one_line_without_the_gaps(self) -> None:
        made = along("M 0 0 L 10 0 M 100 0 L 110 0", 6)
        np.testing.assert_allclose(made[:, 0], [0, 4, 8, 102, 106, 110], atol=1e-9)

    def test_along_another_layer_wherever_it_stands(self) -> None:
        lead = {
            "kind": "line",
            "id": "lead",
            "name": "Lead",
            "start": [0, 0],
            "end": [100, 0],
            "position": [300, 200],
            "rotation": 90,
            "scale": [200, 200],
        }
        path = {"kind": "path", "count": 3, "outline": "lead"}
        one = scene(array(arrangement=path, position=[300, 100], rotation=90), lead)
        # On the stage they stand at 300, 200 … 400; in the array's own coordinates that is along x.
        np.testing.assert_allclose(values(one, "a.place")[:, 0], [[100, 0], [200, 0], [300, 0]], atol=1e-9)
        moving = {**lead, "rotation": {"chain": [{"kind": "rate", "id": "r", "rate": 90}]}}
        moved = values(
            scene(array(arrangement=path, position=[300, 200]), moving), "a.place", SampleTimes(np.array([0.0, 1.0]))
        )
        np.testing.assert_allclose(moved[2], [[200, 0], [0, 200]], atol=1e-6)


class Scattered(unittest.TestCase):
    def spots(self, count: int, apart: float = 0, shape: int = 0, seed: int = 3, outline: Any = None) -> np.ndarray:
        polygon = np.zeros((0, 2)) if outline is None else np.array(outline, dtype=float)
        made = scatter_of(count, (400.0, 200.0), shape, polygon, apart, seed)
        return np.stack([made.x[0], made.y[0]], axis=1)

    @settings(max_examples=30, deadline=None)
    @given(st.integers(1, 200), st.floats(0, 30), st.integers(1, 99), st.sampled_from([0, 1]))
    def test_inside_the_area_and_more_of_them_move_none(self, count: int, apart: float, seed: int, shape: int) -> None:
        made = self.spots(count, apart, shape, seed)
        self.assertTrue((np.abs(made) <= [200, 100]).all())
        if shape == 1:
            self.assertTrue((np.hypot(made[:, 0] / 200, made[:, 1] / 100) <= 1 + 1e-9).all())
        np.testing.assert_array_equal(self.spots(count + 20, apart, shape, seed)[:count], made)

    def test_they_keep_apart_as_far_as_that_goes(self) -> None:
        def nearest(spots: np.ndarray) -> float:
            far = np.hypot(*np.moveaxis(spots[:, None] - spots[None], -1, 0)) + np.eye(len(spots)) * 1e9
            return float(far.min())

        self.assertGreaterEqual(nearest(self.spots(30, 25)), 25)
        self.assertLess(nearest(self.spots(60)), 12)
        # Far more than there is room for: still the widest that was found.
        self.assertGreater(nearest(self.spots(400, 25)), 3)

    def test_evenly(self) -> None:
        made = self.spots(4000)
        counts = np.histogram2d(made[:, 0], made[:, 1], bins=[4, 2], range=[[-200, 200], [-100, 100]])[0]
        self.assertTrue(((counts > 420) & (counts < 580)).all(), counts)

    def test_inside_an_outline(self) -> None:
        made = self.spots(200, shape=2, outline=[[0, 0], [100, 0], [0, 100]])
        self.assertTrue(((made >= 0).all(axis=1) & (made.sum(axis=1) <= 100)).all())


class States(unittest.TestCase):
    """An arrangement that moves is laid out for each of its states."""

    def test_each_state_as_if_it_were_the_only_one(self) -> None:
        counts, gaps = np.array([3, 7, 5]), np.array([10.0, 20.0, 5.0])
        together = row_of(counts, (gaps, np.zeros(3)))
        order = order_of(together, "round", (np.array([0.0, 50.0, 100.0]), 0.0))
        for k in range(3):
            alone = row_of(counts[k], (gaps[k], 0))
            by = order_of(alone, "round", (50.0 * k, 0.0))
            many = counts[k]
            np.testing.assert_allclose(together.x[k, :many], alone.x[0], atol=1e-12)
            np.testing.assert_allclose(order.u[k, :many], by.u[0], atol=1e-12)
            np.testing.assert_array_equal(order.rank[k, :many], by.rank[0])
            self.assertEqual(order.most[k], by.most[0])

    def test_a_gap_that_breathes_and_an_origin_that_travels(self) -> None:
        gap = {"rest": [40, 0], "chain": [{"kind": "wave", "id": "g", "amplitude": [10, 0], "frequency": 1}]}
        origin = {
            "rest": [0, 0],
            "keys": [
                {"frame": 0, "value": [0, 0], "ease": "linear"},
                {"frame": 30, "value": [100, 0], "ease": "linear"},
            ],
        }
        one = scene(array(arrangement={**row(5), "gap": gap}, order={"origin": origin}))
        times = SampleTimes(np.array([0.0, 0.25, 1.0]))
        np.testing.assert_allclose(values(one, "a.place", times)[4, :, 0], [80, 100, 80], atol=1e-9)
        np.testing.assert_allclose(values(one, "a.u", times)[:, 0, 0], np.linspace(0, 1, 5), atol=1e-9)
        np.testing.assert_allclose(values(one, "a.u", times)[:, 2, 0], np.linspace(1, 0, 5), atol=1e-9)

    def test_a_span_is_filled_by_any_number(self) -> None:
        count = {
            "rest": 3,
            "keys": [{"frame": 0, "value": 3, "ease": "linear"}, {"frame": 30, "value": 9, "ease": "linear"}],
        }
        one = scene(array(arrangement={"kind": "row", "count": count, "fit": "span", "span": [400, 0]}))
        made = values(one, "a.place", SampleTimes(np.array([0.0, 1.0])))[:, :, 0]
        np.testing.assert_allclose(made[[0, 2], 0], [-200, 200])
        np.testing.assert_allclose(made[[0, 8], 1], [-200, 200])


class Matrices(unittest.TestCase):
    @given(
        st.tuples(st.floats(-99, 99), st.floats(-99, 99)),
        st.floats(-180, 180),
        st.floats(20, 300),
        st.tuples(st.floats(-9, 9), st.floats(-9, 9)),
    )
    def test_there_and_back(self, position: Any, rotation: float, scale: float, pivot: Any) -> None:
        matrix = layer_matrix(
            *(np.array([[part]], dtype=float) for part in (position, [rotation], [scale, scale / 2], pivot))
        )
        there = applied(matrix, np.array([[3.0]]), np.array([[-8.0]]))
        back = applied(inverted(matrix), *there)
        np.testing.assert_allclose([part.item() for part in back], [3, -8], atol=1e-6)
        whole = product(inverted(matrix), matrix)
        np.testing.assert_allclose(whole[0, 0], [1, 0, 0, 1, 0, 0], atol=1e-6)


def lead(data: str, id: str, **fields: Any) -> dict[str, Any]:
    return {"kind": "path", "id": id, "name": id, "data": data, **fields}


class BetweenRails(unittest.TestCase):
    """Copies along one rail that know the way to their partners on another."""

    def hung(self, tilt: float, facing: bool = False, **turned: Any) -> dict[str, np.ndarray]:
        """Where copies hang and where their lines end, on the stage, and where the rails are told to be."""
        rope = {
            "kind": "line",
            "id": "rope",
            "name": "Rope",
            "end": {"rest": [0, 0], "chain": [{"kind": "formula", "id": "reach", "text": "across"}]},
        }
        rails = {
            "kind": "rails",
            "count": 5,
            "outline": "high",
            "other_outline": "low",
            "start": 10,
            "other_end": 80,
            "facing": facing,
        }
        whole = array(rope, arrangement=rails, position=[40, -30], **turned)
        layers = [
            lead("M -100 0 C -50 40 50 40 100 0", "high", rotation=tilt),
            lead("M -80 0 L 90 30", "low", position=[10, 200], rotation=-tilt),
            whole,
        ]
        now = project(scene(*layers))
        sampler = Sampler(now.scenes[0])
        copies = inside(sampler, "rope.end", SampleTimes(np.zeros(1)))
        ends = sampler.evaluate("rope.end", copies)[:, 0]
        matrix = world_matrix(sampler, "rope", copies)[:, 0]
        x, y = applied(matrix, ends[:, 0], ends[:, 1])
        told = [
            track_of(str(one["data"])).at(shares)
            for one, shares in ((layers[0], np.linspace(0.1, 1, 5)), (layers[1], np.linspace(0, 0.8, 5)))
        ]
        wanted = [
            np.stack(applied(world_matrix(sampler, name, SampleTimes(np.zeros(1)))[0, 0], *spot[:2]), axis=1)
            for name, spot in zip(("high", "low"), told, strict=True)
        ]
        return {"from": matrix[:, 4:], "to": np.stack([x, y], axis=1), "high": wanted[0], "low": wanted[1]}

    @given(st.floats(-60, 60), st.booleans(), st.floats(-180, 180))
    @settings(max_examples=15, deadline=None)
    def test_a_line_whose_end_follows_across_joins_the_rails(self, tilt: float, facing: bool, turned: float) -> None:
        made = self.hung(tilt, facing, rotation=turned)
        np.testing.assert_allclose(made["from"], made["high"], atol=1e-6)
        np.testing.assert_allclose(made["to"], made["low"], atol=1e-6)

    def test_a_rail_that_is_deleted_leaves_its_line_and_copies_bring_theirs(self) -> None:
        whole = array(
            arrangement={"kind": "rails", "count": 4, "outline": "high", "other_outline": "low"}, position=[40, -30]
        )
        layers = [
            lead("M -100 0 C -50 40 50 40 100 0", "high", rotation=20),
            lead("M -80 0 L 90 30", "low", position=[10, 200]),
            whole,
        ]
        now = project(scene(*layers))

        def stand(here: Scene, name: str) -> np.ndarray:
            sampler = Sampler(here)
            found = next(one.id for one in here.layers if one.kind == "array")
            copies = inside(sampler, f"{found}.copy_position", SampleTimes(np.zeros(1)))
            return sampler.evaluate(f"{found}.{name}", copies)[:, 0]

        without = EDIT.validate_python({"kind": "remove layers", "scene": "s", "layers": ["high", "low"]}).apply(now)
        twice = EDIT.validate_python({"kind": "duplicate scene", "scene": "s"}).apply(now)
        for name in ("place", "across"):
            np.testing.assert_allclose(stand(without.scenes[0], name), stand(now.scenes[0], name), atol=0.02)
            np.testing.assert_array_equal(stand(twice.scenes[1], name), stand(now.scenes[0], name))
        for one in (without, twice):
            self.assertEqual(project_file.read(project_file.write(one).encode()), one)

    def test_rails_that_are_points_and_ends_that_slide(self) -> None:
        made = rails_of(
            path_of(3, [track_of("M 5 7")], ONE, 0, 1, True), path_of(3, [track_of("M 5 107")], ONE, 0, 1, True)
        )
        np.testing.assert_array_equal([made.x[0], made.y[0]], [[5, 5, 5], [7, 7, 7]])
        np.testing.assert_array_equal(np.broadcast_arrays(*made.across), [np.zeros((1, 3)), np.full((1, 3), 100.0)])
