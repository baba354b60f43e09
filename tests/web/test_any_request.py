"""Whatever a program asks: an answer or a sentence, never a crash; and what it made is whole afterwards."""

import json
import shutil
import tempfile
import unittest
from pathlib import Path
from typing import Any, ClassVar
from urllib.parse import quote

from fastapi import FastAPI
from hypothesis import given, settings
from hypothesis import strategies as st
from starlette.testclient import TestClient

from jaunty_lever.core.motion import MODIFIERS
from jaunty_lever.demo import demo_project
from jaunty_lever.formats import project_file
from jaunty_lever.storage.store import Store
from jaunty_lever.web.app import create_app

SCENES = ("evening-quay", "winch-house", "regatta-start")
KNOWN = [
    "lantern3.opacity",
    "boat1.position",
    "title.text",
    "race-count.text",
    "drum.rotation",
    "glow.opacity",
    "sky.fill.colour",
    "wind.value",
    "dusk.value",
    "flicker3.amplitude",
    "flicker3.character",
    "cranking.value",
    "lantern3",
    "wind",
    "drum",
    "spin",
    "wiggle",
    "follow",
    "formula",
    "flicker3",
]
PARAMETERS = [
    "lantern3.opacity",
    "boat1.position",
    "boat1.rotation",
    "sky.position",
    "sky.rotation",
    "sky.opacity",
    "wind.value",
    "dusk.value",
    "flicker3.amplitude",
    "flicker3.frequency",
]
LAYERS = ["sky", "lantern1", "lantern3", "boat1", "boat2"]
ODD = [
    "",
    " ",
    "nobody",
    "nobody.rotation",
    "a.b.c",
    "..",
    "../x",
    "%00",
    "é ü",
    "'\"<b>",
    "0",
    "-1",
    "1e308",
    "nan",
    "inf",
    "{}",
    "\U0001f3ee",
    "x" * 3000,
    "9" * 400,
    "wind.value#7",
    "$<wind.value>",
    "null",
    "true",
]

_text = st.sampled_from(KNOWN) | st.sampled_from(KNOWN) | st.sampled_from(ODD)
_number = (
    st.integers(-5, 400)
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.sampled_from([0, -0.0, 5e-324, 1e308, 2**63, 10**30])
)
_plain = st.none() | st.booleans() | _number | _text
_anything = st.recursive(
    _plain, lambda inner: st.lists(inner, max_size=3) | st.dictionaries(_text, inner, max_size=3), max_leaves=8
)
#: Query strings hold what pages send, with anything in it.
_queries = st.dictionaries(
    st.sampled_from(
        [
            "parameter",
            "layer",
            "driver",
            "component",
            "also",
            "named",
            "show",
            "lever",
            "recipe",
            "start",
            "stop",
            "step",
            "path",
            "ghost",
            "amplitude",
            "frequency",
            "chain",
            "character",
        ]
    ),
    _text | _number.map(str),
    max_size=4,
)


def _likely(name: str, shape: dict[str, Any]) -> st.SearchStrategy[Any]:
    """What may well stand in a field of an edit, by its name and its schema."""
    shape = next((one for one in shape.get("anyOf", ()) if one.get("type") != "null"), shape)
    if shape.get("type") == "array":
        return st.lists(_likely(name, shape.get("items", {})), min_size=1, max_size=2)
    if "const" in shape or "enum" in shape:
        return st.sampled_from(shape.get("enum") or [shape["const"]])
    if name in ("id", "link", "name"):
        return st.text("abcdefghij", min_size=8, max_size=12)
    among = {
        "parameter": PARAMETERS,
        "source": PARAMETERS,
        "driver": PARAMETERS,
        "targets": PARAMETERS,
        "layer": LAYERS,
        "layers": LAYERS,
        "parent": LAYERS,
        "lever": ["wind", "swell", "dusk"],
        "modifier": [*MODIFIERS, "flicker3", "flicker1"],
    }.get(name)
    if among:
        return st.sampled_from(among)
    kinds: dict[Any, st.SearchStrategy[Any]] = {
        "integer": st.integers(-2, 40),
        "number": st.integers(0, 290) | st.floats(-90, 400),
        "boolean": st.booleans(),
        "string": _text,
    }
    return kinds.get(shape.get("type"), _number | st.lists(_number, min_size=2, max_size=2) | _text)


