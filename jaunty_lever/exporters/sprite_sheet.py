"""Sprite sheet: all frames in one PNG, and where each of them lies as JSON."""

import io
import json
import zipfile
from collections.abc import Iterable, Iterator
from typing import IO, Any, ClassVar

from PIL import Image
from pydantic import Field

from jaunty_lever.core.edits import Refused
from jaunty_lever.drawing.frames import images, png

from .drawn import Drawn, DrawnOptions, Item, scene_of
from .exporter import Plan, Source, Use

MOST_SIDE = 16_384
_DATE = (2000, 1, 1, 0, 0, 0)


class SheetOptions(DrawnOptions):
    """How frames are laid out."""

    size: float = Field(
        0.25,
        title="Size",
        description="Of each frame; 1 is the scene's own size.",
        json_schema_extra={"field": "size", "choices": [0.125, 0.25, 0.5, 1]},
    )
    every: int = Field(1, ge=1, le=1000, title="Of so many frames one", description="2 takes every second frame.")
    columns: int = Field(
        0,
        ge=0,
        le=1000,
        title="Columns",
        description="0 makes the sheet about square.",
        json_schema_extra={"unit": "0 about square"},
    )
    padding: int = Field(
        2, ge=0, le=256, title="Padding", description="Empty pixels round each frame.", json_schema_extra={"unit": "px"}
    )
    transparent: bool = Field(True, title="without the background", description="Leave the scene's background out.")


class SpriteSheet(Drawn):
    """All frames in one picture."""

    name: ClassVar[str] = "sprite-sheet"
    title: ClassVar[str] = "Sprite sheet"
    does: ClassVar[str] = "All frames in one PNG, and a JSON that tells where each lies."
    verb: ClassVar[str] = "Draw the sheet"
    media_type: ClassVar[str] = "application/zip"
    ending: ClassVar[str] = ".zip"
    options: ClassVar[type[SheetOptions]] = SheetOptions
    uses: ClassVar[tuple[Use, ...]] = (Use("For a game"),)

    def plan(self, source: Source, options: SheetOptions) -> Plan:
        plan = super().plan(source, options)
        width, height = self._layout(source, options)[2:4]
        if max(width, height) > MOST_SIDE:
            raise Refused(
                f"The sheet would have {width:,} × {height:,} pixels; no side may pass {MOST_SIDE:,}. Take "
                "fewer frames, or smaller ones.",
                "size",
            )
        return plan

    def file_name(self, source: Source, options: Any, first: int, end: int) -> str:
        return f"{source.name} sheet.zip"

    def left_out(self, source: Source, options: SheetOptions) -> Iterator[str]:
        yield from super().left_out(source, options)
        if options.every > 1:
            yield f"Of {options.every} frames one is taken."

    def _layout(self, source: Source, options: SheetOptions) -> tuple[int, int, int, int, int, int]:
        """Frames, columns, width and height of the sheet, width and height of a frame."""
        scene = scene_of(source)
        first, end = options.range_in(scene)
        count = -(-(end - first) // options.every)
        wide, high = self.look(source, options).size(scene.width, scene.height)
        cell_wide, cell_high = wide + 2 * options.padding, high + 2 * options.padding
        columns = min(options.columns or max(1, round((count * cell_high / cell_wide) ** 0.5)), count)
        return count, columns, columns * cell_wide, -(-count // columns) * cell_high, wide, high

    def items(self, source: Source, options: SheetOptions, first: int, end: int) -> Iterator[Item]:
        start = options.range_in(scene_of(source))[0]
        drawn = images(scene_of(source), first, end, self.look(source, options))
        for number, image in enumerate(drawn, first):
            yield 1, (number, png(image)) if (number - start) % options.every == 0 else None

    def join(self, source: Source, options: SheetOptions, items: Iterable[Any], target: IO[bytes]) -> None:
        scene, (_, columns, width, height, wide, high) = scene_of(source), self._layout(source, options)
        sheet, frames, pad = Image.new("RGBA", (width, height)), [], options.padding
        for place, (number, content) in enumerate(item for item in items if item is not None):
            x, y = place % columns * (wide + 2 * pad) + pad, place // columns * (high + 2 * pad) + pad
            sheet.paste(Image.open(io.BytesIO(content)), (x, y))
            frames.append(
                {"frame": number, "time": round(number / scene.fps, 6), "x": x, "y": y, "width": wide, "height": high}
            )
        told = {
            "image": f"{_plain(source.name)}.png",
            "width": width,
            "height": height,
            "scale": options.size,
            "columns": columns,
            "padding": pad,
            "frames_per_second": scene.fps / options.every,
            "frames": frames,
        }
        picture = io.BytesIO()
        sheet.save(picture, "PNG")
        with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
            archive.writestr(zipfile.ZipInfo(str(told["image"]), _DATE), picture.getvalue())
            archive.writestr(zipfile.ZipInfo(f"{_plain(source.name)}.json", _DATE), json.dumps(told, indent=1))


def _plain(name: str) -> str:
    """A name that is a file's on any system."""
    return "".join("_" if c in '/\\:*?"<>|' or ord(c) < 32 else c for c in name)[:100].strip(" .") or "sheet"
