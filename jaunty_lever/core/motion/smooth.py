"""Smooth: everything before it, averaged over a moving window of time.

The window is a Gaussian, cut off at two standard deviations. For a still length, what comes in is
sampled on a grid of absolute times, CELLS to a window; each grid point's average is worked out once and
the asked times lie on cubics through four of them. The grid depends on the length alone, so every order
of asking gives the same numbers, and the cost does not grow with the length. A length that changes with
time has no grid: there each moment's window is sampled by itself.
"""

from typing import Any, ClassVar, Literal

import numba as nb
import numpy as np
from numpy.typing import NDArray

from ..document.cycle import Cycle, Repeats
from ..document.parameter import Modifier, MomentsLike, Note, Parameter, Seen, SignalLike, Values, Words
from ..document.quantity import plain_number
from ..document.slots import slot
from ..kernels.parallel import column, over

CELLS = 24
_SHORTEST = 1e-4
_AT_ONCE = 1 << 14
_offsets: NDArray[np.float64] = (np.arange(CELLS) + 0.5) / CELLS - 0.5
_bell = np.exp(-0.5 * (_offsets * 4.0) ** 2)
#: Weights of the window's cells, which add up to 1; the standard deviation is a quarter of the window.
WEIGHTS: NDArray[np.float64] = _bell / _bell.sum()

Times = NDArray[np.float64]


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
    length: Parameter = slot(
        0.3, "time", label="Length", help="Over how much time it averages.", low=0, high=4, step=0.02, main=True
    )
    lag: Parameter = slot(
        0.0, "time", label="Lag", help="How much later the window lies; half the length looks only back.", low=0, high=2,
        step=0.02, main=True,
    )  # fmt: skip

    def repeats(self, incoming: Cycle | None, at: Repeats) -> Cycle | None:
        still = all((part := at.setting(name)) is not None and part.still for name in ("length", "lag"))
        return incoming if still else None

    def apply(self, incoming: SignalLike, at: MomentsLike) -> Values:
        length, lag = at.number("length"), at.number("lag")
        at.fault((length < 0)[:, 0], "The length is below 0")
        times = at.times - lag[:, 0]
        if at.moves("length"):
            return _each(incoming, times, np.maximum(np.broadcast_to(length[:, 0], times.shape), 0.0), at.components)
        if length[0, 0] < _SHORTEST:
            return incoming.at(times)
        return _on_grid(incoming, times, float(length[0, 0]) / CELLS, at.components)

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


def _each(incoming: SignalLike, times: Times, length: Times, components: int) -> Values:
    """Windows of a length of their own, (n, components); in parts, since each takes CELLS samples."""
    out = np.empty((len(times), components))
    for a in range(0, len(times), _AT_ONCE):
        part = slice(a, a + _AT_ONCE)
        around = times[part, None] + length[part, None] * _offsets
        given = incoming.at(around.ravel())
        if given.shape[0] == 1:
            return given
        # The sum is taken cell by cell, so that it does not depend on how many moments are asked for.
        total = np.zeros((around.shape[0], components))
        for cell in range(CELLS):
            total += WEIGHTS[cell] * given[cell::CELLS]
        out[part] = total
    return out


def _on_grid(incoming: SignalLike, times: Times, step: float, components: int) -> Values:
    """Averages at the points j·step of the grid, and cubics through them; (n, components)."""
    if not len(times):
        return np.empty((0, components))
    base = np.floor(times / step).astype(np.int64)
    low, high = int(base.min()) - 1, int(base.max()) + 2
    if high - low <= 4 * len(times) + 64:
        points, first = np.arange(low, high + 1), base - low - 1
        cells = np.arange(low - CELLS // 2, high + CELLS // 2)
        starts = points - low
    else:
        points = np.unique(base[:, None] + np.arange(-1, 3))
        cells = np.unique(points[:, None] + np.arange(-CELLS // 2, CELLS // 2))
        first = np.searchsorted(points, base - 1)
        starts = np.searchsorted(cells, points - CELLS // 2)
    centres: Times = (cells.astype(np.float64) + 0.5) * step
    given = incoming.at(centres)
    if given.shape[0] == 1:
        return given
    out = np.empty((components, len(times)))
    for c in range(components):
        averages = np.empty(len(points))
        over(len(points), _average, column(given, c), starts, WEIGHTS, averages)
        over(len(times), _through, times, step, base, first, averages, out[c])
    return out.T


@nb.njit(nogil=True, cache=True)
def _average(first, last, given, starts, weights, out):
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


@nb.njit(nogil=True, cache=True)
def _through(first, last, times, step, base, first_of, averages, out):
    """Lagrange's cubic through the grid points around each time."""
    for i in range(first, last):
        x = times[i] / step - base[i]
        k = first_of[i]
        p, q, r, s = averages[k], averages[k + 1], averages[k + 2], averages[k + 3]
        a, b, c = x + 1.0, x - 1.0, x - 2.0
        out[i] = (-p * x * b * c + 3.0 * q * a * b * c - 3.0 * r * a * x * c + s * a * x * b) / 6.0
