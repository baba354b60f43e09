"""Palettes from files: lines of numbers and JSON lists, with what is left out named."""

import json
import unittest

from hypothesis import given
from hypothesis import strategies as st

from jaunty_lever.core.document.palettes import MOST_COLOURS
from jaunty_lever.formats.open_json import BadFile
from jaunty_lever.formats.palette_file import read, recognised

LINES = b"Some Palette\nName: Quay at dusk\nColumns: 3\n# by hand\n 31 111 120\tSea\n169  60 40 Untitled\n  0 0 0\n"


class Reading(unittest.TestCase):
    def test_lines_of_red_green_blue_and_a_name(self) -> None:
        found = read(LINES)
        self.assertEqual(found.name, "Quay at dusk")
        self.assertEqual(
            [(one.colour, one.name) for one in found.colours], [("#1f6f78", "Sea"), ("#a93c28", ""), ("#000000", "")]
        )
        self.assertEqual(found.remarks, [])
        odd = read(LINES + b"300 0 0 Too bright\nnothing\n1 2\n")
        self.assertEqual((len(odd.colours), odd.remarks), (3, ["3 lines that tell no colour left out"]))

    def test_json_lists_in_the_ways_people_write_them(self) -> None:
        for data in (
            ["#1f6f78", "a93c28"],
            {"name": "Dusk", "colours": [{"name": "Sea", "colour": "#1f6f78"}, {"hex": "#a93c28"}]},
            {"colors": [[31, 111, 120], [169, 60, 40]]},
            [{"color": [31 / 255, 111 / 255, 120 / 255]}, {"value": "#a93c28ff"}],
        ):
            with self.subTest(data):
                content = json.dumps(data).encode()
                self.assertTrue(recognised(content))
                self.assertEqual([one.colour for one in read(content).colours], ["#1f6f78", "#a93c28"])
        self.assertEqual(read(b'["#fff", 7, "sea"]').remarks, ["2 entries that are no colour left out"])

    def test_what_is_none_says_so(self) -> None:
        for content, said in (
            (b"", "empty"),
            (b"\0\1\2", "no palette"),
            (b"[]", "no list"),
            (b"{}", "no list"),
            (b"[1, 2]", "no colour"),
            (b"[", "not JSON"),
            (b"Some Palette\nName: x\n", "no colour"),
            (b"#" * (5 << 20), "MB"),
        ):
            with self.subTest(said), self.assertRaisesRegex(BadFile, said):
                read(content)
        for content in (b"name,x\n1,2\n", b'[{"name": "Mira", "speed": 2}]', b'{"layers": []}', b"<svg/>"):
            self.assertFalse(recognised(content), content)

    def test_of_too_many_the_first_are_in(self) -> None:
        found = read(json.dumps(["#000000"] * (MOST_COLOURS + 5)).encode())
        self.assertEqual(len(found.colours), MOST_COLOURS)
        self.assertEqual(found.remarks, ["Of its 1,029 colours the first 1,024 are in"])

    @given(st.binary(max_size=60))
    def test_anything_else_is_a_palette_or_a_reason(self, content: bytes) -> None:
        try:
            self.assertTrue(read(b"Some Palette\n" + content).colours)
        except BadFile as error:
            self.assertTrue(str(error).endswith("."))
