"""Batches: a file for each row, one that fails among them, names, and going on where it was cut short."""

import io
import tempfile
import unittest
import zipfile
from pathlib import Path
from typing import Any

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import EDIT, Refused
from jaunty_lever.exporters import EXPORTERS, Source, read_options
from jaunty_lever.rendering import Here, Stopped
from jaunty_lever.rendering.batch import BATCH, BatchOptions, make, names, rows_in
from tests.core.scenes import project, scene


def start() -> Project:
    one = scene(
        {"kind": "text", "text": "Quay", "position": (80, 45)},
        {"size": [20, 20], "fill": {"kind": "solid", "colour": "#000000"}},
    )
    now = project(one.changed(width=160, height=90, length=6))
    columns = [{"id": "who", "name": "Name"}, {"id": "hue", "name": "Colour", "kind": "colour"}]
    data = 'Mira,#a93c28\n"Tove/Br\nandt",#1f6f78\nEbba,sea\nMira,#e0b050\n'
    for kind, fields in (
        ("add table", {"id": "crew", "name": "Crew", "columns": columns, "data": data}),
        ("follow column", {"table": "crew", "column": "who", "scene": "s", "parameter": "layer0.text"}),
        ("follow column", {"table": "crew", "column": "hue", "scene": "s", "parameter": "layer1.fill.colour"}),
    ):
        now = EDIT.validate_python({"kind": kind, **fields}).apply(now)
    return now


def options(**fields: Any) -> BatchOptions:
    given = {"table": "crew", "format": "png-frames", "given": {"stop": 1}, **fields}
    made = read_options(BATCH, given)
    assert isinstance(made, BatchOptions)
    return made


class Making(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))
        self.source = Source(start(), start().scenes[0])

    def made(self, wished: BatchOptions, **more: Any) -> tuple[dict[str, bytes], dict[str, Any]]:
        target = io.BytesIO()
        report = make(BATCH, self.source, wished, target, self.folder / "pieces", Here(), **more)
        with zipfile.ZipFile(target) as archive:
            return {name: archive.read(name) for name in archive.namelist()}, report

    def test_every_row_is_a_file_and_one_that_fails_stops_none(self) -> None:
        seen: list[int] = []
        files, report = self.made(options(naming="{row:02} {name}"), done=lambda count, sight: seen.append(count))
        self.assertEqual(list(files), ["01 Mira.zip", "02 Tove_Br_andt.zip", "04 Mira.zip", "what is missing.txt"])
        self.assertEqual(report["files"], 3)
        [said] = report["failed"]
        self.assertIn("Row 3 (03 Ebba): Crew, row 3, Colour: “sea” is no colour", said)
        self.assertEqual(files["what is missing.txt"].decode().strip(), said)
        self.assertEqual((seen[-1], seen), (8, sorted(seen)))
        # Each is what the row makes of the scene.
        exporter, alone = EXPORTERS["png-frames"], io.BytesIO()
        shown = EDIT.validate_python({"kind": "show row", "table": "crew", "row": 1}).apply(start())
        exporter.write(Source(shown, shown.scenes[0]), read_options(exporter, {"stop": 1}), alone, lambda count: None)
        self.assertEqual(files["02 Tove_Br_andt.zip"], alone.getvalue())

    def test_one_cut_short_makes_no_file_twice(self) -> None:
        asked = iter([False] * 4 + [True] * 50)
        with self.assertRaises(Stopped):
            self.made(options(), stop=lambda: next(asked))
        there = {path.name: path.stat().st_mtime_ns for path in (self.folder / "pieces").glob("*.file")}
        self.assertTrue(there)
        files, _ = self.made(options())
        self.assertEqual(len(files), 4)
        for name, when in there.items():
            self.assertEqual((self.folder / "pieces" / name).stat().st_mtime_ns, when)

    def test_formats_that_take_no_time_can_be_had_for_each_row_too(self) -> None:
        files, _ = self.made(options(format="svg-frame", given={}, rows="1-2"))
        self.assertEqual(list(files), ["001.svg", "002.svg"])
        self.assertIn(b"#a93c28", files["001.svg"])
        self.assertIn(b"#1f6f78", files["002.svg"])

    def test_all_rows_failing_is_a_failure(self) -> None:
        with self.assertRaisesRegex(Refused, "Row 3"):
            self.made(options(rows="3"))

    def test_plans_say_what_does_not_make_sense(self) -> None:
        plan = BATCH.plan(self.source, options(rows="2-3"))
        self.assertEqual((plan.file_name, plan.steps), ("Test × 2.zip", 4))
        bare = start().changed(tables=(start().tables[0].changed(followers=()),))
        for source, wished, at, said in (
            (self.source, options(table="none"), "table", "deleted"),
            (self.source, options(rows="9"), "rows", "rows 1 to 4"),
            (self.source, options(rows="x"), "rows", "no rows"),
            (self.source, options(naming="{Ship}"), "naming", "no such column"),
            (self.source, options(format="project"), "format", "cannot be made"),
            (self.source, options(given={"stop": 99}), "start", "frames 0 to 5"),
            (Source(bare, bare.scenes[0]), options(), "table", "Nothing in Test follows Crew"),
        ):
            with self.assertRaises(Refused) as caught:
                BATCH.plan(source, wished)
            self.assertIn(said, str(caught.exception))
            self.assertEqual(caught.exception.at, at)


class Names(unittest.TestCase):
    def test_rows_in_words(self) -> None:
        self.assertEqual(rows_in("", 3), [0, 1, 2])
        self.assertEqual(rows_in(" 2 - 3,1, 2", 3), [1, 2, 0])

    def test_names_are_files_names_and_each_its_own(self) -> None:
        table = start().tables[0]
        found = names("{name}", table, [0, 1, 2, 3])
        self.assertEqual(found, ["Mira", "Tove_Br_andt", "Ebba", "Mira 4"])
        self.assertEqual(names("../{row}/con:", table, [0]), ["_1_con_"])
        self.assertEqual(names("...", table, [0]), ["001"])


if __name__ == "__main__":
    unittest.main()
