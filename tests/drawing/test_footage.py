"""Frames of clips: each is what it is decoded alone, in any order, once however many show it, in as little room as is
set."""

import tempfile
import threading
import unittest
from fractions import Fraction
from pathlib import Path
from typing import Any
from unittest.mock import DEFAULT, patch

import numpy as np

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing import far_reel, footage
from jaunty_lever.drawing.far_reel import FarReel
from jaunty_lever.drawing.footage import Footage, footage_of
from jaunty_lever.drawing.frames import Look, array, pixels
from jaunty_lever.drawing.reel import Reel
from jaunty_lever.web import kept_frames
from jaunty_lever.web.kept_frames import KeptFrames
from tests.core.scenes import apply, project, scene
from tests.formats.made_clips import clip, number_in

KINDS: tuple[dict[str, Any], ...] = (
    {"rate": 24},
    {"container": "webm", "encoder": "libvpx-vp9", "rate": Fraction(30000, 1001)},
    {"rate": 50, "container": "mov", "encoder": "prores_ks", "form": "yuv422p10le", "frames": 20},
)


def reel_of(some: Footage) -> Any:
    """The reel of a clip, opened."""
    some.frame(0, 1.0)
    return some._reel


class Falls:
    """The line of a process that goes when it has been asked for something."""

    def __init__(self, beside: Any) -> None:
        self.line, self.process = beside.begin(), beside.process

    def __getattr__(self, name: str) -> Any:
        return getattr(self.line, name)

    def poll(self, seconds: float) -> bool:
        self.process.kill()
        return bool(self.line.poll(seconds))


class Apart(unittest.TestCase):
    """Decoders have a process of their own, which may go at any time."""

    def process(self, reel: Footage) -> Any:
        return reel_of(reel)._decoder.beside.process

    def test_decoded_elsewhere_it_is_what_it_is_here(self) -> None:
        for how in KINDS:
            one = clip(**how)
            with patch.object(footage, "_here", True):
                here = Footage(one)
                self.assertIsInstance(reel_of(here), Reel)
                expected = [array(here.frame(k, scale)) for k in (3, 0) for scale in (1.0, 0.4)]
            far = Footage(one)
            self.assertIsInstance(reel_of(far), FarReel)
            for (k, scale), alone in zip(((3, 1.0), (3, 0.4), (0, 1.0), (0, 0.4)), expected, strict=True):
                np.testing.assert_array_equal(array(far.frame(k, scale)), alone)

    def test_a_process_that_goes_between_two_frames_is_not_noticed(self) -> None:
        reel = Footage(clip())
        for k in (5, 6, 30):
            process = self.process(reel)
            process.kill()
            process.wait()
            self.assertEqual(number_in(array(reel.frame(k))), k)

    def test_a_clip_that_ends_two_processes_shows_nothing_and_the_others_are_read(self) -> None:
        bad, good = Footage(clip()), Footage(clip(rate=24))
        ended = []
        for k in (5, 6):
            beside = reel_of(bad)._decoder.beside
            with patch.object(beside, "begin", side_effect=[Falls(beside), *[DEFAULT] * 99], wraps=beside.begin):
                ended.append(bad.frame(k))
        self.assertEqual((number_in(array(ended[0])), ended[1]), (5, None))
        self.assertIsNone(bad.frame(7))
        self.assertEqual(number_in(array(good.frame(7))), 7)

    def test_more_clips_than_are_held_there_are_read_in_turn(self) -> None:
        one = clip(frames=6)
        reels = [Footage(one) for _ in range(2 * far_reel._MOST_HELD + 6)]
        for k in (0, 3, 5):
            self.assertEqual([number_in(array(reel.frame(k))) for reel in reels], [k] * len(reels))


class Orders(unittest.TestCase):
    def test_a_frame_is_what_it_is_decoded_by_itself_in_whatever_order(self) -> None:
        for how in KINDS:
            one = clip(**how)
            many = one.timing.frames
            alone = [array(Footage(one).frame(k)) for k in range(many)]
            self.assertEqual([number_in(shown) for shown in alone], list(range(many)))
            orders = (range(many), range(many - 1, -1, -1), np.random.default_rng(3).permutation(many))
            for order in orders:
                reel = Footage(one)
                for k in order:
                    np.testing.assert_array_equal(array(reel.frame(int(k))), alone[int(k)], str(how))
                # Forwards, backwards and shuffled, each is decoded once.
                self.assertEqual(reel.decoded, many)

    def test_with_hardly_any_room_it_is_slower_but_the_same(self) -> None:
        one = clip()
        with patch.object(footage, "MOST_HELD", 160 * 90 * 4 * 3), patch.object(footage, "_room", footage._Room()):
            reel = Footage(one)
            for k in (39, 3, 20, 4, 38, 0):
                self.assertEqual(number_in(array(reel.frame(k))), k)
            self.assertLessEqual(footage._room._bytes, 160 * 90 * 4 * 4)

    def test_many_threads_read_one_clip(self) -> None:
        reel, wrong = Footage(clip()), []

        def read(seed: int) -> None:
            for k in np.random.default_rng(seed).integers(0, 40, 60):
                if number_in(array(reel.frame(int(k)))) != k:
                    wrong.append(int(k))

        threads = [threading.Thread(target=read, args=(seed,)) for seed in range(6)]
        for thread in threads:
            thread.start()
        for thread in threads:
            thread.join()
        self.assertEqual(wrong, [])

    def test_what_is_shown_small_is_decoded_small(self) -> None:
        reel = Footage(clip(size=(640, 360), frames=4))
        shown = reel.frame(2, 0.2)
        assert shown is not None
        self.assertEqual((shown.width(), shown.height()), (160, 90))
        self.assertEqual(number_in(array(shown)), 2)
        self.assertEqual(reel.frame(2, 0.6).width(), 640)  # type: ignore[union-attr]

    def test_what_was_shown_before_makes_no_difference(self) -> None:
        for how in KINDS:
            one = clip(**(how | {"size": (640, 360)}))
            asked = [
                (k % one.timing.frames, scale)
                for k, scale in enumerate((1, 0.3, 0.3, 0.1, 1, 0.6, 0.2, 0.1, 0.3, 1) * 3)
            ]
            alone = {one_asked: array(Footage(one).frame(*one_asked)) for one_asked in set(asked)}
            reel = Footage(one)
            for number, scale in [*asked, *reversed(asked)]:
                np.testing.assert_array_equal(array(reel.frame(number, scale)), alone[number, scale], str(how))

    def test_two_sizes_of_one_frame_are_decoded_together(self) -> None:
        one = clip(size=(640, 360), frames=30)
        reel = Footage(one)
        plays = []
        with patch.object(reel_of(reel), "play", side_effect=reel_of(reel).play) as played:
            for k in range(30):
                reel.frame(k, 1.0)
                reel.frame(k, 0.2)
            plays.append(played.call_count)
        # Never sought anew for the other size.
        self.assertLessEqual(plays[0], 1)

    def test_what_cannot_be_read_shows_nothing(self) -> None:
        broken = clip(frames=5).changed(data="AAAA", id="clip-broken")
        self.assertIsNone(Footage(broken).frame(2))
        self.assertIsNone(Footage(clip(frames=5)).frame(5))
        self.assertIsNone(Footage(clip(frames=5)).frame(-1))


