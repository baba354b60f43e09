"""Formats that go out and come in: what is made from their registries, and that what goes out comes in again."""

import io
import json
import tempfile
import zipfile
from collections.abc import Callable
from pathlib import Path
from typing import IO, Any, ClassVar, Literal
from unittest import TestCase
from unittest.mock import patch

import msgpack
from pydantic import Field
from typer import Typer
from typer.testing import CliRunner

import jaunty_lever
from jaunty_lever.cli import app
from jaunty_lever.commands.exporting import add_exports
from jaunty_lever.core.edits import Refused
from jaunty_lever.demo import demo_project
from jaunty_lever.exporters import EXPORTERS, Exporter, Options, Plan, Source, read_options
from jaunty_lever.importers import IMPORTERS, importer_for
from jaunty_lever.recipes import ready
from tests.web.test_server import SCENE, WebTest

FILE = str(Path(jaunty_lever.__file__).parent / "demo/lantern-quay.lever.json")
BENCH = "/projects/lantern-quay/scenes/evening-quay"


class Named(Options):
    """A sample's options."""

    shout: bool = Field(False, title="In capitals", description="Write names in capitals.")
    joint: Literal["comma", "line"] = Field("line", title="Between", description="What stands between names.")


class LayerNames(Exporter):
    """A sample format, as short as one can be."""

    name: ClassVar[str] = "names"
    title: ClassVar[str] = "Names"
    does: ClassVar[str] = "The names of all layers."
    verb: ClassVar[str] = "Save names"
    takes: ClassVar[Literal["scene", "project", "recipe"]] = "scene"
    media_type: ClassVar[str] = "text/plain"
    ending: ClassVar[str] = ".txt"
    options: ClassVar[type[Options]] = Named

    def plan(self, source: Source, options: Named) -> Plan:
        return Plan(f"{source.name}.txt")

    def write(self, source: Source, options: Named, target: IO[bytes], done: Callable[[int], None]) -> None:
        assert source.scene is not None
        names = [layer.name.upper() if options.shout else layer.name for layer in source.scene.layers]
        target.write({"comma": ", ", "line": "\n"}[options.joint].join(names).encode())


