"""The project file: round trips, and everything that can be wrong with one."""

import copy
import json
import unittest
from typing import Any
from unittest import mock

from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.versions import VERSION
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.demo import demo_project
from jaunty_lever.demo.quay import build
from jaunty_lever.formats import bounded, project_file, recipe_file, values
from jaunty_lever.formats.project_file import BadFile, as_data, from_data, read, schema, write
from tests.core.scenes import scene


class RoundTrip(unittest.TestCase):
    def test_the_sample_is_what_its_edits_make_and_survives_a_round_trip(self) -> None:
        self.assertEqual(plain(demo_project()), plain(build()))
        text = write(demo_project())
        self.assertEqual(write(read(text.encode())), text)
        self.assertEqual(read(text.encode()), demo_project())

    def test_one_change_is_one_line_of_a_diff(self) -> None:
        project = demo_project()
        data = as_data(project)
        data["scenes"][0]["levers"][1]["value"] = 12
        one, two = write(project).splitlines(), write(from_data(data)).splitlines()
        self.assertEqual(sum(a != b for a, b in zip(one, two, strict=True)), 1)

    def test_the_schema_names_every_modifier_and_layer(self) -> None:
        made = schema()
        for name in ("Wiggle", "Follow", "Text", "RadialFill", "Lever"):
            self.assertIn(name, made["$defs"])
        self.assertEqual(made["required"][:2], ["format", "version"])
        json.dumps(made)

    def test_csv_has_a_line_a_frame_and_full_precision(self) -> None:
        scene = demo_project().scenes[0]
        columns = [scene.index.by_name(name) for name in ("lantern_3/Opacity", "Boat 2/position.y", "Wind")]
        lines = "".join(values.csv_of(scene, [(node.id, part) for node, part in columns], 0, 3)).splitlines()
        self.assertEqual(lines[0].strip(), "frame,seconds,Lantern 3/opacity,Boat 2/position.y,Wind")
        self.assertEqual(len(lines), 4)
        with self.assertRaisesRegex(LookupError, "Did you mean “Wind”"):
            scene.index.by_name("Wimd")


class Older(unittest.TestCase):
    def test_texts_without_words_keep_saying_what_they_said(self) -> None:
        words = {"kind": "text", "id": "w", "name": "W"}
        group = {"kind": "group", "id": "g", "name": "G", "layers": [{**words, "id": "v", "text": "Mine"}]}
        for version, said in ((6, "Lantern Quay"), (7, "Text")):
            scene = {"id": "s", "name": "S", "layers": [words, group]}
            data = {"format": "jaunty-lever project", "version": version, "id": "p", "name": "P", "scenes": [scene]}
            layers = read(json.dumps(data).encode()).scenes[0].index.layers
            self.assertEqual([layers[one].text.rest for one in "wv"], [said, "Mine"])
            recipe = {"format": "jaunty-lever recipe", "version": version, "id": "r", "name": "R", "layers": [words]}
            self.assertEqual(recipe_file.read(json.dumps(recipe).encode()).layers[0].text.rest, said)


class Heavy(unittest.TestCase):
    """Files that are small and unfold to something huge, and files full of mistakes."""

    def told(self, data: Any) -> tuple[str, ...]:
        with self.assertRaises(BadFile) as bad:
            bounded.read(json.dumps(data).encode())
        return bad.exception.problems

    def with_layers(self, layers: Any) -> Any:
        scene = {"id": "s", "name": "S", "layers": layers}
        return {"format": "jaunty-lever project", "version": 2, "id": "p", "name": "P", "scenes": [scene]}

    def test_what_holds_too_much_is_refused_before_it_is_unfolded(self) -> None:
        dot = {"kind": "ellipse", "name": "D"}
        many = [{**dot, "id": f"d{k}"} for k in range(6000)]
        self.assertIn("at most 5,000 layers", self.told(self.with_layers(many))[0])
        chain = [{"kind": "adjust", "id": f"m{k}"} for k in range(33)]
        self.assertIn(
            "at most 32", " ".join(self.told(self.with_layers([{**dot, "id": "a", "rotation": {"chain": chain}}])))
        )
        keys = [{"frame": k, "value": 0} for k in range(200_001)]
        self.assertIn(
            "at most 200,000 keys", self.told(self.with_layers([{**dot, "id": "a", "rotation": {"keys": keys}}]))[0]
        )
        text = {"kind": "text", "id": "t", "name": "T", "text": "x" * 20_001}
        self.assertIn("at most 20,000 letters", " ".join(self.told(self.with_layers([text]))))
        deep: Any = {**dot, "id": "in"}
        for k in range(40):
            deep = {"kind": "group", "id": f"g{k}", "name": "G", "layers": [deep]}
        self.assertIn("24 deep", " ".join(self.told(self.with_layers([deep]))))

    def test_a_hundred_mistakes_are_enough(self) -> None:
        self.assertLessEqual(len(self.told(self.with_layers([1] * 4000))), 100)
        wrong = [{"kind": "ellipse", "id": f"d{k}", "name": "D", "rotation": "fast"} for k in range(3000)]
        self.assertEqual(len(self.told(self.with_layers(wrong))), 100)
        keys = [{"frame": "x", "value": {}} for _ in range(20_000)]
        self.assertLessEqual(
            len(self.told(self.with_layers([{"kind": "ellipse", "id": "a", "name": "A", "rotation": {"keys": keys}}]))),
            100,
        )

    def test_names_are_one_line_and_files_of_the_first_version_keep_their_values(self) -> None:
        chain = [{"kind": "formula", "id": "m", "text": "base / 2 + 5"}]
        layer = {"kind": "ellipse", "id": "a", "name": "Two\r\nlines\x00", "opacity": {"rest": 80, "chain": chain}}
        data = self.with_layers([layer]) | {"version": 1}
        made = from_data(data)
        self.assertEqual(made.scenes[0].layers[0].name, "Two lines")
        self.assertEqual(Sampler(made.scenes[0]).sample("a.opacity", 0.0)[0], 45)
        self.assertEqual(read(write(made).encode()), made)

    def test_texts_stay_texts_in_a_spreadsheet(self) -> None:
        one = scene({"kind": "text", "name": "=SUM(A1)", "text": "@cmd"}, {"name": "-minus"})
        columns = [(f"layer{k}.{n}", None) for k, n in ((0, "text"), (0, "opacity"), (1, "rotation"))]
        lines = "".join(values.csv_of(one, columns, 0, 2)).splitlines()
        self.assertEqual(lines[0], "frame,seconds,'=SUM(A1)/text,'=SUM(A1)/opacity,'-minus/rotation")
        self.assertEqual(lines[1], "0,0,'@cmd,100,0")


