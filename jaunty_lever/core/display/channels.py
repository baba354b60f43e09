"""Channels: the values of a display list, as float32 rows with the hash of their content."""

from dataclasses import dataclass
from hashlib import blake2b

import numpy as np
from numpy.typing import NDArray

Rows = NDArray[np.float32]


@dataclass(frozen=True)
class Channel:
    """float32 rows (1 or frames, width), and the hash of its content: whoever has it already need not get it again."""

    rows: Rows
    key: str


@dataclass(frozen=True)
class ChannelSpec:
    """What a channel of a node is: how many numbers a row has (None: it depends), and what they mean."""

    width: int | None
    meaning: str


def channel(values: NDArray[np.float64]) -> Channel:
    """A channel of values (n or 1, width); one row when all rows are equal."""
    rows = np.ascontiguousarray(values, dtype=np.float32)
    if rows.shape[0] > 1 and bool(np.all(rows == rows[0])):
        rows = rows[:1]
    key = blake2b(rows.tobytes(), digest_size=12)
    key.update(repr(rows.shape).encode())
    return Channel(rows, key.hexdigest())
