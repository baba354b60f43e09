"""Values by frame as columns: which are asked for, what they are called, what they are; and as CSV."""

import csv
import io
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.document.refused import Refused
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.evaluation.taking import inside

MOST_COLUMNS = 40_000
AT_ONCE = 4096
_FORMULA_SIGNS = ("=", "+", "-", "@", "\t", "\r")

Column = list[float | int] | list[str]
Asked = list[tuple[str, int | None]]
"""Parameters by id, each with a component or None for all."""


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


def csv_of(
    scene: Scene, columns: Asked, start: float, stop: float, step: float = 1.0, copies: str = "all"
) -> Iterator[str]:
    """CSV in pieces of many lines: frame, seconds, then every asked component. See `value_table`."""
    table = value_table(scene, columns, start, stop, step, copies)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([as_text(cell) for cell in table.head])
    for first in range(0, max(table.lines, 1), AT_ONCE):
        cells = table.part(first, first + AT_ONCE)
        plain = [[as_text(cell) for cell in one] if one and isinstance(one[0], str) else one for one in cells]
        writer.writerows(zip(*plain, strict=True))
        yield out.getvalue()
        out.seek(0)
        out.truncate()


def as_text(cell: object) -> str:
    """A text that a spreadsheet takes for a text: one that begins like a formula gets an apostrophe before it."""
    text = str(cell)
    return f"'{text}" if text[:1] in _FORMULA_SIGNS else text
