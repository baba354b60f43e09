"""Clips brought in: what is taken, how it is timed, and what is refused with words."""

import io
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path
from typing import Any
from unittest.mock import patch

import av
import numpy as np
from PIL import Image

from jaunty_lever.core.document.clips import MOST_CLIP_FRAMES, Clip
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Refused
from jaunty_lever.drawing.footage import Footage
from jaunty_lever.drawing.frames import array
from jaunty_lever.formats import bounded, clips, project_file
from jaunty_lever.formats.clip_reading import BadClip, timed
from jaunty_lever.importers.into import Where, taken_in
from jaunty_lever.storage.store import Store
from tests.core.scenes import apply, project, scene
from tests.formats.made_clips import clip, film, number_in, numbered, turned


def frames_of(one: Clip) -> list[np.ndarray]:
    footage = Footage(one)
    return [array(footage.frame(k)) for k in range(one.timing.frames)]


def packets(content: bytes, encoder: str, many: int, size: tuple[int, int]) -> bytes:
    """A film of one picture's bytes, many times."""
    out = io.BytesIO()
    with av.open(out, "w", format="mov") as made:
        stream: Any = made.add_stream(encoder, rate=30)
        stream.width, stream.height, stream.pix_fmt = *size, "rgb24"
        for k in range(many):
            packet: Any = av.Packet(content)
            packet.stream, packet.time_base, packet.pts, packet.dts = stream, Fraction(1, 30), k, k
            packet.is_keyframe = True
            made.mux(packet)
    return out.getvalue()


def png(width: int, height: int) -> bytes:
    out = io.BytesIO()
    Image.new("RGB", (width, height)).save(out, "PNG")
    return out.getvalue()


