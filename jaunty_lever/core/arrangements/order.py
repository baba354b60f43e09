"""Orders: the sequence in which copies are counted, as a measure from a point."""

from dataclasses import dataclass
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..kernels.noise import even_at
from .places import Floats, Places, is_extent

Measure = Literal["number", "columns", "rows", "diagonal", "square", "round", "shuffled", "points", "line", "gauge"]

_ALIKE = 1e-9
"""Distances that differ by less than this share of the greatest are one."""


@dataclass(frozen=True)
class Order:
    """u: 0..1 along the order; rank: whole numbers from 0, copies at the same distance share one; (states or 1, n)
    each.

    `most` (states or 1,) is the greatest rank.
    """

    u: Floats
    rank: NDArray[np.int64]
    most: NDArray[np.int64]
    closed: NDArray[np.bool_]
    """Whether they are counted once round what closes, (states or 1, 1): the last stands beside the first."""


def order_of(
    places: Places,
    measure: Measure,
    origin: tuple[ArrayLike, ArrayLike] = (0.0, 0.0),
    backwards: ArrayLike = False,
    seed: int = 1,
    points: tuple[tuple[float, float], ...] = (),
    measured: Floats | None = None,
) -> Order:
    """The order of copies by their distance from `origin`, a point in percent of their extent (0 0 the top left), or
    from the nearest of it and further points; or by what has been measured of them, (states or 1, n).

    `origin` and `backwards` are numbers or (states,).
    """
    across, down = (np.atleast_1d(np.asarray(part, dtype=np.float64))[:, None] / 100 for part in origin)
    count = len(places)
    there = np.arange(count)[None, :] < places.count[:, None]
    distance = measured if measured is not None else _distances(places, there, measure, across, down, seed)
    for x, y in points if measure == "points" else ():
        distance = np.minimum(distance, _distances(places, there, measure, _share(x), _share(y), seed))
    rows = max(len(distance), len(there))
    distance, there = np.broadcast_to(distance, (rows, count)), np.broadcast_to(there, (rows, count))
    if not count:
        return Order(distance, np.zeros(distance.shape, dtype=np.int64), np.zeros(rows, dtype=np.int64), places.closed)
    least, most = _ends(distance, there)
    span = most - least
    with np.errstate(invalid="ignore"):
        u = np.clip(np.where(span > 0, (distance - least) / np.where(span > 0, span, 1.0), 0.0), 0.0, 1.0)
    rank = _ranks(distance, there)
    greatest = np.where(there, rank, 0).max(axis=1)
    back = np.atleast_1d(np.asarray(backwards, dtype=np.float64))[:, None] >= 0.5
    if back.any():
        u, rank = np.where(back, 1 - u, u), np.where(back, np.maximum(greatest[:, None] - rank, 0), rank)
        greatest = np.broadcast_to(greatest, len(u))
    from_an_end = np.isin(across, (0.0, 1.0)) & (measure == "number")
    return Order(u, rank, greatest, places.closed & from_an_end)


def _share(percent: float) -> Floats:
    return np.full((1, 1), percent / 100)


def _ends(line: Floats, there: NDArray[np.bool_]) -> tuple[Floats, Floats]:
    """The least and the greatest of what is there, (states, 1) each; 0 where nothing is."""
    least = np.where(there, line, np.inf).min(axis=1, keepdims=True)
    most = np.where(there, line, -np.inf).max(axis=1, keepdims=True)
    some = np.isfinite(least) & np.isfinite(most)
    return np.where(some, least, 0.0), np.where(some, most, 0.0)


def _ranks(distance: Floats, there: NDArray[np.bool_]) -> NDArray[np.int64]:
    ordered = np.where(there, distance, np.inf)
    sequence = np.argsort(ordered, axis=1, kind="stable")
    ordered = np.take_along_axis(ordered, sequence, axis=1)
    biggest = np.where(there, np.abs(distance), 0.0).max(axis=1, keepdims=True)
    with np.errstate(invalid="ignore"):
        further = np.diff(ordered, axis=1) > _ALIKE * np.maximum(biggest, 1e-300)
    counted = np.concatenate([np.zeros((len(ordered), 1), dtype=np.int64), np.cumsum(further, axis=1)], axis=1)
    rank = np.empty(ordered.shape, dtype=np.int64)
    np.put_along_axis(rank, sequence, counted, axis=1)
    return rank


def _distances(
    places: Places, there: NDArray[np.bool_], measure: Measure, across: Floats, down: Floats, seed: int
) -> Floats:
    count = len(places)
    if measure == "number":
        return np.asarray(np.abs(np.arange(count) - across * (places.count[:, None] - 1)))
    if measure in ("line", "gauge"):
        # Nothing has been measured: all stand alike.
        return np.zeros((1, count))
    if measure == "shuffled":
        return _shuffled(count, seed)[None, :]
    if measure in ("round", "points"):
        ends = (_ends(*np.broadcast_arrays(line, there)) for line in places.plan)
        x, y = (
            line - (least + share * (most - least))
            for line, (least, most), share in zip(places.plan, ends, (across, down), strict=True)
        )
        return np.asarray(np.hypot(x, y))
    if places.columns.any() and places.rows.any():
        # In a single column all are as near, whatever its copies are called.
        columns, rows = places.columns[:, None], places.rows[:, None]
        aside = np.where(columns > 1, places.col - across * (columns - 1), 0.0)
        below = np.where(rows > 1, places.row - down * (rows - 1), 0.0)
    else:
        # Where there are no columns and rows, the place over the extent stands in.
        (x, wide), (y, high) = shares_of(places.plan, there)
        aside, below = np.where(wide, x - across, 0.0), np.where(high, y - down, 0.0)
    aside, below = np.broadcast_arrays(np.abs(aside), np.abs(below))
    made = {"columns": aside, "rows": below, "diagonal": aside + below, "square": np.maximum(aside, below)}
    return np.asarray(made[measure])


def shares_of(
    plan: tuple[Floats, Floats], there: NDArray[np.bool_]
) -> tuple[tuple[Floats, NDArray[np.bool_]], tuple[Floats, NDArray[np.bool_]]]:
    """Places (states or 1, n) along two axes, as shares of what those that are there cover; and whether that is any
    extent, (states, 1)."""
    ends = [_ends(*np.broadcast_arrays(line, there)) for line in plan]
    wide, high = (most - least for least, most in ends)
    made = []
    for line, (least, _), own, other in ((plan[0], ends[0], wide, high), (plan[1], ends[1], high, wide)):
        some = is_extent(own, other)
        made.append((np.asarray((line - least) / np.where(some, own, 1.0)), some))
    return made[0], made[1]


def _shuffled(count: int, seed: int) -> Floats:
    """A permutation of 0 … n−1, as whole numbers."""
    chance = np.empty(count)
    even_at(np.arange(count, dtype=np.float64), np.zeros(count), np.full(1, float(seed)), chance)
    place = np.empty(count)
    place[np.argsort(chance, kind="stable")] = np.arange(count)
    return place
