"""CSV with a column for each copy of an array."""

import csv
import io
import unittest

import numpy as np

from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.formats.values import chosen_copies
from jaunty_lever.formats.values import csv_of as write
from tests.core.scenes import scene
from tests.core.test_arrays import array, formula, row, values


class Copies(unittest.TestCase):
    def setUp(self) -> None:
        moved = {"rest": [0, 0], "chain": [{"kind": "wave", "id": "v", "amplitude": [5, 9], "along": 1}]}
        self.scene = scene(
            array({"rotation": formula("i * 10 + t")}, arrangement=row(12), copy_position=moved, later=0.1)
        )

    def table(self, copies: str, *names: str) -> tuple[list[str], np.ndarray]:
        index = self.scene.index
        columns = [(node.id, part) for node, part in map(index.by_name, names)]
        rows = list(csv.reader(io.StringIO("".join(write(self.scene, columns, 0, 9, 1, copies)))))
        return rows[0], np.array(rows[1:], dtype=float)

    def test_a_column_a_copy_with_its_number(self) -> None:
        head, table = self.table("all", "Dots/copy position", "Dots/rank", "Dot 0/rotation")
        self.assertEqual(
            head[:6],
            [
                "frame",
                "seconds",
                "Dots/copy position x [0]",
                "Dots/copy position y [0]",
                "Dots/copy position x [1]",
                "Dots/copy position y [1]",
            ],
        )
        self.assertEqual(head[26:28], ["Dots/rank [0]", "Dots/rank [1]"])
        self.assertEqual(table.shape, (9, 2 + 24 + 12 + 12))
        at = SampleTimes.frames(30, 0, 9)
        np.testing.assert_array_equal(table[:, 25], values(self.scene, "a.copy_position", at)[11, :, 1])
        np.testing.assert_array_equal(table[:, 38 + 7], values(self.scene, "e0.rotation", at)[7, :, 0])

    def test_some_of_them(self) -> None:
        self.assertEqual(self.table("3", "Dots/place")[0][2:], ["Dots/place x [3]", "Dots/place y [3]"])
        self.assertEqual(self.table("2:4", "Dots/u")[0][2:], ["Dots/u [2]", "Dots/u [3]"])
        self.assertEqual(self.table("50", "Dots/u")[0], ["frame", "seconds"])
        self.assertEqual(chosen_copies("10:"), slice(10, None))

    def test_what_chooses_nothing_is_refused_with_the_way_to_write_it(self) -> None:
        for text in ("some", "1:2:3", ":", "-1", "1.5"):
            with self.subTest(text), self.assertRaises(Refused) as caught:
                self.table(text, "Dots/u")
            self.assertIn("0:10", caught.exception.message)
