"""Folders that are strange, damaged, full, taken or gone: what is said of them, and that nothing is lost."""

import os
import shutil
import signal
import sqlite3
import subprocess
import sys
import tempfile
import threading
import time
import unittest
import urllib.error
import urllib.request
import zlib
from pathlib import Path
from typing import Any

import orjson
from starlette.testclient import TestClient

from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.edits import EDIT
from jaunty_lever.demo import demo_project
from jaunty_lever.formats import project_file
from jaunty_lever.storage import opening
from jaunty_lever.storage import store as module
from jaunty_lever.storage.bodies import Unreadable
from jaunty_lever.storage.opening import CannotOpen
from jaunty_lever.storage.rescue import rescue
from jaunty_lever.storage.store import Busy, Lost, Store
from jaunty_lever.web.app import create_app
from tests.browser.harness import Server, free_port
from tests.core.scenes import project, scene, wiggling


def turned(value: float) -> Any:
    return EDIT.validate_python({"kind": "set value", "scene": "s", "parameter": "layer0.rotation", "value": value})


class Folder(unittest.TestCase):
    def served(self) -> "subprocess.CompletedProcess[str]":
        """What becomes of a server that is started on the folder, and ends by itself."""
        command = [
            sys.executable,
            "-m",
            "jaunty_lever",
            "serve",
            "--port",
            str(free_port()),
            "--data",
            str(self.folder),
        ]
        return subprocess.run(command, capture_output=True, text=True, timeout=120)

    def setUp(self) -> None:
        self.folder = Path(tempfile.mkdtemp())
        self.addCleanup(shutil.rmtree, self.folder, True)
        self.path = self.folder / "jaunty-lever.db"

    def store(self, path: Path | None = None) -> Store:
        made = Store(path or self.path)
        self.addCleanup(made.close)
        return made

    def filled(self) -> None:
        store = self.store()
        store.create(project(wiggling()))
        for value in range(1, 6):
            store.edit("p", turned(value))
        store.close()


def rotation(store: Store) -> Any:
    return store.state("p").project.scenes[0].layers[0].rotation.rest


