"""A function of time as polynomials on panels, as narrow as each place needs.

Each panel holds the function's values at Gauss–Legendre nodes, and so a polynomial of degree ORDER − 1. A panel
is kept when its polynomial foretells what the function gives at the nodes of its two halves; else the halves take
its place. Breaks, where the function may jump or bend, are edges of panels from the start; one that nobody told
of is closed in on until what is left of it does not matter. All of it depends on whole seconds alone, never on
which moments are asked for, so every order of asking gives the same numbers.
"""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

from ..kernels.compiled import Filled, kernel

Floats = NDArray[np.float64]

ORDER = 5
LEAST_RATE, MOST_RATE = 16, 2048
"""Panels a second to begin with."""
_LEVELS = 40
MOST_PANELS = 1 << 19
"""Panels of a function: what swings so often that it takes more is held on fewer, and said to be rough."""
_nodes, _weights = (np.asarray(part, dtype=np.float64) for part in np.polynomial.legendre.leggauss(ORDER))
NODES: Floats = (_nodes + 1) / 2
WEIGHTS: Floats = _weights / 2
#: Coefficients of the interpolating polynomial on 0..1 from its values at the nodes.
FIT: Floats = np.asarray(np.linalg.inv(np.vander(NODES, ORDER, increasing=True)), dtype=np.float64)
#: What a panel's polynomial gives at the nodes of its two halves, from its values at its own nodes.
_HALVES: Floats = np.vander(np.concatenate([NODES / 2, (NODES + 1) / 2]), ORDER, increasing=True) @ FIT


class Panels:
    """starts (k,), widths (k,) and values (k, ORDER) at the nodes of panels that lie side by side."""

    def __init__(
        self,
        function: Callable[[Floats], Floats],
        breaks: Floats,
        first: int,
        last: int,
        rate: float,
        tolerance: float,
        pointwise: bool = False,
    ) -> None:
        """Panels over the whole seconds first … last.

        `function` maps times (n,) to values (n,); `breaks` are times at which it may jump or bend; `rate` is how
        often it may swing in a second. The error of a panel's integral (or, `pointwise`, of its values) stays below
        `tolerance` times the mean size of what the function gives in that second.
        """
        edges = _edges(breaks, first, last, rate)
        starts, widths = edges[:-1], np.diff(edges)
        values = _asked(function, starts, widths)
        seconds = np.floor(starts + widths / 2).astype(np.int64) - first
        weighed = np.bincount(seconds, np.abs(values) @ WEIGHTS * widths, last - first)
        size = (
            np.maximum(weighed, 1e-300)
            if not pointwise
            else np.maximum(_spread(values, seconds, last - first), weighed * 1e-9)
        )
        kept: list[tuple[Floats, Floats, Floats]] = []
        count = 0
        self.rough = False
        """Whether it swings too often for so many panels."""
        for level in range(_LEVELS):
            halves = np.repeat(widths / 2, 2)
            begin = np.repeat(starts, 2)
            begin[1::2] += halves[1::2]
            finer = _asked(function, begin, halves)
            error = np.abs(values @ _HALVES.T - finer.reshape(len(starts), -1)).max(axis=1)
            good = error * (1.0 if pointwise else widths) <= tolerance * size[seconds]
            if count + 2 * len(starts) > MOST_PANELS and not good.all():
                self.rough = True
            if level == _LEVELS - 1 or self.rough:
                good[:] = True
            count += int(good.sum())
            kept.append((starts[good], widths[good], values[good]))
            still = np.repeat(~good, 2)
            starts, widths, values, seconds = begin[still], halves[still], finer[still], np.repeat(seconds, 2)[still]
            if not len(starts):
                break
        order = np.argsort(np.concatenate([part[0] for part in kept]), kind="stable")
        self.starts, self.widths, self.values = (np.concatenate([part[k] for part in kept])[order] for k in range(3))

    def areas(self) -> tuple[Floats, Floats]:
        """The antiderivative of each panel from its start, in the panel's own 0..1, power 1 … ORDER: (k, ORDER);
        and its integral (k,)."""
        powers = (self.values @ FIT.T) / np.arange(1, ORDER + 1) * self.widths[:, None]
        return powers, powers.sum(axis=1)


def panel_rate(swings: float) -> int:
    """How many panels a second a function begins with that swings so often in a second: a power of two."""
    wanted = min(max(4 * swings, LEAST_RATE), MOST_RATE)
    return 1 << int(np.ceil(np.log2(wanted)))


def _edges(breaks: Floats, first: int, last: int, swings: float) -> Floats:
    rate = max(min(panel_rate(swings), MOST_PANELS // (2 * (last - first))), 1)
    grid = first + np.arange((last - first) * rate + 1) / rate
    inside = breaks[(breaks > first) & (breaks < last)]
    if not len(inside):
        return grid
    edges = np.unique(np.concatenate([grid, inside]))
    # Edges that differ by their rounding alone are one; the last of all stays.
    apart = np.append(np.diff(edges) > 1e-13 * np.maximum(1.0, np.abs(edges[:-1])), True)
    return np.asarray(edges[apart])


def _asked(function: Callable[[Floats], Floats], starts: Floats, widths: Floats) -> Floats:
    return np.asarray(function((starts[:, None] + widths[:, None] * NODES).ravel())).reshape(-1, ORDER)


def _spread(values: Floats, seconds: NDArray[np.int64], count: int) -> Floats:
    """The largest difference of values within each second."""
    low, high = np.full(count, np.inf), np.full(count, -np.inf)
    np.minimum.at(low, seconds, values.min(axis=1))
    np.maximum.at(high, seconds, values.max(axis=1))
    return np.asarray(high - low)


@kernel
def antiderivative(
    first: int, last: int, times: Floats, starts: Floats, widths: Floats, sums: Floats, powers: Floats, out: Filled
) -> None:
    """out[i] = the integral up to times[i], from sums at the panels' starts and the powers inside them."""
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
