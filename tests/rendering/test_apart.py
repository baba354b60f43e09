"""Files made in a process of their own: what breaks down, is killed, stopped or finds no room, and what becomes of
it."""

import os
import signal
import tempfile
import threading
import time
import unittest
from pathlib import Path
from typing import Any
from unittest.mock import patch

from jaunty_lever import processes
from jaunty_lever.core.edits import Refused
from jaunty_lever.exporters import EXPORTERS, Source, read_options
from jaunty_lever.rendering import Apart, Broken, Here, Pool, Stopped
from jaunty_lever.rendering.batch import BATCH, make
from jaunty_lever.rendering.files import write_file
from tests.exporters.taken_out import quay

TINY = {"codec": "H.265", "stop": 2}
"""What an encoder breaks down at, of pictures that are so small (`breaking`)."""


class Beside(unittest.TestCase):
    apart: Apart

    @classmethod
    def setUpClass(cls) -> None:
        breaking = patch(
            "jaunty_lever.rendering.apart.Beside", lambda module: processes.Beside("tests.rendering.breaking")
        )
        breaking.start()
        cls.addClassCleanup(breaking.stop)
        cls.apart = Apart(Here())
        cls.addClassCleanup(cls.apart.close)

    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)

    def source(self, **changes: Any) -> Source:
        state = quay(**changes)
        return Source(state, state.scenes[0])

    def made(self, format: str, source: Source, given: dict[str, Any], **more: Any) -> bytes:
        exporter = EXPORTERS[format]
        options = read_options(exporter, given)
        target = self.folder / "made"
        self.apart.make(exporter, source, options, 9, target, self.folder / "pieces", **more)
        return target.read_bytes()

    def test_it_is_the_same_file_and_tells_how_far_it_is(self) -> None:
        source, heard = self.source(length=70), list[tuple[int, bytes]]()
        here = self.folder / "here"
        with here.open("wb") as target:
            exporter = EXPORTERS["mp4"]
            make(exporter, source, read_options(exporter, {"size": 0.5}), target, self.folder / "others", Here())
        made = self.made("mp4", source, {"size": 0.5}, done=lambda *told: heard.append(told))
        self.assertEqual(made, here.read_bytes())
        self.assertEqual([count for count, _ in heard], [0, 30, 60, 70])
        self.assertTrue(heard[1][1].startswith(b"\x89PNG"))

    def test_an_encoder_that_breaks_down_is_told_in_a_sentence_and_the_next_file_is_made(self) -> None:
        heard: list[int] = []
        with self.assertRaises(Broken) as told:
            self.made("mp4", self.source(width=34, height=18), TINY, lose=heard.append)
        self.assertIn("The encoder of H.265 gave up at 34 × 18 pixels", str(told.exception))
        self.assertEqual(heard, [1, 2])
        self.assertTrue(self.made("gif", self.source(), {"stop": 2, "size": 0.2}).startswith(b"GIF8"))

    def test_what_has_ended_a_process_before_does_so_once_more_and_not_a_third_time(self) -> None:
        small, heard = self.source(width=34, height=18), list[int]()
        with self.assertRaises(Broken):
            self.made("mp4", small, TINY, lost=1, lose=heard.append)
        self.assertEqual(heard, [2])
        with patch.object(self.apart, "_asked") as asked, self.assertRaises(Broken):
            self.made("mp4", small, TINY, lost=2)
        asked.assert_not_called()

    def test_a_file_on_the_disk_is_whole_or_not_there(self) -> None:
        exporter, small = EXPORTERS["mp4"], self.source(width=34, height=18)
        with patch("jaunty_lever.exporters.mp4.Mp4.least", return_value=("H.265", 2)), self.assertRaises(Broken):
            write_file(exporter, small, read_options(exporter, TINY), self.folder / "film.mp4", Here())
        self.assertEqual(list(self.folder.iterdir()), [])

    def test_killed_in_the_middle_it_goes_on_with_the_same_pieces(self) -> None:
        source, lost, counts = self.source(length=150), list[int](), list[int]()

        def done(count: int, sight: bytes) -> None:
            counts.append(count)
            if count == 60 and not lost:
                process = self.apart.beside.process
                assert process is not None
                os.kill(process.pid, signal.SIGKILL)

        killed = self.made("mp4", source, {"size": 0.5}, done=done, lose=lost.append)
        self.assertEqual(lost, [1])
        again = counts.index(60) + 1
        self.assertGreaterEqual(counts[again], 60, "what had been drawn is not drawn again")
        (self.folder / "pieces").rename(self.folder / "before")
        self.assertEqual(killed, self.made("mp4", source, {"size": 0.5}))

    def test_stopped_it_ends_soon_whatever_it_is_at(self) -> None:
        begun = threading.Event()
        with self.assertRaises(Stopped):
            self.made("mp4", self.source(), {}, done=lambda count, sight: begun.set(), stop=begun.is_set)
        # One that hears nothing is left.
        hangs = threading.Event()

        def stopped() -> bool:
            process = self.apart.beside.process
            if begun.is_set() and process is not None and not hangs.is_set():
                os.kill(process.pid, signal.SIGSTOP)
                hangs.set()
            return hangs.is_set()

        begun.clear()
        at = time.monotonic()
        with patch("jaunty_lever.rendering.apart._PATIENCE", 3), self.assertRaises(Stopped):
            self.made("mp4", self.source(), {}, done=lambda count, sight: begun.set(), stop=stopped)
        self.assertLess(time.monotonic() - at, 60)
        self.assertTrue(self.made("gif", self.source(), {"stop": 1, "size": 0.2}).startswith(b"GIF8"))

    def test_what_it_raises_is_raised_here(self) -> None:
        with self.assertRaises(OSError) as none:
            self.apart.make(
                EXPORTERS["gif"],
                self.source(),
                read_options(EXPORTERS["gif"], {}),
                9,
                self.folder / "no" / "x",
                self.folder / "p",
            )
        self.assertEqual(none.exception.errno, 2)
        options = BATCH.options.model_validate({"table": "gone", "format": "gif"})
        with self.assertRaises(Refused) as refused:
            self.apart.make(BATCH, self.source(), options, 9, self.folder / "x", self.folder / "p")
        self.assertEqual(refused.exception.at, "table")

    def test_those_who_draw_the_pieces_go_with_it(self) -> None:
        apart, workers = Apart(Pool(2)), list[int]()
        self.addCleanup(apart.close)

        def done(count: int, sight: bytes) -> None:
            process = apart.beside.process
            assert process is not None
            if count:
                workers.extend(children(process.pid))

        exporter = EXPORTERS["mp4"]
        options = read_options(exporter, {"size": 0.2})
        apart.make(exporter, self.source(length=90), options, 90, self.folder / "x", self.folder / "p", done)
        self.assertGreaterEqual(len(set(workers)), 2)
        apart.close()
        until = time.monotonic() + 20
        while any(Path(f"/proc/{worker}").exists() for worker in workers) and time.monotonic() < until:
            time.sleep(0.02)
        self.assertFalse([worker for worker in workers if Path(f"/proc/{worker}").exists()])


def children(process: int) -> list[int]:
    """The processes that a process has begun."""
    return [int(one) for one in Path(f"/proc/{process}/task/{process}/children").read_text().split()]
