"""Path data, held to another reader of it, and its mistakes."""

import unittest

import numpy as np
from fontTools.svgLib.path import parse_path
from hypothesis import given, settings
from hypothesis import strategies as st

from jaunty_lever.core.geometry import path_data
from jaunty_lever.core.geometry.outline import OutlinePen
from jaunty_lever.core.geometry.paths import path_outline

number = st.floats(-500, 500).map(lambda v: f"{v:.3f}")
flag = st.sampled_from("01")
radius = st.floats(1, 500).map(lambda v: f"{v:.2f}")


def command(letters: str, takes: int) -> st.SearchStrategy[str]:
    numbers = st.lists(st.lists(number, min_size=takes, max_size=takes), min_size=1, max_size=3)
    return st.builds(
        lambda letter, rows, between: letter + between.join(between.join(row) for row in rows),
        *(st.sampled_from(letters), numbers, st.sampled_from([" ", ",", " , ", "\n"])),
    )


arc = st.builds(
    lambda letter, *parts: letter + " ".join(parts),
    st.sampled_from("Aa"),
    *(radius, radius, number, flag, flag, number, number),
)
commands = st.one_of(
    *(command("LlMmTt", 2), command("HhVv", 1), command("Cc", 6), command("SsQq", 4), arc, st.sampled_from("Zz")),
)


def closed(verbs: list[str], points: list[float]) -> tuple[list[str], list[float]]:
    """With the line that closing draws, which the other reader writes down."""
    takes, made, drawn, k, start = {"M": 2, "L": 2, "Q": 4, "C": 6, "Z": 0}, [], [], 0, [0.0, 0.0]
    for verb in verbs:
        if verb == "Z" and drawn[-2:] != start:
            made.append("L")
            drawn += start
        made.append(verb)
        drawn += points[k : k + takes[verb]]
        k += takes[verb]
        if verb == "M":
            start = drawn[-2:]
    return made, drawn


class PathData(unittest.TestCase):
    @settings(max_examples=150)
    @given(st.lists(commands, max_size=12))
    def test_it_is_read_as_another_reader_reads_it(self, parts: list[str]) -> None:
        data = "M 10 20" + "".join(parts)
        pen = OutlinePen()
        parse_path(data, pen)
        read = path_data.read(data)
        self.assertEqual(read.problem, "")
        verbs, points = closed(read.verbs, read.points)
        self.assertEqual(verbs, pen.verbs)
        np.testing.assert_allclose(points, pen.points, atol=1e-6)

    def test_numbers_need_nothing_between_them_where_they_cannot_be_mistaken(self) -> None:
        for short, plain in (
            ("M1-2.5.5L3e1-4", "M 1 -2.5 L .5 30"),
            ("M1-2.5L.5.5-3e1-4", "M 1 -2.5 L .5 .5 L -30 -4"),
            ("m1,2 3,4-5-6", "M 1 2 l 3 4 l -5 -6"),
            ("M0 0a5 5 0 1110 0", "M0 0 a5 5 0 1 1 10 0"),
            ("M0 0a5 5 0 0110 0 5 5 0 01.5.5", "M0 0 a5 5 0 0 1 10 0 a5 5 0 0 1 .5 .5"),
            ("M0 0A0 5 0 0 0 7 8", "M0 0L7 8"),
        ):
            if short == "M1-2.5.5L3e1-4":
                # A move takes two numbers; the third is one too few for a line.
                self.assertIn("by 2, and 3", path_data.read(short).problem)
                continue
            self.assertEqual(path_data.read(short), path_data.read(plain), short)

    def test_mistakes_are_told_and_what_stands_before_them_is_read(self) -> None:
        for data, verbs, said in (
            ("L 5 5", "", "begins with L"),
            ("M 1 1 L 2 2 oops", "ML", "“oop” after L"),
            ("M 1 1 L 2", "M", "L takes numbers by 2, and 1 are there"),
            ("M 1 1 A 5 5 0 2 0 3 3 L 1 1", "M", "an arc has “5 5 0 2 0 3”"),
            ("M 1 1 Z 4", "MZ", "Z takes no numbers"),
            ("M 1 1 L 1 1 é", "ML", "“é”"),
            ("", "", ""),
        ):
            read = path_data.read(data)
            self.assertEqual("".join(read.verbs), verbs, data)
            self.assertIn(said, read.problem, data)
            with self.assertRaises(ValueError):
                path_outline(data)
        # An arc that goes nobody knows where is a line.
        for radius in ("1e308", "1e-320", "1e200"):
            read = path_data.read(f"M 0 0 A {radius} 9 0 0 1 30 40 L 5 5")
            self.assertEqual((read.problem, read.points[-4:-2]), ("", [30, 40]))
        for far in ("M 0 0 L 1e7 0", "M 0 0 L 1e999 0", "M nan 0 L 1 1"):
            with self.assertRaises(ValueError):
                path_outline(far)


if __name__ == "__main__":
    unittest.main()
