"""The mean of what comes in over stretches of time, piece by piece between its breaks."""

import numpy as np
from numpy.typing import NDArray

from ..document.protocols import Signal, Values
from .panels import NODES, WEIGHTS

Times = NDArray[np.float64]

_FINER = 6
_CLOSE_ENOUGH = 1e-5


def in_pieces(starts: Times, ends: Times, breaks: Times) -> tuple[Times, Times, NDArray[np.int64]]:
    """Stretches in pieces between breaks: left ends, right ends, and which stretch each is of."""
    inside = breaks[(np.searchsorted(starts, breaks, side="right") > 0)]
    cell = np.searchsorted(starts, inside, side="right") - 1
    held = (inside > starts[cell]) & (inside < ends[cell])
    lefts, which = np.concatenate([starts, inside[held]]), np.concatenate([np.arange(len(starts)), cell[held]])
    order = np.lexsort((lefts, which))
    lefts, which = lefts[order], which[order]
    rights = np.where(np.append(which[1:] == which[:-1], False), np.append(lefts[1:], 0.0), ends[which])
    return lefts, rights, which


def exact_means(
    incoming: Signal,
    rows: NDArray[np.int64],
    starts: Times,
    ends: Times,
    split: list[tuple[Times, Times, NDArray[np.int64]]],
) -> Values:
    """The mean of what comes in over each stretch (n,), each of an element's, piece by piece between its breaks;
    (n, components)."""
    begin = np.cumsum([0, *(int(which[-1]) + 1 for _, _, which in split)])
    lefts, rights = (np.concatenate([part[k] for part in split]) for k in (0, 1))
    which = np.concatenate([part[2] + at for part, at in zip(split, begin[:-1], strict=True)])
    base, sums = _integrals(incoming, rows[which], lefts, rights - lefts, which)
    total = np.zeros(base.shape)
    np.add.at(total, which, sums)
    return np.asarray(base + total / (ends - starts)[:, None])


def _of_pieces(incoming: Signal, rows: NDArray[np.int64], times: Times) -> Values:
    """What comes in at moments (n, each) of some elements (n,), those of an element asked for at once; (n, each,
    components)."""
    used, of, counts = np.unique(rows, return_inverse=True, return_counts=True)
    many, each = int(counts.max()), times.shape[1]
    order = np.argsort(of, kind="stable")
    place = np.empty(len(rows), dtype=np.int64)
    place[order] = np.arange(len(rows)) - np.repeat(np.cumsum(counts) - counts, counts)
    # An element that asks for fewer asks for one of them again.
    block = np.repeat(times[order[np.cumsum(counts) - counts]][:, None], many, axis=1)
    block[of, place] = times
    given = incoming.of_elements(used, block.ravel() if len(used) == 1 else block.reshape(len(used), -1))
    whole = np.broadcast_to(given, (len(used), many * each, given.shape[2]))
    return np.asarray(whole.reshape(len(used), many, each, -1)[of, place])


def _integrals(
    incoming: Signal, rows: NDArray[np.int64], lefts: Times, widths: Times, stretch: NDArray[np.int64]
) -> tuple[Values, Values]:
    """Integrals of pieces, each of an element, by Gauss–Legendre's rule, halved where two levels differ; (n,
    components). They are counted from a value of their stretch (stretches, components), so that what does not change is
    its own mean to the last bit.
    """
    given = _of_pieces(incoming, rows, lefts[:, None] + widths[:, None] * NODES)
    base = given[np.flatnonzero(np.append(True, stretch[1:] != stretch[:-1])), 0]

    def ruled(given: Values, which: NDArray[np.int64], w: Times) -> Values:
        made = np.zeros((len(w), given.shape[2]))
        for k, weight in enumerate(WEIGHTS):
            made += (given[:, k] - base[stretch[which]]) * weight
        return made * w[:, None]

    which, left, width = np.arange(len(lefts)), lefts, widths
    total = ruled(given, which, widths)
    known, size = total.copy(), np.abs(given).max(axis=1) * widths[:, None]
    for _ in range(_FINER):
        both_of = np.tile(which, 2)
        starts, half = np.concatenate([left, left + width / 2]), np.tile(width / 2, 2)
        halves = ruled(_of_pieces(incoming, rows[both_of], starts[:, None] + half[:, None] * NODES), both_of, half)
        both = halves[: len(left)] + halves[len(left) :]
        np.add.at(total, which, both - known)
        rough = (np.abs(both - known) > _CLOSE_ENOUGH * size[which]).any(axis=1)
        if not rough.any():
            break
        again = np.concatenate([rough, rough])
        which, known = both_of[again], halves[again]
        left, width = starts[again], half[again]
    return base, total
