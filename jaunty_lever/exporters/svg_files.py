"""SVG: one frame, or the whole scene moving by itself."""

from collections.abc import Callable, Iterable, Iterator
from typing import IO, Any, ClassVar, Literal

from pydantic import Field

from jaunty_lever.core.display.display_list import DisplayList, display_list
from jaunty_lever.core.display.node import DisplayNode
from jaunty_lever.core.document.layers import PictureLayer
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

from .drawn import Drawn, Item, scene_of
from .exporter import Exporter, Options, Plan, Source, Use
from .frame_range import FrameRange
from .vectors.parts import left_out_of
from .vectors.svg import SvgWriter

MOST_FRAMES, MOST_COPIES = 3_000, 4_000


class OneFrame(Options):
    """Which frame, on what."""

    frame: int = Field(0, title="Frame", description="Which one.", json_schema_extra={"field": "frame-one"})
    transparent: bool = Field(False, title="without the background", description="Leave the scene's background out.")

    def checked(self, source: Source) -> int:
        """The frame. Raises Refused when it is not in the scene."""
        length = scene_of(source).length
        if not 0 <= self.frame < length:
            raise Refused(f"Frame {self.frame} is not in the scene, which has frames 0 to {length - 1}.", "frame")
        return self.frame


class SvgFrame(Exporter):
    """One frame as vectors."""

    name: ClassVar[str] = "svg-frame"
    title: ClassVar[str] = "SVG of a frame"
    does: ClassVar[str] = "One frame as shapes that can be drawn on: texts are outlines."
    verb: ClassVar[str] = "Save SVG"
    takes: ClassVar[Literal["scene", "project", "recipe"]] = "scene"
    media_type: ClassVar[str] = "image/svg+xml"
    ending: ClassVar[str] = ".svg"
    options: ClassVar[type[OneFrame]] = OneFrame
    uses: ClassVar[tuple[Use, ...]] = (Use("One frame, to draw on in"),)

    def plan(self, source: Source, options: OneFrame) -> Plan:
        return Plan(f"{source.name} {options.checked(source)}.svg", 1, tuple(left_out_of(scene_of(source))))

    def write(self, source: Source, options: OneFrame, target: IO[bytes], done: Callable[[int], None]) -> None:
        scene, frame = scene_of(source), options.checked(source)
        drawn = display_list(Sampler(scene), SampleTimes.frames(scene.fps, frame, frame + 1))
        pictures = source.project.footage if source.project else {}
        target.write(SvgWriter(drawn, pictures).write(options.transparent, source.name))
        done(1)


class MovingOptions(FrameRange):
    """What moves, on what."""

    transparent: bool = Field(False, title="without the background", description="Leave the scene's background out.")


class MovingVectors(Drawn):
    """A format of shapes that move by keys. Keys go over the whole of it, so it is made in one piece."""

    note: ClassVar[str] = "Motion becomes keys that stray by less than half a pixel; texts become outlines."
    verb: ClassVar[str] = "Write it"
    options: ClassVar[type[MovingOptions]] = MovingOptions

    def plan(self, source: Source, options: MovingOptions) -> Plan:
        first, end = options.range_in(scene_of(source))
        if end - first > MOST_FRAMES:
            raise Refused(
                f"It holds up to {MOST_FRAMES:,} frames, and these are {end - first:,}. Choose fewer, or a film.",
                "stop",
            )
        copies = sum(_copies(node) for node in self.first_frame(source, options).nodes)
        if copies > MOST_COPIES:
            raise Refused(f"{copies:,} copies would be too many to play as vectors; up to {MOST_COPIES:,} go.", "start")
        name = self.file_name(source, options, first, end)
        return Plan(name, end - first, tuple(self.left_out(source, options)))

    def first_frame(self, source: Source, options: MovingOptions) -> DisplayList:
        """What is drawn in the first frame."""
        scene, first = scene_of(source), options.range_in(scene_of(source))[0]
        return display_list(Sampler(scene), SampleTimes.frames(scene.fps, first, first + 1))

    def left_out(self, source: Source, options: MovingOptions) -> Iterator[str]:
        yield from left_out_of(scene_of(source))

    def pieces_of(self, source: Source, options: MovingOptions) -> list[tuple[int, int]]:
        return [options.range_in(scene_of(source))]

    def join(self, source: Source, options: MovingOptions, items: Iterable[Any], target: IO[bytes]) -> dict[str, Any]:
        (item,) = items
        target.write(item.pop("content"))
        return dict(item)


class SvgMoving(MovingVectors):
    """The scene as SVG that moves."""

    name: ClassVar[str] = "svg"
    title: ClassVar[str] = "Animated SVG"
    does: ClassVar[str] = "Plays in a browser by itself, sharp at any size: no script, nothing to load."
    media_type: ClassVar[str] = "image/svg+xml"
    ending: ClassVar[str] = ".svg"
    uses: ClassVar[tuple[Use, ...]] = (Use("For a page, as vectors that play by themselves"),)

    def left_out(self, source: Source, options: MovingOptions) -> Iterator[str]:
        yield from super().left_out(source, options)
        for layer in scene_of(source).index.layers.values():
            if isinstance(layer, PictureLayer) and layer.beyond.moves:
                yield f"What lies beyond the edge of {layer.name} stays as it is in the first frame."

    def items(self, source: Source, options: MovingOptions, first: int, end: int) -> Iterator[Item]:
        scene = scene_of(source)
        drawn = display_list(Sampler(scene), SampleTimes.frames(scene.fps, first, end), whole_lives=True)
        pictures = source.project.footage if source.project else {}
        writer = SvgWriter(drawn, pictures, scene.fps, scene.loops and end - first == scene.length)
        content = writer.write(options.transparent, source.name)
        yield end - first, {"content": content, "keys": writer.keys, "stray": writer.stray.most}


def _copies(node: DisplayNode) -> int:
    inside = sum(_copies(inner) for inner in node.nodes)
    return max(inside, 1) * node.fixed["copies"] if node.kind == "array" else inside
