"""Moving pictures: GIF, APNG and animated WebP, which stand in a page or a message like any picture."""

import io
from abc import abstractmethod
from collections.abc import Iterable, Iterator
from fractions import Fraction
from typing import IO, Any, ClassVar, Literal

import av
import numpy as np
from numpy.typing import NDArray
from PIL import Image
from pydantic import Field

from jaunty_lever.core.edits import Refused
from jaunty_lever.drawing.frames import images, png

from .drawn import Drawn, DrawnOptions, Item, scene_of
from .exporter import Plan, Source, Use
from .film import rate_of

MOST_FRAMES = 3_000
_BACKGROUND = Field(False, title="without the background", description="Leave the scene's background out.")


class MovingOptions(DrawnOptions):
    """Options of a moving picture."""

    size: float = Field(
        0.5,
        title="Size",
        description="1 is the scene's own size.",
        json_schema_extra={"field": "size", "choices": [0.25, 0.5, 1]},
    )
    rounds: int = Field(
        0,
        ge=0,
        le=1000,
        title="Rounds",
        description="How often it plays; 0 for ever.",
        json_schema_extra={"unit": "0 for ever"},
    )
    transparent: bool = _BACKGROUND


class MovingPicture(Drawn):
    """A picture that moves."""

    verb: ClassVar[str] = "Draw it"
    most_rate: ClassVar[int]
    """Frames a second that it can show."""

    def plan(self, source: Source, options: Any) -> Plan:
        plan = super().plan(source, options)
        if plan.steps > MOST_FRAMES:
            raise Refused(
                f"{self.title} holds up to {MOST_FRAMES:,} frames here, and these are {plan.steps:,}. Choose "
                "fewer, or a film.",
                "stop",
            )
        return plan

    def left_out(self, source: Source, options: Any) -> Iterator[str]:
        yield from super().left_out(source, options)
        every = self.every(source)
        if every > 1:
            yield f"{self.title} shows up to {self.most_rate} frames a second: of {every} frames one is taken."

    def every(self, source: Source) -> int:
        """Of so many frames one is shown."""
        return -int(-rate_of(scene_of(source)) // self.most_rate)

    def items(self, source: Source, options: Any, first: int, end: int) -> Iterator[Item]:
        start, every = options.range_in(scene_of(source))[0], self.every(source)
        drawn = images(scene_of(source), first, end, self.look(source, options))
        for number, image in enumerate(drawn, first):
            yield 1, png(image) if (number - start) % every == 0 else None

    def join(self, source: Source, options: Any, items: Iterable[Any], target: IO[bytes]) -> None:
        length = Fraction(self.every(source)) / rate_of(scene_of(source))
        self.put_together((content for content in items if content is not None), length, source, options, target)

    @abstractmethod
    def put_together(
        self, frames: Iterator[bytes], length: Fraction, source: Source, options: Any, target: IO[bytes]
    ) -> None:
        """Write the file from PNG frames that are shown for `length` seconds each."""


def _pixels(content: bytes) -> NDArray[np.uint8]:
    return np.asarray(Image.open(io.BytesIO(content)).convert("RGBA"))


def _streamed(
    frames: Iterator[bytes],
    length: Fraction,
    target: IO[bytes],
    container: str,
    encoder: str,
    pixels: str,
    settings: dict[str, str],
    file_settings: dict[str, str],
) -> None:
    """Encode frames as they come, so that no more than one is held at once."""
    with av.open(target, "w", format=container, options=file_settings) as made:
        stream: Any = None
        for number, content in enumerate(frames):
            picture = _pixels(content)
            if stream is None:
                stream = made.add_stream(encoder, rate=1 / length, options=settings)
                stream.height, stream.width = picture.shape[:2]
                stream.pix_fmt = pixels
                stream.codec_context.time_base = length
            frame = av.VideoFrame.from_ndarray(picture, format="rgba")
            if pixels != "rgba":
                frame = frame.reformat(format=pixels)
            frame.pts, frame.time_base = number, length
            made.mux(stream.encode(frame))
        if stream is not None:
            made.mux(stream.encode(None))


class Apng(MovingPicture):
    """A PNG that moves."""

    name: ClassVar[str] = "apng"
    title: ClassVar[str] = "APNG"
    does: ClassVar[str] = "A PNG that moves: nothing is lost, soft edges on any background."
    note: ClassVar[str] = "Large; plays in every browser."
    media_type: ClassVar[str] = "image/apng"
    ending: ClassVar[str] = ".png"
    most_rate: ClassVar[int] = 240
    options: ClassVar[type[MovingOptions]] = MovingOptions
    uses: ClassVar[tuple[Use, ...]] = (Use("A sticker, sharp and transparent", {"transparent": True}),)

    def put_together(
        self, frames: Iterator[bytes], length: Fraction, source: Source, options: Any, target: IO[bytes]
    ) -> None:
        _streamed(frames, length, target, "apng", "apng", "rgba", {"pred": "mixed"}, {"plays": str(options.rounds)})


class WebpOptions(MovingOptions):
    """Options of an animated WebP."""

    quality: Literal["small", "standard", "fine", "lossless"] = Field(
        "standard", title="Quality", description="How much may be lost for a smaller file."
    )


class Webp(MovingPicture):
    """A WebP that moves."""

    name: ClassVar[str] = "webp"
    title: ClassVar[str] = "Animated WebP"
    does: ClassVar[str] = "A picture for pages that moves: small, with soft transparency."
    media_type: ClassVar[str] = "image/webp"
    ending: ClassVar[str] = ".webp"
    most_rate: ClassVar[int] = 60
    options: ClassVar[type[WebpOptions]] = WebpOptions
    uses: ClassVar[tuple[Use, ...]] = (Use("A picture in a page that moves"),)

    def put_together(
        self, frames: Iterator[bytes], length: Fraction, source: Source, options: Any, target: IO[bytes]
    ) -> None:
        settings = {"small": "55", "standard": "80", "fine": "95"}
        lossless = options.quality == "lossless"
        coded = {"lossless": "1"} if lossless else {"quality": settings[options.quality]}
        _streamed(frames, length, target, "webp", "libwebp_anim", "bgra", coded, {"loop": str(options.rounds)})


class GifOptions(MovingOptions):
    """Options of a GIF."""

    colours: int = Field(255, ge=2, le=255, title="Colours", description="How many colours the whole picture has.")
    dithering: bool = Field(
        True, title="dithered", description="Mix colours by a fine pattern where there are too few."
    )


class Gif(MovingPicture):
    """A GIF."""

    name: ClassVar[str] = "gif"
    title: ClassVar[str] = "GIF"
    does: ClassVar[str] = "For messages: plays wherever a picture does. One palette, hard edges."
    media_type: ClassVar[str] = "image/gif"
    ending: ClassVar[str] = ".gif"
    most_rate: ClassVar[int] = 50
    options: ClassVar[type[GifOptions]] = GifOptions
    uses: ClassVar[tuple[Use, ...]] = (Use("For a message"),)

    def left_out(self, source: Source, options: Any) -> Iterator[str]:
        yield from super().left_out(source, options)
        yield f"It has {options.colours} colours in all; what is half transparent becomes clear or solid."
        if (100 * self.every(source) / rate_of(scene_of(source))).denominator != 1:
            yield (
                "GIF counts in hundredths of a second: frames stand a hundredth longer or shorter, the whole "
                "is as long as it should be."
            )

    def put_together(
        self, frames: Iterator[bytes], length: Fraction, source: Source, options: Any, target: IO[bytes]
    ) -> None:
        # Frames are looked through twice: for the colours of all of them, then to be written.
        kept = list(frames)
        palette = _palette(kept, options.colours)
        table = _table(palette)
        last = round(len(kept) * length * 100) - round((len(kept) - 1) * length * 100)
        settings = {"loop": str(_loop(options.rounds)), "final_delay": str(last)}
        with av.open(target, "w", format="gif", options=settings) as made:
            stream: Any = None
            for number, content in enumerate(kept):
                picture = _pixels(content)
                if stream is None:
                    stream = made.add_stream("gif", rate=100)
                    stream.height, stream.width = picture.shape[:2]
                    stream.pix_fmt = "pal8"
                    stream.codec_context.time_base = Fraction(1, 100)
                # Pixels of a palette come with it, which its types leave out.
                pair: Any = (_reduced(picture, palette, options.dithering), table)
                frame = av.VideoFrame.from_ndarray(pair, format="pal8")
                frame.pts, frame.time_base = round(number * length * 100), Fraction(1, 100)
                frame.duration = round((number + 1) * length * 100) - frame.pts
                made.mux(stream.encode(frame))
            if stream is not None:
                made.mux(stream.encode(None))


_CLEAR = 255
_SEEN = 24
"""Frames that a palette is found from."""


def _loop(rounds: int) -> int:
    """As the file counts: how often it is repeated after the first time; −1 not at all, 0 for ever."""
    return 0 if rounds == 0 else -1 if rounds == 1 else rounds - 1


def _palette(frames: list[bytes], colours: int) -> Image.Image:
    """The colours that serve all frames best, as a picture with a palette."""
    some = frames[:: max(1, len(frames) // _SEEN)][: _SEEN + 1]
    parts = []
    for content in some:
        picture = _pixels(content)
        step = max(1, int((picture.shape[0] * picture.shape[1] / 40_000) ** 0.5))
        small = picture[::step, ::step].reshape(-1, 4)
        parts.append(small[small[:, 3] >= 128][:, :3])
    seen = np.concatenate(parts)
    if not len(seen):
        seen = np.zeros((1, 3), dtype=np.uint8)
    return Image.fromarray(np.ascontiguousarray(seen[None])).quantize(
        colours, method=Image.Quantize.MEDIANCUT, kmeans=2
    )


def _table(palette: Image.Image) -> NDArray[np.uint8]:
    """The palette as the encoder takes it: alpha, r, g, b of 256 colours, the last of them clear."""
    table = np.zeros((256, 4), dtype=np.uint8)
    known = np.array(palette.getpalette() or [], dtype=np.uint8).reshape(-1, 3)[:_CLEAR]
    table[: len(known), 1:], table[:_CLEAR, 0] = known, 255
    return table


def _reduced(picture: NDArray[np.uint8], palette: Image.Image, dithering: bool) -> NDArray[np.uint8]:
    way = Image.Dither.FLOYDSTEINBERG if dithering else Image.Dither.NONE
    reduced = np.array(Image.fromarray(np.ascontiguousarray(picture[..., :3])).quantize(palette=palette, dither=way))
    reduced[picture[..., 3] < 128] = _CLEAR
    return reduced
