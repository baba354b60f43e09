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

from dataclasses import dataclass
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
from ..kernels.compiled import Filled, Floats, Whole, inner, kernel
from ..kernels.parallel import column, over
from .exact_means import Times, exact_means, in_pieces

LEAST_CELLS, MOST_CELLS = 24, 4096
BROKEN_CELLS = 96
"""Cells to a window of what jumps or bends."""
_A_SWING = 16
_MANY = 128 * _A_SWING
_SHORTEST = 1e-4
_AT_ONCE = 1 << 18
_TOGETHER = 1 << 20
"""Cells of several elements that are worked out together."""


def bell(cells: int) -> Times:
    """Weights of a window's cells, which add up to 1; the standard deviation is a quarter of the window."""
    offsets = (np.arange(cells) + 0.5) / cells - 0.5
    made = np.exp(-0.5 * (offsets * 4.0) ** 2)
    return np.asarray(made / made.sum())


class Smooth(Modifier):
    """Take the edges off: everything before it is averaged over a stretch of time around now."""

    title: ClassVar[str] = "Smooth"
    called: ClassVar[str] = "soften average filter blur ease calm steady lag"
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

    def mixes(self, context: Context) -> bool:
        # A length that changes has no grid that would serve for several moments.
        return not context.moves("length") and context.steady

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
            (cells,) = _cells(incoming, incoming.swings, _looked_at(context.length), np.array([context.most("length")]))
            return _each(incoming, times, lengths, int(cells), context.components)
        many = 1 if context.streams is None else len(context.streams)
        each = times.reshape(many, -1)
        windows = np.broadcast_to(length[:, 0], times.shape).reshape(many, -1)[:, 0]
        out = np.empty((many, each.shape[1], context.components))
        if (windows < _SHORTEST).any():
            # So short a window leaves what comes in as it is, at the moment that it lies at.
            out[:] = np.broadcast_to(incoming.at(times), (len(times), context.components)).reshape(out.shape)
        wide = np.flatnonzero(~(windows < _SHORTEST))
        swings = incoming.swings
        looked_at = _looked_at(context.length)
        cells = _cells(incoming, swings, looked_at, windows)
        grids = np.unique(np.stack([windows[wide], cells[wide]]), axis=1).T
        for window, count in grids.tolist():
            rows, grid = wide[(windows[wide] == window) & (cells[wide] == count)], _Grid.of(window, int(count))
            # As many at a time as memory is meant to hold the cells of.
            at_once = max(1, _TOGETHER // len(_Plan.of(grid, each[rows[0]]).cells))
            for k in range(0, len(rows), at_once):
                some = rows[k : k + at_once]
                out[some] = _on_grid(incoming, swings, looked_at, some, each[some], grid, context.components)
        return out.reshape(len(times), -1)

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        length, lag = float(seen.number("length")[0, 0]), float(seen.number("lag")[0, 0])
        ahead = (length / 2 - lag) * seen.fps
        if self.length.moves or self.lag.moves or length <= 0 or ahead <= 0:
            return ()
        return (
            Note(
                f"It begins to move {plain_number(ahead, 1)} frames ahead; a lag of "
                f"{plain_number(length / 2, 3)} s would prevent that."
            ),
        )

    def clause(self, words: Words) -> str:
        return f"smoothed over {words.of('length')}"


def _looked_at(scene: float) -> tuple[int, int]:
    """Between which seconds breaks are looked for in a scene of so many, whatever is asked for: once for all."""
    return -8, 8 * ceil(scene / 8) + 8


def _cells(incoming: Signal, swings: list[float], looked_at: tuple[int, int], windows: Times) -> NDArray[np.int64]:
    """How many cells windows of so many seconds need, for each element: even numbers."""
    count = len(windows)
    # The grid must always be the same.
    unknown = all(often == inf for often in swings)
    breaks = [] if unknown else incoming.breaks(*(np.full(count, end) for end in looked_at))
    made = np.empty(count, dtype=np.int64)
    for row, (window, often) in enumerate(zip(windows, swings, strict=True)):
        wanted = window * _A_SWING * (often if often < inf else 8.0)
        broken = often == inf or len(breaks[row])
        made[row] = 2 * ceil(min(max(wanted, BROKEN_CELLS if broken else LEAST_CELLS), MOST_CELLS) / 2)
    return made


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
        whole = given.reshape(-1, cells, given.shape[1])
        # What does not change is passed on as it is, to the last bit.
        out[part] = np.where((whole == whole[:, :1]).all(axis=1), whole[:, 0], total)
    return out


@dataclass(frozen=True)
class _Grid:
    """The grid of a window: `cells` of `step` seconds, points each `stride` of them apart."""

    step: float
    cells: int
    stride: int

    @classmethod
    def of(cls, window: float, cells: int) -> "_Grid":
        """That of a window of so many seconds, in so many cells."""
        # What swings so often in a window leaves so little of itself that points further apart than its swings, and
        # cubics through them, stay within the stated error: the average needs no point for each swing.
        return cls(window / cells, cells, cells // BROKEN_CELLS if cells >= _MANY else 1)

    @property
    def apart(self) -> float:
        """Seconds from point to point."""
        return self.stride * self.step


@dataclass(frozen=True)
class _Plan:
    """What some moments need of a grid: its cells by number, where among them each point's begin, and how moments find
    their points: the number of the first point, or for each moment the position of the first that it lies on."""

    cells: NDArray[np.int64]
    starts: NDArray[np.int64]
    low: int
    first: NDArray[np.int64]

    @classmethod
    def of(cls, grid: _Grid, times: Times) -> "_Plan":
        """That of moments (n,)."""
        stride, half = grid.stride, grid.cells // 2
        low, high = int(np.floor(times.min() / grid.apart)) - 1, int(np.floor(times.max() / grid.apart)) + 2
        if (high - low) * stride <= 4 * len(times) + grid.cells:
            cells = np.arange(low * stride - half, high * stride + half)
            return cls(cells, np.arange(high + 1 - low) * stride, low, np.zeros(0, dtype=np.int64))
        # Moments lie too far apart for all points between: those around each.
        base = np.floor(times / grid.apart).astype(np.int64)
        points = np.unique(base[:, None] + np.arange(-1, 3))
        begins = points * stride - half
        cells = _covered(begins, grid.cells)
        return cls(cells, np.searchsorted(cells, begins), 0, np.searchsorted(points, base - 1))


def _covered(begins: NDArray[np.int64], cells: int) -> NDArray[np.int64]:
    """All numbers in stretches of so many that begin at some, in order, each once."""
    fresh = np.concatenate([[True], begins[1:] > begins[:-1] + cells])
    first = begins[fresh]
    spans = np.append(begins[np.flatnonzero(fresh)[1:] - 1], begins[-1]) + cells - first
    return np.arange(spans.sum()) + np.repeat(first - (np.cumsum(spans) - spans), spans)


def _on_grid(
    incoming: Signal,
    swings: list[float],
    looked_at: tuple[int, int],
    rows: NDArray[np.int64],
    times: Times,
    grid: _Grid,
    components: int,
) -> Values:
    """Averages at the points of the grid, and cubics through them, for some elements; (rows, n, components), times
    (rows, n)."""
    alike = len(rows) == 1 or bool((times == times[0]).all())
    plans = [_Plan.of(grid, own) for own in (times[:1] if alike else times)]
    most = max(len(plan.cells) for plan in plans)
    # Whoever needs fewer cells asks for its last one again.
    wanted = np.stack([np.pad(plan.cells, (0, most - len(plan.cells)), "edge") for plan in plans])
    given = _means(incoming, swings, looked_at, rows, wanted, grid.step)
    if given.shape[1] == 1:
        return given
    weights = bell(grid.cells)
    out = np.empty((len(rows), components, times.shape[1]))
    for k in range(len(rows)):
        plan = plans[0 if alike else k]
        averages = np.empty(len(plan.starts))
        for c in range(components):
            over(len(averages), _average, column(given[k], c), plan.starts, weights, averages)
            over(times.shape[1], _through, times[k], grid.apart, plan.low, plan.first, averages, out[k, c])
    return out.transpose(0, 2, 1)


def _means(
    incoming: Signal,
    swings: list[float],
    looked_at: tuple[int, int],
    rows: NDArray[np.int64],
    cells: NDArray[np.int64],
    step: float,
) -> Values:
    """What comes in, for each cell j·step … (j + 1)·step, (rows or 1, n); (rows, n or 1, components)."""
    middles = (cells.astype(np.float64) + 0.5) * step
    given = incoming.of_elements(rows, middles[0] if len(middles) == 1 else middles)
    if given.shape[1] == 1:
        return given
    low, high = np.floor(cells[:, 0] * step).astype(np.int64), np.ceil((cells[:, -1] + 1) * step).astype(np.int64)
    low, high = (np.broadcast_to(part, rows.shape) for part in (low - low % 8, high + -high % 8))
    if low.min() >= looked_at[0] and high.max() <= looked_at[1]:
        low, high = (np.full(rows.shape, end) for end in looked_at)
    breaks = _breaks(incoming, len(swings), rows, low, high)
    pieces: list[tuple[int, NDArray[np.int64], Times, Times]] = []
    for k in range(len(rows)):
        own = cells[k if len(cells) > 1 else 0]
        rough = np.zeros(0, dtype=np.int64)
        if swings[rows[k]] == inf:
            rough = np.flatnonzero(np.append(True, own[1:] != own[:-1]))
        if len(breaks[k]):
            inside = np.unique(np.floor(breaks[k] / step).astype(np.int64))
            near = np.searchsorted(own, inside)
            there = near < len(own)
            there[there] = own[near[there]] == inside[there]
            rough = np.union1d(rough, near[there])
        if len(rough):
            numbers = own[rough].astype(np.float64)
            pieces.append((k, rough, numbers * step, (numbers + 1) * step))
    if not pieces:
        return given
    made = np.array(given)
    which = np.concatenate([np.full(len(rough), k) for k, rough, _, _ in pieces])
    where = np.concatenate([rough for _, rough, _, _ in pieces])
    starts, ends = (np.concatenate([piece[part] for piece in pieces]) for part in (2, 3))
    split = [in_pieces(starts_, ends_, breaks[k]) for k, _, starts_, ends_ in pieces]
    made[which, where] = exact_means(incoming, rows[which], starts, ends, split)
    return made


def _breaks(
    incoming: Signal, count: int, rows: NDArray[np.int64], low: NDArray[np.int64], high: NDArray[np.int64]
) -> list[Times]:
    """Breaks of some of so many elements, each in seconds of its own."""
    lows, highs = np.zeros(count, dtype=np.int64), np.zeros(count, dtype=np.int64)
    near = high - low < 1 << 20
    if near.all() and not (np.ptp(low) or np.ptp(high)):
        lows[:], highs[:] = low[0], high[0]
    else:
        lows[rows[near]], highs[rows[near]] = low[near], high[near]
    found = incoming.breaks(lows, highs)
    return [found[row] if ok else np.zeros(0) for row, ok in zip(rows, near, strict=True)]


@inner
def _weighed(first: int, last: int, given: Floats, starts: Whole, weights: Floats, out: Floats) -> None:
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
def _average(first: int, last: int, given: Floats, starts: Whole, weights: Floats, out: Filled) -> None:
    _weighed(first, last, given, starts, weights, out)
    for i in range(first, last):
        # What does not change is passed on as it is, to the last bit.
        start, k = starts[i], 1
        while k < len(weights) and given[start + k] == given[start]:
            k += 1
        if k == len(weights):
            out[i] = given[start]


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
        if p == q == r == s:
            out[i] = p
            continue
        out[i] = (-p * x * b * c + 3.0 * q * a * b * c - 3.0 * r * a * x * c + s * a * x * b) / 6.0
