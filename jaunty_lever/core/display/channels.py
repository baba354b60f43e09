"""Channels: the values of a display list, as float32 rows with the hash of their content."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..document.nodes import ParameterNode
from ..kernels.digest import digest_of

Rows = NDArray[np.float32]


@dataclass(frozen=True)
class Channel:
    """float32 rows (1 or frames, each · width), and the hash of its content: whoever has it already need not get it
    again.

    `each` is how many elements stand side by side in a row: 1 where all copies have the same.
    """

    rows: Rows
    key: str
    each: int = 1

    @cached_property
    def width(self) -> int:
        """How many numbers one element has."""
        return int(self.rows.shape[1]) // self.each

    @property
    def values(self) -> NDArray[np.float64]:
        """Its numbers as (moments or 1, elements or 1, width)."""
        return self.rows.astype(np.float64).reshape(len(self.rows), self.each, self.width)


@dataclass(frozen=True)
class ChannelSpec:
    """What a channel of a node is: how many numbers a row has (None: it depends), and what they mean."""

    width: int | None
    meaning: str


def channel(values: NDArray[np.float64]) -> Channel:
    """A channel of values (n or 1, width) or (elements or 1, n or 1, width); one row, or one element, where all are
    equal."""
    if values.ndim == 2:
        return made_of(np.ascontiguousarray(values, dtype=np.float32), 1)
    if values.shape[0] == 1:
        return made_of(np.ascontiguousarray(values[0], dtype=np.float32), 1)
    return side_by_side(np.ascontiguousarray(values.transpose(1, 0, 2), dtype=np.float32))


def resting(node: ParameterNode, values: NDArray[np.float64], factor: float) -> Channel:
    """The channel of a parameter that rests at values (1, 1, width), times a factor; remembered on the parameter, which
    never changes."""
    known: dict[tuple[str, int, float], Channel] = node.parameter.__dict__.setdefault("_channels", {})
    asked = node.spec.kind, node.spec.components, factor
    made = known.get(asked)
    if made is None:
        made = known[asked] = channel(values * factor)
    return made


def side_by_side(rows: NDArray[np.float32]) -> Channel:
    """A channel of rows (n, elements, width); one element where all are equal."""
    count, each, width = rows.shape
    # Elements that differ mostly do so at once.
    if each == 1 or (np.array_equal(rows[0, 0], rows[0, -1]) and bool(np.all(rows == rows[:, :1]))):
        return made_of(np.ascontiguousarray(rows[:, 0]), 1)
    return made_of(rows.reshape(count, each * width), each)


def made_of(rows: Rows, each: int) -> Channel:
    """A channel of rows with so many elements side by side; one row where all are equal."""
    # What moves mostly ends elsewhere than it begins: that is seen at a glance.
    if rows.shape[0] > 1 and np.array_equal(rows[0], rows[-1]) and bool(np.all(rows == rows[0])):
        rows = rows[:1]
    # Rows of one length are not those of another, whatever their numbers.
    return Channel(rows, f"{digest_of(rows).hex()}-{rows.shape[0]}-{rows.shape[1]}-{each}", each)
