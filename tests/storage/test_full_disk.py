"""A full disk: what is said of it, that nothing is lost, and that it is never called damage."""

import contextlib
import subprocess
from pathlib import Path

from starlette.testclient import TestClient

from jaunty_lever.demo import demo_project
from jaunty_lever.storage.opening import CannotOpen
from jaunty_lever.storage.store import NoRoom, Store
from jaunty_lever.web.app import create_app
from tests.core.scenes import project, wiggling
from tests.storage.test_opening import Folder, rotation


class Full(Folder):
    """A disk that is really full: a small file system in memory, or a limit on the size of files."""

    def setUp(self) -> None:
        super().setUp()
        self.disk = self.folder / "disk"
        self.disk.mkdir()
        if subprocess.run(
            ["mount", "-t", "tmpfs", "-o", "size=1200k", "tmpfs", self.disk], capture_output=True
        ).returncode:
            self.skipTest("no file system can be mounted here")
        self.addCleanup(subprocess.run, ["umount", "-l", self.disk], check=True)

    def fill(self) -> Path:
        ballast = self.disk / "ballast"
        with ballast.open("wb", buffering=0) as file:
            try:
                while True:
                    file.write(bytes(4096))
            except OSError:
                pass
        return ballast

    def test_what_did_not_fit_is_refused_and_does_not_come_back(self) -> None:
        store = self.store(self.disk / "jaunty-lever.db")
        store.create(project(wiggling()))
        client = TestClient(
            create_app(store, self.disk / "exports", frozenset({"testserver"})), raise_server_exceptions=False
        )
        before = store.state("p")
        ballast = self.fill()
        refused = 0
        for value in range(1, 40):
            edit = {"kind": "set value", "scene": "s", "parameter": "layer0.rotation", "value": value}
            answer = client.post("/api/projects/p/edits", json={"edits": [edit]})
            if answer.status_code != 200:
                self.assertEqual(answer.status_code, 507)
                self.assertIn("the disk is full", answer.json()["message"])
                refused = refused or value
                # What is served is what is on the disk.
                self.assertEqual(rotation(store), refused - 1)
        self.assertGreater(refused, 0)
        self.assertEqual(
            store.state("p").project.scenes[0].layers[0].opacity.rest, before.project.scenes[0].layers[0].opacity.rest
        )
        ballast.unlink()
        opacity = {"kind": "set value", "scene": "s", "parameter": "layer0.opacity", "value": 12}
        self.assertEqual(client.post("/api/projects/p/edits", json={"edits": [opacity]}).status_code, 200)
        self.assertEqual(rotation(store), refused - 1)
        store.close()
        again = self.store(self.disk / "jaunty-lever.db")
        self.assertEqual(
            (rotation(again), again.state("p").project.scenes[0].layers[0].opacity.rest), (refused - 1, 12)
        )

    def test_projects_are_taken_in_until_there_is_no_room(self) -> None:
        store = self.store(self.disk / "jaunty-lever.db")
        kept = 0
        with self.assertRaises(NoRoom):
            for kept in range(2000):
                store.create(demo_project().changed(id=f"copy-{kept}"))
        self.assertEqual(len(store.entries()), kept)

    def test_no_room_at_the_start_is_said(self) -> None:
        self.fill()
        with self.assertRaises(CannotOpen) as wrong:
            Store(self.disk / "jaunty-lever.db")
        self.assertLessEqual(len(str(wrong.exception).splitlines()), 2)

    def test_a_full_disk_is_never_called_damage(self) -> None:
        path = self.disk / "jaunty-lever.db"
        store = self.store(path)
        store.create(project(wiggling()))
        store.close()
        ballast = self.fill()
        # Neither its log nor the index of that can be made: SQLite speaks of input and output.
        with self.assertRaises(CannotOpen) as wrong:
            Store(path)
        self.assertIn("no room on the disk", str(wrong.exception))
        self.assertNotIn("rescue", str(wrong.exception))
        ballast.unlink()
        self.assertEqual(rotation(self.store(path)), 0)

    def test_an_export_that_finds_no_room_for_its_folder_is_refused_in_words(self) -> None:
        store = self.store(self.disk / "jaunty-lever.db")
        store.create(project(wiggling()))
        folder = self.disk / "exports"
        client = TestClient(create_app(store, folder, frozenset({"testserver"})), raise_server_exceptions=False)
        self.fill()
        # What is taken up already holds what little a folder needs.
        number = 0
        with contextlib.suppress(OSError):
            for number in range(20_000):
                (self.disk / f"taken-{number}").mkdir()
        self.assertFalse(folder.exists())
        answer = client.post("/projects/p/scenes/s/export/png-frames", data={"start": 0, "stop": 2})
        self.assertEqual(answer.status_code, 507, answer.text)
        self.assertIn("the disk is full", answer.text)

    def test_an_export_that_does_not_fit_says_so_and_is_made_when_there_is_room(self) -> None:
        store = self.store(self.disk / "jaunty-lever.db")
        store.create(project(wiggling()))
        client = TestClient(create_app(store, self.disk / "exports", frozenset({"testserver"})))
        with client:
            # What is noted of it finds room, and its file does not.
            ballast = self.fill()
            with ballast.open("rb+") as file:
                file.truncate(ballast.stat().st_size - 150_000)
            for fits in (False, True):
                card = client.post("/projects/p/scenes/s/export/png-frames", data={"start": 0, "stop": 99})
                self.assertEqual(card.status_code, 200, card.text)
                (job,) = client.get("/api/projects/p/exports").json()[:1]
                while not job["finished"]:
                    job = client.get(f"/api/exports/{job['id']}").json()
                self.assertEqual(job["problem"] == "", fits, job)
                if not fits:
                    self.assertIn("No space left on device. Make room", job["problem"])
                    self.assertEqual([path.name for path in (self.disk / "exports").iterdir()], [])
                    ballast.unlink()
