"""Pages and sheets of arrays as they are sent: the list, gauges, what can drive, what a gauge might be tied to,
help."""

import html
import io
import re
import tempfile
import unittest
from pathlib import Path
from typing import Any

import numpy as np
from PIL import Image
from starlette.testclient import TestClient

from jaunty_lever.core.document.arrangement import ARRANGEMENTS
from jaunty_lever.core.document.gauge import GAUGES
from jaunty_lever.demo import demo_project
from jaunty_lever.storage.store import Store
from jaunty_lever.web.app import create_app
from jaunty_lever.web.pages.help_arrays import DRAWING


class Pages(unittest.TestCase):
    client: TestClient

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.TemporaryDirectory()
        cls.addClassCleanup(folder.cleanup)
        store = Store(Path(folder.name) / "x.db")
        cls.addClassCleanup(store.close)
        store.create(demo_project())
        cls.client = TestClient(create_app(store, Path(folder.name) / "exports", frozenset({"testserver"})))

    def get(self, path: str, **query: Any) -> str:
        answer = self.client.get(path, params=query)
        self.assertEqual(answer.status_code, 200, answer.text[:300])
        return html.unescape(answer.text)

    def sheet(self, name: str, scene: str = "pennant-line", **query: Any) -> str:
        return self.get(f"/projects/lantern-quay/scenes/{scene}/sheets/{name}", **query)

    def test_every_reference_page_tells_mathematics_and_settings(self) -> None:
        for part, table in (("arrangements", ARRANGEMENTS), ("gauges", GAUGES)):
            for kind, cls in table.items():
                text = self.get(f"/help/{part}/{kind}")
                self.assertIn("<circle", text)
                self.assertIn(cls.formula[0].split(" ")[0], text)  # type: ignore[attr-defined]
        self.assertIn("copy(12, Gulls.copy_position.x)", self.get("/help/arrays"))
        edge = self.get("/help/edge")
        self.assertGreater(edge.count("<circle"), 300)
        self.assertIn("Innermost size", edge)
        for name in DRAWING:
            self.assertIn("Mathematics", self.get(f"/help/drawing/{name}"))
            picture = Image.open(io.BytesIO(self.client.get(f"/help/drawing/{name}.png").content)).convert("L")
            self.assertGreater(np.ptp(np.asarray(picture)), 60)
        for path in ("/help/drawing/glow", "/help/drawing/glow.png", "/help/gauges/mood", "/help/arrangements/heap"):
            self.assertEqual(self.client.get(path).status_code, 404)

    def test_the_list_tells_how_many_and_opens_what_decides_them(self) -> None:
        text = self.get("/projects/lantern-quay/scenes/pennant-line/panels", layer="pennants")
        self.assertIn("× 40", text)
        for said in ("Arrangement", "Order and time", "Each copy", "The whole array", "along a path", "Rope"):
            self.assertIn(said, text)
        self.assertEqual(re.findall(r'data-gauge="([a-z]+)"', text), ["gust", "gilding", "hop"])
        # The settings of a chosen gauge stand in its first station.
        text = self.get("/projects/lantern-quay/scenes/pennant-line/panels", layer="pennants", parameter="hop.value")
        self.assertIn('data-profile="hop.profile"', text)
        self.assertIn('data-parameter="hop.order.seed"', text)
        self.assertNotIn('data-parameter="hop.order.origin"', text)

    def test_what_can_drive_a_copy_is_in_reach_of_it(self) -> None:
        def drivers(parameter: str) -> dict[str, str]:
            told = self.client.get(
                "/projects/lantern-quay/scenes/gull-flock/drivers", params={"parameter": parameter}
            ).json()
            return {reference: words for reference, _, words, _ in told["drivers"]}

        inside = drivers("gulls.copy_rotation")
        self.assertEqual(inside["element.u"], "the copy's place in the order, 0 to 1")
        self.assertIn("near.value", inside)
        self.assertNotIn("near.value@mean", inside)
        outside = drivers("kite.rotation")
        self.assertEqual(outside["near.value@mean"], "Near the kite, the mean of all copies")
        self.assertNotIn("near.value", outside)
        self.assertNotIn("element.u", outside)

    def test_the_sheet_that_ties_tells_how_a_value_of_many_is_taken(self) -> None:
        text = self.sheet("tie", "gull-flock", parameter="kite.opacity", driver="near.value@greatest")
        self.assertIn("near the kite, the greatest of all copies", text.lower())
        self.assertIn('data-driver="near.value@greatest"', text)
        refused = self.sheet("tie", "gull-flock", parameter="kite.opacity", driver="near.value")
        self.assertIn("for each copy of Gulls", refused)

    def test_what_a_gauge_might_read_and_what_might_follow_it(self) -> None:
        text = self.sheet("add-gauge", array="pennants")
        for cls in GAUGES.values():
            self.assertIn(cls.wish[1:], text)
        self.assertEqual(text.count("data-sample="), len(GAUGES))
        text = self.sheet("tie-gauge", gauge="gust")
        for parameter in ("pennants.copy_position", "pennants.copy_opacity", "pennant.fill.colour", "pennant.stroke"):
            self.assertIn(f'value="{parameter}"', text)
        for name, query in (("add-gauge", {"array": "rope"}), ("tie-gauge", {"gauge": "nothing"})):
            answer = self.client.get(f"/projects/lantern-quay/scenes/pennant-line/sheets/{name}", params=query)
            self.assertIn(answer.status_code, (404, 409, 410, 422))
            self.assertTrue(answer.json()["message"].endswith("."))

    def test_rounds_out_of_step_are_told_for_whatever_is_typed(self) -> None:
        where = {"scene": "buoy-row", "modifier": "swings"}
        self.assertIn("Swing out of step", self.sheet("swing-out", **where))
        for least, most, by, words in (
            ("12", "40", "most", "all together again at frame"),
            ("3", "2", "step", "all together again at frames"),
            ("40", "12", "most", "nothing to go apart"),
            ("", "x", "most", "whole numbers of rounds"),
            ("²", "-4", "most", "whole numbers of rounds"),
            ("1", "9" * 6000, "most", "At most 10,000 rounds"),
            ("1", "0", "step", "At least one round more"),
        ):
            with self.subTest(least=least, most=most[:9]):
                self.assertIn(words, self.sheet("swing-out/told", **where, least=least, most=most, by=by))
        asked = {"modifier": "gust-returns"}
        answer = self.client.get("/projects/lantern-quay/scenes/pennant-line/sheets/swing-out", params=asked)
        self.assertIn("does not go round", answer.json()["message"])

    def test_linkage_has_one_card_for_an_array(self) -> None:
        text = self.get("/projects/lantern-quay/scenes/gull-flock/linkage")
        self.assertEqual(text.count('"name": "Gulls"'), 1)
        self.assertIn("away by", text)
