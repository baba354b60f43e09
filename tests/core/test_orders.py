"""Orders along what is drawn, by a gauge, from several points; and such as move."""

import unittest
from typing import Any

import numpy as np

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside
from jaunty_lever.formats import project_file

from .scenes import apply, project, scene
from .test_arrays import array, row, values

ONE = SampleTimes(np.zeros(1))
GRID = {"kind": "grid", "columns": 6, "rows": 4, "gap": [40, 30]}
RANK = {"chain": [{"kind": "formula", "id": "q", "text": "rank"}]}
BAND = {"kind": "path", "name": "Rope", "data": "M-90 60L90 60L90 -60", "position": [320, 180]}


def ordered(order: dict[str, Any], *others: dict[str, Any], **fields: Any) -> Scene:
    """Copies in a grid about (320, 180), counted by an order, which turns each by its rank."""
    fields = {"arrangement": GRID, "position": [320, 180], "copy_rotation": RANK} | fields
    gauge = {"kind": "order", "id": "u", "name": "U"}
    return scene(array(order=order, gauges=[gauge, *fields.pop("gauges", ())], **fields), *others)


def along(one: Scene, samples: SampleTimes = ONE) -> np.ndarray:
    return values(one, "u.value", samples)[:, :, 0]


def ranks(one: Scene, samples: SampleTimes = ONE) -> np.ndarray:
    return values(one, "a.copy_rotation", samples)[:, :, 0]