class Taken(unittest.TestCase):
    def test_every_container_is_read_whole_and_at_its_rate(self) -> None:
        for how in (
            {},
            {"rate": 24, "movflags": "frag_keyframe+empty_moov"},
            {"container": "webm", "encoder": "libvpx-vp9", "rate": Fraction(30000, 1001)},
            {"container": "webm", "encoder": "libvpx-vp9", "rate": 25, "live": "1"},
            {"container": "mov", "encoder": "prores_ks", "form": "yuv422p10le", "rate": 50, "frames": 12},
            {"container": "matroska", "encoder": "ffv1", "form": "bgr0", "rate": 60, "frames": 12},
        ):
            with self.subTest(**how):
                one = clip(**how)
                self.assertEqual(one.timing.runs, ((how.get("frames", 40), 1),))
                self.assertAlmostEqual(one.timing.tick, 1 / float(how.get("rate", 30)), places=7)
                self.assertEqual((one.width, one.height, one.sound), (160, 90, False))
                self.assertEqual([number_in(one) for one in frames_of(one)], list(range(one.timing.frames)))
                self.assertIsNone(clips.problem(one))

    def test_a_variable_rate_keeps_when_each_frame_is_shown(self) -> None:
        times = [0, 1, 2, 5, 6, 10, 30, 31]
        one = clip(times=times, frames=len(times), rate=30)
        np.testing.assert_allclose(one.timing.begins, np.array(times) / 30, atol=1e-9)
        moments = np.array([0, 0.05, 4.9 / 30, 5 / 30, 29.9 / 30, 30 / 30, 9.0])
        self.assertEqual(one.timing.shown(moments).tolist(), [0, 1, 2, 3, 5, 6, 7])

    def test_times_without_any_order_are_kept(self) -> None:
        rng = np.random.default_rng(4)
        times = np.cumsum(rng.integers(20, 60, 9000)).tolist()
        tick, runs = timed(times, 40, Fraction(1, 1000), [])
        told = np.concatenate([[0], np.cumsum(np.repeat([t for _, t in runs], [n for n, _ in runs]))[:-1]]) * tick
        self.assertEqual(sum(n for n, _ in runs), 9000)
        np.testing.assert_allclose(told, (np.array(times) - times[0]) / 1000, atol=1e-9)

    def test_what_a_telephone_held_upright_writes_stands_upright(self) -> None:
        one = clips.take_in(turned(film(frames=3)), "Upright.mp4").clip
        self.assertEqual((one.width, one.height), (90, 160))
        shown = frames_of(one)[0]
        self.assertEqual(shown.shape, (160, 90, 4))
        # What was below is at the left now.
        self.assertGreater(int(shown[80, 20, 2]), 150)
        self.assertLess(int(shown[80, 70, 2]), 60)

    def test_what_is_clear_stays_clear(self) -> None:
        one = clip(container="webm", encoder="libvpx-vp9", form="yuva420p", clear=True, frames=4)
        alpha = frames_of(one)[2][..., 3]
        self.assertTrue((alpha[:40] > 240).all() and (alpha[50:] < 15).all())

    def test_pictures_that_move_come_in_without_loss_and_with_their_times(self) -> None:
        pictures = [Image.fromarray(numbered(k, 80, 40)) for k in range(5)]
        for kind, settings in (("GIF", {}), ("PNG", {}), ("WEBP", {"lossless": True})):
            out = io.BytesIO()
            pictures[0].save(
                out, kind, save_all=True, append_images=pictures[1:], duration=[40, 40, 120, 40, 200], **settings
            )
            with self.subTest(kind):
                one = clips.take_in(out.getvalue(), f"Flag.{kind.lower()}").clip
                np.testing.assert_allclose(one.timing.begins, [0, 0.04, 0.08, 0.2, 0.24], atol=1e-9)
                self.assertAlmostEqual(one.timing.seconds, 0.44)
                for shown, meant in zip(frames_of(one), pictures, strict=True):
                    np.testing.assert_array_equal(shown, np.asarray(meant))

    def test_numbered_pictures_become_one_clip_at_the_scenes_rate(self) -> None:
        files = {f"tide_{k:04}.png": png_of(k) for k in range(8, 16)}
        self.assertEqual(clips.numbered(list(reversed(files))), list(files))
        self.assertIsNone(clips.numbered(["tide_1.png", "wind_2.png", *list(files)[:5]]))
        self.assertIsNone(clips.numbered([f"tide_{k}.png" for k in (1, 2, 3, 4, 5, 9)]))
        one = clips.take_in_numbered(list(files.items()), Fraction(24)).clip
        self.assertEqual((one.name, one.timing.frames), ("tide", 8))
        self.assertAlmostEqual(one.timing.tick, 1 / 24)
        self.assertEqual([number_in(one) for one in frames_of(one)], list(range(8, 16)))
        files["tide_0012.png"] = png(10, 10)
        with self.assertRaisesRegex(BadClip, "tide_0012.png has 10 × 10 pixels, and the first one 80 × 40"):
            clips.take_in_numbered(list(files.items()), Fraction(24))


def png_of(number: int) -> bytes:
    out = io.BytesIO()
    Image.fromarray(numbered(number, 80, 40)).save(out, "PNG")
    return out.getvalue()


