"""The first moments: the Shelf is there before the rest is loaded, looks as it does later, and all else waits for its
turn."""

import asyncio
import tempfile
import threading
import unittest
from collections.abc import Callable
from pathlib import Path
from typing import Any

import httpx2 as httpx

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.demo import demo_project
from jaunty_lever.storage.folder import Folder
from jaunty_lever.storage.store import NotKept, Store
from jaunty_lever.web.app import create_app
from jaunty_lever.web.front import Front
from tests.loops import awaited

PERSON = {"accept": "text/html"}


class FirstMoments(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.place = Path(folder.name)
        store = Store(self.place / "work.db")
        store.create(demo_project())
        # Nothing of its scene is told in so many words.
        store.create(Project(id="plain", name="Plain & small", scenes=(Scene(id="s", name="One"),)))
        store.close()

    async def _meanwhile(self, load: Callable[[Folder], Any], asked: Callable[[httpx.AsyncClient, Front], Any]) -> Any:
        """What comes of asking a front while it lives, which loads by `load`."""
        folder = Folder(self.place / "work.db")
        front = Front(folder, lambda: load(folder), frozenset({"testserver"}), "")
        said: asyncio.Queue[dict[str, Any]] = asyncio.Queue()
        heard: asyncio.Queue[dict[str, Any]] = asyncio.Queue()
        living = asyncio.ensure_future(front({"type": "lifespan"}, said.get, heard.put))
        await said.put({"type": "lifespan.startup"})
        await heard.get()
        transport = httpx.ASGITransport(app=front)
        async with httpx.AsyncClient(transport=transport, base_url="http://testserver") as client:
            found = await asked(client, front)
        await said.put({"type": "lifespan.shutdown"})
        await living
        return found

    def test_the_shelf_is_there_at_once_and_looks_as_it_does_later(self) -> None:
        loaded = threading.Event()

        def load(folder: Folder) -> Any:
            self.assertTrue(loaded.wait(60))
            return create_app(Store(folder), self.place / "exports", frozenset({"testserver"}))

        async def asked(client: httpx.AsyncClient, front: Front) -> tuple[str, str, int, int]:
            first = await client.get("/", headers=PERSON)
            style = first.text.partition('rel="stylesheet" href="')[2].partition('"')[0]
            sheet = await client.get(style)
            bench = asyncio.ensure_future(client.get("/projects/plain/scenes/s/bench", headers=PERSON))
            left = asyncio.ensure_future(client.get("/projects/plain/scenes/s/curves", headers=PERSON))
            await asyncio.sleep(0)
            left.cancel()
            self.assertFalse(bench.done())
            loaded.set()
            there = await bench
            return first.text, (await client.get("/", headers=PERSON)).text, sheet.status_code, there.status_code

        first, later, sheet, bench = awaited(self._meanwhile(load, asked))
        self.assertIn("Plain &amp; small", first)
        self.assertIn("Evening quay", first)
        self.assertEqual(first, later)
        self.assertEqual((sheet, bench), (200, 200))

    def test_what_is_not_plain_waits_for_who_can_tell_it(self) -> None:
        store = Store(self.place / "work.db")
        with store.writing() as session:
            session.connection().exec_driver_sql("UPDATE revisions SET body = x'00' WHERE project = 'plain'")
        store.close()

        def load(folder: Folder) -> Any:
            return create_app(Store(folder), self.place / "exports", frozenset({"testserver"}))

        async def asked(client: httpx.AsyncClient, front: Front) -> str:
            return (await client.get("/", headers=PERSON)).text

        self.assertIn("This project cannot be read", awaited(self._meanwhile(load, asked)))

    def test_what_cannot_be_loaded_is_told_and_the_folder_is_free(self) -> None:
        def load(folder: Folder) -> Any:
            raise NotKept("The disk is full.")

        async def asked(client: httpx.AsyncClient, front: Front) -> BaseException | None:
            gone = asyncio.Event()
            front.give_up = gone.set
            if front.failed is None:
                await gone.wait()
            return front.failed

        self.assertEqual(str(awaited(self._meanwhile(load, asked))), "The disk is full.")
        Folder(self.place / "work.db").close()


if __name__ == "__main__":
    unittest.main()
