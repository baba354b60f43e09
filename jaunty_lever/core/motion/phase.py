"""Integrated phase: φ(t) = ∫₀ᵗ rate(τ) dτ for any rate, to a relative 1e-6 and mostly far better.

The rate is integrated over panels that break wherever it may have a corner (its keys, the edges of
active windows). On each panel Gauss–Legendre nodes give a polynomial, whose antiderivative is exact for
it. Panels are halved until two levels agree, second by second; both depend on the rate alone, never on
which times are asked for, so every order of asking gives the same phase.
"""

from collections.abc import Callable, Sequence

import numba as nb
import numpy as np
from numpy.typing import NDArray

from ..kernels.parallel import over

Floats = NDArray[np.float64]

ORDER = 5
_FIRST, _LEVELS = 32, 5
_TOLERANCE = 2e-8
_nodes, _weights = (np.asarray(part, dtype=np.float64) for part in np.polynomial.legendre.leggauss(ORDER))
NODES: Floats = (_nodes + 1) / 2
WEIGHTS: Floats = _weights / 2
#: Coefficients of the interpolating polynomial on 0..1 from its values at the nodes.
FIT: Floats = np.asarray(np.linalg.inv(np.vander(NODES, ORDER, increasing=True)), dtype=np.float64)


class Phase:
    """The antiderivative of a rate, ready to be asked at any time between its ends."""

    def __init__(self, rate: Callable[[Floats], Floats], breaks: Sequence[float], low: float, high: float) -> None:
        """`rate` maps times (n,) to values (n,); `breaks` are times where it may not be smooth."""
        first, last = int(np.floor(min(low, 0.0))), int(np.ceil(max(high, 0.0))) + 1
        seconds = list(range(first, last))
        sums: dict[int, float] = {}
        breaks_at = np.unique(np.asarray([*breaks], dtype=np.float64))
        open_ones, level = seconds, 0
        kept: dict[int, tuple[Floats, Floats]] = {}
        while len(open_ones):
            grids = [_panels(second, _FIRST << level, breaks_at) for second in open_ones]
            starts = np.concatenate([grid[:-1] for grid in grids])
            widths = np.concatenate([np.diff(grid) for grid in grids])
            values = rate((starts[:, None] + widths[:, None] * NODES).ravel()).reshape(-1, ORDER)
            parts = np.split(values, np.cumsum([len(grid) - 1 for grid in grids])[:-1])
            still = []
            for second, grid, part in zip(open_ones, grids, parts, strict=True):
                whole = float((np.diff(grid) * (part @ WEIGHTS)).sum())
                size = float((np.diff(grid) * (np.abs(part) @ WEIGHTS)).sum())
                settled = second in sums and abs(whole - sums[second]) <= _TOLERANCE * size
                flat = bool(np.all(part == part.flat[0]))
                sums[second] = whole
                kept[second] = (grid, part)
                if not settled and not flat and level < _LEVELS:
                    still.append(second)
            open_ones, level = still, level + 1
        grids = [kept[second][0] for second in seconds]
        values = np.concatenate([kept[second][1] for second in seconds])
        self.starts: Floats = np.concatenate([grid[:-1] for grid in grids])
        self.widths: Floats = np.concatenate([np.diff(grid) for grid in grids])
        #: Antiderivative on each panel, from its start, in the panel's own 0..1: power 1 … ORDER.
        self.powers: Floats = (values @ FIT.T) / np.arange(1, ORDER + 1) * self.widths[:, None]
        areas = self.powers.sum(axis=1)
        zero = int(np.searchsorted(self.starts, 0.0))
        ahead, behind = np.cumsum(areas[zero:]), -np.cumsum(areas[:zero][::-1])[::-1]
        self.sums: Floats = np.concatenate([behind, [0.0], ahead[:-1]])

    def at(self, times: Floats) -> Floats:
        """φ at times (n,), all within the ends given at the start."""
        out = np.empty(len(times))
        over(len(times), _evaluate, times, self.starts, self.widths, self.sums, self.powers, out)
        return out


def _panels(second: int, count: int, breaks: Floats) -> Floats:
    """Panel edges within one second; next to a break they shrink, since an ease may start vertically there."""
    inside = breaks[(breaks >= second) & (breaks < second + 1)]
    grid = second + np.arange(count + 1) / count
    if not len(inside):
        return grid
    steps = (1.0 / count) * 4.0 ** -np.arange(0, 9)
    near = np.concatenate([inside, *[inside + step for step in steps], *[inside - step for step in steps]])
    near = near[(near > second) & (near < second + 1)]
    return np.unique(np.concatenate([grid, near]))


@nb.njit(nogil=True, cache=True)
def _evaluate(first, last, times, starts, widths, sums, powers, out):
    count, order = powers.shape
    k = 0
    for i in range(first, last):
        t = times[i]
        if not (starts[k] <= t and (k + 1 == count or t < starts[k + 1])):
            k = max(np.searchsorted(starts, t, side="right") - 1, 0)
        x = (t - starts[k]) / widths[k]
        value = 0.0
        for p in range(order - 1, -1, -1):
            value = (value + powers[k, p]) * x
        out[i] = sums[k] + value
