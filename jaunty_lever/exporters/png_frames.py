"""PNG frames, singly or as a zip archive."""

import zipfile
from collections.abc import Callable, Iterator
from typing import IO, ClassVar, Literal

from pydantic import Field

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.frames import Pictures, draw_png

from .exporter import Exporter, Plan, Source
from .frame_range import FrameRange

BLOCK = 240
MOST_SIDE = 8192


class PngOptions(FrameRange):
    """How frames are drawn."""

    size: float = Field(
        1.0,
        title="Size",
        description="1 is the scene's own size.",
        json_schema_extra={"field": "size", "choices": [0.5, 1, 2]},
    )
    depth: Literal["8 bits", "16 bits"] = Field(
        "8 bits",
        title="Depth",
        description="A channel. 16 bits keep faint things that lie over one another, and soft gradients without steps.",
    )
    transparent: bool = Field(True, title="without the background", description="Leave the scene's background out.")


class PngFrames(Exporter):
    """A zip of PNG files, one a frame."""

    name: ClassVar[str] = "png-frames"
    title: ClassVar[str] = "PNG frames"
    does: ClassVar[str] = "A zip, drawn on the server."
    verb: ClassVar[str] = "Draw frames"
    takes: ClassVar[Literal["scene", "project", "recipe"]] = "scene"
    media_type: ClassVar[str] = "application/zip"
    ending: ClassVar[str] = ".zip"
    draws: ClassVar[bool] = True
    options: ClassVar[type[PngOptions]] = PngOptions

    def plan(self, source: Source, options: PngOptions) -> Plan:
        assert source.scene is not None
        first, end = options.frames(source.scene)
        side = max(source.scene.width, source.scene.height) * options.size
        if not 0.05 <= options.size <= 4 or side > MOST_SIDE:
            raise Refused("The size lies between 5 % and 400 %, and no side may pass 8,192 pixels.", "size")
        return Plan(f"{source.scene.name} frames {first}-{end - 1}.zip", end - first)

    def write(self, source: Source, options: PngOptions, target: IO[bytes], done: Callable[[int], None]) -> None:
        assert source.scene is not None
        first, end = options.frames(source.scene)
        pictures = source.project.picture_table if source.project else None
        with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
            drawn = frames(
                source.scene, first, end, options.transparent, options.size, pictures, options.depth == "16 bits"
            )
            for count, (name, content) in enumerate(drawn, 1):
                archive.writestr(zipfile.ZipInfo(name, (2000, 1, 1, 0, 0, 0)), content)
                done(count)


def frames(
    scene: Scene,
    start: int,
    stop: int,
    transparent: bool = True,
    scale: float = 1.0,
    pictures: Pictures | None = None,
    deep: bool = False,
) -> Iterator[tuple[str, bytes]]:
    """Name and PNG of each frame start … before stop; the display list is made in blocks to bound the memory."""
    sampler = Sampler(scene)
    for block in range(start, stop, BLOCK):
        last = min(block + BLOCK, stop)
        drawn = display_list(sampler, SampleTimes.frames(scene.fps, block, last))
        for k in range(last - block):
            yield f"frame-{block + k:05d}.png", draw_png(drawn, k, transparent, scale, pictures, deep)