class Drawn(unittest.TestCase):
    def test_a_wall_decodes_each_frame_once(self) -> None:
        one = clip(rate=30, frames=90)
        state = apply(
            project(scene().changed(layers=(), width=640, height=360)), "add clip", clip=one.model_dump(), id="c"
        )
        state = apply(state, "set value", parameter="c.ends", value="again")
        state = apply(state, "repeat layers", layers=["c"], id="a", count=64)
        state = apply(state, "set arrangement", array="a", arrangement="grid")
        state = apply(state, "set value", parameter="a.later", value=1 / 30)
        state = apply(state, "set value", parameter="a.copy_scale", value=[25, 25])
        drawn = display_list(Sampler(state.scenes[0]), SampleTimes.frames(30, 0, 40))
        reel = footage_of(one)
        before = reel.decoded
        for k in range(40):
            pixels(drawn, k, Look(pictures=state.footage))
        # What the first copy shows at the end, and the last one at the beginning: 63 before to 39 after.
        self.assertLessEqual(reel.decoded - before, 90)
        self.assertGreater(reel.decoded - before, 80)

    def test_a_frame_stands_where_its_layer_does(self) -> None:
        one = clip(frames=30)
        state = apply(
            project(scene().changed(layers=(), width=320, height=180)), "add clip", clip=one.model_dump(), id="c"
        )
        state = apply(state, "set value", parameter="c.position", value=[80, 45])
        drawn = display_list(Sampler(state.scenes[0]), SampleTimes.frames(30, 0, 30))
        for frame in (0, 7, 29):
            seen = pixels(drawn, frame, Look(pictures=state.footage))
            self.assertEqual(number_in(seen[:90, :160]), frame)
            self.assertTrue((seen[100:, 200:, :3] == seen[179, 319, :3]).all())
        nothing = apply(state, "set value", parameter="c.begins", value=0.5)
        nothing = apply(nothing, "set value", parameter="c.ends", value="nothing")
        drawn = display_list(Sampler(nothing.scenes[0]), SampleTimes.frames(30, 0, 30))
        seen = pixels(drawn, 3, Look(pictures=nothing.footage))
        self.assertEqual(len(np.unique(seen.reshape(-1, 4), axis=0)), 1)


class OnDisk(unittest.TestCase):
    def setUp(self) -> None:
        self.folder = tempfile.TemporaryDirectory()
        self.addCleanup(self.folder.cleanup)
        self.one = clip()

    def test_the_longest_unused_go_first_and_the_bound_holds(self) -> None:
        kept = KeptFrames(Path(self.folder.name))
        size = len(kept.frame(self.one, 0, 0) or b"")
        with patch.object(kept_frames, "LEAST", 1):
            kept.bound(size * 12)
            for k in range(40):
                self.assertIsNotNone(kept.frame(self.one, k, 0))
                kept.frame(self.one, 0, 0)
                self.assertLessEqual(kept.taken(), size * 14)
            left = {path.name for path in Path(self.folder.name).glob("*/*.webp")}
            self.assertIn("0-39.webp", left)
            self.assertNotIn("0-5.webp", left)
            # Another process finds what is there, and the bound.
            again = KeptFrames(Path(self.folder.name))
            self.assertEqual((again.taken(), again.most), (kept.taken(), kept.most))
            again.clear()
            self.assertEqual((again.taken(), list(Path(self.folder.name).glob("*/*.webp"))), (0, []))
        self.assertIsNotNone(kept.frame(self.one, 39, 0))

    def test_without_room_on_the_disk_frames_are_shown_all_the_same(self) -> None:
        kept = KeptFrames(Path(self.folder.name))
        with patch.object(Path, "write_bytes", side_effect=OSError(28, "No space left on device")):
            self.assertIsNotNone(kept.frame(self.one, 3, 1))
        self.assertEqual(kept.taken(), 0)
        self.assertEqual(list(Path(self.folder.name).glob("*/*")), [])
