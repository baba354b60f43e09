"""Corners between straight sides, rounded off."""

import numpy as np

from .outline import Floats, Outline

_STRAIGHT = np.deg2rad(1.0)


def rounded(outline: Outline, radius: Floats) -> Outline:
    """An outline whose corners between straight sides are arcs of a radius (n or 1,), px; no arc takes more than half
    of either side. Where the radius is 0, corners are arcs of no length. Curves stay as they are."""
    rows = max(len(outline.points), len(radius))
    points = np.broadcast_to(outline.points, (rows, outline.points.shape[1])).reshape(rows, -1, 2)
    radius = np.maximum(np.broadcast_to(radius, (rows,)), 0)
    verbs: list[str] = []
    made: list[Floats] = []
    for said, first, last in _contours(outline.verbs):
        _round(said, points[:, first:last], radius, verbs, made)
    return Outline("".join(verbs), np.concatenate(made, axis=1) if made else np.zeros((rows, 0)))


_NUMBERS = {"M": 1, "L": 1, "Q": 2, "C": 3, "Z": 0}


def _contours(verbs: str) -> list[tuple[str, int, int]]:
    """The verbs of each contour, its first point, and the one after its last."""
    found, at = [], 0
    for part in verbs.split("M")[1:]:
        many = 1 + sum(_NUMBERS[verb] for verb in part)
        found.append((part, at, at + many))
        at += many
    return found


def _round(said: str, points: Floats, radius: Floats, verbs: list[str], made: list[Floats]) -> None:
    closed = said.endswith("Z")
    # Each side: its verb, and its points by number, from the one where it begins.
    sides, at = [], 0
    for verb in said.rstrip("Z"):
        sides.append((verb, list(range(at, at + _NUMBERS[verb] + 1))))
        at += _NUMBERS[verb]
    if closed and not np.array_equal(points[:, at], points[:, 0]):
        sides.append(("L", [at, 0]))
    if not sides:
        verbs.append("M" + ("Z" if closed else ""))
        made.append(points[:, 0])
        return
    arcs = []
    for k, (verb, own) in enumerate(sides):
        after = sides[(k + 1) % len(sides)]
        sharp = verb == after[0] == "L" and (closed or k + 1 < len(sides))
        arcs.append(_arc(points[:, own[0]], points[:, own[-1]], points[:, after[1][-1]], radius) if sharp else None)
    last = arcs[-1] if closed else None
    verbs.append("M")
    made.append(points[:, 0] if last is None else last[3])
    for (verb, own), arc in zip(sides, arcs, strict=True):
        ends = [points[:, k] for k in own[1:]]
        if arc is not None:
            ends[-1] = arc[0]
        verbs.append(verb)
        made += ends
        if arc is not None:
            verbs.append("C")
            made += arc[1:]
    verbs.append("Z" if closed else "")


def _arc(before: Floats, corner: Floats, after: Floats, radius: Floats) -> list[Floats]:
    """The beginning, the two control points and the end of the arc that takes the place of a corner; (rows, 2) each."""
    a, b = before - corner, after - corner
    la, lb = (np.maximum(np.hypot(side[:, 0], side[:, 1]), 1e-12) for side in (a, b))
    a, b = a / la[:, None], b / lb[:, None]
    angle = np.arccos(np.clip((a * b).sum(axis=1), -1, 1))
    flat = (angle < _STRAIGHT) | (angle > np.pi - _STRAIGHT)
    half = np.where(flat, 1.0, np.tan(angle / 2))
    far = np.where(flat, 0.0, np.minimum(radius / half, np.minimum(la, lb) / 2))
    # The cubic closest to an arc that turns by π − angle, of the radius that fits.
    reach = 4 / 3 * np.tan((np.pi - angle) / 4) * far * half
    keep = (far - np.where(flat, 0.0, reach))[:, None]
    return [corner + a * far[:, None], corner + a * keep, corner + b * keep, corner + b * far[:, None]]
