"""GIF, APNG, WebP and sprite sheets, read again by Pillow."""

import io
import json
import unittest
import zipfile

import numpy as np
from PIL import Image

from jaunty_lever.core.edits import Refused
from jaunty_lever.exporters import EXPORTERS, Source, read_options
from tests.exporters.taken_out import Pixels, drawn, psnr, quay, taken_out


def frames_of(content: bytes) -> tuple[list[Pixels], list[float], int]:
    """The frames of a moving picture, how long each stands (ms), and how often it plays as the file says."""
    picture = Image.open(io.BytesIO(content))
    frames, lasting = [], []
    for k in range(getattr(picture, "n_frames", 1)):
        picture.seek(k)
        frames.append(np.asarray(picture.convert("RGBA")))
        lasting.append(float(picture.info.get("duration", 0)))
    return frames, lasting, int(picture.info.get("loop", -1))


class MovingPictures(unittest.TestCase):
    def test_each_shows_the_frames_for_as_long_as_they_last(self) -> None:
        whole = quay(length=12)
        for name, least in (("apng", 99), ("webp", 30), ("gif", 27)):
            with self.subTest(name):
                frames, lasting, _ = frames_of(taken_out(whole, name, size=1))
                self.assertEqual(len(frames), 12)
                self.assertAlmostEqual(sum(lasting), 400, delta=2)
                for k in (0, 5, 11):
                    self.assertGreaterEqual(psnr(frames[k][..., :3], drawn(whole, k)[..., :3]), least)

    def test_transparency_soft_where_it_can_be_and_hard_in_a_gif(self) -> None:
        whole = quay(length=4)
        wanted = drawn(whole, 2, transparent=True)[..., 3].astype(int)
        soft, _, _ = frames_of(taken_out(whole, "apng", size=1, transparent=True))
        np.testing.assert_array_equal(soft[2][..., 3], wanted)
        hard, _, _ = frames_of(taken_out(whole, "gif", size=1, transparent=True))
        np.testing.assert_array_equal(hard[2][..., 3], np.where(wanted >= 128, 255, 0))

    def test_they_play_as_often_as_asked(self) -> None:
        whole = quay(length=3)
        self.assertEqual([frames_of(taken_out(whole, "apng", rounds=n))[2] for n in (0, 1, 3)], [0, 1, 3])
        # A GIF counts how often it is repeated.
        self.assertEqual([frames_of(taken_out(whole, "gif", rounds=n))[2] for n in (0, 3)], [0, 2])

    def test_what_is_too_fast_for_a_format_leaves_frames_out_and_says_so(self) -> None:
        whole = quay(length=24, fps=120)
        exporter = EXPORTERS["gif"]
        plan = exporter.plan(Source(whole, whole.scenes[0]), read_options(exporter, {}))
        self.assertIn("of 3 frames one is taken", " ".join(plan.left_out))
        frames, lasting, _ = frames_of(taken_out(whole, "gif"))
        self.assertEqual(len(frames), 8)
        self.assertAlmostEqual(sum(lasting), 200, delta=1)

    def test_too_many_frames_are_refused_before_anything_is_drawn(self) -> None:
        with self.assertRaises(Refused) as caught:
            taken_out(quay(length=3001), "gif")
        self.assertIn("3,000 frames", caught.exception.message)


class Sheets(unittest.TestCase):
    def test_the_sheet_holds_each_frame_where_its_list_says(self) -> None:
        whole = quay(length=14)
        with zipfile.ZipFile(
            io.BytesIO(taken_out(whole, "sprite-sheet", size=1, every=3, columns=2, padding=4))
        ) as archive:
            told = json.loads(archive.read("Test.json"))
            sheet = np.asarray(Image.open(io.BytesIO(archive.read(told["image"]))))
        self.assertEqual((told["width"], told["height"], told["columns"]), (656, 564, 2))
        self.assertEqual([one["frame"] for one in told["frames"]], [0, 3, 6, 9, 12])
        for one in told["frames"]:
            part = sheet[one["y"] : one["y"] + one["height"], one["x"] : one["x"] + one["width"]]
            np.testing.assert_array_equal(part, drawn(whole, one["frame"], transparent=True))
        self.assertFalse(sheet[:4].any())

    def test_a_sheet_larger_than_pictures_may_be_is_refused(self) -> None:
        with self.assertRaises(Refused) as caught:
            taken_out(quay(length=500), "sprite-sheet", size=4)
        self.assertIn("no side may pass 16,384", caught.exception.message)
