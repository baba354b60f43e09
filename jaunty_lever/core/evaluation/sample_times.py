"""The moments at which values are asked for."""

from collections.abc import Hashable
from dataclasses import dataclass
from functools import cached_property
from hashlib import blake2b

import numpy as np
from numpy.typing import NDArray

Times = NDArray[np.float64]

#: Moments that were worked out lie on a grid of so many a second, of which the frames of all usual rates (24, 25, 30,
#: 30000/1001, 48, 50, 60, 120, 240) and delays of up to six decimals are members: the same moment reached in two ways
#: is one.
_A_SECOND = float(2**19 * 3**4 * 5**6)
_A_FRAME = 2.0**-38
"""Seconds within which a moment is a frame: what the rounding of a difference may come to."""
_NEAR, _FAR = 10_000.0, 1e9


def worked_out(times: Times, fps: float) -> Times:
    """Times that were worked out (delayed, or by a formula) as times to be asked for: finite, and on the grid.

    What lies at a frame of the rate becomes that frame's very time, to the last bit: a frame less some frames is a
    frame, and a hold key is never missed by a hair.
    """
    size = np.abs(times)
    if not times.size or size.max() < _NEAR:
        return _on_grid(times, fps)
    far = np.clip(np.nan_to_num(times, posinf=_FAR, neginf=-_FAR), -_FAR, _FAR)
    return np.where(size < _NEAR, _on_grid(np.where(size < _NEAR, times, 0.0), fps), far)


def _on_grid(times: Times, fps: float) -> Times:
    near = np.rint(times * _A_SECOND)
    near /= _A_SECOND
    frames = np.rint(near * fps)
    frames /= fps
    np.copyto(near, frames, where=np.abs(near - frames) < _A_FRAME)
    return np.ascontiguousarray(near)


@dataclass(frozen=True, eq=False)
class SampleTimes:
    """Times in seconds (n,). `grid` names a frame grid, under which results are remembered; else they are
    remembered by the digest of the times."""

    times: Times
    grid: tuple[float, float, float, float] | None = None

    @cached_property
    def key(self) -> Hashable:
        """What results at these moments are remembered under."""
        return self.grid or (len(self.times), blake2b(self.times.tobytes(), digest_size=16).digest())

    @classmethod
    def frames(cls, fps: float, start: float, stop: float, step: float = 1.0) -> "SampleTimes":
        """The times of the frames start, start + step, … before stop."""
        count = max(0, int(np.ceil((stop - start) / step - 1e-9)))
        return cls((start + step * np.arange(count, dtype=np.float64)) / fps, (fps, start, stop, step))
