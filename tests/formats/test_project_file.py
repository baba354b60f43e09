"""The project file: round trips, and everything that can be wrong with one."""

import copy
import json
import unittest
from typing import Any
from unittest import mock

from jaunty_lever.core.document.plain import plain
from jaunty_lever.demo import demo_project
from jaunty_lever.demo.quay import build
from jaunty_lever.formats import csv_values, project_file
from jaunty_lever.formats.project_file import BadFile, as_data, from_data, read, schema, write


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
        lines = list(csv_values.write(scene, [(place.id, component) for place, component in columns], 0, 3))
        self.assertEqual(lines[0].strip(), "frame,seconds,Lantern 3/opacity,Boat 2/position.y,Wind")
        self.assertEqual(len(lines), 4)
        with self.assertRaisesRegex(LookupError, "Did you mean “Wind”"):
            scene.index.by_name("Wimd")


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
        self.refused(self.changed(lambda d: d.update(version=2)), "version 2", "up to version 1")
        self.refused(self.changed(lambda d: d.update(version="x")), "whole number")
        with mock.patch.object(project_file, "MOST_BYTES", 3 << 20):
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
