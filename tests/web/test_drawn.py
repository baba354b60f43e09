"""Small pictures: drawn beside the server, once for what looks the same, and a plain sign where nothing can be
drawn."""

import asyncio
import io
import os
import signal
import tempfile
import threading
from pathlib import Path
from unittest.mock import patch

from PIL import Image

from jaunty_lever.core.document.refused import Refused
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.drawing.strip import sign
from jaunty_lever.web.drawn import Drawn, NotDrawn
from jaunty_lever.web.kept_files import KeptFiles
from tests.loops import awaited
from tests.web.test_server import WebTest

PENNANTS = "/projects/lantern-quay/scenes/pennant-line/strip.png"


class Strips(WebTest):
    def drawn(self) -> int:
        """How many pictures were drawn so far, by what is kept of them."""
        return len([*self.site.drawn._kept.folder.glob("*/*.png")])

    def test_a_strip_is_drawn_again_only_when_its_own_scene_has_changed(self) -> None:
        first = self.client.get(PENNANTS)
        picture = Image.open(io.BytesIO(first.content))
        self.assertEqual(picture.size, (24 * 400, 225))
        # Something is seen, and it moves.
        stills = [picture.crop((400 * k, 0, 400 * (k + 1), 225)).convert("RGB") for k in (0, 12)]
        self.assertGreater(len(stills[0].getcolors(100_000) or ()), 20)
        self.assertNotEqual(*(still.tobytes() for still in stills))
        self.edit(kind="set value", parameter="wind.value", value=3)
        self.assertEqual(self.client.get(PENNANTS).content, first.content)
        self.assertEqual(self.drawn(), 1)
        self.edit(scene="pennant-line", kind="set value", parameter="pennant-line.background", text="#102030")
        self.assertNotEqual(self.client.get(PENNANTS).content, first.content)
        self.assertEqual(self.drawn(), 2)

    def test_what_draws_may_be_lost_and_is_begun_anew(self) -> None:
        first = self.client.get(PENNANTS).content
        process = self.site.drawn.beside.process
        self.site.drawn._kept.bound(0)
        process.send_signal(signal.SIGKILL)
        process.wait()
        self.assertEqual(self.client.get(PENNANTS).content, first)

    def test_a_scene_that_takes_too_long_shows_a_sign_and_can_be_drawn_another_time(self) -> None:
        state = self.store.state("lantern-quay")
        whole = state.project.scene("name-plate")
        assert whole is not None
        long = Scene(id="long", name="Long", width=800, height=200, layers=whole.layers[:1])
        self.store.create(state.project.changed(id="other", scenes=(long,)))
        answers = {}

        def ask(path: str) -> None:
            answers[path] = self.client.get(path)

        with patch("jaunty_lever.web.drawn._LONGEST", 0.0):
            slow = "/projects/other/scenes/long/strip.png"
            ask(slow)
        self.assertEqual((answers[slow].content, answers[slow].headers["cache-control"]), (sign(400, 100), "no-store"))
        threads = [threading.Thread(target=ask, args=(path,)) for path in (slow, PENNANTS)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join(60)
        self.assertEqual(
            {path: Image.open(io.BytesIO(one.content)).width for path, one in answers.items()},
            {slow: 9600, PENNANTS: 9600},
        )


class Asked(WebTest):
    def test_what_is_refused_is_refused_in_words_and_nothing_waits_for_ever(self) -> None:
        drawn = Drawn(Path(tempfile.mkdtemp()))
        self.addCleanup(drawn.close)
        place = str(self.store.path), "lantern-quay", self.store.state("lantern-quay").revision
        with self.assertRaisesRegex(Refused, "Choose a table"):
            awaited(drawn.picture("1", "row", place, "name-plate", "nothing", 0, 0, 90))
        with self.assertRaises(NotDrawn), self.assertLogs("jaunty_lever", "ERROR"):
            awaited(drawn.picture("2", "scene", ("/nowhere.db", "x", 1), "x"))
        drawn.close()
        with self.assertRaises(NotDrawn):
            awaited(drawn.picture("3", "help", "texture"))

    def test_who_goes_away_takes_nothing_along(self) -> None:
        drawn = Drawn(Path(tempfile.mkdtemp()))
        self.addCleanup(drawn.close)

        async def asked() -> tuple[bytes, bytes]:
            first = asyncio.ensure_future(drawn.picture("1", "help", "texture"))
            other = asyncio.ensure_future(drawn.picture("1", "help", "texture"))
            await asyncio.sleep(0.05)
            first.cancel()
            return await other, await drawn.picture("2", "help", "trace")

        for made in awaited(asked()):
            self.assertGreater(Image.open(io.BytesIO(made)).width, 300)


class Kept(WebTest):
    def test_what_was_used_last_stays(self) -> None:
        folder = Path(tempfile.mkdtemp())
        kept = KeptFiles(folder, "*/*.png", lambda: 300)
        for k in range(3):
            kept.keep(Path(f"a/{k}.png"), bytes(100))
        for k, then in enumerate((30, 10, 20)):
            os.utime(folder / f"a/{k}.png", (then, then))
        kept.keep(Path("a/3.png"), bytes(100))
        self.assertEqual([k for k in range(4) if kept.get(Path(f"a/{k}.png"))], [0, 3])
        self.assertEqual(KeptFiles(folder, "*/*.png", lambda: 300).taken(), 200)
