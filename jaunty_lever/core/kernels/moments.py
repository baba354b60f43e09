"""Moments that were worked out, led onto a grid."""

import numpy as np

from .compiled import Filled, Floats, kernel


@kernel(error_model="numpy")
def on_grid(
    first: int,
    last: int,
    times: Floats,
    a_second: float,
    fps: float,
    near: float,
    most: float,
    furthest: float,
    out: Filled,
) -> None:
    """out[i] = times[i] on a grid of so many a second; what lies within `near` seconds of a frame is that frame (fps 0:
    no frames). What is `most` seconds away or more is left where it is, none further than `furthest`; what is no number
    is 0."""
    for i in range(first, last):
        if not abs(times[i]) < most:
            out[i] = 0.0 if np.isnan(times[i]) else min(max(times[i], -furthest), furthest)
            continue
        there = np.rint(times[i] * a_second) / a_second
        if fps > 0.0:
            frame = np.rint(there * fps) / fps
            if abs(there - frame) < near:
                there = frame
        out[i] = there
