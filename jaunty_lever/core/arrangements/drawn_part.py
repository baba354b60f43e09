"""The drawn part of outlines: what lies between two shares of their length."""

from dataclasses import dataclass

import numpy as np

from ..geometry.outline import Floats
from ..kernels.edges import NOTHING, PIECES, clipped, measured
from ..kernels.parallel import over
from .points import Whole, cubics

_NONE, _PIECE, _WHOLE, _TWO = range(4)


@dataclass(frozen=True)
class Part:
    """Parts that are drawn with the same verbs: of which outlines, by number, and their points (outlines, numbers)."""

    outlines: Whole
    verbs: str
    points: Floats


def drawn_parts(
    verbs: str, points: Floats, start: Floats, end: Floats, turn: Floats, each: Whole
) -> tuple[list[Part], Floats]:
    """The parts of outlines with the same verbs, (rows, numbers), from `start` to `end` and moved on by `turn`, shares
    of the length (rows,). Where `each` (rows,) is not 0, those of each contour; else of all of them, one after another.

    Which of the two shares is larger does not matter, and neither lies outside 0 to 1. Outlines of which nothing is
    drawn are left out. Also gives how long each outline is, (rows,).
    """
    curves, spans, closed = cubics(verbs, points)
    rows = len(curves)
    table = np.empty((*curves.shape[:2], PIECES + 1))
    over(rows, measured, curves, table, each=PIECES * curves.shape[1])
    lengths = (
        np.stack([table[:, a:b, PIECES].sum(axis=1) for a, b in spans], axis=1) if len(spans) else np.zeros((rows, 0))
    )
    whole = lengths.sum(axis=1)
    start, end = (np.clip(np.nan_to_num(part), 0, 1) for part in (start, end))
    low, share = np.minimum(start, end), np.abs(end - start)
    alone = (each != 0)[:, None]
    # Along how long a way each contour is drawn, and where on it the contour begins.
    round_it = np.where(alone, lengths, whole[:, None])
    begins = np.where(alone, 0.0, np.cumsum(lengths, axis=1) - lengths)
    first = np.mod(low[:, None] + np.nan_to_num(turn)[:, None], 1.0) * round_it
    last = first + share[:, None] * round_it
    one = _overlap(first - begins, last - begins, lengths)
    two = _overlap(first - begins - round_it, last - begins - round_it, lengths)
    some, more = (b - a > NOTHING for a, b in (one, two))
    state = np.where(some & more & ~(closed[None, :] == 1), _TWO, np.where(some | more, _PIECE, _NONE))
    state = np.where((share[:, None] >= 1 - 1e-12) & (lengths > NOTHING), _WHOLE, state)
    made = []
    kinds, kind = np.unique(state, axis=0, return_inverse=True)
    for k, flags in enumerate(kinds):
        mine = np.flatnonzero(kind.ravel() == k)
        pieces: list[Floats] = []
        said = ""
        for c, flag in enumerate(flags):
            span = np.array(spans[c], dtype=np.int64)
            many, ring = int(span[1] - span[0]), bool(closed[c])

            def piece(a: Floats, b: Floats, rounds: int = 1, span: Whole = span, many: int = many) -> Floats:
                out = np.empty((len(mine), 2 + 6 * many * rounds))  # noqa: B023
                some = curves[mine], table[mine]  # noqa: B023
                over(
                    len(out),
                    clipped,
                    *some,
                    span,
                    rounds,
                    np.ascontiguousarray(a),
                    np.ascontiguousarray(b),
                    out,
                    each=8 * many,
                )
                return out

            if flag == _WHOLE:
                pieces.append(piece(np.zeros(len(mine)), lengths[mine, c] * 2))
                said += "M" + "C" * many + ("Z" if ring else "")
            elif flag == _TWO:
                pieces += [piece(a[mine, c], b[mine, c]) for a, b in (one, two)]
                said += ("M" + "C" * many) * 2
            elif flag == _PIECE:
                # What runs over the end of a ring goes on at its beginning, in one line.
                both = some[mine, c] & more[mine, c]
                a = np.where(some[mine, c], one[0][mine, c], two[0][mine, c])
                b = np.where(
                    both, lengths[mine, c] + two[1][mine, c], np.where(some[mine, c], one[1][mine, c], two[1][mine, c])
                )
                rounds = 2 if ring else 1
                pieces.append(piece(a, b, rounds))
                said += "M" + "C" * many * rounds
        if pieces:
            made.append(Part(mine, said, np.concatenate(pieces, axis=1)))
    return made, whole


def _overlap(first: Floats, last: Floats, lengths: Floats) -> tuple[Floats, Floats]:
    return np.clip(first, 0, lengths), np.clip(last, 0, lengths)