def spots() -> np.ndarray:
    return np.array([[(k % 6 - 2.5) * 40, (k // 6 - 1.5) * 30] for k in range(24)])


def spread(measured: np.ndarray) -> np.ndarray:
    return (measured - measured.min()) / np.ptp(measured)


class FromPoints(unittest.TestCase):
    def test_each_is_counted_from_the_nearest(self) -> None:
        corners = np.array([[0, 0], [100, 0], [50, 100]]) / 100 * [200, 90] - [100, 45]
        far = np.hypot(*(spots()[:, None] - corners).transpose(2, 0, 1)).min(axis=1)
        one = ordered({"measure": "points", "points": [[100, 0], [50, 100]]})
        np.testing.assert_allclose(along(one)[:, 0], spread(far), atol=1e-9)
        alone = ordered({"measure": "points"})
        np.testing.assert_array_equal(along(alone), along(ordered({"measure": "round"})))

    def test_where_the_first_point_is_keyed_the_order_moves(self) -> None:
        keys = [{"frame": 0, "value": [0, 0], "ease": "linear"}, {"frame": 10, "value": [100, 0]}]
        for measure in ("number", "columns", "round", "points"):
            one = ordered({"measure": measure, "origin": {"keys": keys}}, arrangement=row(5))
            both = along(one, SampleTimes.frames(30, 0, 11, 10))
            np.testing.assert_allclose(both.T, [[0, 0.25, 0.5, 0.75, 1], [1, 0.75, 0.5, 0.25, 0]], atol=1e-9)


class AlongALine(unittest.TestCase):
    def shares(self, moved: float = 0.0) -> np.ndarray:
        """How far along the rope the nearest spot of it to each copy lies, in px."""
        steps = np.linspace(0, 1, 3001)[:, None]
        first = np.array([-90 + moved, 60]) + steps * [180, 0]
        second = np.array([90 + moved, 60]) + steps * [0, -120]
        rope, far = np.vstack([first, second]), np.concatenate([steps[:, 0] * 180, 180 + steps[:, 0] * 120])
        return far[np.hypot(*(spots()[:, None] - rope).transpose(2, 0, 1)).argmin(axis=1)]

    def test_by_the_nearest_spot_of_it(self) -> None:
        told = along(ordered({"measure": "line", "outline": "layer1"}, BAND))[:, 0]
        np.testing.assert_allclose(told, spread(self.shares()), atol=1e-3)
        typed = along(ordered({"measure": "line", "data": BAND["data"]}))[:, 0]
        np.testing.assert_allclose(typed, told, atol=1e-9)
        back = along(ordered({"measure": "line", "data": BAND["data"], "backwards": True}))[:, 0]
        np.testing.assert_allclose(back, 1 - told, atol=1e-9)

    def test_it_goes_with_its_layer(self) -> None:
        keys = [{"frame": 0, "value": [320, 180], "ease": "linear"}, {"frame": 10, "value": [380, 180]}]
        one = ordered({"measure": "line", "outline": "layer1"}, {**BAND, "position": {"keys": keys}})
        told = along(one, SampleTimes.frames(30, 0, 11, 5))
        for k, moved in enumerate((0, 30, 60)):
            np.testing.assert_allclose(told[:, k], spread(self.shares(moved)), atol=2e-3)

    def test_nothing_drawn_counts_all_as_one(self) -> None:
        for order in ({"measure": "line"}, {"measure": "line", "data": "M3 4"}, {"measure": "gauge"}):
            np.testing.assert_array_equal(along(ordered(order))[:, 0], 0)
            np.testing.assert_array_equal(ranks(ordered(order))[:, 0], 0)


class ByAGauge(unittest.TestCase):
    def test_copies_are_sorted_by_what_it_reads(self) -> None:
        column = {"kind": "column", "id": "c", "name": "Catch", "cells": [5, 3, 9, 1, 7], "scale": "as written"}
        one = ordered({"measure": "gauge", "gauge": "c"}, gauges=[column], arrangement=row(5))
        np.testing.assert_array_equal(ranks(one)[:, 0], [2, 1, 4, 0, 3])
        np.testing.assert_allclose(along(one)[:, 0], [0.5, 0.25, 1, 0, 0.75], atol=1e-9)

    def test_of_one_that_moves_the_ranks_change_with_time(self) -> None:
        noise = {"kind": "noise", "id": "n", "name": "N", "frequency": 3, "zoom": [20, 20]}
        one = ordered({"measure": "gauge", "gauge": "n"}, gauges=[noise])
        samples = SampleTimes.frames(30, 0, 60, 10)
        told, read = ranks(one, samples), values(one, "n.value", samples)[:, :, 0]
        self.assertGreater(np.abs(np.diff(told, axis=1)).max(), 3)
        np.testing.assert_array_equal(told.argsort(axis=0), read.argsort(axis=0))
        # A copy alone at a moment alone has the rank that it has among all.
        sampler = Sampler(one)
        where = inside(sampler, "a.copy_rotation", samples)
        for k in (0, 7, 23):
            alone = sampler.evaluate("a.copy_rotation", where.one(k))
            np.testing.assert_array_equal(np.broadcast_to(alone[0, :, 0], 6), told[k])

    def test_in_an_array_around_it_each_has_an_order_of_its_own(self) -> None:
        noise = {"kind": "noise", "id": "n", "name": "N", "frequency": 2, "zoom": [20, 20]}
        inner = ordered({"measure": "gauge", "gauge": "n"}, gauges=[noise], arrangement=row(4)).layers[0]
        one = scene(array(arrangement=row(3, 200), later=0.4) | {"id": "b", "layers": [inner.model_dump()]})
        samples = SampleTimes.frames(30, 0, 40, 20)
        told, read = (values(one, name, samples)[:, :, 0] for name in ("a.copy_rotation", "n.value"))
        for k in range(3):
            part = slice(4 * k, 4 * k + 4)
            np.testing.assert_array_equal(told[part].argsort(axis=0), read[part].argsort(axis=0))

    def test_a_gauge_that_goes_by_this_order_is_refused(self) -> None:
        start = project(ordered({}))
        with self.assertRaisesRegex(Refused, "circle"):
            apply(start, "change order", array="a", by="u")
        with self.assertRaisesRegex(Refused, "no gauge"):
            apply(start, "change order", array="a", by="nothing")
        with self.assertRaisesRegex(Refused, "no order of its own"):
            apply(start, "change order", array="a", gauge="u", by="u")
        with self.assertRaisesRegex(Refused, "own array"):
            apply(start, "change order", array="a", outline="e0")


class Kept(unittest.TestCase):
    def test_what_is_set_is_in_force_and_what_goes_leaves_it_as_it_is(self) -> None:
        column = {"kind": "column", "id": "c", "name": "Catch", "cells": [5, 3, 9, 1, 7], "scale": "as written"}
        start = project(ordered({}, BAND, gauges=[column]))
        line = apply(start, "change order", array="a", outline="layer1")
        told = along(line.scenes[0])
        np.testing.assert_allclose(told, along(ordered({"measure": "line", "outline": "layer1"}, BAND)), atol=1e-9)
        gone = apply(line, "remove layers", layers=["layer1"]).scenes[0]
        np.testing.assert_allclose(along(gone), told, atol=1e-9)
        again = project_file.read(project_file.write(line).encode()).scenes[0]
        np.testing.assert_array_equal(along(again), told)
        sorted_one = apply(start, "change order", array="a", by="c")
        self.assertEqual(ranks(sorted_one.scenes[0])[:5, 0].argsort().tolist(), [3, 1, 0, 4, 2])
        without = apply(sorted_one, "remove gauge", gauge="c").scenes[0]
        np.testing.assert_array_equal(ranks(without)[:, 0], np.arange(24))
        several = apply(start, "change order", array="a", points=[[100, 100]]).scenes[0]
        self.assertEqual(ranks(several)[[0, 23], 0].tolist(), [0, 0])

    def test_values_follow_an_edit_of_what_is_drawn_and_of_the_gauge(self) -> None:
        column = {"kind": "column", "id": "c", "name": "Catch", "cells": [5, 3, 9, 1, 7]}
        line = project(ordered({"measure": "line", "outline": "layer1"}, BAND))
        led = project(ordered({"measure": "gauge", "gauge": "c"}, gauges=[column], arrangement=row(5)))
        for start, edit, fields in (
            (line, "change layer", {"layer": "layer1", "data": "M-90 -60L-90 60"}),
            (line, "set value", {"parameter": "layer1.rotation", "value": 70, "frame": 0}),
            (line, "change order", {"array": "a", "outline": "", "data": "M0 -90V90"}),
            (led, "write formula", {"parameter": "c.value", "text": "-base", "id": "m"}),
        ):
            before = ranks(start.scenes[0])
            now = apply(start, edit, **fields).scenes[0]
            np.testing.assert_array_equal(ranks(now), ranks(Scene.model_validate(now.model_dump())))
            self.assertTrue((ranks(now) != before).any(), edit)

    def test_a_gauge_with_an_order_of_its_own_may_be_sorted_by_another(self) -> None:
        random = {"kind": "random", "id": "r", "name": "Luck"}
        start = apply(project(ordered({}, gauges=[random])), "change gauge", gauge="u", own_order=True)
        led = apply(start, "change order", array="a", gauge="u", by="r").scenes[0]
        luck = values(led, "r.value", ONE)[:, 0, 0]
        np.testing.assert_array_equal(along(led)[:, 0].argsort(), luck.argsort())
        np.testing.assert_array_equal(ranks(led)[:, 0], np.arange(24))