class Wrong(unittest.TestCase):
    def refused(self, content: bytes, *parts: str) -> None:
        with self.assertRaises(BadFile) as bad:
            read(content)
        for part in parts:
            self.assertIn(part, " ".join(bad.exception.problems))

    def changed(self, change: Any) -> bytes:
        data = copy.deepcopy(as_data(demo_project()))
        change(data)
        return json.dumps(data).encode()

    def test_not_json_and_not_ours(self) -> None:
        self.refused(b"hello", "not JSON", "line 1")
        self.refused(b'{"format": 3}', "not a Jaunty Lever project")
        self.refused(b"[]", "not a Jaunty Lever project")
        self.refused(b"", "not JSON")
        self.refused(b"\xff\xfe\x00", "not JSON")

    def test_versions_sizes_and_depths(self) -> None:
        self.refused(
            self.changed(lambda d: d.update(version=VERSION + 1)), f"version {VERSION + 1}", f"up to version {VERSION}"
        )
        self.refused(self.changed(lambda d: d.update(version="x")), "whole number")
        with mock.patch.object(project_file, "MOST_PROJECT", 3 << 20):
            self.refused(b" " * ((3 << 20) + 1), "3 MB")
        self.refused(b"[" * 10_000 + b"]" * 10_000, "levels deep")
        deep: Any = {"kind": "group", "id": "g0", "name": "G"}
        for k in range(1, 200):
            deep = {"kind": "group", "id": f"g{k}", "name": "G", "layers": [deep]}
        self.refused(self.changed(lambda d: d["scenes"][0].update(layers=[deep])), "levels deep")

    def test_ids_types_numbers_and_references(self) -> None:
        scene = lambda d: d["scenes"][0]  # noqa: E731
        self.refused(self.changed(lambda d: scene(d)["layers"][0].pop("id")), "Sky", "id: is missing")
        self.refused(self.changed(lambda d: scene(d)["layers"][1].update(id="sky")), "“sky” stands 2 times")
        self.refused(self.changed(lambda d: scene(d)["layers"][0].update(rotation="fast")), "Sky / rotation")
        self.refused(
            self.changed(lambda d: scene(d)["layers"][0].update(rotation={"rest": 0, "keyz": []})), "keyz", "not known"
        )
        self.refused(self.changed(lambda d: scene(d)["layers"][0].update(position=[1, 2, 3])), "2 component(s)")
        self.refused(self.changed(lambda d: scene(d)["layers"][0].update(kind="blob")), "Sky")
        self.refused(self.changed(lambda d: scene(d)["levers"][0].update(low=99)), "Wind", "range")
        self.refused(self.changed(lambda d: scene(d).update(width=100_000)), "8,192")
        self.refused(self.changed(lambda d: scene(d).update(length=10**6)), "36,000")
        text = self.changed(lambda d: scene(d)["layers"][0].update(rotation=7.125)).replace(b"7.125", b"NaN")
        self.refused(text, "NaN")
        self.refused(text.replace(b"NaN", b"1e999"), "too large", "line 1")
        link = {"rest": 0, "chain": [{"kind": "follow", "id": "x", "driver": "nobody.value"}]}
        self.refused(self.changed(lambda d: scene(d)["layers"][0].update(rotation=link)), "nobody.value", "not there")
        circle = {"rest": 0, "chain": [{"kind": "follow", "id": "x", "driver": "sky.rotation"}]}
        self.refused(
            self.changed(lambda d: scene(d)["layers"][0].update(rotation=circle)),
            "depend on themselves",
            "Sky / rotation",
        )
        self.refused(
            self.changed(lambda d: scene(d)["layers"][0].update(rotation={"keys": [{"frame": 1, "value": 0}] * 2})),
            "two keys",
        )
