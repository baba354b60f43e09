"""Places of copies: rows, grids, rings, along a path, scattered.

Everything is worked out for several states of an array at once: a setting is a number or (states,), and each result has
a row for each state, and as many columns as the fullest of them has copies. A copy that a state has not got yet stands
where the same rule puts it.
"""

from dataclasses import dataclass, field, replace

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..geometry.along import Track
from ..kernels.noise import even_at
from ..kernels.scatter import scattered

Floats = NDArray[np.float64]
Counts = NDArray[np.int64]

FAR = 1e9
"""Further out there is no place: settings that grow beyond all bounds end there."""


@dataclass(frozen=True)
class Places:
    """Where copies stand: x, y in px, the angle that they face (degrees), and their row and column; (states or 1, n)
    each.

    `count` (states or 1,) tells how many copies there are; `columns` and `rows` likewise, 0 where copies have none.
    """

    x: Floats
    y: Floats
    angle: Floats
    row: Floats
    col: Floats
    count: Counts
    columns: Counts
    rows: Counts
    z: Floats = field(default_factory=lambda: np.zeros((1, 1)))
    """Towards the viewer, px."""
    across_x: Floats = field(default_factory=lambda: np.zeros((1, 1)))
    across_y: Floats = field(default_factory=lambda: np.zeros((1, 1)))
    closed: NDArray[np.bool_] = field(default_factory=lambda: np.zeros((1, 1), dtype=bool))
    """Whether the last copy stands beside the first, (states or 1, 1)."""

    @property
    def across(self) -> tuple[Floats, Floats]:
        """Between rails, the vector from each copy to its partner on the other one, in the copy's own coordinates."""
        return self.across_x, self.across_y

    @property
    def plan(self) -> tuple[Floats, Floats]:
        """Where they stand as seen from where they are laid out flat: x and y, or on the ground x and z."""
        if self.z.any() and not self.y.any():
            return np.broadcast_arrays(self.x, self.z)[0], np.broadcast_arrays(self.x, self.z)[1]
        return self.x, self.y

    def __len__(self) -> int:
        return int(self.x.shape[1])


def _whole(numbers: ArrayLike) -> Counts:
    return np.atleast_1d(np.rint(np.asarray(numbers, dtype=np.float64))).astype(np.int64)


def _down(numbers: ArrayLike) -> Floats:
    """A setting as a column, one number a state."""
    return np.atleast_1d(np.clip(np.asarray(numbers, dtype=np.float64), -FAR, FAR))[:, None]


def _numbers(count: Counts) -> Floats:
    return np.arange(int(count.max(initial=0)), dtype=np.float64)[None, :]


_NONE = np.zeros(1, dtype=np.int64)


def row_of(count: ArrayLike, gap: tuple[ArrayLike, ArrayLike], nearer: ArrayLike = 0.0) -> Places:
    """Side by side: copy i at (i − (n−1)/2)·gap, and as many times `nearer` towards the viewer."""
    counts = _whole(count)
    number = _numbers(counts)
    steps = number - (counts[:, None] - 1) / 2
    still = np.zeros((1, number.shape[1]))
    # Adding 0 makes a true 0 of what stands at −0.
    x, y = (steps * _down(g) + 0.0 for g in gap)
    # One that runs across has columns, one that runs down has rows.
    across, down = (np.abs(_down(g))[:, 0] for g in gap)
    runs_down = is_extent(down, across)
    runs_across = is_extent(across, down) | ~runs_down
    columns, rows = np.where(runs_across, counts, 1), np.where(runs_down, counts, 1)
    row = np.where(runs_down[:, None], number, 0.0) if runs_down.any() else still
    return Places(x, y, still, row, number, counts, columns, rows, _depths(steps, nearer))


def is_extent(own: Floats, other: Floats) -> NDArray[np.bool_]:
    """Whether extents along one axis are any, beside those along the other: what is left of rounding, less than a
    billionth of the other one or of a pixel, is none."""
    return np.asarray(own >= 1e-9 * np.maximum(other, 1.0))


def _depths(steps: Floats, nearer: ArrayLike) -> Floats:
    """How near copies stand that are so many steps from the middle one."""
    return steps * _down(nearer) + 0.0 if np.any(nearer) else np.zeros((1, 1))


def gap_of_span(span: ArrayLike, count: ArrayLike) -> Floats:
    """The gap with which so many copies fill a span; 0 for a single one."""
    between = np.asarray(count, dtype=np.float64) - 1
    return np.where(between > 0, np.asarray(span, dtype=np.float64) / np.where(between > 0, between, 1), 0.0)


def grid_of(
    columns: ArrayLike,
    rows: ArrayLike,
    gap: tuple[ArrayLike, ArrayLike],
    brick: ArrayLike = 0.0,
    levels: ArrayLike = 1,
    nearer: ArrayLike = 0.0,
) -> Places:
    """Row by row: copy row·columns + col, every other row moved along by the share `brick` of a gap; then level by
    level, each `nearer` to the viewer."""
    wide, high, deep = np.broadcast_arrays(_whole(columns), _whole(rows), _whole(levels))
    number = _numbers(wide * high * deep)
    across, down = np.maximum(wide, 1)[:, None], np.maximum(high, 1)[:, None]
    col, row = number % across, number // across % down
    level = number // (across * down) - (deep[:, None] - 1) / 2
    aside, below = (_down(g) for g in gap)
    x = (col - (wide[:, None] - 1) / 2) * aside + _down(brick) * aside * (row % 2)
    y = (row - (high[:, None] - 1) / 2) * below
    still = np.zeros((1, number.shape[1]))
    z = np.zeros((1, 1)) if (deep == 1).all() else _depths(level, nearer)
    return Places(x + 0.0, y + 0.0, still, row, col, wide * high * deep, wide, high, z)


