"""Points and tangents along an outline, by its length."""

from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from .outline import Floats
from .paths import path_outline

_PIECES = 48
"""In how many pieces a curve is measured."""

_NUMBERS = {"L": 1, "Q": 2, "C": 3}


class Track:
    """One outline as a line to stand along: stretches between moves are joined end to end, the gaps not counted."""

    def __init__(self, verbs: str, points: Floats) -> None:
        """`points` (numbers,), x y of each point as the verbs take them."""
        curves: list[Floats] = []
        at = start = np.zeros(2)
        k, moves, ends = 0, 0, False
        for verb in verbs:
            if verb == "M":
                at = start = points[k : k + 2]
                k, moves = k + 2, moves + 1
            elif verb == "Z":
                ends = True
                if np.hypot(*(start - at)) > 1e-9:
                    curves.append(_cubic(np.stack([at, start])))
                at = start
            else:
                many = _NUMBERS[verb]
                inner = points[k : k + 2 * many].reshape(many, 2)
                curves.append(_cubic(np.vstack([at, inner])))
                at, k = inner[-1], k + 2 * many
        self.closed = moves == 1 and (ends or (bool(curves) and bool(np.hypot(*(at - start)) < 1e-6)))
        self._start = start
        self._curves = np.array(curves) if curves else np.zeros((0, 4, 2))
        edges = np.tile(np.linspace(0, 1, _PIECES + 1), (len(self._curves), 1))
        pieces = _length(np.repeat(self._curves, _PIECES, axis=0), edges[:, :-1].ravel(), edges[:, 1:].ravel())
        self._lengths = np.concatenate([[0.0], np.cumsum(pieces)])
        self.length = float(self._lengths[-1])

    def at(self, shares: Floats) -> tuple[Floats, Floats, Floats]:
        """x, y and the direction in degrees at shares 0..1 of the length; shaped as these."""
        if not self.length > 0:
            # A line without length is a point.
            x, y = (np.full(shares.shape, float(v)) for v in self._start)
            return x, y, np.zeros(shares.shape)
        wanted = shares.ravel() * self.length
        chord = np.clip(np.searchsorted(self._lengths, wanted, side="right") - 1, 0, len(self._lengths) - 2)
        span = self._lengths[chord + 1] - self._lengths[chord]
        inside = np.where(span > 0, (wanted - self._lengths[chord]) / np.where(span > 0, span, 1), 0.0)
        curve, piece = chord // _PIECES, chord % _PIECES
        share = (piece + np.clip(inside, 0, 1)) / _PIECES
        for _ in range(2):
            # Newton's steps to where the length from the piece's beginning is what is wanted.
            way = _slope(self._curves[curve], share) * 3
            speed = np.hypot(way[:, 0], way[:, 1])
            missing = wanted - self._lengths[chord] - _length(self._curves[curve], piece / _PIECES, share)
            share = np.clip(share + np.where(speed > 1e-9, missing / np.where(speed > 1e-9, speed, 1), 0), 0, 1)
        points = _on(self._curves[curve], share[:, None])[:, 0]
        way = _slope(self._curves[curve], share)
        # Where a curve begins or ends with both points in one, its direction is that of a chord.
        flat = np.hypot(way[:, 0], way[:, 1]) < 1e-9
        if flat.any():
            near = np.clip(np.where(share < 0.5, share + 1e-3, share - 1e-3), 0, 1)
            way = np.where(flat[:, None], _slope(self._curves[curve], near), way)
        angle = np.rad2deg(np.arctan2(way[:, 1], way[:, 0]))
        return points[:, 0].reshape(shares.shape), points[:, 1].reshape(shares.shape), angle.reshape(shares.shape)

    def polygon(self) -> Floats:
        """Points close together along it, (k, 2)."""
        if not len(self._curves):
            return np.zeros((0, 2))
        return _on(self._curves, np.linspace(0, 1, 12, endpoint=False)[None, :]).reshape(-1, 2)


def _length(curves: Floats, first: Floats, last: Floats) -> Floats:
    """How long short stretches of cubics (c, 4, 2) are, from a share to another, (c,) each: Gauss's rule with three
    points."""
    middle, half = (first + last) / 2, (last - first) / 2
    whole = np.zeros(len(curves))
    for place, weight in ((-np.sqrt(0.6), 5 / 9), (0.0, 8 / 9), (np.sqrt(0.6), 5 / 9)):
        way = _slope(curves, middle + half * place) * 3
        whole += weight * np.hypot(way[:, 0], way[:, 1])
    return whole * half


def _cubic(points: Floats) -> Floats:
    """A line, a quadratic or a cubic as the four points of a cubic."""
    if len(points) == 4:
        return points
    if len(points) == 2:
        return np.stack(
            [points[0], points[0] + (points[1] - points[0]) / 3, points[1] + (points[0] - points[1]) / 3, points[1]]
        )
    return np.stack([points[0], (points[0] + 2 * points[1]) / 3, (2 * points[1] + points[2]) / 3, points[2]])


def _on(curves: NDArray[np.float64], share: Floats) -> Floats:
    """Points of cubics (c, 4, 2) at shares (c or 1, k): (c, k, 2)."""
    t = share[..., None]
    a, b, c, d = (curves[:, k, None, :] for k in range(4))
    return np.asarray((1 - t) ** 3 * a + 3 * (1 - t) ** 2 * t * b + 3 * (1 - t) * t**2 * c + t**3 * d)


def _slope(curves: Floats, share: Floats) -> Floats:
    t = share[:, None]
    a, b, c, d = (curves[:, k] for k in range(4))
    return np.asarray((1 - t) ** 2 * (b - a) + 2 * (1 - t) * t * (c - b) + t**2 * (d - c))


@lru_cache(maxsize=64)
def track_of(data: str) -> Track:
    """The track of SVG path data. Raises ValueError with a sentence for the artist."""
    outline = path_outline(data)
    return Track(outline.verbs, outline.points[0])
