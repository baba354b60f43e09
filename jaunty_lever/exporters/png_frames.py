"""PNG frames as a zip archive."""

import zipfile
from collections.abc import Iterable, Iterator
from dataclasses import replace
from typing import IO, ClassVar, Literal

from pydantic import Field

from jaunty_lever.drawing.frames import Look, images, png

from .drawn import Drawn, DrawnOptions, Item, scene_of
from .exporter import Source, Use


class PngOptions(DrawnOptions):
    """How frames are drawn."""

    depth: Literal["8 bits", "16 bits"] = Field(
        "8 bits",
        title="Depth",
        description="A channel. 16 bits keep faint things that lie over one another, and soft gradients without steps.",
    )
    transparent: bool = Field(True, title="without the background", description="Leave the scene's background out.")


class PngFrames(Drawn):
    """A zip of PNG files, one a frame."""

    name: ClassVar[str] = "png-frames"
    title: ClassVar[str] = "PNG frames"
    does: ClassVar[str] = "A zip with a picture a frame, nothing lost, with transparency."
    verb: ClassVar[str] = "Draw frames"
    media_type: ClassVar[str] = "application/zip"
    ending: ClassVar[str] = ".zip"
    options: ClassVar[type[PngOptions]] = PngOptions
    uses: ClassVar[tuple[Use, ...]] = (Use("To go on with, frame by frame"),)

    def look(self, source: Source, options: PngOptions) -> Look:
        return replace(super().look(source, options), deep=options.depth == "16 bits")

    def file_name(self, source: Source, options: PngOptions, first: int, end: int) -> str:
        return f"{source.name} frames {first}-{end - 1}.zip"

    def items(self, source: Source, options: PngOptions, first: int, end: int) -> Iterator[Item]:
        drawn = images(scene_of(source), first, end, self.look(source, options))
        for number, image in enumerate(drawn, first):
            yield 1, (number, png(image))

    def join(self, source: Source, options: PngOptions, items: Iterable[tuple[int, bytes]], target: IO[bytes]) -> None:
        with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
            for number, content in items:
                archive.writestr(zipfile.ZipInfo(f"frame-{number:05d}.png", (2000, 1, 1, 0, 0, 0)), content)
