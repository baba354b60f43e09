"""Places of copies: rows, grids and rings."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]


@dataclass(frozen=True)
class Places:
    """Where copies stand: x, y in px, the angle that they face (degrees), and their row and column; (n,) each.

    `columns` and `rows` tell how many of them there are; 0 where copies have none.
    """

    x: Floats
    y: Floats
    angle: Floats
    row: Floats
    col: Floats
    columns: int = 0
    rows: int = 0

    def __len__(self) -> int:
        return len(self.x)


def row_of(count: int, gap: tuple[float, float]) -> Places:
    """Side by side: copy i at (i − (n−1)/2)·gap."""
    number = np.arange(count, dtype=np.float64)
    steps = number - (count - 1) / 2
    still = np.zeros(count)
    # Adding 0 makes a true 0 of what stands at −0.
    return Places(steps * gap[0] + 0.0, steps * gap[1] + 0.0, still, still, number, count, 1)


def gap_of_span(span: float, count: int) -> float:
    """The gap with which so many copies fill a span; 0 for a single one."""
    return span / (count - 1) if count > 1 else 0.0


def grid_of(columns: int, rows: int, gap: tuple[float, float], brick: float = 0.0) -> Places:
    """Row by row: copy row·columns + col, every other row moved along by the share `brick` of a gap."""
    number = np.arange(columns * rows, dtype=np.float64)
    col, row = number % max(columns, 1), number // max(columns, 1)
    x = (col - (columns - 1) / 2) * gap[0] + brick * gap[0] * (row % 2)
    y = (row - (rows - 1) / 2) * gap[1]
    return Places(x + 0.0, y + 0.0, np.zeros(len(number)), row, col, columns, rows)


def ring_of(count: int, radius: float, start: float = 0.0, arc: float = 360.0, facing: bool = True) -> Places:
    """Round the middle, the angle counted clockwise from straight up: a whole circle closes, an arc ends with a copy."""
    whole = abs(arc) == 360
    steps = np.arange(count, dtype=np.float64) / (count if whole else max(count - 1, 1))
    angle = start + arc * steps
    turn = np.deg2rad(angle)
    still = np.zeros(count)
    return Places(radius * np.sin(turn), -radius * np.cos(turn), angle if facing else still, still, still)
