"""Noise: one field, as a modifier and as a gauge; over places, along outlines without a seam, of several components."""

import unittest
from typing import Any

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.periods import periods_of
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.core.soundness import problems
from jaunty_lever.formats import project_file
from tests.core.scenes import apply, project, scene

FRAMES = SampleTimes(np.arange(60) / 30)
GRID = {"kind": "grid", "columns": 9, "rows": 7, "gap": [30, 20]}


def values(of: Scene, parameter: str, samples: SampleTimes = FRAMES) -> Any:
    """A value of all copies or points, (copies, times, components)."""
    sampler = Sampler(of)
    return sampler.evaluate(parameter, inside(sampler, parameter, samples))


def grid(fields: dict[str, Any], **more: Any) -> Scene:
    """A grid of copies with a gauge of noise, and the same noise as a modifier of their position."""
    gauge = {"kind": "noise", "id": "g", "name": "Field", **fields}
    step = {"kind": "noise", "id": "n", "amount": 10, "frequency": 0, **fields, **more}
    position = {"rest": [0, 0], "chain": [step]}
    layer = {
        "kind": "array",
        "id": "a",
        "name": "A",
        "arrangement": GRID,
        "gauges": [gauge],
        "copy_position": position,
        "layers": [{"kind": "ellipse", "id": "dot", "name": "Dot"}],
    }
    return Scene.model_validate({"id": "s", "name": "S", "length": 90, "fps": 30, "layers": [layer]})


def shore(fields: dict[str, Any], closed: bool = True) -> Scene:
    """An outline whose edge is moved by a noise along it."""
    step = {"kind": "noise", "id": "n", "amount": 20, "over": "along", "frequency": 0, **fields}
    data = "M-200 0 C-180 -160 150 -180 200 0 C150 160 -150 200 " + ("-200 0Z" if closed else "-190 40")
    edge = {"detail": 4, "out": {"chain": [step]}}
    layer = {"kind": "path", "id": "isle", "name": "Isle", "data": data, "edge": edge}
    return Scene.model_validate({"id": "s", "name": "S", "length": 90, "fps": 30, "layers": [layer]})


class OneField(unittest.TestCase):
    def test_the_modifier_moves_by_what_the_gauge_reads(self) -> None:
        for fields in (
            {},
            {"zoom": [50, 300], "scroll": [7, -20]},
            {"over": "row and column", "zoom": [3, 2]},
            {"over": "number", "zoom": [4, 1]},
            {"over": "along", "zoom": [5, 1], "octaves": 3},
            {"over": "time alone", "frequency": 2},
            {"frequency": 1.5, "repeat": 1, "character": "ridged"},
            {"character": "cells", "zoom": [40, 40], "octaves": 2, "persistence": 0.3},
            {"character": "billow", "in_step": 40, "seed": 9},
        ):
            with self.subTest(**fields):
                one = grid(fields)
                moved = values(one, "a.copy_position") / 10
                for part, axis in (("g.value", 0), ("g.y", 1)):
                    read = 2 * values(one, part)[..., 0] - 1
                    np.testing.assert_allclose(
                        np.broadcast_to(read, moved[..., axis].shape), moved[..., axis], atol=1e-9
                    )
                    self.assertLessEqual(np.abs(read).max(), 1)
                self.assertGreater(np.ptp(moved), 0.3)

    def test_three_numbers_go_ways_of_their_own_or_in_step(self) -> None:
        def read(in_step: float) -> tuple[Any, ...]:
            one = grid({"in_step": in_step, "zoom": [25, 25]})
            return tuple(values(one, part)[:, 0, 0] for part in ("g.value", "g.y", "g.z"))

        apart, half, one = read(0), read(50), read(100)
        np.testing.assert_array_equal(one[0], one[1])
        np.testing.assert_array_equal(one[0], one[2])
        np.testing.assert_array_equal(apart[0], half[0])
        alike = [abs(np.corrcoef(some[0], some[1])[0, 1]) for some in (apart, half, one)]
        self.assertLess(alike[0], 0.35)
        self.assertTrue(alike[0] < alike[1] < alike[2])
        # Half-way it is as strong as either.
        self.assertGreater(half[1].std(), 0.75 * apart[1].std())

    def test_scrolling_moves_the_field_along(self) -> None:
        for character in ("smooth", "cells"):
            still = values(grid({"character": character}), "g.value")[:, 0, 0].reshape(7, 9)
            moved = values(grid({"character": character, "scroll": [30, 0]}), "g.value")[:, 0, 0].reshape(7, 9)
            np.testing.assert_allclose(moved[:, 1:], still[:, :-1], atol=1e-9)

    def test_it_comes_round_after_its_time_and_the_loop_knows(self) -> None:
        one = grid({"frequency": 2.3, "repeat": 1.5, "octaves": 4}, frequency=2.3)
        for parameter in ("g.value", "a.copy_position"):
            there = values(one, parameter, SampleTimes(np.array([0.2, 1.7, 3.2, 0.9])))
            np.testing.assert_allclose(there[:, 0], there[:, 1], atol=1e-9)
            np.testing.assert_allclose(there[:, 0], there[:, 2], atol=1e-9)
            self.assertGreater(np.abs(there[:, 0] - there[:, 3]).max(), 0.1)
            cycle = periods_of(Sampler(one)).of(parameter)
            self.assertEqual(cycle.period if cycle else None, 1.5)
        # Just before it comes round and just after it lie side by side.
        seam = values(one, "g.value", SampleTimes(np.array([1.4999, 1.5001])))
        self.assertLess(np.abs(np.diff(seam, axis=1)).max(), 0.01)
        self.assertIsNone(periods_of(Sampler(grid({"frequency": 2}))).of("g.value"))

    def test_cells_are_brightest_on_spots_and_continuous(self) -> None:
        line = {"kind": "row", "count": 2000, "gap": [1, 0]}
        gauge = {"kind": "noise", "id": "g", "name": "F", "character": "cells", "zoom": [60, 60], "frequency": 0.5}
        layer = {"kind": "array", "id": "a", "name": "A", "arrangement": line, "gauges": [gauge], "layers": []}
        one = Scene.model_validate({"id": "s", "name": "S", "length": 90, "fps": 30, "layers": [layer]})
        read = values(one, "g.value")[..., 0]
        # A step of 1 px is a step of 1/60 of a cell: nearness changes by no more than that, on a scale of 2 to 1.
        self.assertLess(np.abs(np.diff(read, axis=0)).max(), 1 / 60 + 1e-9)
        self.assertLess(np.abs(np.diff(read, axis=1)).max(), 0.1)
        self.assertGreater(read.max(), 0.9)

    def test_in_depth_it_differs_near_and_far_where_it_is_zoomed_there(self) -> None:
        deep = {"kind": "grid", "columns": 3, "rows": 3, "levels": 4, "gap": [30, 30], "gap_depth": 50}
        for zoom, differs in ((0, False), (60, True)):
            gauge = {"kind": "noise", "id": "g", "name": "F", "zoom_depth": zoom}
            layer = {"kind": "array", "id": "a", "name": "A", "arrangement": deep, "gauges": [gauge], "layers": []}
            one = Scene.model_validate({"id": "s", "name": "S", "length": 9, "fps": 30, "layers": [layer]})
            read = values(one, "g.value")[:, 0, 0].reshape(4, 9)
            self.assertEqual(bool(np.ptp(read, axis=0).max() > 0.05), differs)


