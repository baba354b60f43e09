"""Outlines of a Lottie file that are told point by point, and how they move."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..svg.shapes import plainly
from .moving import Clock, Moving
from .values import Values

Points = NDArray[np.float64]
_AWAY = 0.2
"""How far from where a point is, px, it may be put where a whole outline is moved and stretched instead."""


@dataclass(frozen=True)
class Curve:
    """An outline as path data, and how it is moved and stretched over time: across, down, right, lower."""

    data: str
    moved: Moving | None = None


def curve_of(values: Values, ks: Any, clock: Clock, moves: bool, stretches: bool) -> Curve:
    """An outline; of one that changes, as it stands first, unless all of it moves and stretches alike, and may."""
    given = ks.get("k") if isinstance(ks, dict) else None
    if not (isinstance(given, list) and given and isinstance(given[0], dict) and "t" in given[0]):
        shape = given[0] if isinstance(given, list) and given else given
        return Curve(_data(values, shape) or "")
    shapes = [_shape(key.get("s")) if isinstance(key, dict) else None for key in given]
    if len(shapes) > 1 and shapes[-1] is None:
        # Of the last key older files tell only when it is.
        shapes[-1] = _shape(given[-2].get("e")) if isinstance(given[-2], dict) else None
    first = _data(values, shapes[0])
    points = [_told(values, shape) for shape in shapes]
    if first is None or len(points) < 2:
        return Curve(first or "")
    found = [one for one in points if one is not None]
    if len(found) == len(points) and all(one.shape == found[0].shape for one in found):
        alike = _alike(np.stack(found))
        # Wider or higher by more than can be seen.
        if moves and alike is not None and (stretches or (np.abs(alike[1][:, :2] - 1) <= 1e-3).all()):
            base, ways = alike
            keys = [{**key, "s": way, "e": None} for key, way in zip(given, ways.tolist(), strict=True)]
            moved = values.moving({"a": 1, "k": keys}, clock, 4, (1.0, 1.0, 0.0, 0.0))
            return Curve(_written(base, bool((shapes[0] or {}).get("c"))), moved)
    values.remark("Outlines that change: they stay as they are at first")
    return Curve(first)


def _shape(given: Any) -> dict[str, Any] | None:
    if isinstance(given, list) and given:
        given = given[0]
    return given if isinstance(given, dict) else None


def _told(values: Values, shape: Any) -> Points | None:
    """Its points: (corners, 3, 2), each corner with where the curve comes from and goes to. None where there are
    none."""
    if not isinstance(shape, dict):
        return None
    try:
        parts = [np.array([_point(one) for one in shape.get(name) or ()]).reshape(-1, 2) for name in ("v", "i", "o")]
    except (TypeError, ValueError, IndexError):
        values.remark("Outlines that make no sense")
        return None
    corners, into, out = parts
    if not len(corners) or len(into) != len(corners) or len(out) != len(corners):
        return None
    return np.stack([corners, corners + into, corners + out], axis=1)


def _data(values: Values, shape: Any) -> str | None:
    points = _told(values, shape)
    return None if points is None else _written(points, bool(shape.get("c")))


def _written(points: Points, closed: bool) -> str:
    corner, come, go = (points[:, k] for k in range(3))
    told = [f"M{plainly(corner[0].tolist())}"]
    many = len(corner)
    for k in range(many if closed else many - 1):
        after = (k + 1) % many
        told.append(f"C{plainly([*go[k].tolist(), *come[after].tolist(), *corner[after].tolist()])}")
    return "".join([*told, "Z" if closed else ""])


def _alike(points: Points) -> tuple[Points, Points] | None:
    """One outline (corners, 3, 2) and how it is stretched and moved to become each of many, (keys, 4); None where it is
    not.

    Each axis by itself, by least squares against where it is largest: there it is told best.
    """
    base, ways = np.empty(points.shape[1:]), np.empty((len(points), 4))
    for axis in range(2):
        rows = points[..., axis].reshape(len(points), -1)
        most = rows[np.argmax(np.ptp(rows, axis=1))]
        middle = most.mean()
        spread = ((most - middle) ** 2).sum()
        size = (
            ((rows - rows.mean(axis=1, keepdims=True)) @ (most - middle)) / spread
            if spread > 1e-12
            else np.ones(len(rows))
        )
        shift = rows.mean(axis=1) - size * middle
        if np.abs(size[:, None] * most + shift[:, None] - rows).max() > _AWAY:
            return None
        base[..., axis] = most.reshape(base.shape[:2])
        ways[:, axis], ways[:, 2 + axis] = size, shift
    return base, ways


def moved_fields(moved: Moving) -> dict[str, Any]:
    """How an outline is moved and stretched, as fields of its layer."""
    return {
        "scale": moved.parameter(lambda way: (way[0] * 100, way[1] * 100)),
        "position": moved.parameter(lambda way: (way[2], way[3])),
    }


def _point(given: Any) -> tuple[float, float]:
    x, y = float(given[0]), float(given[1])
    if not (abs(x) <= 1e6 and abs(y) <= 1e6):
        raise ValueError("too far")
    return x, y
