"""Films: what all video formats have in common. Encoded piece by piece and joined without being decoded again.

Each piece is encoded by itself and begins with a whole picture, so pieces can be made apart; joining puts their packets
one after the other. Pixels go out in the colours that the screen shows: BT.709, tagged as such, in the range of video.
"""

import os
import shutil
import tempfile
from abc import abstractmethod
from collections.abc import Callable, Iterable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from fractions import Fraction
from io import BytesIO
from pathlib import Path
from typing import IO, Any, ClassVar, Literal

import av
from av.video.reformatter import Colorspace, Interpolation
from pydantic import Field

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.drawing.frames import array, images

from .drawn import Drawn, DrawnOptions, Item, scene_of
from .exporter import Plan, Source
from .sound import Along, mixed
from .sound import left_out as sound_left_out

QUALITIES = ("small", "standard", "fine", "finest")
Quality = Literal["small", "standard", "fine", "finest"]

_BT709, _VIDEO_RANGE = 1, 1
_FINE = Interpolation.AREA | Interpolation.FULL_CHR_H_INP | Interpolation.FULL_CHR_H_INT | Interpolation.ACCURATE_RND
_REORDERED = 4
"""Pictures may be sent so many before their turn, at most."""


class SoundOptions(DrawnOptions):
    """Options of films."""

    sound: bool = Field(True, title="with sound", description="That of the scene's clips, if they have any.")


class FilmOptions(SoundOptions):
    """Options of films that lose a little."""

    quality: Quality = Field(
        "standard",
        title="Quality",
        description="small: to send quickly; standard: no difference that one sees while it plays; fine: nor in "
        "a still; "
        "finest: to work on with.",
    )


@dataclass(frozen=True)
class Encoding:
    """How pictures are encoded: the encoder, its pixels, and its own settings."""

    encoder: str
    pixels: str
    settings: dict[str, str] = field(default_factory=dict)
    tag: str = ""
    """By which name players know it, where the container does not know it by itself."""


