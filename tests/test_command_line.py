"""The command line, without a server."""

import json
import tempfile
import unittest
import zipfile
from pathlib import Path

from typer.testing import CliRunner

import jaunty_lever
from jaunty_lever.cli import app
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from jaunty_lever.formats import project_file
from tests.formats.made_fonts import squares

FILE = str(Path(jaunty_lever.__file__).parent / "demo/lantern-quay.lever.json")

CSV = ["export", "csv", FILE, "--scene", "Evening quay", "--parameter", "Wind", "--out", "/tmp/wind.csv"]


class CommandLine(unittest.TestCase):
    def run_it(self, *arguments: str) -> tuple[int, str]:
        result = CliRunner().invoke(app, list(arguments))
        return result.exit_code, result.output

    def test_sample_gives_the_samplers_own_numbers(self) -> None:
        code, out = self.run_it(
            "sample",
            FILE,
            "--scene",
            "Evening quay",
            "--parameter",
            "Lantern 3/opacity",
            "--frames",
            "10:12",
            "--step",
            "0.5",
        )
        lines = out.splitlines()
        self.assertEqual((code, lines[0], len(lines)), (0, "frame,seconds,Lantern 3/opacity", 5))
        expected = Sampler(demo_project().scenes[0]).sample("lantern3.opacity", 10.5 / 30)[0]
        self.assertEqual(float(lines[2].split(",")[2]), expected)

    def test_render_check_and_schema(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            code, _ = self.run_it(
                "render", FILE, "--scene", "Evening quay", "--frames", "0:2", "--out", folder, "--scale", "0.25"
            )
            self.assertEqual(
                (code, sorted(p.name for p in Path(folder).iterdir())), (0, ["frame-00000.png", "frame-00001.png"])
            )
            broken = Path(folder) / "x.json"
            broken.write_text("{}")
            self.assertEqual(self.run_it("check", str(broken))[0], 1)
        self.assertEqual(self.run_it("check", FILE)[0], 0)
        self.assertIn("$defs", json.loads(self.run_it("schema")[1]))
        self.assertEqual(
            json.loads(self.run_it("schema", "--recipe")[1])["properties"]["format"]["const"], "jaunty-lever recipe"
        )

    def test_check_prints_the_checks_with_their_mends(self) -> None:
        data = json.loads(Path(FILE).read_text())
        data["scenes"][1]["levers"].append({"kind": "number", "id": "lever-fog", "name": "Fog", "value": 3})
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "odd.lever.json"
            path.write_text(json.dumps(data))
            code, out = self.run_it("check", str(path))
        self.assertEqual(code, 1)
        self.assertIn("Regatta start: The lever Fog drives nothing. Mend: delete Fog.", out)

    def test_a_drawing_becomes_a_project_and_a_table_films(self) -> None:
        with tempfile.TemporaryDirectory() as name:
            folder = Path(name)
            (folder / "sign.svg").write_text(
                '<svg xmlns="http://www.w3.org/2000/svg"><rect width="9" height="9" '
                'style="clip-path:circle(4px)"/></svg>'
            )
            code, out = self.run_it("import", str(folder / "sign.svg"), "--out", str(folder / "sign.lever.json"))
            self.assertEqual((code, "Not read: Clips told by CSS: nothing is cut off." in out), (0, True))
            self.assertEqual(jaunty_lever.open(folder / "sign.lever.json")["sign"].name, "sign")
            (folder / "x.svg").write_text("<svg")
            code, out = self.run_it("import", str(folder / "x.svg"), "--out", str(folder / "x.lever.json"))
            self.assertEqual((code, (folder / "x.lever.json").exists()), (1, False))
            plates = folder / "plates.zip"
            batch = [
                "export",
                "gif",
                FILE,
                "--scene",
                "Name plate",
                "--stop",
                "1",
                "--size",
                "0.1",
                "--out",
                str(plates),
            ]
            code, out = self.run_it(*batch, "--each", "Crew", "--rows", "1,3", "--naming", "{row:02} {Name}")
            self.assertEqual(code, 0, out)
            with zipfile.ZipFile(plates) as archive:
                self.assertEqual(archive.namelist(), ["01 Mira Holm.gif", "03 Jonas Aker.gif"])
            self.assertIn("There are: Crew", self.run_it(*batch, "--each", "Ships")[1])
            code, out = self.run_it("batch", *batch[1:], "--table", "Crew", "--rows", "2")
            self.assertEqual(code, 0, out)
            with zipfile.ZipFile(plates) as archive:
                self.assertEqual(archive.namelist(), ["002.gif"])

    def test_something_comes_into_a_project_that_is_there(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            font, whole = Path(folder) / "squares.ttf", Path(folder) / "whole.lever.json"
            font.write_bytes(squares())
            code, out = self.run_it("import", str(font), "--into", FILE, "--scene", "Name plate", "--out", str(whole))
            self.assertEqual(code, 0, out)
            self.assertEqual([one.name for one in project_file.read(whole.read_bytes()).fonts], ["Quay Squares"])
            font.write_bytes(b"OTTO")
            code, out = self.run_it("import", str(font), "--into", FILE, "--out", str(whole))
            self.assertEqual((code, "damaged or breaks off" in out), (1, True))
            self.assertIn(
                "There is no scene",
                self.run_it("import", str(font), "--into", FILE, "--scene", "x", "--out", str(whole))[1],
            )

    def test_frames_are_said_in_one_way(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            table = f"{folder}/wind.csv"
            for said in (["--frames", "3:9"], ["--start", "3", "--stop", "8"]):
                self.run_it(*CSV[:-2], "--out", table, *said)
                frames = [line.split(",")[0] for line in Path(table).read_text(encoding="utf-8").splitlines()[1:]]
                self.assertEqual(frames, ["3", "4", "5", "6", "7", "8"])

    def test_mistakes_are_said(self) -> None:
        for arguments, part in (
            (["sample", FILE, "--scene", "Nowhere", "--parameter", "x"], "There are: Evening quay"),
            (
                ["sample", FILE, "--scene", "Evening quay", "--parameter", "Lantern 3/opasity"],
                "Did you mean “Lantern 3/opacity”",
            ),
            (["sample", FILE, "--scene", "Evening quay", "--parameter", "Wind", "--frames", "5:900"], "0:300"),
            (["check", "/does/not/exist"], "No such file"),
            ([*CSV, "--frames", "5"], "first:end"),
            ([*CSV, "--frames", "0:5", "--stop", "3"], "not both"),
        ):
            code, out = self.run_it(*arguments)
            self.assertEqual(code, 1, arguments)
            self.assertIn(part, out)