class AlongOutlines(unittest.TestCase):
    @settings(max_examples=15, deadline=None)
    @given(
        st.integers(1, 900),
        st.floats(15, 400),
        st.integers(1, 4),
        st.sampled_from(["smooth", "billow", "ridged", "cells"]),
        st.floats(-500, 500),
    )
    def test_a_closed_outline_has_no_seam(
        self, seed: int, zoom: float, octaves: int, character: str, scroll: float
    ) -> None:
        fields = {"seed": seed, "zoom": [zoom, zoom], "octaves": octaves, "character": character, "scroll": [scroll, 0]}
        out = values(shore(fields), "isle.edge.out")[:, 0, 0]
        steps = np.abs(np.diff(out))
        self.assertLessEqual(abs(out[0] - out[-1]), 2 * steps.max() + 1e-9)

    def test_scrolled_by_its_length_it_is_as_it_was(self) -> None:
        one = shore({"zoom": [60, 60]})
        length = float(values(one, "isle.whole_length").ravel()[0])
        out, again, half = (
            values(shore({"zoom": [60, 60], "scroll": [by, 0]}), "isle.edge.out")[:, 0, 0]
            for by in (0, length, length / 2)
        )
        np.testing.assert_allclose(out, again, atol=1e-9)
        self.assertGreater(np.abs(out - half).max(), 3)

    def test_its_zoom_is_in_px_along_it(self) -> None:
        # So many bends as there are new values: about as many crossings of the middle as its length has zooms, or half.
        for zoom in (25, 100):
            one = shore({"zoom": [zoom, zoom]})
            length = float(values(one, "isle.whole_length").ravel()[0])
            out = values(one, "isle.edge.out")[:, 0, 0]
            crossings = int((np.diff(np.sign(out)) != 0).sum())
            self.assertTrue(0.2 * length / zoom < crossings < 1.3 * length / zoom, (crossings, length / zoom))

    def test_an_open_line_begins_and_ends_apart(self) -> None:
        fields = {"zoom": [40, 40]}
        self.assertGreater(abs(np.diff(values(shore(fields, False), "isle.edge.out")[[0, -1], 0, 0])[0]), 0.5)


class Odd(unittest.TestCase):
    def test_zooms_of_nothing_and_beyond_measure_give_numbers(self) -> None:
        for zoom in (0.0, 1e9, 1e-300, 1e300):
            for over in ("place", "along", "number"):
                read = values(grid({"zoom": [zoom, zoom], "over": over, "octaves": 8}), "a.copy_position")
                self.assertTrue(np.isfinite(read).all())
                self.assertLessEqual(np.abs(read).max(), 10)

    def test_a_strength_of_nothing_is_nothing_to_the_bit(self) -> None:
        made = grid({"zoom": [30, 30]}, strength=0)
        np.testing.assert_array_equal(values(made, "a.copy_position"), 0.0)

    def test_outside_arrays_it_goes_by_time(self) -> None:
        plain = project(scene({"rotation": 10}))
        made = apply(plain, "add modifier", parameter="layer0.rotation", modifier="noise", id="n", seed=7)
        # Over a minute it has been everywhere, a new value every two seconds.
        minute = SampleTimes(np.arange(1_800) / 30)
        read = values(made.scenes[0], "layer0.rotation", minute).ravel()
        self.assertGreater(np.ptp(read), 8)
        self.assertLessEqual(np.abs(read - 10).max(), 10)
        self.assertEqual(list(problems(made)), [])
        self.assertEqual(project_file.read(project_file.write(made).encode()), made)

    def test_what_makes_no_sense_is_told(self) -> None:
        made = grid({}, octaves=12, persistence=3, frequency=-1)
        sampler = Sampler(made)
        sampler.evaluate("a.copy_position", inside(sampler, "a.copy_position", FRAMES))
        told = " ".join(fault.message for fault in sampler.faults.values())
        for words in ("Octaves", "persistence", "frequency"):
            self.assertIn(words, told)
