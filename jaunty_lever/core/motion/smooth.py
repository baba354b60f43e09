"""Smooth: everything before it, averaged over a moving window of time.

The window is a Gaussian, cut off at two standard deviations. What comes in is taken in cells of absolute time, so
many to a window that each swing of it has several: one sample stands for a cell in which it runs smoothly, the
mean over its pieces for one in which it jumps or bends, or of which nothing is known. For a still length each grid
point's average is worked out once and the asked times lie on cubics through four of them. The grid depends on the
length and on what comes in alone, so every order of asking gives the same numbers, and the cost does not grow with
the length. A length that changes with time has no grid: there each moment's window is sampled by itself.

The result lies within a thousandth of the span of what comes in of the true average, wherever it swings at most
MOST_CELLS/16 times in a window; swings that are faster leave less than that behind anyway.
"""

from math import ceil, inf
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.modifier import Modifier
from ..document.notes import Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import Pace, PeriodContext, Periodicity, Stretch, joined
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.quantity import plain_number
from ..kernels.compiled import Filled, Floats, Whole, kernel
from ..kernels.parallel import column, over
from .panels import NODES, WEIGHTS

LEAST_CELLS, MOST_CELLS = 24, 4096
BROKEN_CELLS = 96
"""Cells to a window of what jumps or bends."""
_A_SWING = 16
_MANY = 128 * _A_SWING
_SHORTEST = 1e-4
_AT_ONCE = 1 << 18
_FINER = 6
_CLOSE_ENOUGH = 1e-5

Times = NDArray[np.float64]


def bell(cells: int) -> Times:
    """Weights of a window's cells, which add up to 1; the standard deviation is a quarter of the window."""
    offsets = (np.arange(cells) + 0.5) / cells - 0.5
    made = np.exp(-0.5 * (offsets * 4.0) ** 2)
    return np.asarray(made / made.sum())


class Smooth(Modifier):
    """Take the edges off: everything before it is averaged over a stretch of time around now."""

    title: ClassVar[str] = "Smooth"
    purpose: ClassVar[str] = "shape it"
    chain_limit: ClassVar[int] = 3
    does: ClassVar[str] = "Takes the edges off, by averaging over time."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = (
        "out = the mean of everything before it over length seconds around t − lag, "
        "weighted by a Gaussian with a standard deviation of length/4",
    )
    faults: ClassVar[tuple[str, ...]] = ("The length is below 0.",)
    example: ClassVar[dict[str, Any]] = {
        "chain": [{"kind": "wave", "shape": "square", "amplitude": 40, "frequency": 0.7}],
        "settings": {"length": 0.6},
    }

    kind: Literal["smooth"] = "smooth"
    length: Parameter = spec(
        0.3, "time", label="Length", help="Over how much time it averages.", low=0, high=4, step=0.02, main=True
    )
    lag: Parameter = spec(
        0.0,
        "time",
        label="Lag",
        help="How much later the window lies; half the length looks only back.",
        low=0,
        high=2,
        step=0.02,
        main=True,
    )

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        still = all((part := context.setting(name)) is not None and part.still for name in ("length", "lag"))
        return incoming if still else None

    def takes_at_once(self) -> bool:
        return False

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        centres, half = context.times - context.number("lag")[:, 0], np.maximum(context.number("length")[:, 0], 0) / 2
        return incoming.passed(centres - half), incoming.passed(centres + half)

    def lasts(self, incoming: Stretch | None, context: Pace) -> Stretch | None:
        length, lag = self.length.constant_value, self.lag.constant_value
        if self.length.moves or self.lag.moves or not isinstance(length, float) or not isinstance(lag, float):
            return None
        return incoming and joined((incoming[0] - length + lag, incoming[1] + length + lag))

    def apply(self, incoming: Signal, context: Context) -> Values:
        length, lag = context.number("length"), context.number("lag")
        context.fault((length < 0)[:, 0], "The length is below 0")
        times = (
            context.times if lag.shape[0] == 1 and lag[0, 0] == 0 else np.ascontiguousarray(context.times - lag[:, 0])
        )
        if not len(times):
            return np.empty((0, context.components))
        if context.moves("length"):
            lengths = np.maximum(np.broadcast_to(length[:, 0], times.shape), 0.0)
            return _each(
                incoming, times, lengths, _cells(incoming, context.length, context.most("length")), context.components
            )
        window = float(length[0, 0])
        if window < _SHORTEST:
            return incoming.at(times)
        cells = _cells(incoming, context.length, window)
        return _on_grid(incoming, times, window / cells, cells, context.components)

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        length, lag = float(seen.number("length")[0, 0]), float(seen.number("lag")[0, 0])
        ahead = (length / 2 - lag) * seen.fps
        if self.length.moves or self.lag.moves or length <= 0 or ahead <= 0:
            return ()
        return (
            Note(
                f"It begins to move {plain_number(ahead, 1)} frames ahead; a lag of {plain_number(length / 2, 3)} s would prevent that."
            ),
        )

    def clause(self, words: Words) -> str:
        return f"smoothed over {words.of('length')}"


