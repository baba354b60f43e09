"""What the formats have in common that write values by frame as columns: which are asked for."""

from abc import abstractmethod
from collections.abc import Callable, Iterator
from typing import IO, ClassVar, Literal

from pydantic import Field

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.formats.values import Asked, chosen_copies, head_of

from .exporter import Exporter, Plan, Source
from .frame_range import FrameRange

MOST_PARAMETERS = 2000


class ValueOptions(FrameRange):
    """Which values are written, and how often."""

    parameter: list[str] = Field(
        default_factory=list,
        max_length=MOST_PARAMETERS,
        title="Values",
        description="Such as “Lantern 3/opacity”; may be given again.",
        json_schema_extra={"field": "parameters"},
    )
    step: float = Field(
        1.0,
        ge=0.01,
        le=1000,
        title="Every",
        description="Frames from one line to the next.",
        json_schema_extra={"unit": "frames", "mistake": "The step lies between 0.01 and 1,000 frames."},
    )
    copies: str = Field(
        "all",
        max_length=40,
        title="Copies",
        description="Of values in arrays, a column a copy: all, 3, or 0:10 for 0 to 9.",
    )


class ValueExporter(Exporter):
    """A format of values by frame."""

    takes: ClassVar[Literal["scene", "project", "recipe"]] = "scene"
    options: ClassVar[type[ValueOptions]] = ValueOptions

    def plan(self, source: Source, options: ValueOptions) -> Plan:
        assert source.scene is not None
        if not options.parameter:
            raise Refused("Tick at least one parameter to write.", "parameter")
        columns = self._columns(source.scene, options)
        chosen_copies(options.copies)
        head_of(Sampler(source.scene), columns, options.copies, SampleTimes.frames(source.scene.fps, 0, 1))
        options.range_in(source.scene)
        return Plan(source.scene.name + self.ending)

    @abstractmethod
    def written(self, scene: Scene, columns: Asked, options: ValueOptions, first: int, end: int) -> Iterator[str]:
        """The file, piece by piece."""

    def write(self, source: Source, options: ValueOptions, target: IO[bytes], done: Callable[[int], None]) -> None:
        for piece in self.pieces(source, options):
            target.write(piece)

    def pieces(self, source: Source, options: ValueOptions) -> Iterator[bytes]:
        assert source.scene is not None
        columns = self._columns(source.scene, options)
        for piece in self.written(source.scene, columns, options, *options.range_in(source.scene)):
            yield piece.encode()

    @staticmethod
    def _columns(scene: Scene, options: ValueOptions) -> Asked:
        """Parameters by id or by name, with a component or None for all. Raises Refused for one that is not there."""
        found: Asked = []
        for one in options.parameter:
            if scene.index.target(one) is not None:
                found.append((one, None))
                continue
            try:
                node, component = scene.index.by_name(one)
            except LookupError as error:
                gone = "One of these parameters is no longer there."
                raise Refused(str(error.args[0]) if "/" in one else gone, one) from None
            found.append((node.id, component))
        return found