def ground_of(columns: ArrayLike, rows: ArrayLike, gap: tuple[ArrayLike, ArrayLike], brick: ArrayLike = 0.0) -> Places:
    """A grid laid flat: its rows go from the far end towards the viewer."""
    made = grid_of(columns, rows, gap, brick)
    return replace(made, y=np.zeros((1, made.y.shape[1])), z=made.y)


def ring_of(
    count: ArrayLike,
    radius: ArrayLike,
    start: ArrayLike = 0.0,
    arc: ArrayLike = 360.0,
    facing: ArrayLike = True,
    nearer: ArrayLike = 0.0,
) -> Places:
    """Round the middle, the angle counted clockwise from straight up: a whole circle closes, an arc ends with a copy.
    Each stands `nearer` than the one before."""
    counts, arc = _whole(count), _down(arc)
    number = _numbers(counts)
    between = np.where(np.abs(arc) == 360, counts[:, None], np.maximum(counts[:, None] - 1, 1))
    angle = _down(start) + arc * (number / np.maximum(between, 1))
    turn = np.deg2rad(angle)
    still = np.zeros((1, number.shape[1]))
    x, y = _down(radius) * np.sin(turn), -_down(radius) * np.cos(turn)
    z = _depths(number - (counts[:, None] - 1) / 2, nearer)
    return Places(x, y, angle * _down(facing), still, still, counts, _NONE, _NONE, z, closed=np.abs(arc) == 360)


def path_of(
    count: ArrayLike, tracks: list[Track], which: Counts, start: ArrayLike, end: ArrayLike, facing: ArrayLike
) -> Places:
    """Along a line by its length, `start` and `end` being shares of it; `which` (states or 1,) tells whose track."""
    counts, start, end = _whole(count), _down(start), _down(end)
    number = _numbers(counts)
    closed = np.array([track.closed for track in tracks])[which][:, None]
    whole = closed & (start == 0) & (end == 1)
    between = np.where(whole, counts[:, None], np.maximum(counts[:, None] - 1, 1))
    share = start + (end - start) * (number / np.maximum(between, 1))
    share = np.where(closed, np.mod(share, 1.0), np.clip(share, 0.0, 1.0)) if closed.any() else np.clip(share, 0.0, 1.0)
    # A closed line ends where it began; what is led exactly to its end stays there.
    share = np.broadcast_to(share, (max(len(share), len(which)), number.shape[1]))
    x, y, angle = (np.empty(share.shape) for _ in range(3))
    states = np.broadcast_to(which, len(share))
    for k, track in enumerate(tracks):
        mine = states == k
        if mine.any():
            x[mine], y[mine], angle[mine] = track.at(share[mine])
    still = np.zeros((1, number.shape[1]))
    return Places(x, y, angle * _down(facing), still, still, counts, _NONE, _NONE, closed=whole)


def rails_of(one: Places, other: Places) -> Places:
    """Along the first of two rails, each copy knowing the way to the spot of the same number on the other."""
    turn = np.deg2rad(one.angle)
    dx, dy = other.x - one.x, other.y - one.y
    # Turned with the copy, the same way is another in its own coordinates.
    across = (dx * np.cos(turn) + dy * np.sin(turn), dy * np.cos(turn) - dx * np.sin(turn))
    return replace(one, across_x=across[0], across_y=across[1])


def scatter_of(
    count: ArrayLike,
    area: tuple[ArrayLike, ArrayLike],
    shape: int,
    outline: Floats,
    apart: ArrayLike,
    seed: ArrayLike,
    deep: ArrayLike = 0.0,
) -> Places:
    """Anywhere in a rectangle (shape 0), an ellipse (1) or an outline (2: its polygon, (k, 2), in px), kept apart; and
    anywhere within `deep`, half of it before and half behind."""
    counts = _whole(count)
    most = int(counts.max(initial=0))
    wide, high, far, seeds = (_down(part)[:, 0] for part in (*area, apart, seed))
    states = np.broadcast_arrays(wide, high, far, seeds)
    distinct, which = np.unique(np.stack(states), axis=1, return_inverse=True)
    spots = np.empty((distinct.shape[1], most, 2))
    for k, (w, h, d, s) in enumerate(distinct.T):
        scattered(most, w, h, shape, outline, max(d, 0.0), int(s), spots[k])
    spots = spots[which.ravel()]
    still = np.zeros((1, most))
    z = np.zeros((1, 1))
    if np.any(deep):
        chance = np.empty((len(distinct.T), most))
        for k, (_, _, _, s) in enumerate(distinct.T):
            even_at(-1.0 - np.arange(most, dtype=np.float64), np.zeros(1), np.full(1, s), chance[k])
        z = (chance[which.ravel()] - 0.5) * _down(deep)
    return Places(spots[..., 0], spots[..., 1], still, still, still, counts, _NONE, _NONE, z)
