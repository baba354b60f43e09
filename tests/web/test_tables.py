"""The pages of tables and batches as they are sent, and what they say when something does not fit."""

import html
import io
import json
import time
import zipfile
from typing import Any

from PIL import Image

from jaunty_lever.demo import demo_project
from tests.web.test_server import WebTest

PROJECT = "/projects/lantern-quay"
PLATE = f"{PROJECT}/scenes/name-plate"


class Tables(WebTest):
    def get(self, path: str, status: int = 200, **query: Any) -> str:
        answer = self.client.get(path, params=query)
        self.assertEqual(answer.status_code, status, answer.text[:300])
        return html.unescape(answer.text)

    def edit(self, **fields: Any) -> Any:
        return self.client.post(f"/api{PROJECT}/edits", json={"edits": [fields]})

    def bring(self, content: bytes, name: str = "crew.csv", **form: str) -> Any:
        return self.client.post(f"/api{PROJECT}/tables", files={"file": (name, content)}, data=form)

    def test_a_long_table_is_shown_in_parts(self) -> None:
        rows = "".join(f"Row {k},{k}\n" for k in range(250))
        told = self.bring(f"name,n\n{rows}".encode(), "many.csv").json()
        self.assertEqual((told["rows"], told["label"]), (250, "Table many added"))
        page = self.get(f"{PLATE}/tables/sheet", table=told["table"])
        self.assertEqual(page.count("<tr "), 100)
        self.assertIn("rows 1 to 100 of 250", page)
        last = self.get(f"{PLATE}/tables/sheet", table=told["table"], **{"from": "230"})
        self.assertIn("rows 201 to 250 of 250", last)
        # Where a row far down is shown, the page opens there.
        self.edit(kind="show row", table=told["table"], row=120)
        self.assertIn("rows 101 to 200 of 250", self.get(f"{PLATE}/tables", table=told["table"]))

    def test_words_from_files_are_words_on_the_page(self) -> None:
        told = self.bring(b'name,x\n"<script>alert(1)</script>",=1+1\n', "<b>.csv").json()
        page = self.client.get(f"{PLATE}/tables", params={"table": told["table"]}).text
        self.assertNotIn("<script>alert", page)
        self.assertNotIn("<b>.", page)
        self.assertIn("&lt;script&gt;alert(1)&lt;/script&gt;", page)
        file = self.client.get(f"/api{PROJECT}/tables/{told['table']}/file")
        self.assertEqual(file.content.decode().splitlines()[0], "name,x")
        self.assertIn("attachment", file.headers["content-disposition"])

    def test_what_cannot_be_brought_in_changes_nothing(self) -> None:
        before = self.store.state("lantern-quay").revision
        for content, form, status, said in (
            (b"\x00\x01", {}, 422, "no text"),
            (b"", {}, 422, "empty"),
            (b"a,b\n1,2\n", {"table": "none"}, 404, "deleted"),
        ):
            answer = self.bring(content, **form)
            self.assertEqual((answer.status_code, said in answer.text), (status, True), answer.text)
        self.assertEqual(self.store.state("lantern-quay").revision, before)
        # Other rows that what follows cannot take on are refused whole, with the cell.
        answer = self.bring(b"Name,Duty,Enamel\nRuna,Cook,pale\n", table="crew")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("Crew, row 1, Enamel: “pale” is no colour", answer.json()["message"])

    def test_what_may_follow_is_what_fits(self) -> None:
        texts = self.get(f"{PLATE}/tables/offered", kind="text")
        self.assertIn('data-follow-this="plate-name.text"', texts)
        self.assertNotIn("plate-swing.value", texts)
        self.assertIn("plate-swing.value", self.get(f"{PLATE}/tables/offered", kind="number"))
        self.assertIn("plate.fill.colour", self.get(f"{PLATE}/tables/offered", kind="colour"))
        quay = self.get(f"{PROJECT}/scenes/evening-quay/tables/offered", kind="number")
        self.assertIn("It has keys. A table sets what rests", quay)

    def test_the_contact_sheet_shows_every_row_as_it_will_be(self) -> None:
        sheet = self.get(f"{PLATE}/contact", each="crew", rows="2-3", naming="{row:02} {Name}")
        self.assertIn("02 Tove Brandt", sheet)
        self.assertEqual(sheet.count("<figure"), 2)
        seen = []
        for row in (0, 1):
            answer = self.client.get(f"{PLATE}/tables/crew/rows/{row}.png", params={"wide": 96})
            picture = Image.open(io.BytesIO(answer.content)).convert("RGB")
            self.assertEqual(picture.size, (96, 54))
            # Where the plate is enamel and nothing else.
            seen.append(picture.getpixel((28, 24)))
        for (red, green, blue), wanted in zip(seen, ((0x1F, 0x6F, 0x78), (0xA9, 0x3C, 0x28)), strict=True):
            self.assertLess(max(abs(red - wanted[0]), abs(green - wanted[1]), abs(blue - wanted[2])), 12)
        self.assertEqual(self.client.get(f"{PLATE}/contact").text, "")
        self.assertIn("no such column", self.get(f"{PLATE}/contact", 422, each="crew", naming="{Ship}"))
        self.get(f"{PLATE}/tables/crew/rows/9.png", 404)
        self.get(f"{PLATE}/tables/none/rows/0.png", 422)

    def test_a_batch_is_planned_made_and_told_for_programs(self) -> None:
        form = {"each": "crew", "rows": "1-2", "naming": "{Name}", "stop": "1", "size": "0.1"}
        plan = self.client.post(f"{PLATE}/export/gif/plan", data=form)
        self.assertIn("Name plate × 2.zip", plan.text)
        refused = self.client.post(f"{PLATE}/export/gif/plan", data={**form, "rows": "9"})
        self.assertEqual((refused.status_code, refused.json()["at"]), (422, "rows"))
        card = self.client.post(f"{PLATE}/export/svg-frame", data={"each": "crew", "naming": "{row}"}).text
        job = card.split('data-job="')[1].split('"')[0]
        deadline = time.monotonic() + 60
        while not (told := self.client.get(f"/api/exports/{job}").json())["finished"]:
            self.assertLess(time.monotonic(), deadline)
        self.assertEqual((told["problem"], told["report"]["files"], told["format"]), ("", 5, "batch"))
        with zipfile.ZipFile(io.BytesIO(self.client.get(told["file"]).content)) as archive:
            self.assertEqual(archive.namelist(), [f"{k}.svg" for k in range(1, 6)])

    def test_the_project_file_carries_the_table(self) -> None:
        table = json.loads(self.client.get(f"/api{PROJECT}/file").text)["tables"][0]
        self.assertEqual(table["data"], demo_project().tables[0].data)
        self.assertEqual(len(table["followers"]), 4)


class ForPrograms(WebTest):
    def test_every_example_does_what_it_says(self) -> None:
        document = self.client.get("/api/openapi.json").json()
        schemas = document["components"]["schemas"]
        asked = 0
        for path, methods in document["paths"].items():
            content = methods.get("post", {}).get("requestBody", {}).get("content", {})
            if not path.startswith("/api/") or "application/json" not in content:
                continue
            (example,) = schemas[content["application/json"]["schema"]["$ref"].rpartition("/")[2]]["examples"]
            filled = path.format(project="lantern-quay", scene="evening-quay", name="png-frames")
            answer = self.client.post(filled, json=example)
            self.assertEqual(answer.status_code, 200, f"{path}: {answer.text[:200]}")
            asked += 1
        self.assertGreaterEqual(asked, 8)

    def test_the_page_tells_every_way_and_every_edit_and_fetches_nothing(self) -> None:
        answer = self.client.get("/help/api").text
        for path in self.client.get("/api/openapi.json").json()["paths"]:
            if path.startswith("/api/"):
                self.assertIn(f"<code>{path}</code>", answer)
        for kind in ("show row", "add drawing", "follow column", "bake"):
            self.assertIn(f"<code>{kind}</code>", answer)
        self.assertNotIn("https://", answer)
