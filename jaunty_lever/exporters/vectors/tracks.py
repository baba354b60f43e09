"""Tracks: values over frames as few keys, and matrices taken apart into what can be keyed."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from jaunty_lever.core.document.keys import Ease
from jaunty_lever.core.evaluation.fit import fitted

Rows = NDArray[np.float64]

STEEP = (0.0, 1.0)
"""Eases of SMIL lie between these."""


@dataclass(frozen=True)
class Track:
    """Keys that values (frames or 1, width) are followed by: at `frames`, with `eases` from each to the next."""

    frames: tuple[int, ...]
    values: Rows
    """(keys, width)"""
    eases: tuple[Ease, ...]

    @property
    def still(self) -> bool:
        """Whether it never changes."""
        return len(self.frames) == 1

    def at_frames(self, count: int) -> Rows:
        """What the keys give at the frames 0 … before count, (count or 1, width)."""
        if self.still:
            return self.values
        made = np.empty((count, self.values.shape[1]))
        made[self.frames[-1] :] = self.values[-1]
        for k, (first, last) in enumerate(zip(self.frames, self.frames[1:], strict=False)):
            s = (np.arange(first, last) - first) / (last - first)
            ease = self.eases[k]
            if isinstance(ease, tuple):
                s = 3 * ease[1] * s * (1 - s) ** 2 + 3 * ease[3] * s**2 * (1 - s) + s**3
            elif ease == "hold":
                s = np.zeros_like(s)
            made[first:last] = self.values[k] + (self.values[k + 1] - self.values[k]) * s[:, None]
        return made


def track(values: Rows, tolerance: float, steep: tuple[float, float] | None = STEEP) -> Track:
    """Values (frames or 1, width) as keys that stray by no more than the tolerance at any frame."""
    if len(values) == 1 or np.ptp(values, axis=0).max() <= tolerance / 4:
        return Track((0,), values[:1], ())
    spots = fitted(values, tolerance, steep)
    return Track(tuple(at for at, _ in spots), values[[at for at, _ in spots]], tuple(ease for _, ease in spots[:-1]))


def steps(values: Rows) -> Track:
    """Values that jump, as keys that hold."""
    if len(values) == 1:
        return Track((0,), values, ())
    changed = [0, *(1 + np.flatnonzero(np.any(values[1:] != values[:-1], axis=1)))]
    held: list[Ease] = ["hold"]
    return Track(tuple(int(k) for k in changed), values[changed], tuple(held * (len(changed) - 1)))


@dataclass(frozen=True)
class Parts:
    """Matrices as translate(x, y) · rotate(angle) · skewX(skew) · scale(wide, high): (frames or 1,) each, angles in
    degrees."""

    x: Rows
    y: Rows
    angle: Rows
    skew: Rows
    wide: Rows
    high: Rows

    def matrices(self) -> Rows:
        """The matrices again, (frames or 1, 6)."""
        turn, slant = np.deg2rad(self.angle), np.tan(np.deg2rad(self.skew))
        cos, sin = np.cos(turn), np.sin(turn)
        a, b = cos * self.wide, sin * self.wide
        c, d = (cos * slant - sin) * self.high, (sin * slant + cos) * self.high
        return np.stack(np.broadcast_arrays(a, b, c, d, self.x, self.y), axis=-1)


def taken_apart(matrices: Rows) -> Parts:
    """Matrices (frames or 1, 6) taken apart, so that nothing jumps from frame to frame that need not."""
    a, b, c, d, e, f = matrices.T
    wide = np.hypot(a, b)
    seen = wide > 1e-9
    turn = np.where(seen, np.arctan2(b, a), np.arctan2(-c, d))
    cos, sin = np.cos(turn), np.sin(turn)
    across, high = cos * c + sin * d, cos * d - sin * c
    for k in range(1, len(turn)):
        # The same matrix is had with half a turn more and both scales reversed: whichever is nearer to the frame
        # before.
        off = turn[k] - turn[k - 1]
        half = round(off / np.pi)
        turn[k] -= half * np.pi
        if half % 2:
            wide[k], high[k], across[k] = -wide[k], -high[k], -across[k]
    safe = np.where(high == 0, 1.0, high)
    skew = np.where(high == 0, 0.0, np.rad2deg(np.arctan2(across * np.sign(safe), np.abs(safe))))
    return Parts(e, f, np.rad2deg(turn), skew, wide, high)


def limits(pixel: float, reach: float) -> tuple[float, float]:
    """By how many degrees, and by which share of its size, something may stray whose points lie so far from its origin,
    in px: a long thing is turned the more exactly."""
    share = min(0.001, pixel / 2 / max(reach, 1e-9))
    return min(0.05, float(np.rad2deg(share))), share


def fitted_parts(matrices: Rows, pixel: float, reach: float = 0.0) -> dict[str, Track]:
    """Each part of matrices as keys; `pixel`: by how much a point may stray, in px; `reach`: see `limits`."""
    parts = taken_apart(matrices)
    turn, share = limits(pixel, reach)
    tolerances = {"x": pixel, "y": pixel, "angle": turn, "skew": turn, "wide": share, "high": share}
    return {name: track(getattr(parts, name)[:, None], limit) for name, limit in tolerances.items()}


def matrices_of(parts: dict[str, Track], count: int) -> Rows:
    """The matrices that fitted parts give, (count or 1, 6)."""
    given: dict[str, Any] = {name: one.at_frames(count)[:, 0] for name, one in parts.items()}
    return Parts(**given).matrices()
