"""Films: decoded again and compared with the drawn frames; their rate, length, colours and transparency."""

import io
import json
import shutil
import subprocess
import tempfile
import unittest
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np

from jaunty_lever.core.edits import Refused
from jaunty_lever.exporters import EXPORTERS, Source, read_options
from jaunty_lever.exporters.film import rate_of
from tests.exporters.taken_out import drawn, psnr, quay, taken_out

KINDS: tuple[tuple[str, dict[str, Any]], ...] = (
    ("mp4", {}),
    ("mp4", {"codec": "H.265"}),
    ("webm", {}),
    ("webm", {"codec": "AV1"}),
    ("mov", {}),
    ("mov", {"codec": "ProRes 4444"}),
)


def decoded(content: bytes, decoder: str = "") -> list[av.VideoFrame]:
    """The pictures of a film."""
    with av.open(io.BytesIO(content)) as film:
        if not decoder:
            return list(film.decode(video=0))
        coder = av.CodecContext.create(decoder, "r")
        found: list[Any] = []
        for packet in film.demux(video=0):
            if packet.pts is not None:
                found += coder.decode(packet)
        return [*found, *coder.decode(None)]


class Films(unittest.TestCase):
    def test_every_frame_is_there_in_its_place_and_looks_as_it_was_drawn(self) -> None:
        whole = quay()
        for name, options in KINDS:
            with self.subTest(name, **options):
                content = taken_out(whole, name, **options)
                frames = decoded(content)
                # Two pieces: the second begins at frame 60, or 30 and 60.
                self.assertEqual(len(frames), 64)
                shown = [float(frame.pts * frame.time_base) for frame in frames]
                np.testing.assert_allclose(shown, np.arange(64) / 30, atol=0.0011)
                for k in (0, 29, 30, 59, 60, 63):
                    got = frames[k].to_ndarray(format="rgb24")
                    wanted = drawn(whole, k)[..., :3]
                    # Where colours meet, half the resolution of colour shows; it is the light that is compared there.
                    light = [picture.astype(float) @ (0.2126, 0.7152, 0.0722) for picture in (got, wanted)]
                    self.assertGreater(psnr(*light), 38, k)
                    self.assertGreater(psnr(got, wanted), 30, k)

    def test_a_file_says_what_its_colours_mean_and_how_long_a_frame_lasts(self) -> None:
        whole = quay(length=3)
        for name, options in KINDS:
            with self.subTest(name, **options):
                (frame, *_) = decoded(taken_out(whole, name, **options))
                self.assertEqual((frame.color_primaries, frame.color_trc, frame.colorspace), (1, 1, 1))
        # Matroska tells it in nanoseconds; whoever reads it may know no fraction that large.
        content = taken_out(quay(length=3, fps=59.94), "webm")
        at = content.index(bytes.fromhex("23e383")) + 3
        told = int.from_bytes(content[at + 1 : at + 1 + (content[at] & 0x7F)], "big")
        self.assertEqual(told, int(1e9 * 1001 / 60000))

    def test_which_sizes_an_encoder_takes_is_known_before_anything_is_drawn(self) -> None:
        for width, height in ((34, 18), (48, 26), (1, 1), (64, 62), (512, 16)):
            tiny = quay(width=width, height=height)
            for name, options in (("mp4", {"codec": "H.265"}), ("webm", {"codec": "AV1"})):
                exporter = EXPORTERS[name]
                with self.assertRaises(Refused) as refused:
                    exporter.plan(Source(tiny, tiny.scenes[0]), read_options(exporter, options))
                self.assertIn(f"{options['codec']} takes pictures of 64 × 64 pixels or more", str(refused.exception))
        for name, options in KINDS:
            if options.get("codec") not in ("H.265", "AV1"):
                self.assertEqual(len(decoded(taken_out(quay(length=2, width=1, height=1), name, **options))), 2)

    def test_large_surfaces_have_the_very_colours_of_the_stage(self) -> None:
        whole = quay(length=3)
        for name, options in KINDS:
            with self.subTest(name, **options):
                (frame, *_) = decoded(
                    taken_out(whole, name, quality="finest", **options)
                    if name != "mov"
                    else taken_out(whole, name, **options)
                )
                got, wanted = frame.to_ndarray(format="rgb24").astype(int), drawn(whole, 0)[..., :3].astype(int)
                for y, x in ((8, 8), (90, 70), (90, 160)):
                    np.testing.assert_allclose(got[y, x], wanted[y, x], atol=3)

    def test_rates_lengths_and_colours_are_told_exactly(self) -> None:
        rates = (
            (29.97, Fraction(30000, 1001)),
            (23.976, Fraction(24000, 1001)),
            (1000 / 7, Fraction(1000, 7)),
            (25, Fraction(25)),
        )
        for fps, rate in rates:
            whole = quay(fps=fps, length=9)
            self.assertEqual(rate_of(whole.scenes[0]), rate)
            for name in ("mp4", "mov"):
                with self.subTest(name, fps=fps), av.open(io.BytesIO(taken_out(whole, name))) as film:
                    stream = film.streams.video[0]
                    self.assertEqual((stream.average_rate, stream.frames), (rate, 9))
                    self.assertEqual(stream.duration * stream.time_base, 9 / rate)
                    coder = stream.codec_context
                    self.assertEqual(
                        (coder.color_primaries, coder.color_trc, coder.colorspace, coder.color_range), (1, 1, 1, 1)
                    )

    @unittest.skipUnless(shutil.which("ffprobe"), "there is no ffprobe here")
    def test_another_program_reads_the_same(self) -> None:
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "film.mp4"
            path.write_bytes(taken_out(quay(fps=29.97), "mp4"))
            asked = ["ffprobe", "-v", "error", "-count_frames", "-show_streams", "-of", "json", str(path)]
            (told,) = json.loads(subprocess.run(asked, capture_output=True, check=True).stdout)["streams"]
        self.assertEqual((told["r_frame_rate"], told["nb_read_frames"]), ("30000/1001", "64"))
        self.assertEqual((told["color_space"], told["color_primaries"], told["color_range"]), ("bt709", "bt709", "tv"))

    def test_transparency_is_that_of_the_frames(self) -> None:
        whole = quay(length=34)
        for name, options, decoder in (
            ("mov", {"codec": "ProRes 4444"}, ""),
            ("webm", {"quality": "finest"}, "libvpx-vp9"),
        ):
            with self.subTest(name):
                frames = decoded(taken_out(whole, name, transparent=True, **options), decoder)
                self.assertEqual(len(frames), 34)
                for k in (0, 29, 33):
                    got = frames[k].to_ndarray(format="rgba")[..., 3].astype(int)
                    wanted = drawn(whole, k, transparent=True)[..., 3].astype(int)
                    off = np.abs(got - wanted)
                    # On surfaces within two levels; along edges what little is lost shows.
                    self.assertGreater((off <= 2).mean(), 0.97 if name == "webm" else 0.999)
                    self.assertLess(off.mean(), 1)

    def test_an_odd_size_becomes_even_and_is_told(self) -> None:
        whole = quay(width=321, height=181, length=2)
        exporter = EXPORTERS["mp4"]
        (said,) = exporter.plan(Source(whole, whole.scenes[0]), read_options(exporter, {})).left_out
        self.assertIn("321 × 181 becomes 322 × 182", said)
        (frame, *_) = decoded(taken_out(whole, "mp4"))
        self.assertEqual((frame.width, frame.height), (322, 182))
        self.assertGreater(psnr(frame.to_ndarray(format="rgb24"), drawn(whole, 0, even=True)[..., :3]), 30)

    def test_one_frame_is_a_film_and_what_makes_no_sense_is_refused(self) -> None:
        whole = quay()
        self.assertEqual(len(decoded(taken_out(whole, "mp4", start=40, stop=40))), 1)
        (frame,) = decoded(taken_out(whole, "mov", start=40, stop=40))
        self.assertEqual(frame.pts, 0)
        for options, at in (({"stop": 64}, "start"), ({"size": 9}, "size"), ({"quality": "best"}, "quality")):
            with self.assertRaises(Refused) as caught:
                taken_out(whole, "mp4", **options)
            self.assertEqual(caught.exception.at, at)

    def test_what_has_no_transparency_says_so_and_draws_the_background(self) -> None:
        whole = quay(length=1)
        for name, options in (("mov", {"codec": "ProRes 422"}), ("webm", {"codec": "AV1"})):
            exporter = EXPORTERS[name]
            given = read_options(exporter, {"transparent": True, **options})
            (said,) = exporter.plan(Source(whole, whole.scenes[0]), given).left_out
            self.assertIn("has no transparency", said)
            (frame,) = decoded(taken_out(whole, name, transparent=True, **options))
            self.assertGreater(int(frame.to_ndarray(format="rgb24")[4, 4].min()), 200)
