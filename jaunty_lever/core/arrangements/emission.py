"""Births of sparks: when each is born, by the integral of a rate."""

from collections.abc import Callable

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

NEAR = 1e-9
"""How near to a whole number of births a moment counts as the birth itself."""
_HALVINGS = 60


def births(born: Callable[[Floats], Floats], wanted: Floats, low: float, high: float) -> Floats:
    """The first moments at which so many have been born, (n,) in ascending order; `born` tells how many at moments
    (m,).

    It never falls, and is 0 at `low`. What is not reached by `high` comes out as infinity.
    """
    if not len(wanted):
        return np.zeros(0)
    marks = np.linspace(low, high, int(min(max((high - low) * 8, 2), 20_000)) + 1)
    known = np.maximum.accumulate(born(marks))
    goal = wanted - NEAR * np.maximum(np.abs(wanted), 1.0) * 1e-3
    after = np.searchsorted(known, goal, side="left")
    never = after >= len(marks)
    after = np.clip(after, 1, len(marks) - 1)
    a, b = marks[after - 1], marks[after]
    for _ in range(_HALVINGS):
        middle = (a + b) / 2
        early = born(middle) < goal
        a, b = np.where(early, middle, a), np.where(early, b, middle)
    made = np.where(wanted <= known[0], low, b)
    made[never] = np.inf
    return made
