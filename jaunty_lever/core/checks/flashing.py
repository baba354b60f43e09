"""Flashing: WCAG 2.2's general flash thresholds (success criterion 2.3.1), on small pictures of every frame.

A general flash is a pair of opposing changes in relative luminance of 10 % or more of the maximum, where
the darker state is below 0.80. More than three flashes within any second, at once over more than a
quarter of the stage, are told.
"""

from collections.abc import Iterator

import numpy as np
from numpy.typing import NDArray

from ..document.scene import Scene
from ..kernels.extremes import changes
from .check import Check

CHANGE, DARK, MOST_FLASHES, SHARE = 0.1, 0.8, 3, 0.25


def luminance(rgb: NDArray[np.float64]) -> NDArray[np.float64]:
    """Relative luminance of sRGB colours (…, 3) in 0..1, after WCAG 2.2's definition."""
    linear = np.where(rgb <= 0.04045, rgb / 12.92, ((rgb + 0.055) / 1.055) ** 2.4)
    made: NDArray[np.float64] = linear @ np.array([0.2126, 0.7152, 0.0722])
    return made


def transitions(light: NDArray[np.float64]) -> NDArray[np.int8]:
    """Where a cell's luminance has changed by a tenth against the last extreme: +1 up, −1 down; (frames, cells).

    The luminance is (frames, cells). A change counts once, at the frame where it becomes large enough.
    """
    found = np.zeros(light.shape, dtype=np.int8)
    changes(np.ascontiguousarray(light, dtype=np.float64), CHANGE, DARK, found)
    return found


def flashing(light: NDArray[np.float64], fps: float) -> tuple[int, float, float] | None:
    """Frame, flashes within a second, and share of the stage where they are too many; None when it is safe."""
    frames = light.reshape(len(light), -1)
    changes = np.abs(transitions(frames)).astype(np.int64)
    sums = np.concatenate([np.zeros((1, changes.shape[1]), dtype=np.int64), np.cumsum(changes, axis=0)])
    window = max(1, round(fps))
    ends = np.arange(1, len(sums))
    pairs = (sums[ends] - sums[np.maximum(ends - window, 0)]) // 2
    share = (pairs > MOST_FLASHES).mean(axis=1)
    wrong = np.flatnonzero(share > SHARE)
    if not len(wrong):
        return None
    worst = int(wrong[np.argmax(share[wrong])])
    return max(0, int(wrong[0]) - window + 1), float(pairs[worst].max()), float(share[worst])


def checks(scene: Scene, light: NDArray[np.float64]) -> Iterator[Check]:
    """The check for a scene whose frames have this luminance (frames, rows, columns)."""
    found = flashing(light, scene.fps)
    if found:
        frame, count, share = found
        yield Check(
            "flashing",
            f"Flashes {count:g} times within a second over {share * 100:.0f} % of the stage, first from frame {frame}. "
            "More than three over a quarter can harm people: make it slower, weaker or smaller.",
            scene.id,
            frame,
        )
