"""Lines whose width changes along their length, as what is filled: a band from point to point, and a disc at each."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from ..geometry.outline import Floats
from .points import U, Whole, X, Y, cut_outlines

_ROUND = 12
"""Corners of a disc."""
MOST_POINTS, APART = 360, 4.0
"""Points of a line at most, and how far they lie apart at least, px."""


@dataclass(frozen=True)
class Ribbon:
    """Lines that are filled with the same verbs: which they are, by number, and their points (lines, numbers)."""

    lines: Whole
    verbs: str
    points: Floats


def ribbons(verbs: str, points: Floats, width: Floats, profile: Callable[[Floats], Floats]) -> list[Ribbon]:
    """Lines with the same verbs, (rows, numbers), as ribbons `width` (rows or 1,) px wide times `profile` of the share
    of their length, 0..1. Lines without length are left out."""
    rows = len(points)
    zero = np.zeros(1, dtype=np.int64)
    detail = np.full(1, APART)
    cuts, _ = cut_outlines(verbs, points, detail, zero, MOST_POINTS, 8, True)
    made = []
    for one in cuts:
        x, y, u = one.table[:, X], one.table[:, Y], one.table[:, U]
        # What closes a ring has the share of its beginning where it begins.
        half = np.broadcast_to(width, (rows,))[one.outlines][:, None] * np.maximum(profile(u), 0) / 2
        begins = np.flatnonzero(one.links[:, 1] >= 0)
        after = one.links[begins, 1]
        dx, dy = x[:, after] - x[:, begins], y[:, after] - y[:, begins]
        size = np.maximum(np.hypot(dx, dy), 1e-9)
        nx, ny = dy / size, -dx / size
        a, b = half[:, begins], half[:, after]
        band = [
            x[:, begins] + nx * a,
            y[:, begins] + ny * a,
            x[:, after] + nx * b,
            y[:, after] + ny * b,
            x[:, after] - nx * b,
            y[:, after] - ny * b,
            x[:, begins] - nx * a,
            y[:, begins] - ny * a,
        ]
        turn = 2 * np.pi * np.arange(_ROUND) / _ROUND
        # Discs go round as bands do, so that all of it is one.
        disc = [part for angle in turn for part in (x + half * np.cos(angle), y + half * np.sin(angle))]
        whole = [np.stack(band, axis=2).reshape(len(x), -1), np.stack(disc, axis=2).reshape(len(x), -1)]
        said = "MLLLZ" * len(begins) + ("M" + "L" * (_ROUND - 1) + "Z") * one.count
        made.append(Ribbon(one.outlines, said, np.concatenate(whole, axis=1)))
    return made