class Made(WebTest):
    """A format that is added appears everywhere."""

    def setUp(self) -> None:
        super().setUp()
        added = patch.dict(EXPORTERS, {"names": LayerNames()})
        added.start()
        self.addCleanup(added.stop)

    def test_a_new_format_stands_in_the_sheet_the_interface_and_the_command_line(self) -> None:
        self.assertIn("?for=names.0", self.client.get(f"{BENCH}/export").text)
        sheet = self.client.get(f"{BENCH}/export?for=names.0").text
        self.assertIn("The names of all layers.", sheet)
        self.assertIn("In capitals", sheet)
        self.assertRegex(sheet, r"<option\s*>comma</option>")
        told = {one["name"]: one for one in self.client.get("/api/formats").json()["exporters"]}
        self.assertEqual(set(told["names"]["options"]["properties"]), {"shout", "joint"})
        answer = self.client.get(f"{SCENE}/export/names?shout=true&joint=comma")
        self.assertTrue(answer.text.startswith("SKY, "), answer.text)
        self.assertIn("Evening quay.txt", answer.headers["content-disposition"])
        group = Typer()
        add_exports(group)
        with tempfile.TemporaryDirectory() as folder:
            done = CliRunner().invoke(group, ["names", FILE, "--scene", "Evening quay", "--out", folder, "--shout"])
            self.assertEqual(done.exit_code, 0, done.output)
            self.assertTrue((Path(folder) / "Evening quay.txt").read_text().startswith("SKY\n"))
            self.assertEqual(len(list(Path(folder).iterdir())), 1)

    def test_options_that_make_no_sense_are_named(self) -> None:
        for query, at in (("joint=dash", "joint"), ("shout=maybe", "shout"), ("size=3", "size")):
            answer = self.client.get(f"{SCENE}/export/names?{query}")
            self.assertEqual((answer.status_code, answer.json()["at"]), (422, at), answer.text)
        self.assertEqual(self.client.get(f"{SCENE}/export/nothing").status_code, 404)

    def test_what_takes_a_while_is_started_followed_and_fetched_by_programs(self) -> None:
        self.assertEqual(self.client.get(f"{SCENE}/export/png-frames").status_code, 422)
        edit = {"kind": "set value", "scene": "evening-quay", "parameter": "dusk.value", "value": 90}
        started = self.client.post(
            f"{SCENE}/export/png-frames", json={"options": {"stop": 1, "size": 0.1}, "edits": [edit]}
        ).json()
        while not (now := self.client.get(f"/api/exports/{started['id']}").json())["finished"]:
            pass
        self.assertEqual((now["problem"], now["done"], now["total"]), ("", 2, 2))
        with zipfile.ZipFile(io.BytesIO(self.client.get(now["file"]).content)) as archive:
            self.assertEqual(archive.namelist(), ["frame-00000.png", "frame-00001.png"])

    def test_programs_say_frames_as_the_command_line_does(self) -> None:
        asked = f"{SCENE}/export/csv?parameter=Wind&frames="
        lines = self.client.get(f"{asked}3:9").text.splitlines()
        self.assertEqual([line.split(",")[0] for line in lines[1:]], list("345678"))
        told, older = ({"frames": "3:9"}, {"start": 3, "stop": 9})
        answers = [self.client.post(f"{SCENE}/evaluate", json=question) for question in (told, older)]
        self.assertEqual([one.status_code for one in answers], [200, 200])
        # Each answer has a name of its own.
        one, other = ({**msgpack.unpackb(answer.content), "token": ""} for answer in answers)
        self.assertEqual(one, other)
        for wrong in ("3", "9:3", "0.5:3", "nan:inf", "0:1e300", "0:301"):
            answer = self.client.get(f"{asked}{wrong}")
            self.assertEqual((answer.status_code, answer.json()["at"]), (422, "frames"), answer.text)
        for question in ({"frames": "3:9", "stop": 4}, {"frames": "3"}, {"frames": "0:1e300"}):
            self.assertEqual(self.client.post(f"{SCENE}/evaluate", json=question).status_code, 422, question)

    def test_a_file_says_itself_what_it_is(self) -> None:
        recipe = next(iter(ready().values()))
        content = b"".join(EXPORTERS["recipe"].pieces(Source(recipe=recipe), Options()))
        shelf = self.client.post("/import", files={"file": ("thing.json", content)}).text
        self.assertIn(f"{recipe.name} is among the recipes now", shelf)
        self.assertEqual(len(self.store.recipes()), 1)
        refused = self.client.post("/import", files={"file": ("thing.json", b"[1]")})
        self.assertIn("should be “jaunty-lever project”", refused.text)


class RoundTrips(TestCase):
    def test_what_goes_out_comes_in_again(self) -> None:
        whole: list[tuple[str, Source, Any]] = [("project", Source(demo_project()), demo_project())]
        whole += [("recipe", Source(recipe=recipe), recipe) for recipe in ready().values()]
        for name, source, wanted in whole:
            content = b"".join(EXPORTERS[name].pieces(source, Options()))
            importer = importer_for(content)
            self.assertIs(importer, IMPORTERS[name])
            self.assertEqual(importer.read(content).thing, wanted)

    def test_a_failed_export_leaves_no_file(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            arguments = ["export", "csv", FILE, "--scene", "Evening quay", "--out", folder]
            for more in (
                ["--parameter", "Nobody/x"],
                ["--parameter", "Wind", "--step", "0"],
                ["--stop", "900", "--parameter", "Wind"],
            ):
                done = CliRunner().invoke(app, [*arguments, *more])
                self.assertEqual(done.exit_code, 1, done.output)
            self.assertEqual(list(Path(folder).iterdir()), [])
            done = CliRunner().invoke(app, [*arguments, "--parameter", "Wind", "--stop", "3"])
            self.assertEqual(done.exit_code, 0, done.output)
            self.assertEqual(len((Path(folder) / "Evening quay.csv").read_text().splitlines()), 5)

    def test_options_come_from_plain_data_and_are_complained_of_by_name(self) -> None:
        with self.assertRaises(Refused) as refused:
            read_options(EXPORTERS["csv"], {"step": 0})
        self.assertEqual(
            (refused.exception.at, str(refused.exception)), ("step", "The step lies between 0.01 and 1,000 frames.")
        )
        self.assertEqual(json.loads(read_options(EXPORTERS["png-frames"], {"size": "2"}).model_dump_json())["size"], 2)