class Strange(Folder):
    def refused(self, *parts: str, path: Path | None = None) -> None:
        with self.assertRaises(CannotOpen) as wrong:
            Store(path or self.path)
        said = str(wrong.exception)
        self.assertLessEqual(len(said.splitlines()), 2, said)
        for part in parts:
            self.assertIn(part, said)

    def test_what_is_no_database_of_this_program(self) -> None:
        self.path.write_bytes(b"not a database at all" * 50)
        self.refused("no SQLite database", "jaunty-lever rescue")
        self.path.write_bytes(bytes(40_000))
        self.refused("no SQLite database")
        self.path.unlink()
        with sqlite3.connect(self.path) as other:
            other.execute("CREATE TABLE receipts (id)")
        other.close()
        self.refused("another program")
        self.path.unlink()
        self.path.mkdir()
        self.refused("is a folder")
        (self.folder / "file").write_text("x")
        self.refused("is a file", path=self.folder / "file" / "jaunty-lever.db")

    def test_damage_in_the_middle(self) -> None:
        self.filled()
        whole = self.path.read_bytes()
        self.path.write_bytes(whole[: len(whole) // 2])
        self.refused("cannot be read", "rescue")
        self.path.write_bytes(whole[:4096] + os.urandom(len(whole) - 4096))
        self.refused("rescue")

    def test_a_newer_form_names_both_versions(self) -> None:
        self.filled()
        with sqlite3.connect(self.path) as connection:
            connection.execute("UPDATE alembic_version SET version_num = '0999'")
        connection.close()
        self.refused("newer Jaunty Lever", "0999", opening.known_versions()[-1])

    def test_what_may_not_be_written(self) -> None:
        self.filled()
        self.path.chmod(0o444)
        self.refused("may not be written")

    def test_the_command_says_it_in_a_line_or_two(self) -> None:
        self.path.write_bytes(b"garbage" * 100)
        done = self.served()
        self.assertEqual((done.returncode, done.stdout), (1, ""))
        self.assertLessEqual(len(done.stderr.strip().splitlines()), 2)
        again = subprocess.run(
            [sys.executable, "-m", "jaunty_lever", "rescue", str(self.folder)],
            capture_output=True,
            text=True,
            timeout=120,
        )
        self.assertIn("0 saved", again.stdout)
        self.store().create(project())

    def test_rescue_saves_what_can_be_read_and_sets_the_rest_aside(self) -> None:
        self.filled()
        store = self.store()
        store.create(demo_project())
        store.create(project(wiggling()).changed(id="broken", name="Broken"))
        store.close()
        with sqlite3.connect(self.path) as connection:
            # The newest revision of one is garbage, all of another.
            connection.execute("UPDATE revisions SET body = X'00' WHERE project = 'p' AND number = 6")
            connection.execute("UPDATE revisions SET body = X'0102' WHERE project = 'broken'")
        connection.close()
        found = rescue(self.path, self.folder / "rescued")
        self.assertEqual(len(found.files), 2)
        (older, gone) = found.lost
        self.assertTrue(older.startswith("Project: ") and "as it was before, at “Layer 0: rotation 4°”" in older, older)
        self.assertTrue(gone.startswith("Broken: "), gone)
        saved = {one.name: one for one in (project_file.read(file.read_bytes()) for file in found.files)}
        self.assertEqual(saved["Project"].scenes[0].layers[0].rotation.rest, 4)
        self.assertEqual(plain(saved["Lantern Quay"]), plain(demo_project()))
        assert found.aside
        self.assertTrue(found.aside.exists() and not self.path.exists())
        self.assertEqual(self.store().entries(), [])


class Damaged(Folder):
    def test_one_damaged_project_stops_no_other(self) -> None:
        store = self.store()
        store.create(demo_project())
        store.create(project(wiggling()))
        store.edit("p", turned(3))
        store.close()
        with sqlite3.connect(self.path) as connection:
            connection.execute(
                "UPDATE revisions SET body = ? WHERE project = 'p' AND number = 2", (zlib.compress(b'{"id": 7}'),)
            )
        connection.close()
        store = self.store()
        with self.assertRaises(Unreadable):
            store.state("p")
        client = TestClient(create_app(store, self.folder / "exports", frozenset({"testserver"})))
        shelf = client.get("/").text
        self.assertIn("This project cannot be read", shelf)
        self.assertIn("Lantern Quay", shelf)
        self.assertEqual(client.get("/api/projects/p/raw").content, b'{"id": 7}')
        self.assertEqual(client.get("/projects/p/scenes/s/bench", headers={"accept": "text/html"}).status_code, 422)
        self.assertNotIn("cannot be read", client.post("/projects/p/undo").text)
        self.assertEqual(rotation(store), 0)

    def test_bodies_of_the_first_form_are_read_with_their_formulas(self) -> None:
        own = {"rest": 80, "chain": [{"kind": "formula", "id": "m", "text": "base - 10"}]}
        old = orjson.dumps(plain(project(scene({"opacity": own}))))
        self.filled()
        with sqlite3.connect(self.path) as connection:
            connection.execute("UPDATE revisions SET body = ? WHERE project = 'p'", (zlib.compress(old),))
        connection.close()
        (chain,) = self.store().state("p").project.scenes[0].layers[0].opacity.chain
        self.assertEqual(chain.text, "(base / 1%) - 10")


class Shared(Folder):
    def test_a_second_process_is_refused_and_told_who_has_the_folder(self) -> None:
        server = Server(self.folder)
        self.addCleanup(lambda: server.stop())
        done = self.served()
        self.assertEqual(done.returncode, 1)
        self.assertIn(f"process {server.process.pid}", done.stderr)
        self.assertIn(server.address, done.stderr)
        server.stop(signal.SIGKILL)
        # The lock dies with its holder.
        self.store()

    def test_a_signal_leaves_everything_in_the_one_file(self) -> None:
        for how in (signal.SIGTERM, signal.SIGINT):
            server = Server(self.folder)
            self.addCleanup(lambda server=server: server.stop())
            body = (
                b'{"edits": [{"kind": "set value", "scene": "evening-quay", "parameter": "sky.rotation", "value": 41}]}'
            )
            request = urllib.request.Request(
                f"{server.address}/api/projects/lantern-quay/edits", body, {"content-type": "application/json"}
            )
            urllib.request.urlopen(request, timeout=60).read()
            server.stop(how)
            copy = self.folder / "copy" / "jaunty-lever.db"
            copy.parent.mkdir(exist_ok=True)
            shutil.copy(self.path, copy)
            kept = self.store(copy)
            self.assertEqual(kept.state("lantern-quay").project.scenes[0].layers[0].rotation.rest, 41)
            kept.close()

    def test_what_was_written_for_a_while_is_cleared_away_and_lies_in_the_folder(self) -> None:
        left = self.folder / "working" / "clip-left"
        left.mkdir(parents=True)
        server = Server(self.folder)
        self.addCleanup(server.stop)
        self.assertEqual(list((self.folder / "working").iterdir()), [])

    def test_a_process_leaves_when_whoever_began_it_was_killed(self) -> None:
        child = (
            "import os, sys, time; from jaunty_lever.processes.with_parent import leave_with; "
            "leave_with(int(sys.argv[1])); time.sleep(600)"
        )
        code = (
            f"import subprocess, sys, os; print(subprocess.Popen([sys.executable, '-c', {child!r}, "
            "str(os.getpid())]).pid, flush=True); input()"
        )
        parent = subprocess.Popen(
            [sys.executable, "-c", code], stdin=subprocess.PIPE, stdout=subprocess.PIPE, text=True
        )
        assert parent.stdout and parent.stdin
        pid = int(parent.stdout.readline())
        self.assertTrue(Path(f"/proc/{pid}").exists())
        parent.kill()
        parent.communicate()
        deadline = time.monotonic() + 60
        while Path(f"/proc/{pid}").exists() and "\nState:\tZ" not in Path(f"/proc/{pid}/status").read_text():
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.05)

    def test_what_is_open_when_it_is_stopped_is_answered_in_words(self) -> None:
        server = Server(self.folder)
        self.addCleanup(server.stop)
        edit = {"kind": "take apart", "scene": "gull-flock", "array": "gulls", "way": "baked", "tolerance": 0}
        address = f"{server.address}/api/projects/lantern-quay/edits"
        headers = {"content-type": "application/json", "origin": server.address}
        asked = urllib.request.Request(address, orjson.dumps({"edits": [edit]}), headers)
        said: list[tuple[int, Any]] = []

        def ask() -> None:
            try:
                with urllib.request.urlopen(asked, timeout=60) as answer:
                    said.append((answer.status, orjson.loads(answer.read())))
            except urllib.error.HTTPError as error:
                said.append((error.code, orjson.loads(error.read())))

        asking = threading.Thread(target=ask)
        asking.start()
        # It is being worked on when a process has been begun for it.
        own = ["pgrep", "-P", str(server.process.pid), "-f", "jaunty_lever.web.aside"]
        deadline = time.monotonic() + 60
        while not subprocess.run(own, capture_output=True, check=False).stdout:
            self.assertLess(time.monotonic(), deadline)
            time.sleep(0.02)
        server.stop()
        asking.join(60)
        ((code, told),) = said
        self.assertEqual(code, 503)
        self.assertIn("stopped before this was done", told["message"])

    def test_a_database_that_goes_away_is_never_written_beside(self) -> None:
        store = self.store()
        store.create(project(wiggling()))
        store.edit("p", turned(7))
        whole = self.folder / "whole.db"
        for change in (
            lambda: shutil.move(self.path, whole),
            lambda: shutil.copy(whole, self.path),
            lambda: self.path.chmod(0o444),
        ):
            change()
            with self.assertRaises(Lost):
                store.edit("p", turned(8))
            self.assertEqual((rotation(store), store.state("p").revision), (7, 2))

    def test_another_program_that_holds_the_database_is_waited_for_and_named(self) -> None:
        store = self.store()
        store.create(project(wiggling()))
        store.create(demo_project())
        other = sqlite3.connect(self.path, isolation_level=None)
        self.addCleanup(other.close)
        other.execute("BEGIN IMMEDIATE")
        said: list[Exception] = []

        def write() -> None:
            try:
                store.edit("p", turned(8))
            except Busy as busy:
                said.append(busy)

        waiting = threading.Thread(target=write)
        began = time.monotonic()
        waiting.start()
        # Reading does not wait meanwhile, neither what is held in memory nor what is not.
        store._forget("lantern-quay")
        self.assertEqual((rotation(store), store.state("lantern-quay").revision), (0, 1))
        self.assertTrue(waiting.is_alive())
        waiting.join()
        self.assertLess(time.monotonic() - began, opening.LONGEST_WAIT + 5)
        self.assertIn("another program holds the database", str(said[0]))
        other.execute("ROLLBACK")
        store.edit("p", turned(9))
        self.assertEqual(rotation(store), 9)

    def test_long_work_holds_up_neither_reading_nor_other_changes(self) -> None:
        store = self.store()
        store.create(project(wiggling()))
        began, go = threading.Event(), threading.Event()
        slow = turned(50)

        class Slow(type(slow)):  # type: ignore[misc]
            def made_of(self, now: Any) -> Any:
                began.set()
                go.wait(60)
                return super().made_of(now)

        working = threading.Thread(target=store.edit, args=("p", Slow(**dict(slow))))
        working.start()
        began.wait(60)
        store.edit(
            "p", EDIT.validate_python({"kind": "set value", "scene": "s", "parameter": "layer0.opacity", "value": 5})
        )
        self.assertEqual(store.state("p").revision, 2)
        go.set()
        working.join()
        layer = store.state("p").project.scenes[0].layers[0]
        self.assertEqual((layer.rotation.rest, layer.opacity.rest, store.state("p").revision), (50, 5, 3))


class Pictures(Folder):
    def test_cells_of_tables_are_stored_once_for_all_revisions_and_come_back_with_undo(self) -> None:
        store = self.store()
        store.create(project())
        rows = "".join(f"Name {k},{k}\r\n" for k in range(5000))
        columns = [{"id": "a", "name": "A"}, {"id": "b", "name": "B", "kind": "number"}]
        store.edit(
            "p", EDIT.validate_python({"kind": "add table", "id": "t", "name": "T", "columns": columns, "data": rows})
        )
        for k in range(6):
            store.edit("p", EDIT.validate_python({"kind": "rename project", "name": f"P{k}"}))

        def kept() -> tuple[int, int]:
            with sqlite3.connect(store.path) as connection:
                count: int = connection.execute("SELECT count(*) FROM pictures").fetchone()[0]
                longest: int = connection.execute("SELECT max(length(body)) FROM revisions").fetchone()[0]
                return count, longest

        self.assertEqual(kept()[0], 1)
        self.assertLess(kept()[1], 2000)
        cell = {"kind": "set cells", "table": "t", "row": 1, "column": "b", "cells": [["77"]]}
        store.edit("p", EDIT.validate_python(cell))
        self.assertEqual(kept()[0], 2)
        store.close()
        again = Store(store.path)
        self.addCleanup(again.close)
        self.assertEqual(again.state("p").project.tables[0].rows[1], ["Name 1", "77"])
        again.undo("p")
        self.assertEqual(again.state("p").project.tables[0].data, rows)
        with sqlite3.connect(store.path) as connection:
            connection.execute("DELETE FROM pictures")
        again.close()
        last = Store(store.path)
        self.addCleanup(last.close)
        with self.assertRaises(Unreadable):
            last.state("p")

    def test_pictures_leave_with_the_last_revision_that_shows_them(self) -> None:
        from tests.core.test_gate import PICTURE

        for name, value in (("KEPT_REVISIONS", 5), ("CLEANED_EVERY", 10)):
            self.addCleanup(setattr, module, name, getattr(module, name))
            setattr(module, name, value)
        store = self.store()
        store.create(project(wiggling()))
        store.edit("p", EDIT.validate_python({"kind": "add picture", "scene": "s", "picture": PICTURE, "id": "photo"}))
        store.edit("p", EDIT.validate_python({"kind": "remove layers", "scene": "s", "layers": ["photo"]}))

        def pictures() -> int:
            with sqlite3.connect(self.path) as connection:
                count: int = connection.execute("SELECT count(*) FROM pictures").fetchone()[0]
            connection.close()
            return count

        self.assertEqual(pictures(), 1)
        store.undo("p")
        self.assertEqual(len(store.state("p").project.pictures), 1)
        store.redo("p")
        for value in range(25):
            store.edit("p", turned(value))
        self.assertEqual(pictures(), 0)
