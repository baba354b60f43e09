"""An outline over time: drawing verbs, and the points they use at each moment."""

from dataclasses import dataclass, field

import numpy as np
from fontTools.pens.basePen import BasePen
from numpy.typing import NDArray

Floats = NDArray[np.float64]


#: The control distance with which a cubic comes closest to a quarter circle.
KAPPA = 4 * (np.sqrt(2) - 1) / 3


@dataclass(frozen=True)
class Outline:
    """`verbs` such as "MLLZ" and points (n, numbers) or (1, numbers) in pixels."""

    verbs: str
    points: Floats


@dataclass
class OutlinePen(BasePen):  # type: ignore[misc]
    """A fontTools pen that collects verbs and points, moved and scaled; y grows downwards when asked to flip."""

    scale: float = 1.0
    dx: float = 0.0
    dy: float = 0.0
    flip: bool = False
    verbs: list[str] = field(default_factory=list)
    points: list[float] = field(default_factory=list)

    def __post_init__(self) -> None:
        super().__init__(None)

    def _put(self, verb: str, *points: tuple[float, float]) -> None:
        self.verbs.append(verb)
        sign = -1.0 if self.flip else 1.0
        for x, y in points:
            self.points += (self.dx + x * self.scale, self.dy + sign * y * self.scale)

    def _moveTo(self, pt: tuple[float, float]) -> None:
        self._put("M", pt)

    def _lineTo(self, pt: tuple[float, float]) -> None:
        self._put("L", pt)

    def _qCurveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float]) -> None:
        self._put("Q", pt1, pt2)

    def _curveToOne(self, pt1: tuple[float, float], pt2: tuple[float, float], pt3: tuple[float, float]) -> None:
        self._put("C", pt1, pt2, pt3)

    def _closePath(self) -> None:
        self._put("Z")

    def outline(self) -> Outline:
        """What was drawn."""
        return Outline("".join(self.verbs), np.array([self.points], dtype=np.float64))


def over_time(columns: list[Floats | float]) -> Floats:
    """Columns (n,), (1,) or single numbers side by side: (n or 1, columns)."""
    if all(isinstance(column, float | int) or column.size == 1 for column in columns):
        return np.array([[float(one) if isinstance(one, float | int) else one.item() for one in columns]])
    arrays = [np.atleast_1d(np.asarray(column, dtype=np.float64)) for column in columns]
    lengths = {len(array) for array in arrays}
    count = 0 if 0 in lengths else max(lengths)
    return np.stack([np.broadcast_to(array, (count,)) for array in arrays], axis=1)
