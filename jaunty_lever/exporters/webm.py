"""WebM: films for pages, with transparency."""

import os
from collections.abc import Iterable, Iterator
from io import BytesIO
from typing import IO, Any, ClassVar, Literal

import av
from pydantic import Field

from jaunty_lever.drawing.frames import Look

from .drawn import Item, scene_of
from .exporter import Source, Use
from .film import QUALITIES, Encoding, Film, FilmOptions, rate_of

# This encoder tells its settings with every piece, unless it is told to tell errors alone.
os.environ.setdefault("SVT_LOG", "1")


class WebmOptions(FilmOptions):
    """How a WebM is made."""

    codec: Literal["VP9", "AV1"] = Field(
        "VP9", title="Encoding", description="VP9 can be transparent; AV1 is the smallest, and plays in newer browsers."
    )
    transparent: bool = Field(
        False, title="without the background", description="Leave the scene's background out; only in VP9."
    )


class WebM(Film):
    """A film for pages."""

    name: ClassVar[str] = "webm"
    title: ClassVar[str] = "WebM"
    does: ClassVar[str] = "For pages: small, with transparency if you like."
    note: ClassVar[str] = "Browsers play it; some film editors and telephones do not."
    media_type: ClassVar[str] = "video/webm"
    ending: ClassVar[str] = ".webm"
    container: ClassVar[str] = "webm"
    sound_encoder: ClassVar[str] = "libopus"
    options: ClassVar[type[WebmOptions]] = WebmOptions
    uses: ClassVar[tuple[Use, ...]] = (
        Use("For a page, with transparency", {"transparent": True}),
        Use("For a page, as small as can be", {"codec": "AV1", "quality": "small"}),
    )

    def encoding(self, options: Any) -> Encoding:
        level = QUALITIES.index(options.quality)
        if options.codec == "AV1":
            return Encoding("libsvtav1", "yuv420p", {"crf": ("42", "28", "20", "12")[level], "preset": "8"})
        settings = {"crf": ("38", "24", "18", "10")[level], "b": "0", "deadline": "good", "cpu-used": "3"}
        # Pictures that are only referred to, and never shown, cannot have a transparency of their own.
        return (
            Encoding("libvpx-vp9", "yuva420p", settings | {"auto-alt-ref": "0"})
            if options.transparent
            else Encoding("libvpx-vp9", "yuv420p", settings)
        )

    def look(self, source: Source, options: Any) -> Look:
        drawn = super().look(source, options)
        return drawn if options.codec == "VP9" else Look(False, drawn.scale, drawn.pictures, even=True)

    def least(self, options: Any) -> tuple[str, int]:
        # Below that its encoder refuses, or never ends where pictures are wide.
        return options.codec, 64 if options.codec == "AV1" else 2

    def left_out(self, source: Source, options: Any) -> Iterator[str]:
        yield from super().left_out(source, options)
        if options.transparent and options.codec == "AV1":
            yield "AV1 has no transparency: the background is drawn. VP9 has it."

    def items(self, source: Source, options: Any, first: int, end: int) -> Iterator[Item]:
        if not _veiled(options):
            yield from super().items(source, options, first, end)
            return
        # The transparency travels beside each picture, in a form that only a file carries.
        yield end - first, self._piece(source, options, first, end)

    def _piece(self, source: Source, options: Any, first: int, end: int) -> bytes:
        piece, encoding = BytesIO(), self.encoding(options)
        with av.open(piece, "w", format=self.container) as container:
            stream = self._stream(container, source, options, encoding)
            for packet in self._packets(stream, source, options, first, end):
                container.mux(packet)
        return piece.getvalue()

    def join(self, source: Source, options: Any, items: Iterable[Any], target: IO[bytes]) -> None:
        if not _veiled(options):
            super().join(source, options, items, target)
            return
        rate = rate_of(scene_of(source))
        with self._file(target, rate) as container:
            stream = self._stream(container, source, options, self.encoding(options))
            along = self._along(container, source, options)
            container.start_encoding()
            count = 0
            for piece in items:
                with av.open(BytesIO(piece), "r") as made:
                    for packet in made.demux(video=0):
                        if packet.pts is None:
                            continue
                        packet.stream, packet.time_base, packet.duration = stream, 1 / rate, 1
                        packet.pts = packet.dts = count
                        container.mux(packet)
                        along(float(count / rate))
                        count += 1
            along(None)


def _veiled(options: Any) -> bool:
    return bool(options.transparent) and options.codec == "VP9"
