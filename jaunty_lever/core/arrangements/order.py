"""Orders: the sequence in which copies are counted, as a measure from a point."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from ..kernels.noise import even_at
from .places import Floats, Places

Measure = Literal["number", "columns", "rows", "diagonal", "square", "round", "shuffled"]
MEASURES: tuple[Measure, ...] = ("number", "columns", "rows", "diagonal", "square", "round", "shuffled")

_ALIKE = 1e-9
"""Distances that differ by less than this share of the greatest are one."""


@dataclass(frozen=True)
class Order:
    """u (n,): 0..1 along the order; rank (n,): whole numbers from 0, copies at the same distance share one."""

    u: Floats
    rank: NDArray[np.int64]


def order_of(
    places: Places, measure: Measure, origin: tuple[float, float] = (0.0, 0.0), backwards: bool = False, seed: int = 1
) -> Order:
    """The order of copies by their distance from `origin`, a point in percent of their extent (0 0 the top left)."""
    distance = _distances(places, measure, origin, seed)
    if not len(distance):
        return Order(distance, np.zeros(0, dtype=np.int64))
    least, most = float(distance.min()), float(distance.max())
    u = (distance - least) / (most - least) if most > least else np.zeros(len(distance))
    rank = _ranks(distance)
    return Order(1 - u, rank.max() - rank) if backwards else Order(u, rank)


def _ranks(distance: Floats) -> NDArray[np.int64]:
    sequence = np.argsort(distance, kind="stable")
    ordered = distance[sequence]
    further = np.diff(ordered) > _ALIKE * max(float(np.abs(ordered).max()), 1e-300)
    rank = np.empty(len(distance), dtype=np.int64)
    rank[sequence] = np.concatenate([[0], np.cumsum(further)])
    return rank


def _distances(places: Places, measure: Measure, origin: tuple[float, float], seed: int) -> Floats:
    across, down = origin[0] / 100, origin[1] / 100
    count = len(places)
    if measure == "number":
        return np.asarray(np.abs(np.arange(count) - across * (count - 1)))
    if measure == "shuffled":
        return _shuffled(count, seed)
    if measure == "round":
        x, y = (_from(line, share) for line, share in ((places.x, across), (places.y, down)))
        return np.asarray(np.hypot(x, y))
    if places.columns and places.rows:
        aside, below = places.col - across * (places.columns - 1), places.row - down * (places.rows - 1)
    else:
        # Where there are no columns and rows, the place over the extent stands in.
        aside, below = (
            _from(line, share) / (np.ptp(line) or 1.0) for line, share in ((places.x, across), (places.y, down))
        )
    aside, below = np.abs(aside), np.abs(below)
    made = {"columns": aside, "rows": below, "diagonal": aside + below, "square": np.maximum(aside, below)}
    return np.asarray(made[measure])


def _from(line: Floats, share: float) -> Floats:
    """How far places lie from a share of their extent along one axis."""
    return np.asarray(line - (line.min() + share * np.ptp(line)))


def _shuffled(count: int, seed: int) -> Floats:
    """A permutation of 0 … n−1, as whole numbers."""
    chance = np.empty(count)
    even_at(np.arange(count, dtype=np.float64), np.zeros(count), np.full(count, float(seed)), chance)
    place = np.empty(count)
    place[np.argsort(chance, kind="stable")] = np.arange(count)
    return place
