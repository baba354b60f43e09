"""Tables from files of all kinds, and what is said of them."""

import json
import unittest
from itertools import product

from jaunty_lever.core.document.tables import Table
from jaunty_lever.formats import table_file
from jaunty_lever.formats.open_json import BadFile
from jaunty_lever.formats.table_file import TableRead, read, replaced, write_csv

NAMES = "Näme,Since,Size,Hue\nMira,2019-03-12,1.5,#a93c28\nTøve,2020-01-31,2,#1f6f78\n"


class Reading(unittest.TestCase):
    def refused(self, content: bytes) -> str:
        with self.assertRaises(BadFile) as caught:
            read(content)
        return str(caught.exception)

    def test_separators_and_letters_are_found_out_and_told(self) -> None:
        for (sign, word), (coding, latin) in product(
            ((",", ""), (";", "semicolons"), ("\t", "tabs")),
            (("utf-8", False), ("utf-8-sig", False), ("latin-1", True), ("utf-16", False)),
        ):
            with self.subTest(sign, coding=coding):
                found = read(NAMES.replace(",", sign).encode(coding))
                self.assertEqual([one.name for one in found.columns], ["Näme", "Since", "Size", "Hue"])
                self.assertEqual([one.kind for one in found.columns], ["text", "date", "number", "colour"])
                self.assertEqual(found.rows[1], ["Tøve", "2020-01-31", "2", "#1f6f78"])
                self.assertEqual(any("Latin-1" in said for said in found.remarks), latin)
                self.assertEqual(
                    [said for said in found.remarks if "separated" in said],
                    [f"Its values are separated by {word}"] if word else [],
                )

    def test_a_comma_before_decimals_quotes_and_line_ends_in_cells(self) -> None:
        found = read(b'Name;Speed\r\n"Holm; Mira";1,5\r\n"two\nlines";2,25\r\n\r\n')
        self.assertEqual(found.rows, [["Holm; Mira", "1,5"], ["two\nlines", "2,25"]])
        self.assertEqual((found.columns[1].kind, found.columns[1].comma), ("number", True))
        self.assertIn("A comma stands before the decimals of its numbers", found.remarks)

    def test_kinds_are_what_nearly_all_cells_are(self) -> None:
        found = read(b"a,b\n" + b"1,x\n" * 9 + b"none,y\n")
        self.assertEqual([one.kind for one in found.columns], ["number", "text"])

    def test_ragged_rows_lost_names_and_formulas_are_told(self) -> None:
        found = read(b"a,b,\n1,2\n1,2,3,=4+5\n")
        self.assertEqual([one.name for one in found.columns], ["a", "b", "Column 3", "Column 4"])
        self.assertEqual(found.rows, [["1", "2", "", ""], ["1", "2", "3", "=4+5"]])
        self.assertIn("Row 1 has 2 cells of 4: what is missing is empty", found.remarks)
        self.assertIn("Cells that begin with = are texts: nothing is worked out", found.remarks)
        self.assertEqual([one.name for one in read(b"x,X,x\n1,2,3\n").columns], ["x", "X 2", "x 3"])
        plain = read(b"1,2\n3,4\n")
        self.assertEqual(([one.name for one in plain.columns], len(plain.rows)), (["Column 1", "Column 2"], 2))
        self.assertIn("It has no line of names: its columns are numbered", plain.remarks)

    def test_json_as_objects_as_lists_and_with_names(self) -> None:
        rows = [{"name": "Mira", "size": 1.5, "on": True}, {"name": None, "more": [1, {"a": 2}]}]
        found = read(json.dumps(rows).encode())
        self.assertEqual([one.name for one in found.columns], ["name", "size", "on", "more"])
        self.assertEqual(found.rows, [["Mira", "1.5", "1", ""], ["", "", "", '[1,{"a":2}]']])
        self.assertEqual(read(b'[["name","size"],["Mira",2]]').rows, [["Mira", "2"]])
        self.assertEqual(read(b'{"columns":["x"],"rows":[[1],[2]]}').rows, [["1"], ["2"]])

    def test_what_is_no_table_says_why(self) -> None:
        for content, said in (
            (b"", "empty"),
            (b" \n ", "empty"),
            (b"\x89PNG\x00\x01", "no text"),
            (b"{", "not JSON"),
            (b"[1, 2]", "all lists, or all objects"),
            (b"{}", "list of rows"),
            (b"[]", "list of rows"),
            (b"a\n" + b"1\n" * 200_001, "200,000 rows"),
            (b",".join([b"1"] * 1000) + b"\n" + (b",".join([b"1"] * 1000) + b"\n") * 2500, "2,000,000 cells"),
            (b",".join([b"c"] * 257) + b"\n", "256 columns; the file holds 257"),
            (b'a,b\n"' + b"x" * 200_000 + b'",1\n', "20,000 letters"),
            (b"a,b\n" + b"x" * 20_001 + b",1\n", "20,000 letters"),
            (b"x" * (table_file.MOST_BYTES + 1), "64 MB"),
        ):
            self.assertIn(said, self.refused(content))
        self.assertEqual(len(read(b",".join([b"c"] * 200) + b"\n").columns), 200)


class Again(unittest.TestCase):
    def table(self, found: TableRead) -> Table:
        return Table(id="t", name="T", columns=found.columns, data=found.data)

    def test_what_goes_out_comes_in_again(self) -> None:
        found = read(b'Name,Words\n"a ""b""","x,y\nz"\n,\n')
        again = read(write_csv(self.table(found)))
        self.assertEqual(again.rows, found.rows)
        self.assertEqual([one.name for one in again.columns], [one.name for one in found.columns])

    def test_what_another_file_changes_is_told(self) -> None:
        old = self.table(read(b"name,size\nMira,1\nTove,2\n"))
        for content, told in (
            (b"size,name\n1,Mira\n3,Tove\n", ["1 cell changed"]),
            (b"name,size\nMira,1\nTove,2\n", ["no cell that was there changed"]),
            (b"name,size\nMira,1\n", ["2 rows become 1", "no cell that was there changed"]),
            (b"name,hue\nMira,#fff\nTove,#000\n", ["gone: size", "new: hue"]),
        ):
            self.assertEqual(replaced(old, read(content)), told)


if __name__ == "__main__":
    unittest.main()
