"""News of changes under load: many who listen, many who edit, and some who go away or never read."""

import asyncio
import http.client
import json
import shutil
import socket
import tempfile
import threading
import unittest
import urllib.request
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path
from typing import Any, ClassVar

from jaunty_lever.demo import demo_project
from jaunty_lever.formats import project_file
from jaunty_lever.web.site import Listeners
from tests.browser.harness import Server
from tests.loops import awaited

LISTENERS, EDITORS, EDITS = 40, 4, 25


class Ear:
    """Somebody who listens to a project, on a thread of their own, until a label has been heard."""

    def __init__(self, server: Server, project: str, until: str) -> None:
        self.heard: list[dict[str, Any]] = []
        self.ready, self.done = threading.Event(), threading.Event()
        self._connection = http.client.HTTPConnection("127.0.0.1", server.port, timeout=120)
        self._path, self._until = f"/api/projects/{project}/events", until
        threading.Thread(target=self._listen, daemon=True).start()

    def _listen(self) -> None:
        self._connection.request("GET", self._path)
        answer = self._connection.getresponse()
        while line := answer.readline():
            if line.startswith(b"data: "):
                self.heard.append(json.loads(line[6:]))
                self.ready.set()
                if self.heard[-1]["label"] == self._until:
                    break
        self._connection.close()
        self.done.set()


class Load(unittest.TestCase):
    server: ClassVar[Server]

    @classmethod
    def setUpClass(cls) -> None:
        folder = tempfile.mkdtemp()
        cls.addClassCleanup(shutil.rmtree, folder, True)
        cls.server = Server(Path(folder))
        cls.addClassCleanup(lambda: cls.server.stop())
        content = project_file.write(demo_project().changed(id="other", name="Other")).encode()
        body = (
            b'--x\r\ncontent-disposition: form-data; name="file"; filename="o.json"\r\n\r\n'
            + content
            + b"\r\n--x--\r\n"
        )
        cls.send("/import", body, "multipart/form-data; boundary=x")

    @classmethod
    def send(cls, path: str, body: bytes, kind: str = "application/json") -> bytes:
        asked = urllib.request.Request(
            cls.server.address + path, body, {"content-type": kind, "origin": cls.server.address}
        )
        with urllib.request.urlopen(asked, timeout=60) as answer:
            return bytes(answer.read())

    def edit(self, project: str, value: float, label: str, by: str = "") -> int:
        edit = {"kind": "set value", "scene": "evening-quay", "parameter": "dusk.value", "value": value}
        told = self.send(
            f"/api/projects/{project}/edits", json.dumps({"edits": [edit], "label": label, "by": by}).encode()
        )
        return int(json.loads(told)["revision"])

    def test_everybody_hears_everything_of_their_project_in_order(self) -> None:
        ears = [
            Ear(self.server, project, "the last")
            for project in ("lantern-quay", "other")
            for _ in range(LISTENERS // 2)
        ]
        for ear in ears:
            self.assertTrue(ear.ready.wait(60))

        def work(number: int) -> list[int]:
            project = ("lantern-quay", "other")[number % 2]
            return [self.edit(project, 10 + k, f"{number} {k}", f"tab {number}") for k in range(EDITS)]

        with ThreadPoolExecutor(EDITORS) as pool:
            made = list(pool.map(work, range(EDITORS)))
        for project in ("lantern-quay", "other"):
            self.edit(project, 99, "the last")
        for place, ear in enumerate(ears):
            self.assertTrue(ear.done.wait(60))
            mine = place // (LISTENERS // 2)
            labels = {f"{number} {k}" for number in range(EDITORS) if number % 2 == mine for k in range(EDITS)}
            told = [news for news in ear.heard[1:] if news["label"] != "the last"]
            self.assertEqual({news["label"] for news in told}, labels)
            self.assertEqual(len(told), len(labels))
            revisions = sorted(news["revision"] for news in told)
            self.assertEqual(
                revisions, sorted(r for number in range(EDITORS) if number % 2 == mine for r in made[number])
            )

    def test_those_who_vanish_or_never_read_hold_nobody_up(self) -> None:
        for _ in range(30):
            with socket.create_connection(("127.0.0.1", self.server.port)) as gone:
                gone.sendall(b"GET /api/projects/lantern-quay/events HTTP/1.1\r\nhost: 127.0.0.1\r\n\r\n")
        silent = [socket.create_connection(("127.0.0.1", self.server.port)) for _ in range(10)]
        for one in silent:
            self.addCleanup(one.close)
            one.setsockopt(socket.SOL_SOCKET, socket.SO_RCVBUF, 1)
            one.sendall(
                f"GET /api/projects/lantern-quay/events HTTP/1.1\r\nhost: 127.0.0.1:{self.server.port}\r\n\r\n".encode()
            )
        ear = Ear(self.server, "lantern-quay", "heard by those who listen")
        self.assertTrue(ear.ready.wait(60))
        for k in range(30):
            self.edit("lantern-quay", k, "x" * 150)
        self.edit("lantern-quay", 50, "heard by those who listen")
        self.assertTrue(ear.done.wait(60))
        self.assertEqual(len(ear.heard), 32)


class Overfull(unittest.TestCase):
    def test_whoever_is_too_slow_hears_the_newest_and_the_end(self) -> None:
        async def listening() -> list[Any]:
            listeners = Listeners()
            queue = listeners.join(["p"])
            for number in range(1500):
                listeners.tell("p", {"revision": number})
            listeners.close()
            await asyncio.sleep(0)
            return [queue.get_nowait() for _ in range(queue.qsize())]

        heard = awaited(listening())
        self.assertEqual(heard[-2:], [{"revision": 1499, "project": "p"}, None])