class Asked(unittest.TestCase):
    """One server for all questions, so that what one of them leaves behind meets the next."""

    folder: ClassVar[Path]
    store: ClassVar[Store]
    app: ClassVar[FastAPI]
    client: ClassVar[TestClient]
    pages: ClassVar[list[str]]
    accepted: ClassVar[set[str]] = set()

    @classmethod
    def setUpClass(cls) -> None:
        cls.folder = Path(tempfile.mkdtemp())
        cls.addClassCleanup(shutil.rmtree, cls.folder, True)
        cls.store = Store(cls.folder / "test.db")
        cls.addClassCleanup(cls.store.close)
        cls.store.create(demo_project())
        cls.app = create_app(cls.store, cls.folder / "exports", frozenset({"testserver"}))
        cls.client = TestClient(cls.app, raise_server_exceptions=False)
        # News never end, and the checks draw the whole scene.
        slow = ("/events", "/news", "/checks", "/strip.png")
        paths = cls.app.openapi()["paths"]
        cls.pages = sorted(path for path in paths if "get" in paths[path] and not path.endswith(slow))

    def answered(self, answer: Any, asked: object) -> None:
        self.assertLess(answer.status_code, 500, asked)
        if answer.status_code >= 400:
            kind = answer.headers["content-type"]
            told = answer.json()["message"] if kind.startswith("application/json") else answer.text
            self.assertTrue(told.strip(), asked)
            self.assertNotIn("Traceback", told)
            self.assertNotIn("pydantic", told)

    @settings(max_examples=300)
    @given(st.data())
    def test_every_page_with_anything_in_its_address(self, data: st.DataObject) -> None:
        path = data.draw(st.sampled_from(self.pages))
        fitting = st.sampled_from(SCENES) | _text
        for name, among in (("project", st.just("lantern-quay") | _text), ("scene", fitting)):
            path = path.replace("{" + name + "}", quote(data.draw(among), safe=""))
        while "{" in path:
            start, stop = path.index("{"), path.index("}") + 1
            path = path[:start] + quote(data.draw(_text), safe="") + path[stop:]
        query = data.draw(_queries)
        self.answered(self.client.get(path, params=query), (path, query))

    @settings(max_examples=150)
    @given(
        st.sampled_from(SCENES),
        st.dictionaries(
            st.sampled_from(
                [
                    "edits",
                    "token",
                    "start",
                    "stop",
                    "frames",
                    "chosen",
                    "curves",
                    "ghost",
                    "path",
                    "frame",
                    "text",
                    "parameter",
                ]
            ),
            _anything,
            max_size=5,
        ),
        st.sampled_from(["evaluate", "formula/check", "levers", "recipes"]),
    )
    def test_questions_of_any_shape(self, scene: str, question: dict[str, Any], way: str) -> None:
        url = f"/api/projects/lantern-quay/scenes/{scene}/{way}"
        self.answered(self.client.post(url, json=question), (way, question))

    @classmethod
    def tearDownClass(cls) -> None:
        # What is never accepted proves nothing.
        assert len(cls.accepted) > 12, cls.accepted

    @settings(max_examples=250)
    @given(st.data())
    def test_edits_with_anything_in_their_fields(self, data: st.DataObject) -> None:
        kinds = self.app.openapi()["components"]["schemas"]
        shapes = [shape for shape in kinds.values() if "const" in shape.get("properties", {}).get("kind", {})]
        shape = data.draw(st.sampled_from([shape for shape in shapes if "scene" in shape["properties"]]))
        fields = shape["properties"]
        edit = {"kind": fields["kind"]["const"], "scene": "evening-quay"}
        odd = data.draw(st.sampled_from([None, None, *fields]))
        for name in fields:
            if name not in edit and (name in shape.get("required", ()) or data.draw(st.booleans())):
                edit[name] = data.draw(_anything if name == odd else _likely(name, fields[name]))
        answer = self.client.post("/api/projects/lantern-quay/edits", json={"edits": [edit]})
        self.answered(answer, edit)
        if answer.status_code == 200:
            shown = self.client.post("/api/projects/lantern-quay/scenes/evening-quay/evaluate", json={"stop": 3})
            self.assertEqual(shown.status_code, 409 if edit["kind"] == "remove scene" else 200, edit)
            self.accepted.add(edit["kind"])
            kept = self.store.state("lantern-quay").project
            self.assertEqual(project_file.read(project_file.write(kept).encode()).scenes, kept.scenes, edit)
            self.client.post("/api/projects/lantern-quay/undo", json={})

    @settings(max_examples=60)
    @given(
        st.sampled_from(
            ["edits", "undo", "redo", "scenes/evening-quay/evaluate", "scenes/evening-quay/export/png-frames"]
        ),
        st.binary(max_size=60) | _anything.map(lambda one: json.dumps(one).encode()),
        st.sampled_from(
            [
                "application/json",
                "text/plain",
                "application/x-www-form-urlencoded",
                "",
                "multipart/form-data; boundary=x",
            ]
        ),
    )
    def test_bodies_that_are_nothing(self, way: str, body: bytes, kind: str) -> None:
        url = f"/api/projects/lantern-quay/{way}"
        self.answered(self.client.post(url, content=body, headers={"content-type": kind}), (way, body, kind))

    def test_a_key_at_the_smallest_number_and_other_edges_of_what_is_asked(self) -> None:
        key = {"kind": "set key", "scene": "evening-quay", "parameter": "sky.rotation", "frame": 5e-324}
        self.answered(self.client.post("/api/projects/lantern-quay/edits", json={"edits": [key]}), key)
        for scene in SCENES:
            url = f"/api/projects/lantern-quay/scenes/{scene}/evaluate"
            for start, stop in ((9, 3), (5, 5)):
                answer = self.client.post(url, json={"start": start, "stop": stop})
                self.assertEqual(answer.status_code, 422)
                self.assertIn("must lie before", answer.json()["message"])
            for question in (
                {"start": 5000, "stop": 5600},
                {"curves": {"turning": ["wind.value"], "source": ["title.text", "nobody.value"]}},
            ):
                self.assertEqual(self.client.post(url, json=question).status_code, 200, (scene, question))
        lone = {"kind": "change scene", "scene": "evening-quay", "name": "\ud800"}
        answer = self.client.post(
            "/api/projects/lantern-quay/edits",
            content=json.dumps({"edits": [lone]}),
            headers={"content-type": "application/json"},
        )
        self.assertEqual(answer.status_code, 422)
        self.assertIn("is not text", answer.json()["message"])
