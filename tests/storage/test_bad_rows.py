"""One bad row never takes a page, or a start, down: every column of every table, with what should not stand there."""

import shutil
import sqlite3
import tempfile
import unittest
from pathlib import Path
from typing import Any

from starlette.testclient import TestClient

from jaunty_lever.storage.export_notes import ExportNotes
from jaunty_lever.storage.store import Store
from jaunty_lever.web.app import create_app
from tests.core.scenes import project, wiggling

WRONG: tuple[Any, ...] = ("yesterday", b"\xff\x00", -7)
"""What stands where a time, a number, a text or bytes should."""
ROWS = {"projects": "id = 'a'", "revisions": "project = 'a'", "recipes": "id = 'one'", "exports": "id = 'x'"}
PAGES = ("/projects/b/scenes/s/export", "/projects/b/scenes/s/sheets/recipes")
TURN = {"kind": "set value", "scene": "s", "parameter": "layer0.rotation", "value": 4}


class BadRows(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, True)
        self.path = self.folder / "jaunty-lever.db"
        store = Store(self.path)
        for id in "ab":
            store.create(project(wiggling()).changed(id=id, name=f"Project {id}"))
        for id in ("one", "two"):
            store.keep_recipe(id, id, b"{}")
        store.close()
        with sqlite3.connect(self.path) as connection:
            row = (
                "x",
                "a",
                "s",
                "Test",
                "png-frames",
                "n.zip",
                "{}",
                3,
                "done",
                "",
                "{}",
                None,
                "2026-01-01 00:00:00.000000",
            )
            connection.execute(f"INSERT INTO exports VALUES ({', '.join('?' * len(row))})", row)
            self.columns = [
                (table, column[1]) for table in ROWS for column in connection.execute(f"PRAGMA table_info({table})")
            ]
        connection.close()
        self.whole = self.path.read_bytes()

    def put(self, table: str, column: str, value: Any) -> bool:
        """Put something into a row of the untouched database; whether it can stand there at all."""
        self.path.write_bytes(self.whole)
        connection = sqlite3.connect(self.path)
        try:
            connection.execute(f"UPDATE {table} SET {column} = ? WHERE {ROWS[table]}", (value,))
            connection.commit()
        except sqlite3.IntegrityError:
            return False
        finally:
            connection.close()
        return True

    def test_whatever_stands_in_a_row_the_others_are_served(self) -> None:
        self.assertGreater(len(self.columns), 25)
        for table, column in self.columns:
            for value in WRONG:
                if not self.put(table, column, value):
                    continue
                with self.subTest(table=table, column=column, value=value):
                    store = Store(self.path)
                    try:
                        app = create_app(store, self.folder / "exports", frozenset({"testserver"}))
                        client = TestClient(app, raise_server_exceptions=False)
                        shelf = client.get("/", headers={"accept": "text/html"})
                        self.assertEqual(shelf.status_code, 200)
                        self.assertIn("Project b", shelf.text)
                        for page in PAGES:
                            self.assertEqual(client.get(page).status_code, 200, page)
                        # What is damaged itself is told in words.
                        for page in PAGES:
                            answer = client.get(page.replace("/b/", "/a/"))
                            self.assertLess(answer.status_code, 500, answer.text)
                        self.assertEqual(client.post("/api/projects/b/edits", json={"edits": [TURN]}).status_code, 200)
                        ExportNotes(store).all()
                    finally:
                        store.close()
