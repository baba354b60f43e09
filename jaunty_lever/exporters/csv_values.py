"""CSV: parameters by frame."""

import csv
import io
from collections.abc import Callable, Iterator
from typing import IO, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler

from .exporter import Exporter, Plan, Source
from .frame_range import FrameRange

AT_ONCE = 4096
MOST_COLUMNS = 2000
_FORMULA_SIGNS = ("=", "+", "-", "@", "\t", "\r")


class CsvOptions(FrameRange):
    """Which values are written, and how often."""

    parameter: list[str] = Field(
        default_factory=list,
        max_length=MOST_COLUMNS,
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


class CsvValues(Exporter):
    """A table of values, one line a frame."""

    name: ClassVar[str] = "csv"
    title: ClassVar[str] = "CSV"
    does: ClassVar[str] = "One line a frame, a column for each value."
    note: ClassVar[str] = (
        "Names and texts that begin with = + - or @ get an apostrophe (') in front, so that a spreadsheet takes them as "
        "text and not as a formula."
    )
    verb: ClassVar[str] = "Save CSV"
    takes: ClassVar[Literal["scene", "project", "recipe"]] = "scene"
    media_type: ClassVar[str] = "text/csv; charset=utf-8"
    ending: ClassVar[str] = ".csv"
    options: ClassVar[type[CsvOptions]] = CsvOptions

    def plan(self, source: Source, options: CsvOptions) -> Plan:
        assert source.scene is not None
        if not options.parameter:
            raise Refused("Tick at least one parameter to write.", "parameter")
        self._columns(source.scene, options)
        options.frames(source.scene)
        return Plan(f"{source.scene.name}.csv")

    def write(self, source: Source, options: CsvOptions, target: IO[bytes], done: Callable[[int], None]) -> None:
        for piece in self.pieces(source, options):
            target.write(piece)

    def pieces(self, source: Source, options: CsvOptions) -> Iterator[bytes]:
        assert source.scene is not None
        first, end = options.frames(source.scene)
        for piece in write(source.scene, self._columns(source.scene, options), first, end, options.step):
            yield piece.encode()

    @staticmethod
    def _columns(scene: Scene, options: CsvOptions) -> list[tuple[str, int | None]]:
        """Parameters by id or by name, with a component or None for all. Raises Refused for one that is not there."""
        found: list[tuple[str, int | None]] = []
        for one in options.parameter:
            if one in scene.index.parameters:
                found.append((one, None))
                continue
            try:
                node, component = scene.index.by_name(one)
            except LookupError as error:
                gone = "One of these parameters is no longer there."
                raise Refused(str(error.args[0]) if "/" in one else gone, one) from None
            found.append((node.id, component))
        return found


def write(
    scene: Scene, columns: list[tuple[str, int | None]], start: float, stop: float, step: float = 1.0
) -> Iterator[str]:
    """CSV in pieces of many lines: frame, seconds, then every asked component, for the frames start … before stop.

    `columns` names parameters by id, with a component or None for all. Values keep their full precision.
    """
    sampler = Sampler(scene)
    samples = SampleTimes.frames(scene.fps, start, stop, step)
    count = len(samples.times)
    head = ["frame", "seconds"]
    values: list[NDArray[np.float64] | list[str]] = []
    for parameter, component in columns:
        node = scene.index.parameters[parameter]
        name = node.label.replace(" / ", "/")
        if node.spec.kind in ("text", "choice"):
            head.append(name)
            values.append(_words(sampler, parameter, samples, count))
            continue
        array = np.broadcast_to(sampler.track(parameter, samples), (count, node.spec.components))
        names = node.spec.component_names or ("",)
        for k in range(array.shape[1]) if component is None else [component]:
            head.append(f"{name}.{names[k]}" if names[k] else name)
            values.append(array[:, k])
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([as_text(cell) for cell in head])
    places, seconds = start + step * np.arange(count, dtype=np.float64), samples.times
    for first in range(0, count, AT_ONCE):
        part = slice(first, first + AT_ONCE)
        cells: list[list[float | int] | list[str]] = [
            one[part] if isinstance(one, list) else _figures(one[part]) for one in (places, seconds, *values)
        ]
        writer.writerows(zip(*cells, strict=True))
        yield out.getvalue()
        out.seek(0)
        out.truncate()
    if not count:
        yield out.getvalue()


def _words(sampler: Sampler, parameter: str, samples: SampleTimes, count: int) -> list[str]:
    spec = sampler.index.parameters[parameter].spec
    if spec.kind == "text":
        texts, which = sampler.texts(parameter, samples)
    else:
        texts = spec.options
        which = np.clip(np.rint(sampler.track(parameter, samples)[:, 0]), 0, len(texts) - 1).astype(np.int64)
    texts = tuple(as_text(one) for one in texts)
    return [texts[k] for k in np.broadcast_to(which, (count,)).tolist()]


def as_text(cell: str) -> str:
    """A text that a spreadsheet takes for a text: one that begins like a formula gets an apostrophe before it."""
    return f"'{cell}" if cell[:1] in _FORMULA_SIGNS else cell


def _figures(column: NDArray[np.float64]) -> list[float | int]:
    """Numbers at full precision, whole ones without a point."""
    return [int(v) if v.is_integer() and abs(v) < 1e15 else v for v in column.tolist()]
