"""Kernels over long arrays, split over one shared pool of threads.

The kernels are compiled with `nogil`; each piece writes its own stretch of the output, so the result
does not depend on the number of threads.
"""

import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from functools import cache
from math import isfinite
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .compiled import Filled, Floats, kernel
from .memory import keep_freed

keep_freed()

_LARGEST = 1.7976931348623157e308
_NOTHING = np.zeros((0, 0))
LEAST = 1 << 15
"""Samples below which handing work to another thread costs more than it saves."""


WORKERS = os.cpu_count() or 1


@cache
def pool() -> ThreadPoolExecutor:
    """The threads that all kernels share."""
    return ThreadPoolExecutor(max_workers=WORKERS, thread_name_prefix="kernel")


def laid_out(part: Floats, whole: tuple[int, ...]) -> Floats:
    """One number for each of a whole, or one for all, side by side: as kernels take them."""
    return part.reshape(1) if part.size == 1 else np.ascontiguousarray(np.broadcast_to(part, whole)).ravel()


def over(
    count: int, kernel: Callable[..., Any], *arguments: Any, each: int = 1, looked: "Floats | None" = None
) -> bool:
    """Run `kernel(first, last, *arguments)` over the samples 0..count, in pieces at once; `each`: as how many samples
    one of them counts, where it is many things. Whether all that it wrote into `looked` (components, count) is finite:
    each piece is looked through while it is at hand."""
    if looked is None and count * each < 2 * LEAST:
        kernel(0, count, *arguments)
        return True
    found = np.zeros(1, dtype=np.int64)
    part = _NOTHING if looked is None else looked
    # More pieces than threads: a core that is busy elsewhere then holds up only its last piece.
    pieces = min(WORKERS * 4, count * each // LEAST, count)
    # As many for each of them, so that none has to wait for one that was left over.
    pieces = pieces // WORKERS * WORKERS or pieces
    if WORKERS == 1 or pieces < 2:
        kernel(0, count, *arguments)
        _seek_faults(0, count, part, found)
        return not found[0]
    left = iter(range(pieces))

    def work() -> None:
        # Each takes the next piece that nobody has; asking an iterator for its next is one step in Python.
        for k in left:
            first, last = count * k // pieces, count * (k + 1) // pieces
            kernel(first, last, *arguments)
            if looked is not None:
                _seek_faults(first, last, part, found)

    jobs = [pool().submit(work) for _ in range(WORKERS - 1)]
    work()
    for job in jobs:
        # What has not begun by now finds nothing left to do.
        if not job.cancel():
            job.result()
    return not found[0]


@kernel
def _seek_faults(first: int, last: int, rows: Floats, found: Filled) -> None:
    for row in rows:
        bad = 0
        for value in row[first:last]:
            bad |= not (abs(value) <= _LARGEST)
        if bad:
            found[0] = 1


def all_finite(values: NDArray[np.float64]) -> bool:
    """Whether no value is infinite or not a number."""
    if values.size < LEAST and isfinite(np.add.reduce(values, axis=None)):
        # A sum shows each of them; that of great numbers may be infinite though none of them is.
        return True
    found = np.zeros(1, dtype=np.int64)
    across = values.T
    # Rows or columns that lie side by side are looked through at once.
    whole = [part.reshape(1, -1) for part in (values, across) if part.flags.c_contiguous][:1]
    for column in whole or (line[None] for line in across):
        over(column.shape[1], _seek_faults, column, found)
    return not found[0]


def column(values: NDArray[np.float64], component: int) -> NDArray[np.float64]:
    """One component of values (n or 1, components or 1) as a contiguous array (n or 1,)."""
    if values.shape[1] == 1:
        return values.ravel()
    return np.ascontiguousarray(values[:, min(component, values.shape[1] - 1)])


def by_component(
    kernel: Callable[..., Any], count: int, components: int, values: tuple[NDArray[np.float64], ...], *fixed: Any
) -> NDArray[np.float64]:
    """`kernel(first, last, *columns, *fixed, out)` over each component; (count, components).

    `values` are arrays (count or 1, components or 1), handed to the kernel as arrays (count or 1,).
    """
    out = np.empty((components, count))
    for c in range(components):
        over(count, kernel, *(column(part, c) for part in values), *fixed, out[c])
    return out.T


def rows(*values: NDArray[np.float64]) -> int:
    """How many rows a result has that depends on nothing but these: 1 when none of them varies."""
    return max(map(len, values))
