"""Looking through a video file, and making one out of a moving picture or numbered ones; all in a process of its own.

A small file may unfold to something huge, or take hours to decode: whoever else uses the program must not notice.
"""

import io
import sys
import time
from collections.abc import Iterable, Iterator
from fractions import Fraction
from pathlib import Path
from typing import Any

import av
import numpy as np
import orjson
from PIL import Image, ImageSequence

from jaunty_lever.core.document.clips import MOST_CLIP_FRAMES, MOST_CLIP_PIXELS
from jaunty_lever.core.document.pictures import MOST_SIDE
from jaunty_lever.drawing.reel import BadReel, Reel
from jaunty_lever.processes import hold_to, leave_with

from .pictures import BadPicture, cleaned

MOST_MEMORY = 4 << 30
MOST_SECONDS = 300
MOST_DATA = 96 << 20
"""Bytes of a clip."""
BAD = 3
_NEAR = 1.01


class BadClip(ValueError):
    """What cannot be taken in as a clip; the message says why, for the artist."""


class _Teller:
    """Tells on standard error how far the work is, and ends it when it takes too long."""

    def __init__(self, seconds: float) -> None:
        self._until, self._last = time.monotonic() + seconds, 0.0
        self._seconds = seconds

    def __call__(self, share: float) -> None:
        now = time.monotonic()
        if now > self._until:
            raise BadClip(
                f"Its frames take more than {self._seconds:,.0f} seconds to decode. Make it shorter, or smaller."
            )
        if now - self._last > 0.1:
            self._last = now
            print(f"{min(share, 1.0):.3f}", file=sys.stderr, flush=True)


def sized(width: int, height: int) -> None:
    """Raises BadClip for frames that are larger than may be."""
    if width * height > MOST_CLIP_PIXELS or max(width, height) > MOST_SIDE:
        raise BadClip(
            f"Its frames have {width:,} × {height:,} pixels; they may be as large as 4,096 × 2,304. Make it smaller."
        )


def counted(frames: int) -> None:
    """Raises BadClip for more frames than may be."""
    if frames > MOST_CLIP_FRAMES:
        raise BadClip(f"It has {frames:,} frames; a clip has at most {MOST_CLIP_FRAMES:,}. Cut out what is needed.")


def looked_through(content: bytes, media: str, told: Any, whole: bool = True) -> dict[str, Any]:
    """What there is to know of a video file: its size, its timing, whether it has sound; and remarks. Raises BadClip.

    Not `whole`: only its first frame is decoded, and the others are counted.
    """
    try:
        reel = Reel(content, media)
        sized(reel.stream.codec_context.width or 1, reel.stream.codec_context.height or 1)
        times, _ = reel.packets()
        counted(len(times))
        seen: list[int] = []
        last, size = 0, (0, 0)
        for one in reel.play():
            sized(one.picture.width, one.picture.height)
            if not seen:
                size = reel.size(one.picture)
                sized(*size)
                reel.pixels(one.picture, 16, 16)
            seen.append(one.at)
            last = one.lasts
            counted(len(seen))
            told(len(seen) / max(len(times), 1))
            if not whole:
                break
    except BadReel as error:
        raise BadClip(str(error)) from None
    if not seen:
        raise BadClip("It holds no frame that can be read.")
    remarks = []
    if whole and len(seen) < len(times):
        remarks.append(
            f"{len(times) - len(seen):,} of its {len(times):,} frames are damaged or missing: they are left out"
        )
    rates = [rate for rate in (reel.stream.average_rate, reel.stream.guessed_rate) if rate]
    tick, runs = timed(seen if whole else times, last, reel.stream.time_base, rates)
    return {
        "media": media,
        "width": size[0],
        "height": size[1],
        "timing": {"tick": tick, "runs": runs},
        "sound": reel.sound is not None,
        "remarks": remarks,
    }


def timed(times: list[int], last: int, base: Fraction, rates: list[Fraction]) -> tuple[float, list[list[int]]]:
    """When frames are shown, in the stream's own units, as a tick and runs; `last`: how long the last one stands, 0 if
    unknown."""
    at, tick = np.array(times, dtype=np.int64) - times[0], float(base)
    many = len(at)
    if many > 1:
        rates = [*rates, Fraction(many - 1) / (Fraction(int(at[-1])) * base)]
    for rate in rates:
        # A file may tell its times in thousandths of a second only, and mean a steady rate.
        steady = np.arange(many) / float(rate)
        if np.abs(at * tick - steady).max() <= max(tick, 1e-4) * _NEAR and 1 / 1000 <= 1 / float(rate) <= 1:
            return 1 / float(rate), [[many, 1]]
    steps = np.diff(at)
    usual = int(np.median(steps)) if many > 1 else max(round(1 / float(rates[0]) / tick), 1) if rates else 1
    runs = _runs(np.append(steps, last or usual))
    return tick, runs


