"""Moments of many elements, as many of each as there are: side by side, with the row that each belongs to."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Times = NDArray[np.float64]
Rows = NDArray[np.int64]
States = NDArray[np.int64]

_AT_ONCE = 1 << 19
"""Samples that are asked for together."""


@dataclass(frozen=True)
class Ragged:
    """Moments (n,), those of a row after those of the row before, in order; and the row of each (n,)."""

    rows: Rows
    times: Times

    @classmethod
    def of_all(cls, count: int, times: Times) -> "Ragged":
        """The same moments for each of so many rows."""
        return cls(np.repeat(np.arange(count), len(times)), np.tile(times, count))

    def of(self, row: int) -> Times:
        """The moments of one row."""
        first, last = np.searchsorted(self.rows, (row, row + 1))
        return self.times[first:last]

    def some(self, chosen: NDArray[np.bool_]) -> "Ragged":
        """Some of them."""
        return Ragged(self.rows[chosen], self.times[chosen])

    def spread(self, count: int) -> "Ragged":
        """Those of a single row, for each of so many."""
        return self if count == 1 else Ragged.of_all(count, self.times)

    def between(self, low: Rows, high: Rows) -> "Ragged":
        """Those from low to high, (rows,)."""
        return self.some((self.times >= low[self.rows]) & (self.times <= high[self.rows]))

    @property
    def nbytes(self) -> int:
        """Bytes that they take."""
        return self.rows.nbytes + self.times.nbytes


NOTHING = Ragged(np.zeros(0, dtype=np.int64), np.zeros(0))


def union(*parts: Ragged) -> Ragged:
    """All moments of several, each once in its row."""
    some = [part for part in parts if len(part.times)]
    if not some:
        return NOTHING
    rows, times = np.concatenate([part.rows for part in some]), np.concatenate([part.times for part in some])
    order = np.lexsort((times, rows))
    rows, times = rows[order], times[order]
    fresh = np.ones(len(rows), dtype=bool)
    fresh[1:] = (rows[1:] != rows[:-1]) | (times[1:] != times[:-1])
    return Ragged(rows[fresh], times[fresh])


Ask = Callable[[Rows, Times], "States | None"]
"""States (rows · n, width) of some rows, one after the other, at moments (n,) of all of them or (rows, n); None: all
alike."""


def states_of(moments: Ragged, ask: Ask) -> States:
    """States (n, width) at moments: rows that ask for the same, or for about as many, are asked together."""
    used, starts, counts = np.unique(moments.rows, return_index=True, return_counts=True)
    classes = np.ceil(np.log2(np.maximum(counts, 1))).astype(np.int64) if len(used) else counts
    parts: list[tuple[Rows, States]] = []
    for size in np.unique(classes):
        rows = np.flatnonzero(classes == size)
        most = int(counts[rows].max())
        at_once = max(1, _AT_ONCE // most)
        for k in range(0, len(rows), at_once):
            some = rows[k : k + at_once]
            where = starts[some][:, None] + np.minimum(np.arange(most), counts[some][:, None] - 1)
            times = moments.times[where]
            same = len(some) == 1 or bool((times == times[0]).all())
            states = ask(used[some], np.ascontiguousarray(times[0]) if same else times)
            if states is not None:
                # What a row has fewer of was asked for again at its end.
                held = (np.arange(most) < counts[some][:, None]).ravel()
                parts.append((where.ravel()[held], states[held]))
    width = max((states.shape[1] for _, states in parts), default=0)
    made = np.zeros((len(moments.times), width), dtype=np.int64)
    for places, states in parts:
        made[places, : states.shape[1]] = states
    return made