class Film(Drawn):
    """A video format."""

    span: ClassVar[int] = 30
    """A second or so: few whole pictures, and pieces enough that all who draw have their share."""

    verb: ClassVar[str] = "Draw the film"
    container: ClassVar[str]
    even: ClassVar[bool] = True
    file_settings: ClassVar[dict[str, str]] = {}
    sound_encoder: ClassVar[str] = "aac"

    @abstractmethod
    def encoding(self, options: Any) -> Encoding:
        """The encoder and its settings."""

    def items(self, source: Source, options: Any, first: int, end: int) -> Iterator[Item]:
        with av.open(BytesIO(), "w", format=self.container) as scratch:
            stream = self._stream(scratch, source, options, self.encoding(options))
            for packet in self._packets(stream, source, options, first, end):
                yield 1, (first + packet.pts, packet.is_keyframe, bytes(packet))

    def least(self, options: Any) -> tuple[str, int]:
        """What the encoding is called, and how many pixels each side of a picture needs at least."""
        return self.title, 2

    def plan(self, source: Source, options: Any) -> Plan:
        made, scene = super().plan(source, options), scene_of(source)
        called, side = self.least(options)
        size = self.look(source, options).size(scene.width, scene.height)
        if min(size) < side:
            raise Refused(
                f"{called} takes pictures of {side} × {side} pixels or more; these would have {size[0]} × "
                f"{size[1]}. Take "
                "another encoding, or a larger size.",
                "size",
            )
        return made

    def gave_up(self, source: Source, options: Any) -> str:
        scene, (called, _) = scene_of(source), self.least(options)
        wide, high = self.look(source, options).size(scene.width, scene.height)
        return (
            f"The encoder of {called} gave up at {wide} × {high} pixels, twice, or takes more memory than there "
            "is. Take another "
            "size or another encoding."
        )

    def _packets(self, stream: Any, source: Source, options: Any, first: int, end: int) -> Iterator[Any]:
        """Encoded pictures, in the order in which they are decoded; `pts` numbers them from 0 as they are shown."""
        scene = scene_of(source)
        for number, image in enumerate(images(scene, first, end, self.look(source, options))):
            picture = av.VideoFrame.from_ndarray(array(image), format="rgba")
            made = picture.reformat(format=stream.pix_fmt, dst_colorspace=Colorspace.ITU709, interpolation=_FINE)
            made.pts, made.time_base = number, 1 / rate_of(scene)
            # Some encoders tell what the picture says of itself, and not what they have been told.
            made.color_primaries = made.color_trc = _BT709
            yield from stream.encode(made)
        yield from stream.encode(None)

    def _stream(self, container: Any, source: Source, options: Any, encoding: Encoding) -> Any:
        scene = scene_of(source)
        rate = rate_of(scene)
        stream = container.add_stream(encoding.encoder, rate=rate, options=dict(encoding.settings))
        stream.width, stream.height = self.look(source, options).size(scene.width, scene.height)
        stream.pix_fmt = encoding.pixels
        coder = stream.codec_context
        coder.time_base = 1 / rate
        coder.color_primaries = coder.color_trc = coder.colorspace = _BT709
        coder.color_range = _VIDEO_RANGE
        # One thread a piece: as many pieces are made at once as there are cores, and each is always the same.
        coder.thread_count = 1
        if encoding.tag:
            coder.codec_tag = encoding.tag
        coder.gop_size = self.span
        return stream

    def join(self, source: Source, options: Any, items: Iterable[Any], target: IO[bytes]) -> None:
        encoding, rate = self.encoding(options), rate_of(scene_of(source))
        start = options.range_in(scene_of(source))[0]
        with self._file(target, rate) as container:
            stream = self._stream(container, source, options, encoding)
            along = self._along(container, source, options)
            container.start_encoding()
            for count, (frame, key, data) in enumerate(items):
                packet = av.Packet(data)
                packet.stream, packet.time_base, packet.duration = stream, 1 / rate, 1
                packet.pts, packet.is_keyframe = frame - start, key
                # When it is decoded: in the order of the file, and never after it is shown.
                packet.dts = min(count - _REORDERED, packet.pts)
                container.mux(packet)
                along(float(packet.pts / rate))
            along(None)

    def _along(self, container: Any, source: Source, options: Any) -> Callable[[float | None], None]:
        """What puts sound into a file up to a moment, or to its end."""
        scene = scene_of(source)
        waves = mixed(source.project, scene, *options.range_in(scene)) if options.sound else None
        return (lambda seconds: None) if waves is None else Along(container, self.sound_encoder, waves).until

    def left_out(self, source: Source, options: Any) -> Iterator[str]:
        yield from super().left_out(source, options)
        yield from sound_left_out(source.project, scene_of(source), options.sound)

    @contextmanager
    def _file(self, target: IO[bytes], rate: Fraction) -> Iterator[Any]:
        """A container that ends up in `target`. Its index is put to the front at the end, which takes a file by
        name."""
        beside = os.path.dirname(target.name) if isinstance(getattr(target, "name", None), str) else None
        with tempfile.TemporaryDirectory(prefix="film-", dir=beside) as folder:
            path = Path(folder) / "film"
            # Nothing in it is drawn by lot: the same scene is the same file.
            settings = {"fflags": "+bitexact", **self.file_settings}
            if self.container in ("mp4", "mov"):
                # Lengths are told in these parts of a second: a whole number of them lasts each frame.
                settings["movie_timescale"] = str(rate.numerator * -(-1000 // rate.numerator))
            with av.open(str(path), "w", format=self.container, options=settings) as container:
                yield container
            with path.open("rb") as made:
                shutil.copyfileobj(made, target, 1 << 20)


def rate_of(scene: Scene) -> Fraction:
    """Frames a second as a fraction: 29.97 is 30000/1001, as cameras mean it."""
    for whole in (24, 30, 48, 60, 120):
        if abs(scene.fps - whole * 1000 / 1001) < 0.005:
            return Fraction(whole * 1000, 1001)
    return Fraction(scene.fps).limit_denominator(10_000)
