"""What is drawn frame by frame: made in pieces of so many frames, in this process or others, and joined in order.

A piece depends on nothing but the scene, the options and its frames, so it is the same wherever and whenever it is
made.
"""

from abc import abstractmethod
from collections.abc import Callable, Iterable, Iterator
from typing import IO, Any, ClassVar, Literal

from pydantic import Field

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.drawing.frames import Look

from .exporter import Exporter, Plan, Source
from .frame_range import FrameRange

MOST_SIDE = 8192

Item = tuple[int, Any]
"""How many frames it stands for, and plain data (numbers, texts, bytes, lists) for `join`."""


class DrawnOptions(FrameRange):
    """Options of what is drawn: which frames, and how large."""

    size: float = Field(
        1.0,
        title="Size",
        description="1 is the scene's own size.",
        json_schema_extra={"field": "size", "choices": [0.5, 1, 2]},
    )


class Drawn(Exporter):
    """A format that is drawn in pieces."""

    draws: ClassVar[bool] = True
    takes: ClassVar[Literal["scene", "project", "recipe"]] = "scene"
    span: ClassVar[int] = 60
    """Frames of a piece."""
    even: ClassVar[bool] = False
    """Whether both sides must be even numbers of pixels."""

    def look(self, source: Source, options: Any) -> Look:
        """How its frames are drawn."""
        pictures = source.project.footage if source.project else {}
        return Look(getattr(options, "transparent", False), options.size, pictures, even=self.even)

    def plan(self, source: Source, options: Any) -> Plan:
        """Raises Refused, with the option's name, when it is too large, or the frames are not in the scene."""
        scene = scene_of(source)
        first, end = options.range_in(scene)
        side = max(scene.width, scene.height) * options.size
        if not 0.05 <= options.size <= 4 or side > MOST_SIDE:
            raise Refused("The size lies between 5 % and 400 %, and no side may pass 8,192 pixels.", "size")
        return Plan(self.file_name(source, options, first, end), end - first, tuple(self.left_out(source, options)))

    def file_name(self, source: Source, options: Any, first: int, end: int) -> str:
        """What its file is called."""
        return source.name + self.ending

    def left_out(self, source: Source, options: Any) -> Iterator[str]:
        """What it will not carry, each in a sentence."""
        scene, wide = scene_of(source), self.look(source, options)
        asked = tuple(round(side * options.size) for side in (scene.width, scene.height))
        got = wide.size(scene.width, scene.height)
        if got != asked:
            yield (
                f"Both sides must be even: {asked[0]} × {asked[1]} becomes {got[0]} × {got[1]}, stretched by "
                "less than a pixel."
            )

    def pieces_of(self, source: Source, options: Any) -> list[tuple[int, int]]:
        """The frames of each piece: first, and the one after the last."""
        first, end = options.range_in(scene_of(source))
        return [(start, min(start + self.span, end)) for start in range(first, end, self.span)]

    @abstractmethod
    def items(self, source: Source, options: Any, first: int, end: int) -> Iterator[Item]:
        """What the frames first … before end become."""

    @abstractmethod
    def join(self, source: Source, options: Any, items: Iterable[Any], target: IO[bytes]) -> dict[str, Any] | None:
        """Write the file from the data of all items, in order. What came of it that is worth telling, by name."""

    def write(self, source: Source, options: Any, target: IO[bytes], done: Callable[[int], None]) -> None:
        """One piece after the other, in this process."""

        def made() -> Iterator[Any]:
            count = 0
            for first, end in self.pieces_of(source, options):
                for frames, data in self.items(source, options, first, end):
                    yield data
                    count += frames
                    done(count)

        self.join(source, options, made(), target)


def scene_of(source: Source) -> Scene:
    """The scene of what is taken out, for what takes scenes."""
    assert source.scene is not None
    return source.scene