class Wrong(unittest.TestCase):
    def refused(self, content: bytes, words: str, name: str = "Ferry.mp4") -> None:
        with self.assertRaisesRegex(BadClip, words):
            clips.take_in(content, name)

    def test_each_is_refused_with_the_reason(self) -> None:
        self.refused(b"Dear harbour master,", "no video that is read here")
        self.refused(film()[:2000], "damaged")
        self.refused(b"\0\0\0\x18ftypmp42" + bytes(500), "damaged|no pictures")
        self.refused(film(frames=0, sound=0.3), "no frame|no pictures")
        self.refused(
            packets(png(8, 8), "png", MOST_CLIP_FRAMES + 1, (8, 8)),
            f"54,001 frames; a clip has at most {MOST_CLIP_FRAMES:,}",
        )
        self.refused(packets(png(7680, 4320), "png", 1, (7680, 4320)), "7,680 × 4,320 pixels")
        # It says that it is small, and unfolds to something large.
        self.refused(packets(png(12_000, 9_000), "png", 1, (64, 64)), "12,000 × 9,000 pixels|64 × 64|no frame")
        self.refused(b"GIF89a" + bytes(40), "damaged", "Flag.gif")
        with patch.object(clips, "MOST_SECONDS", 0):
            self.refused(film(), "more than 0 seconds to decode")
        with patch.object(clips, "MOST_BYTES", 1000):
            self.refused(film(), "larger than")

    def test_one_that_breaks_off_shows_what_it_has_and_says_so(self) -> None:
        whole = film(container="webm", encoder="libvpx-vp9", frames=120)
        read = clips.take_in(whole[: len(whole) * 2 // 3], "Ferry.webm")
        self.assertTrue(20 < read.clip.timing.frames < 110)
        shown = [number_in(one) for one in frames_of(read.clip)]
        self.assertEqual(shown, list(range(len(shown))))

    def test_one_that_nobody_wants_any_more_ends_at_once(self) -> None:
        with self.assertRaises(clips.Cancelled):
            clips.take_in(film(), "Ferry.mp4", lambda share: False)

    def test_a_full_disk_is_said(self) -> None:
        with patch.object(Path, "write_bytes", side_effect=OSError(28, "No space left on device")):
            self.refused(film(), "no room to look into it: No space left")


class Kept(unittest.TestCase):
    def test_a_project_with_a_clip_goes_out_and_comes_in_again(self) -> None:
        state = apply(project(scene()), "add clip", clip=clip(frames=6).model_dump(), id="c")
        again = project_file.read(project_file.write(state).encode())
        self.assertEqual(again, state)
        with tempfile.TemporaryDirectory() as folder:
            store = Store(Path(folder) / "a.db")
            store.create(state)
            self.assertEqual(store.state("p").project, state)
            store.close()

    def test_a_large_file_that_is_read_in_a_process_of_its_own_brings_its_clips(self) -> None:
        state = apply(project(scene()), "add clip", clip=clip(frames=6).model_dump(), id="c")
        with patch.object(bounded, "ALONE", 10):
            self.assertEqual(bounded.read(project_file.write(state).encode()), state)

    def test_what_is_not_what_it_says_is_refused_wherever_it_comes_from(self) -> None:
        one = clip(frames=6)
        state = apply(project(scene()), "add clip", clip=one.model_dump(), id="c")
        data = project_file.as_data(state)
        for field, value, words in (
            ("width", 80, "its size or its frames are not those|160 × 90"),
            ("data", "AAAA", "no video"),
            ("id", "clip-other", "not in the file|its id"),
        ):
            wrong = {**data, "clips": [{**data["clips"][0], field: value}]}
            with self.subTest(field), self.assertRaisesRegex(project_file.BadFile, words):
                project_file.from_data(wrong)
        with tempfile.TemporaryDirectory() as folder:
            store = Store(Path(folder) / "a.db")
            store.create(project(scene()))
            from jaunty_lever.core.edits import EDIT

            other = {**one.model_dump(), "data": "AAAA", "id": "clip-none"}
            with self.assertRaisesRegex(Refused, "no video"):
                store.edit("p", EDIT.validate_python({"kind": "add clip", "scene": "s", "clip": other}))
            store.close()

    def test_clips_that_no_layer_shows_leave_the_project(self) -> None:
        state = apply(project(scene()), "add clip", clip=clip(frames=6).model_dump(), id="c")
        self.assertEqual(len(state.clips), 1)
        self.assertEqual(apply(state, "remove layers", layers=["c"]).clips, ())

    def test_files_come_into_an_open_project_by_what_they_are(self) -> None:
        state = project(scene())
        taken = taken_in(film(frames=4, sound=0.2), "Ferry.mp4", Where(state, "s"))
        made: Project = taken.edit.apply(state)
        layer = made.scenes[0].layers[-1]
        self.assertEqual((layer.kind, layer.name, layer.sound), ("clip", "Ferry", True))  # type: ignore[attr-defined]
