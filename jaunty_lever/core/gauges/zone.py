"""Zone: how near copies are to a region of the stage, and pushing them away from it."""

from typing import Literal

import numpy as np
from numpy.typing import NDArray

from .edges import Ease, Floats, softened

Shape = Literal["disc", "box", "bar"]
PushWay = Literal["away", "towards", "around"]


def nearness(
    points: Floats, centre: Floats, size: Floats, angle: float, shape: Shape, inner: float, ease: Ease
) -> Floats:
    """1 up to the inner share of the zone, 0 outside it, in between by its ease; (n,).

    points (n, 2) and centre (2,) in the scene's px, size (2,): half extents, angle in degrees.
    """
    turn = np.deg2rad(-angle)
    along = np.array([[np.cos(turn), -np.sin(turn)], [np.sin(turn), np.cos(turn)]])
    local = ((points - centre) @ along.T) / np.where(size == 0, 1e-300, size)
    if shape == "disc":
        apart = np.hypot(local[:, 0], local[:, 1])
    else:
        apart = np.abs(local).max(axis=1) if shape == "box" else np.abs(local[:, 0])
    soft = np.full(len(points), 1.0 - inner)
    return softened(1 - apart, soft, ease, np.asarray(apart <= inner, dtype=np.float64))


def pushed(
    points: Floats, centre: Floats, near: Floats, force: float, way: PushWay, numbers: NDArray[np.int64]
) -> Floats:
    """Points moved away from a centre, towards it, or around it (a right angle, clockwise) by force · nearness; (n, 2).

    Exactly at the centre the direction is drawn from the copy's number.
    """
    offset = points - centre
    length = np.hypot(offset[:, 0], offset[:, 1])
    # The golden angle leads copies that stand on one spot apart evenly.
    chance = numbers * 2.399963229728653
    lost = np.stack([np.cos(chance), np.sin(chance)], axis=1)
    away = np.where(length[:, None] > 0, offset / np.where(length > 0, length, 1.0)[:, None], lost)
    ways = {"away": away, "towards": -away, "around": np.stack([-away[:, 1], away[:, 0]], axis=1)}
    return np.asarray(points + force * near[:, None] * ways[way])
