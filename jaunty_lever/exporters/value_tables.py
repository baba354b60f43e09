"""Values by frame as columns, for the formats that write them: which are asked for, what they are called, what they are."""

from abc import abstractmethod
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import IO, Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside

from .exporter import Exporter, Plan, Source
from .frame_range import FrameRange

MOST_COLUMNS = 40_000
MOST_PARAMETERS = 2000

Column = list[float | int] | list[str]
Asked = list[tuple[str, int | None]]
"""Parameters by id, each with a component or None for all."""


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


def chosen_copies(text: str) -> slice | None:
    """Which copies a text chooses: all (None), one, or a range whose end is not included. Raises Refused."""
    plain = text.replace(" ", "")
    if plain.casefold() in ("all", ""):
        return None
    parts = plain.split(":")
    if len(parts) > 2 or not all(part.isdecimal() for part in parts if part) or not any(parts):
        raise Refused(f"“{text}” chooses no copies. Write all, a number such as 3, or a range such as 0:10.", "copies")
    first = int(parts[0] or 0)
    if len(parts) == 1:
        return slice(first, first + 1)
    return slice(first, int(parts[1]) if parts[1] else None)


@dataclass(frozen=True)
class _Values:
    """What one parameter puts into the table: its samples, and the head of each element's columns."""

    node: ParameterNode
    component: int | None
    samples: SampleTimes
    copies: tuple[str, ...]


def head_of(sampler: Sampler, columns: Asked, copies: str, samples: SampleTimes) -> tuple[list[str], list[_Values]]:
    """The table's head, and what stands below it. Raises Refused for more columns than there may be."""
    head, found, chosen = ["frame", "seconds"], [], chosen_copies(copies)
    for parameter, component in columns:
        node = sampler.index.target(parameter)
        assert node is not None
        where, named = _copies(sampler, node, chosen, samples)
        name, axes = node.label.replace(" / ", "/"), node.spec.component_names or ("",)
        words = node.spec.kind in ("text", "choice")
        parts = [""] if words else [axes[k] for k in (range(len(axes)) if component is None else [component])]
        if len(head) + len(parts) * len(named) > MOST_COLUMNS:
            raise Refused(
                f"This would be more than {MOST_COLUMNS:,} columns. Choose some of the copies, such as 0:100.", "copies"
            )
        for copy in named:
            head += [f"{name}{(' ' if copy else '.') + part if part else ''}{copy}" for part in parts]
        found.append(_Values(node, component, where, named))
    return head, found


def _copies(
    sampler: Sampler, node: ParameterNode, chosen: slice | None, samples: SampleTimes
) -> tuple[SampleTimes, tuple[str, ...]]:
    """The samples of the chosen copies of a parameter, and what stands behind each one's name: ` [12]`, ` [2, 12]`."""
    arrays = sampler.index.arrays_of(node)
    numbers: dict[str, NDArray[np.int64]] = {}
    if not arrays:
        return samples, ("",)
    for k, array in enumerate(arrays):
        around: dict[str, Any] = {outer: numbers[outer] for outer in arrays[:k]}
        many = sampler.layouts.copies(array, inside(sampler, sampler.index.around(array), samples, around))
        numbers[array] = np.arange(many)[chosen if chosen is not None else slice(None)]
    where = inside(sampler, node.id, samples, numbers)
    names: list[tuple[int, ...]] = [()]
    for array in arrays:
        names = [(*before, int(number)) for before in names for number in numbers[array]]
    return where, tuple(f" [{', '.join(map(str, one))}]" for one in names)


@dataclass(frozen=True)
class ValueTable:
    """Columns of values, each with its name; the first two are the frames and the seconds."""

    head: list[str]
    columns: list[NDArray[np.float64] | list[str]]

    @property
    def lines(self) -> int:
        """How many values each column has."""
        return len(self.columns[0])

    def part(self, first: int, last: int) -> list[Column]:
        """Some lines: numbers at full precision, whole ones without a point."""
        return [one[first:last] if isinstance(one, list) else _figures(one[first:last]) for one in self.columns]


def value_table(scene: Scene, columns: Asked, start: float, stop: float, step: float, copies: str) -> ValueTable:
    """Every asked component for the frames start … before stop, `step` frames apart.

    Parameters in arrays have a column for each of the chosen `copies` (see `chosen_copies`), such as
    `Pennants/copy position x [12]`.
    """
    sampler = Sampler(scene)
    samples = SampleTimes.frames(scene.fps, start, stop, step)
    count = len(samples.times)
    head, asked = head_of(sampler, columns, copies, samples)
    values: list[NDArray[np.float64] | list[str]] = []
    for one in asked:
        spec, many = one.node.spec, len(one.copies)
        if not many:
            continue
        if spec.kind in ("text", "choice"):
            words = _words(sampler, one, count * many)
            values += [words[k * count : (k + 1) * count] for k in range(many)]
            continue
        made = sampler.evaluate(one.node.id, one.samples)
        array = np.broadcast_to(made, (many, count, spec.components))
        parts = range(spec.components) if one.component is None else [one.component]
        values += [array[k, :, part] for k in range(many) for part in parts]
    return ValueTable(head, [start + step * np.arange(count, dtype=np.float64), samples.times, *values])


def _words(sampler: Sampler, one: _Values, count: int) -> list[str]:
    spec = one.node.spec
    if spec.kind == "text":
        texts, which = sampler.texts(one.node.id, one.samples)
    else:
        texts = spec.options
        made = sampler.evaluate(one.node.id, one.samples)
        whole = np.broadcast_to(made, (*one.samples.shape, made.shape[2]))[..., 0].ravel()
        which = np.clip(np.rint(whole), 0, len(texts) - 1).astype(np.int64)
    return [texts[k] for k in np.broadcast_to(which, (count,)).tolist()]


def _figures(column: NDArray[np.float64]) -> list[float | int]:
    return [int(v) if v.is_integer() and abs(v) < 1e15 else v for v in column.tolist()]
