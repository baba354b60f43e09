"""Drawing in pieces: the same file whoever draws it, pieces that are lost and drawn again, and what is given up."""

import io
import os
import signal
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from typing import Any
from unittest.mock import patch

from jaunty_lever.exporters import EXPORTERS, Drawn, Source, read_options
from jaunty_lever.rendering import Here, Piece, Pool, Report, Runner, Stopped, TooOften, Work, render, work_of
from jaunty_lever.rendering.work import OtherVersion, make
from tests.exporters.taken_out import quay


def falling(work: Work, first: int, end: int) -> Piece:
    """Draws, unless it is to draw the frames from 60 on: then its process falls."""
    if first == 60:
        os._exit(3)
    return make(work, first, end)


def wrong(work: Work, first: int, end: int) -> Piece:
    """Cannot draw."""
    raise ValueError(f"no ink at {first}")


class Rendering(unittest.TestCase):
    def setUp(self) -> None:
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.source = Source(quay(length=150), None)
        self.source = Source(self.source.project, self.source.project.scenes[0] if self.source.project else None)
        exporter = EXPORTERS["mp4"]
        assert isinstance(exporter, Drawn)
        self.exporter, self.options = exporter, read_options(exporter, {})

    def rendered(self, runner: Runner, **more: Any) -> tuple[bytes, Report]:
        target = io.BytesIO()
        self.addCleanup(runner.close)
        report = render(self.exporter, self.source, self.options, target, self.folder, runner, **more)
        return target.getvalue(), report

    def clear(self) -> None:
        for piece in self.folder.iterdir():
            piece.unlink()

    def test_the_file_is_the_same_whoever_draws_it_and_whoever_falls(self) -> None:
        plain = io.BytesIO()
        self.exporter.write(self.source, self.options, plain, lambda count: None)
        here, report = self.rendered(Here())
        self.assertEqual((here, report.frames, report.pieces, report.again), (plain.getvalue(), 150, 5, 0))
        self.clear()
        pool, falls = Pool(2), []

        def fell(count: int, sight: bytes) -> None:
            if not falls and pool._pool is not None and count:
                falls.extend(list(pool._pool._processes))
                for process in falls:
                    os.kill(process, signal.SIGKILL)

        again, _ = self.rendered(pool, done=fell)
        self.assertEqual(len(falls), 2)
        self.assertEqual(again, here)

    def test_of_how_many_moments_of_blur_frames_are_made_is_told_also_of_pieces_taken_up(self) -> None:
        scene = self.source.scene
        assert scene is not None and self.source.project is not None
        blurs = scene.changed(length=60, motion_blur=True, least_samples=3, most_samples=3)
        self.source = Source(self.source.project.changed(scenes=(blurs,)), blurs)
        self.options = read_options(self.exporter, {"size": 0.1})
        self.assertEqual(self.rendered(Here())[1].plain()["moments"], 3)
        again = self.rendered(Here())[1]
        self.assertEqual((again.again, again.plain()["moments"]), (2, 3))

    def test_pieces_that_are_there_are_taken_up(self) -> None:
        seen: list[int] = []

        def enough() -> bool:
            return bool(seen) and seen[-1] >= 60

        with self.assertRaises(Stopped):
            self.rendered(Here(), done=lambda count, sight: seen.append(count), stop=enough)
        self.assertEqual(
            sorted(path.name for path in self.folder.iterdir()), ["000000-000030.piece", "000030-000060.piece"]
        )
        told: list[int] = []
        _, report = self.rendered(Here(), done=lambda count, sight: told.append(count))
        self.assertEqual((report.again, told), (2, [60, 90, 120, 150]))

    def test_what_falls_every_time_is_given_up_with_its_frames(self) -> None:
        with patch("jaunty_lever.rendering.runners.make", falling), self.assertRaises(TooOften) as caught:
            self.rendered(Pool(1))
        self.assertIn("Frames 60 to 89", str(caught.exception))
        # What was drawn before is kept for another try.
        self.assertIn("000000-000030.piece", [path.name for path in self.folder.iterdir()])

    def test_what_goes_wrong_in_a_process_is_told_as_it_is(self) -> None:
        with patch("jaunty_lever.rendering.runners.make", wrong), self.assertRaisesRegex(ValueError, "no ink at"):
            self.rendered(Pool(2))

    def test_another_version_is_refused_with_both_named(self) -> None:
        work = replace(work_of(self.exporter, self.source, self.options), version="0.0.9")
        with self.assertRaises(OtherVersion) as caught:
            make(work, 0, 1)
        for named in ("0.0.9", work_of(self.exporter, self.source, self.options).version):
            self.assertIn(named, str(caught.exception))