def _runs(steps: "np.ndarray[Any, Any]") -> list[list[int]]:
    ends = np.flatnonzero(np.append(np.diff(steps) != 0, True))
    many = np.diff(np.append(-1, ends))
    return [[int(n), max(int(step), 1)] for n, step in zip(many, steps[ends], strict=True)]


def of_moving_picture(content: bytes, told: Any) -> bytes:
    """A GIF, APNG or animated WebP as a video file without loss."""
    try:
        image = Image.open(io.BytesIO(content), formats=("GIF", "PNG", "WEBP"))
        sized(*image.size)
        count = getattr(image, "n_frames", 1)
        counted(count)

        def frames() -> Iterator[tuple[bytes, int]]:
            for number, frame in enumerate(ImageSequence.Iterator(image)):
                told(number / max(count, 1))
                out = io.BytesIO()
                frame.convert("RGBA").save(out, "PNG", compress_level=4)
                # Who tells no time, or next to none, means a tenth of a second, as browsers read it.
                lasts = round(float(frame.info.get("duration") or 0))
                yield out.getvalue(), lasts if lasts > 10 else 100

        return _reel(frames(), "png", image.size, Fraction(1, 1000))
    except (BadClip, MemoryError):
        raise
    except Exception:  # decoders raise whatever they like on what is damaged
        raise BadClip(
            "The moving picture is damaged, or breaks off. Save it anew, or take it from where it came from."
        ) from None


def of_numbered(pictures: list[tuple[str, bytes]], rate: Fraction, told: Any) -> bytes:
    """Numbered pictures as a video file without loss, each shown for a frame of the rate."""
    kinds: set[str] = set()
    found: list[tuple[bytes, tuple[int, int], str]] = []
    for number, (name, content) in enumerate(pictures):
        told(number / len(pictures))
        try:
            encoded, size, kind = cleaned(content)
        except BadPicture as error:
            raise BadClip(f"{name}: {error}") from None
        sized(*size)
        if found and size != found[0][1]:
            first = "{:,} × {:,}".format(*found[0][1])
            raise BadClip(
                f"{name} has {size[0]:,} × {size[1]:,} pixels, and the first one {first}: they must be equal."
            )
        found.append((encoded, size, kind))
        kinds.add(kind)

    def frames() -> Iterator[tuple[bytes, int]]:
        for encoded, _, kind in found:
            if alike or kind == "PNG":
                yield encoded, 1
                continue
            out = io.BytesIO()
            Image.open(io.BytesIO(encoded)).save(out, "PNG", compress_level=4)
            yield out.getvalue(), 1

    alike = kinds in ({"JPEG"}, {"PNG"})
    return _reel(frames(), "mjpeg" if kinds == {"JPEG"} else "png", found[0][1], 1 / rate)


def _reel(frames: Iterable[tuple[bytes, int]], encoder: str, size: tuple[int, int], base: Fraction) -> bytes:
    """Encoded pictures, and for how many ticks each is shown, one after the other in a file."""
    out, total, at = io.BytesIO(), 0, 0
    with av.open(out, "w", format="mov") as container:
        stream: Any = container.add_stream(encoder, rate=Fraction(1) / base if base > Fraction(1, 500) else 100)
        stream.width, stream.height = size
        stream.pix_fmt = "rgba" if encoder == "png" else "yuvj420p"
        stream.codec_context.time_base = stream.time_base = base
        for encoded, lasts in frames:
            total += len(encoded)
            if total > MOST_DATA:
                raise BadClip(
                    f"All its frames together have more than {MOST_DATA >> 20} MB. Make it shorter, or smaller."
                )
            packet: Any = av.Packet(encoded)
            packet.stream, packet.time_base = stream, base
            packet.pts = packet.dts = at
            packet.duration, packet.is_keyframe = lasts, True
            container.mux(packet)
            at += lasts
    return out.getvalue()


def main() -> int:
    """Read what a folder holds, as its `asked` tells; what is found is left there as `found` and `made`."""
    leave_with(int(sys.argv[2]))
    hold_to(MOST_MEMORY)
    folder = Path(sys.argv[1])
    asked = orjson.loads((folder / "asked").read_bytes())
    told = _Teller(asked["seconds"])
    files = [(folder / str(k)).read_bytes() for k in range(len(asked["names"]))]
    try:
        content, media = files[0], asked["media"]
        if asked["kind"] == "numbered":
            rate = Fraction(*asked["rate"])
            content, media = of_numbered(list(zip(asked["names"], files, strict=True)), rate, told), "video/quicktime"
        elif asked["kind"] == "moving":
            content, media = of_moving_picture(content, told), "video/quicktime"
        found = looked_through(content, media, told, asked["whole"])
        if content is not files[0]:
            (folder / "made").write_bytes(content)
        (folder / "found").write_bytes(orjson.dumps(found))
    except BadClip as error:
        (folder / "found").write_bytes(orjson.dumps({"bad": str(error)}))
        return BAD
    return 0


if __name__ == "__main__":
    sys.exit(main())
