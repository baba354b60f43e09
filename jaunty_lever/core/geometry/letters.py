"""A text taken apart: its letters, words or lines, each with its own outline about a pivot, where they stand as set.

What belongs together stays together: a part is made of whole clusters as HarfBuzz tells them, so that marks keep their
letters and ligatures are one. Kerning stays as it is set.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from ..document.limits import MOST_DRAWN_LETTERS
from .outline import Floats
from .text import Glyph, shaped, weight_in

BY = ("letter", "word", "line")
PIVOTS = ("its own middle", "the baseline", "the line's middle")
START = {"start": 0.0, "middle": -0.5, "end": -1.0}


@dataclass(frozen=True)
class Part:
    """A part of a text in ems: its verbs, its points (m, 2) with the advances before them, which letter of its line
    each point belongs to (m,); its line and its number there; how wide the line is and how many letters it has."""

    verbs: str
    points: Floats
    letter: NDArray[np.int64]
    row: int
    col: int
    width: float
    count: int


@lru_cache(maxsize=256)
def parts_of(text: str, family: str, weight: float, by: str) -> tuple[Part, ...]:
    """The parts of a text in the order in which it is read; spaces are none."""
    made: list[Part] = []
    for row, content in enumerate(text[:MOST_DRAWN_LETTERS].split("\n")):
        glyphs = shaped(family, weight_in(family, weight), content)
        width = glyphs[-1].x + glyphs[-1].advance if glyphs else 0.0
        groups: dict[int, list[tuple[int, Glyph]]] = {}
        for number, glyph in enumerate(glyphs):
            if glyph.verbs:
                groups.setdefault(_group(content, glyph.cluster, by), []).append((number, glyph))
        for col, key in enumerate(sorted(groups)):
            some = groups[key]
            made.append(
                Part(
                    "".join(glyph.verbs for _, glyph in some),
                    np.concatenate([glyph.points for _, glyph in some]),
                    np.concatenate([np.full(len(glyph.points), number) for number, glyph in some]),
                    row,
                    col,
                    width,
                    len(glyphs),
                )
            )
    return tuple(made)


def _group(content: str, cluster: int, by: str) -> int:
    if by == "line":
        return 0
    if by == "letter":
        return cluster
    return len(content[: cluster + 1].split())


def placed(
    part: Part, align: str, pivot: str, size: Floats, tracking: Floats, leading: Floats
) -> tuple[Floats, Floats]:
    """A part's points about its pivot (n, 2m), and where the pivot stands in the text (n, 2), in px; size in px,
    tracking and leading in percent of it, each (n,) or (1,). See `text_outline`."""
    rows = max(len(one) for one in (size, tracking, leading))
    height, spread, apart = (np.broadcast_to(one, (rows,))[:, None] for one in (size, tracking / 100, leading / 100))
    start = START[align] * (part.width + spread * max(0, part.count - 1))
    x = (start + part.points[:, 0] + spread * part.letter) * height
    y = (0.35 + part.row * apart + part.points[:, 1]) * height
    middle = (x.min(axis=1) + x.max(axis=1)) / 2
    if pivot == PIVOTS[1]:
        spot = np.stack([middle, ((0.35 + part.row * apart) * height)[:, 0]], axis=1)
    elif pivot == PIVOTS[2]:
        whole = (start + (part.width + spread * max(0, part.count - 1)) / 2) * height
        spot = np.stack([whole[:, 0], (part.row * apart * height)[:, 0]], axis=1)
    else:
        spot = np.stack([middle, (y.min(axis=1) + y.max(axis=1)) / 2], axis=1)
    about = np.stack([x - spot[:, :1], y - spot[:, 1:]], axis=2)
    return about.reshape(rows, -1), spot
