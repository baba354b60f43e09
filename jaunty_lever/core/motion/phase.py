"""Integrated phase: φ(t) = ∫₀ᵗ rate(τ) dτ for any rate, to a relative 1e-6 and mostly far better.

Near the scene the rate is integrated over panels (see `panels`). Where it never changes any more, φ goes on as a
straight line; where it repeats, whole periods are counted: a moment that lies far away costs no more than a near one.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..kernels.parallel import over
from .panels import Floats, Panels, antiderivative

_TOLERANCE = 2e-10


@dataclass(frozen=True)
class Beyond:
    """How a rate goes on where no panels are: `below` and `above` are what it rests at before and after them
    (None: unknown), `period` the seconds after which it repeats from 0 on (0: unknown)."""

    below: float | None = None
    above: float | None = None
    period: float = 0.0


class Phase:
    """The antiderivative of a rate, ready to be asked at any time between its ends, and beyond where `beyond` tells
    how."""

    def __init__(
        self, rate: Callable[[Floats], Floats], breaks: Floats, swings: float, first: int, last: int, beyond: Beyond
    ) -> None:
        """`rate` maps times (n,) to values (n,) and may jump or bend at `breaks`; first ≤ 0 < last are whole
        seconds."""
        panels = Panels(rate, breaks, first, last, swings, _TOLERANCE)
        self.starts, self.widths, self.rough = panels.starts, panels.widths, panels.rough
        self.powers, areas = panels.areas()
        zero = int(np.searchsorted(self.starts, 0.0))
        ahead, behind = np.cumsum(areas[zero:]), -np.cumsum(areas[:zero][::-1])[::-1]
        self.sums: Floats = np.concatenate([behind, [0.0], ahead[:-1]])
        self.first, self.last, self.beyond = float(first), float(last), beyond
        self.whole = float(ahead[-1])
        self.before = float(self.sums[0])
        self.lap = 0.0
        if beyond.period:
            back = self._inside(np.array([self.last - beyond.period]))
            self.lap = self.whole - float(back[0])

    def at(self, times: Floats) -> Floats:
        """φ at times (n,)."""
        inside = np.clip(times, self.first, self.last)
        rounds = None
        if self.beyond.above is None and self.beyond.period:
            over_by = times - self.last
            rounds = np.where(over_by > 0, np.ceil(over_by / self.beyond.period), 0.0)
            inside = np.where(over_by > 0, np.clip(times - rounds * self.beyond.period, 0.0, self.last), inside)
        made = self._inside(np.ascontiguousarray(inside))
        if rounds is not None:
            made = made + rounds * self.lap
        elif self.beyond.above is not None:
            made = np.where(times > self.last, self.whole + self.beyond.above * (times - self.last), made)
        if self.beyond.below is not None:
            made = np.where(times < self.first, self.before + self.beyond.below * (times - self.first), made)
        return made

    def _inside(self, times: Floats) -> Floats:
        out = np.empty(len(times))
        over(len(times), antiderivative, times, self.starts, self.widths, self.sums, self.powers, out)
        return out


def came_round(phase_at: Callable[[Floats], Floats], times: Floats, every: Floats) -> tuple[Floats, Floats]:
    """The phase at moments, and after how many whole ones it comes round, so that it does so `every` so many seconds
    (0: never)."""
    if not every.any():
        return phase_at(times), np.zeros(1)
    again = every > 0
    lapse = phase_at(np.where(again, every, 0.0))
    whole = np.where(again, np.maximum(np.rint(lapse), 1), 0)
    folded = np.where(again, np.mod(times, np.where(again, every, 1.0)), times)
    moving = lapse > 1e-9
    # A frequency of (as good as) 0 stands still: there is nothing to stretch onto a whole number.
    fit = np.where(again, np.where(moving, whole / np.where(moving, lapse, 1.0), 0.0), 1.0)
    return phase_at(folded) * fit, whole
