"""Small films whose every frame tells its own number, and what one reads off a picture of them."""

import io
from fractions import Fraction
from typing import Any

import av
import numpy as np
from numpy.typing import NDArray

from jaunty_lever.core.document.clips import Clip
from jaunty_lever.formats.clips import take_in

Pixels = NDArray[np.uint8]
BITS = 10


def numbered(number: int, width: int = 160, height: int = 90) -> Pixels:
    """A picture (height, width, 4) with a number in blocks from the left, the highest bit first, over a blue half."""
    made = np.zeros((height, width, 4), dtype=np.uint8)
    made[..., 3] = 255
    made[height // 2 :, :, 2] = 200
    for bit in range(BITS):
        if number >> (BITS - 1 - bit) & 1:
            made[: height // 2, bit * width // BITS : (bit + 1) * width // BITS, :3] = 255
    return made


def number_in(pixels: Pixels) -> int:
    """The number in a picture of any size."""
    high, wide = pixels.shape[:2]
    row = pixels[high // 4, :, :3].astype(int).mean(axis=1)
    return sum(1 << (BITS - 1 - bit) for bit in range(BITS) if row[(2 * bit + 1) * wide // (2 * BITS)] > 128)


def film(
    container: str = "mp4",
    encoder: str = "libx264",
    frames: int = 40,
    rate: Any = 30,
    times: list[int] | None = None,
    size: tuple[int, int] = (160, 90),
    form: str = "yuv420p",
    sound: float = 0.0,
    clear: bool = False,
    **settings: str,
) -> bytes:
    """A film whose frame n shows n. `times`: when each is shown, in units of 1/rate; `sound`: seconds of a tone of 440
    Hz."""
    out = io.BytesIO()
    with av.open(out, "w", format=container, options=settings) as made:
        stream: Any = made.add_stream(encoder, rate=rate)
        stream.width, stream.height, stream.pix_fmt = *size, form
        stream.codec_context.gop_size = 12
        heard: Any = (
            made.add_stream("aac" if container != "webm" else "libopus", rate=48000, layout="stereo") if sound else None
        )
        for number in range(frames):
            pixels = numbered(number, *size)
            if clear:
                pixels[size[1] // 2 :, :, 3] = 0
            picture = av.VideoFrame.from_ndarray(pixels, format="rgba")
            picture.pts, picture.time_base = (times[number] if times else number), 1 / Fraction(rate)
            for packet in stream.encode(picture):
                made.mux(packet)
        for packet in stream.encode(None):
            made.mux(packet)
        if heard is not None:
            wave = (0.5 * np.sin(2 * np.pi * 440 * np.arange(round(sound * 48000)) / 48000)).astype(np.float32)
            form = "fltp" if container != "webm" else "flt"
            for at in range(0, len(wave), 960):
                both = np.stack([wave[at : at + 960]] * 2)
                frame = av.AudioFrame.from_ndarray(
                    both if form == "fltp" else np.ascontiguousarray(both.T.reshape(1, -1)),
                    format=form,
                    layout="stereo",
                )
                frame.sample_rate, frame.pts, frame.time_base = 48000, at, Fraction(1, 48000)
                for packet in heard.encode(frame):
                    made.mux(packet)
            for packet in heard.encode(None):
                made.mux(packet)
    return out.getvalue()


def clip(**how: Any) -> Clip:
    """That as a clip."""
    return take_in(film(**how), "Ferry.mp4").clip


def turned(content: bytes) -> bytes:
    """An MP4 whose frames are told to be shown a quarter turned clockwise, as a telephone held upright writes it."""
    at = content.index(b"tkhd") + 4 + 4 + 4 * 5 + 8 + 8
    quarter = [0, 0x10000, 0, 0xFFFF0000, 0, 0, 0, 0, 0x40000000]
    return content[:at] + b"".join(one.to_bytes(4, "big") for one in quarter) + content[at + 36 :]
