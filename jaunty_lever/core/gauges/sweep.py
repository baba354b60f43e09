"""Sweep: a front or a band that travels along an order."""

from collections.abc import Callable
from typing import Literal

import numpy as np
from numpy.typing import ArrayLike

from .edges import Ease, Floats, softened

Way = Literal["enter", "leave", "pulse", "notch"]


def swept(
    u: ArrayLike,
    travel: ArrayLike,
    way: Way,
    width: ArrayLike,
    soft: ArrayLike,
    ease: Ease,
    greatest_rank: ArrayLike | None = None,
) -> Floats:
    """How far a sweep has reached each copy, 0..1.

    u: 0..1 along the order; travel, width, soft: shares (1 is all of the array). All go together by numpy's rules.
    `greatest_rank`, for a pulse or a notch that comes round: then the order is a circle.
    """
    u, travel, width, soft = (np.asarray(part, dtype=np.float64) for part in (u, travel, width, soft))
    if way in ("enter", "leave"):
        # A softness that is lost when it is added to 1 would leave the last copy out.
        soft = np.where(1 + soft > 1, soft, 0.0)
        front = travel * (1 + soft)
        reached = softened(front - u, soft, ease, np.asarray((u < front) | (front >= 1), dtype=np.float64))
        return reached if way == "enter" else 1 - reached
    if greatest_rank is None:
        middle = travel * (1 + width + soft) - (width + soft) / 2
        apart = np.abs(u - middle)
    else:
        most = np.asarray(greatest_rank, dtype=np.float64)
        apart = np.abs(u * most / (most + 1) - np.mod(travel, 1.0))
        apart = np.minimum(apart, 1 - apart)
    inside = softened(width / 2 + soft / 2 - apart, soft, ease, np.asarray(apart <= width / 2, dtype=np.float64))
    return inside if way == "pulse" else 1 - inside


def played(u: ArrayLike, travel: ArrayLike, soft: ArrayLike, profile: Callable[[Floats], Floats]) -> Floats:
    """The little motion that each copy plays when the front passes: a curve over 0..1 of its passage."""
    u, travel, soft = (np.asarray(part, dtype=np.float64) for part in (u, travel, soft))
    front = travel * (1 + soft)
    hard = np.asarray(soft <= 0)
    passage = np.where(hard, (u < front) | (front >= 1), (front - u) / np.where(hard, 1.0, soft))
    return profile(np.clip(passage, 0.0, 1.0))
