"""How far what is drawn by keys strays from the true motion, in pixels of the scene."""

import numpy as np

from jaunty_lever.core.geometry.matrices import applied, product

from .tracks import Rows

_POINTS = 24


class Stray:
    """Follows shapes down their groups, once with true matrices and once with those that the keys give."""

    def __init__(self, count: int) -> None:
        self.count = count
        self.most = 0.0
        """Pixels, the farthest so far."""

    def inside(self, around: tuple[Rows, Rows], true: Rows, keyed: Rows) -> tuple[Rows, Rows]:
        """True and keyed matrices of a node, through those around it."""
        return product(around[0], true), product(around[1], keyed)

    def points(self, around: tuple[Rows, Rows], true: Rows, keyed: Rows) -> None:
        """Points (frames or 1, 2 · n) of an outline, true and by its keys."""
        step = max(2, 2 * (true.shape[1] // (2 * _POINTS)))
        ends = []
        for matrix, rows in zip(around, (true, keyed), strict=True):
            x, y = rows[:, ::step], rows[:, 1::step]
            ends.append(np.stack(applied(matrix[:, None], x, y)))
        apart = np.hypot(*(ends[0] - ends[1]))
        if apart.size:
            self.most = max(self.most, float(apart.max()))
