"""A video file being read: its frames in the order in which they are shown, from anywhere on."""

import io
from collections.abc import Iterator
from contextlib import suppress
from dataclasses import dataclass
from typing import Any

import av
import numpy as np
from av.video.reformatter import ColorRange, Colorspace, Interpolation
from numpy.typing import NDArray

FORMATS = {
    "video/mp4": "mp4",
    "video/quicktime": "mov",
    "video/webm": "webm",
    "video/x-matroska": "matroska",
}
"""What each kind of file is opened as: never as anything else, whatever its bytes look like."""

_FINE = Interpolation.AREA | Interpolation.FULL_CHR_H_INP | Interpolation.ACCURATE_RND
_UNSPECIFIED, _HIGH_DEFINITION = 2, 720
_QUARTERS = {90: 1, 180: 2, 270: 3}


class BadReel(ValueError):
    """What no frame can be read from; the message says why."""


@dataclass(frozen=True)
class Seen:
    """A decoded frame: when it is shown, in the stream's own units, for how long (0: not told), and what it holds."""

    at: int
    lasts: int
    picture: Any


class Reel:
    """One video stream of a file. Not to be used by two threads at once."""

    def __init__(self, content: bytes, media: str) -> None:
        """Raises BadReel."""
        try:
            self._file: Any = av.open(io.BytesIO(content), "r", format=FORMATS[media])
        except (av.error.FFmpegError, KeyError, ValueError, OSError):
            raise BadReel("The file is damaged, or none that is known here.") from None
        # A cover picture is no film.
        moving = [one for one in self._file.streams.video if not int(one.disposition) & 0x400]
        if not moving:
            raise BadReel("The file holds no pictures that move.")
        self.stream: Any = moving[0]
        self.sound: Any = next(iter(self._file.streams.audio), None)
        if self.stream.codec_context is None or self.stream.time_base is None:
            raise BadReel("How its pictures are encoded is not known here.")
        self.tick = float(self.stream.time_base)
        self._clear = media in ("video/webm", "video/x-matroska") and self.stream.metadata.get("alpha_mode") == "1"
        self._coder: Any = None

    def close(self) -> None:
        """The file is no longer needed."""
        with suppress(av.error.FFmpegError):
            self._file.close()

    def packets(self) -> tuple[list[int], list[int]]:
        """When the frames are shown, in order, and those of them that can be decoded by themselves; nothing is
        decoded."""
        times, alone = [], []
        with suppress(av.error.FFmpegError):
            self._file.seek(0, backward=True, any_frame=False)
        with suppress(av.error.FFmpegError):
            for packet in self._file.demux(self.stream):
                at = packet.pts if packet.pts is not None else packet.dts
                if at is None or packet.is_discard:
                    continue
                times.append(int(at))
                if packet.is_keyframe:
                    alone.append(int(at))
        return sorted(set(times)), sorted(set(alone))

    def play(self, at: int | None = None) -> Iterator[Seen]:
        """The frames, in order, from the beginning; or from one that can be decoded by itself and comes no later than
        `at`."""
        with suppress(av.error.FFmpegError):
            if at is None:
                self._file.seek(-(1 << 40), backward=True, any_frame=False)
            else:
                self._file.seek(at, stream=self.stream, backward=True, any_frame=False)
        coder, last = self._decoder(), None
        for picture in self._decoded(coder):
            when = picture.pts if picture.pts is not None else picture.dts
            when = int(when) if when is not None else (0 if last is None else last + 1)
            if last is None or when > last:
                last = when
                yield Seen(when, int(picture.duration or 0), picture)

    def sounds(self) -> Iterator[Any]:
        """The sound, in decoded parts, from the beginning."""
        with suppress(av.error.FFmpegError):
            self._file.seek(-(1 << 40), backward=True, any_frame=False)
        with suppress(av.error.FFmpegError):
            for packet in self._file.demux(self.sound):
                with suppress(av.error.InvalidDataError):
                    yield from packet.decode()

    def _decoder(self) -> Any:
        """A decoder that knows nothing of what was read before."""
        if self._coder is not None:
            self._coder.flush_buffers()
            return self._coder
        own = self.stream.codec_context
        if self._clear and own.name in ("vp8", "vp9"):
            # What is clear lies beside each packet, and only this decoder reads it.
            self._coder = av.CodecContext.create("libvpx" if own.name == "vp8" else "libvpx-vp9", "r")
        else:
            own.thread_type = "AUTO"
            self._coder = own
        return self._coder

    def _decoded(self, coder: Any) -> Iterator[Any]:
        try:
            for packet in self._file.demux(self.stream):
                with suppress(av.error.InvalidDataError):
                    yield from coder.decode(packet if packet.size else None)
        except av.error.EOFError:
            return
        except av.error.FFmpegError:
            # It breaks off here; what came before is shown.
            with suppress(av.error.FFmpegError):
                yield from coder.decode(None)

    def size(self, picture: Any) -> tuple[int, int]:
        """Width and height as a frame is shown: upright, of square pixels."""
        aspect = self.stream.sample_aspect_ratio
        wide = picture.width * (float(aspect) if aspect else 1.0)
        sides = max(1, round(wide)), picture.height
        return (sides[1], sides[0]) if _turned(picture) in (1, 3) else sides

    def pixels(self, picture: Any, width: int, height: int) -> tuple[NDArray[np.uint8], bool]:
        """A frame upright at a size, (height, width, 4) not premultiplied, and whether any of it may be clear."""
        turned = _turned(picture)
        wide, high = (height, width) if turned in (1, 3) else (width, height)
        told = int(picture.colorspace)
        if told == _UNSPECIFIED:
            told = int(Colorspace.ITU709 if picture.height >= _HIGH_DEFINITION else Colorspace.ITU601)
        full = int(picture.color_range) == int(ColorRange.JPEG) or picture.format.name.startswith("yuvj")
        made = picture.reformat(
            wide,
            high,
            "rgba",
            src_colorspace=told if picture.format.name.startswith(("yuv", "nv", "p0")) else None,
            src_color_range=ColorRange.JPEG if full else None,
            interpolation=_FINE,
        )
        array = made.to_ndarray()
        clear = any(one.is_alpha for one in picture.format.components)
        return np.ascontiguousarray(np.rot90(array, turned)), clear


def _turned(picture: Any) -> int:
    """By how many quarters, against the clock, a frame is turned to stand upright."""
    return _QUARTERS.get(int(picture.rotation) % 360, 0)