def _cells(incoming: Signal, scene: float, window: float) -> int:
    """How many cells a window of so many seconds needs in a scene of so many: an even number."""
    swings = incoming.swings
    wanted = window * _A_SWING * (swings if swings < inf else 8.0)
    # Breaks are looked for in the scene, whatever is asked for: the grid must always be the same.
    broken = swings == inf or len(incoming.breaks(-8, 8 * ceil(scene / 8) + 8))
    return 2 * ceil(min(max(wanted, BROKEN_CELLS if broken else LEAST_CELLS), MOST_CELLS) / 2)


def _each(incoming: Signal, times: Times, length: Times, cells: int, components: int) -> Values:
    """Windows of a length of their own, (n, components); in parts, since each takes many samples."""
    weights, offsets = bell(cells), (np.arange(cells) + 0.5) / cells - 0.5
    out = np.empty((len(times), components))
    for a in range(0, len(times), max(1, _AT_ONCE // cells)):
        part = slice(a, a + max(1, _AT_ONCE // cells))
        around = times[part, None] + length[part, None] * offsets
        given = incoming.once(around.ravel())
        if given.shape[0] == 1:
            return given
        # The sum is taken cell by cell, so that it does not depend on how many moments are asked for.
        total = np.zeros((around.shape[0], components))
        for cell in range(cells):
            total += weights[cell] * given[cell::cells]
        out[part] = total
    return out


def _on_grid(incoming: Signal, times: Times, step: float, cells: int, components: int) -> Values:
    """Averages at the points j·stride·step of the grid, and cubics through them; (n, components)."""
    # What swings so often in a window leaves so little of itself that points further apart than its swings, and cubics
    # through them, stay within the stated error: the average needs no point for each swing.
    stride = cells // BROKEN_CELLS if cells >= _MANY else 1
    apart = stride * step
    low, high = int(np.floor(times.min() / apart)) - 1, int(np.floor(times.max() / apart)) + 2
    half = cells // 2
    if (high - low) * stride <= 4 * len(times) + cells:
        points, first = np.arange(low, high + 1), np.zeros(0, dtype=np.int64)
        wanted = np.arange(low * stride - half, high * stride + half)
        starts = (points - low) * stride
    else:
        base = np.floor(times / apart).astype(np.int64)
        points = np.unique(base[:, None] + np.arange(-1, 3))
        wanted = np.unique(points[:, None] * stride + np.arange(-half, half))
        first = np.searchsorted(points, base - 1)
        starts = np.searchsorted(wanted, points * stride - half)
    given = _means(incoming, wanted, step)
    if given.shape[0] == 1:
        return given
    weights = bell(cells)
    out = np.empty((components, len(times)))
    for c in range(components):
        averages = np.empty(len(points))
        over(len(points), _average, column(given, c), starts, weights, averages)
        over(len(times), _through, times, apart, low, first, averages, out[c])
    return out.T


def _means(incoming: Signal, cells: NDArray[np.int64], step: float) -> Values:
    """What comes in, for each cell j·step … (j + 1)·step; (n or 1, components)."""
    given = incoming.once((cells.astype(np.float64) + 0.5) * step)
    if given.shape[0] == 1:
        return given
    low, high = int(np.floor(cells[0] * step)), int(np.ceil((cells[-1] + 1) * step))
    low, high = low - low % 8, high + -high % 8
    breaks = incoming.breaks(low, high) if high - low < 1 << 20 else np.zeros(0)
    rough = np.arange(len(cells)) if incoming.swings == inf else np.zeros(0, dtype=np.int64)
    if len(breaks):
        inside = np.unique(np.floor(breaks / step).astype(np.int64))
        near = np.searchsorted(cells, inside)
        there = near < len(cells)
        there[there] = cells[near[there]] == inside[there]
        rough = np.union1d(rough, near[there])
    if not len(rough):
        return given
    made = np.array(given)
    numbers = cells[rough].astype(np.float64)
    made[rough] = _exactly(incoming, numbers * step, (numbers + 1) * step, breaks)
    return made


def _exactly(incoming: Signal, starts: Times, ends: Times, breaks: Times) -> Values:
    """The mean of what comes in over each stretch, piece by piece between its breaks; (n, components)."""
    inside = breaks[(np.searchsorted(starts, breaks, side="right") > 0)]
    cell = np.searchsorted(starts, inside, side="right") - 1
    held = (inside > starts[cell]) & (inside < ends[cell])
    lefts, which = np.concatenate([starts, inside[held]]), np.concatenate([np.arange(len(starts)), cell[held]])
    order = np.lexsort((lefts, which))
    lefts, which = lefts[order], which[order]
    rights = np.where(np.append(which[1:] == which[:-1], False), np.append(lefts[1:], 0.0), ends[which])
    sums = _integrals(incoming, lefts, rights - lefts)
    total = np.zeros((len(starts), sums.shape[1]))
    np.add.at(total, which, sums)
    return np.asarray(total / (ends - starts)[:, None])


def _integrals(incoming: Signal, lefts: Times, widths: Times) -> Values:
    """Integrals of pieces by Gauss–Legendre's rule, halved where two levels differ; (n, components)."""

    def ruled(a: Times, w: Times) -> tuple[Values, Values]:
        given = incoming.once((a[:, None] + w[:, None] * NODES).ravel())
        given = np.broadcast_to(given, (len(a) * len(NODES), given.shape[1])).reshape(len(a), len(NODES), -1)
        made = np.zeros((len(a), given.shape[2]))
        for k, weight in enumerate(WEIGHTS):
            made += given[:, k] * weight
        return made * w[:, None], np.abs(given).max(axis=1) * w[:, None]

    total, size = ruled(lefts, widths)
    which, left, width, known = np.arange(len(lefts)), lefts, widths, total.copy()
    for _ in range(_FINER):
        halves, _sizes = ruled(np.concatenate([left, left + width / 2]), np.tile(width / 2, 2))
        both = halves[: len(left)] + halves[len(left) :]
        np.add.at(total, which, both - known)
        rough = (np.abs(both - known) > _CLOSE_ENOUGH * size[which]).any(axis=1)
        if not rough.any():
            break
        again = np.concatenate([rough, rough])
        which, known = np.concatenate([which, which])[again], halves[again]
        left, width = np.concatenate([left, left + width / 2])[again], np.tile(width / 2, 2)[again]
    return total


@kernel
def _average(first: int, last: int, given: Floats, starts: Whole, weights: Floats, out: Filled) -> None:
    if last > first and starts[last - 1] - starts[first] == last - 1 - first:
        # Side by side: weight by weight over the whole stretch, each sum in the same order as alone.
        shift = starts[first]
        result = out[first:last]
        result[:] = 0.0
        for k in range(len(weights)):
            weight, ahead = weights[k], given[shift + k : shift + k + last - first]
            for i in range(len(result)):
                result[i] += weight * ahead[i]
        return
    for i in range(first, last):
        total = 0.0
        start = starts[i]
        for k in range(len(weights)):
            total += weights[k] * given[start + k]
        out[i] = total


@kernel
def _through(
    first: int, last: int, times: Floats, step: float, low: int, first_of: Whole, averages: Floats, out: Filled
) -> None:
    """Lagrange's cubic through the grid points around each time: those from first_of[i] on, or from `low` counted."""
    counted = len(first_of) == 0
    for i in range(first, last):
        place = times[i] / step
        base = np.floor(place)
        x = place - base
        k = np.int64(base) - low - 1 if counted else first_of[i]
        p, q, r, s = averages[k], averages[k + 1], averages[k + 2], averages[k + 3]
        a, b, c = x + 1.0, x - 1.0, x - 2.0
        out[i] = (-p * x * b * c + 3.0 * q * a * b * c - 3.0 * r * a * x * c + s * a * x * b) / 6.0
