"""Which parts of the plane an outline covers, by either rule, told by winding alone."""

from itertools import pairwise

import numpy as np
import skia

from .shapes import draw, steps


def filled(path: skia.Path, rule: str) -> skia.Path:
    """What a fill covers, told by winding, whichever rule it was drawn for: the very same path where both tell the
    same.

    What covers nothing is an empty path.
    """
    if rule != "evenodd" or path.isConvex():
        return path
    path.setFillType(skia.PathFillType.kWinding)
    turns = skia.Path(path)
    turns.setFillType(skia.PathFillType.kEvenOdd)
    try:
        if _nothing(skia.Op(path, turns, skia.PathOp.kXOR_PathOp)):
            return path
        plain = skia.Simplify(turns)
    except RuntimeError:
        # Rare tangles that it gives up.
        return path
    rings = _rings(plain)
    # What simplify leaves does not cross itself: a ring in an odd number of others is a hole, and runs the other way.
    made = skia.Path()
    if not rings:
        return made
    around = [ring.getBounds() for ring in rings]
    left, top, right, bottom = np.array([(b.left(), b.top(), b.right(), b.bottom()) for b in around]).reshape(-1, 4).T
    for ring in rings:
        x, y = _on_edge(ring)
        near = np.flatnonzero((left <= x) & (x <= right) & (top <= y) & (y <= bottom))
        deep = sum(rings[k] is not ring and rings[k].contains(x, y) for k in near)
        if (_runs_right(ring) > 0) == (deep % 2 == 0):
            made.addPath(ring)
        else:
            made.reverseAddPath(ring)
    return made


def _rings(path: skia.Path) -> list[skia.Path]:
    """The contours of a path, each for itself."""
    rings: list[skia.Path] = []
    for verb, pairs in steps(path):
        if verb == "M":
            rings.append(skia.Path())
        draw(rings[-1], verb, pairs)
    return rings


def _on_edge(ring: skia.Path) -> tuple[float, float]:
    """A point of a ring that is no corner."""
    for verb, points in ring:
        spots = [(p.x(), p.y()) for p in points]
        if verb != skia.Path.kMove_Verb and len(spots) > 1 and spots[0] != spots[-1]:
            # De Casteljau, which holds for lines as for curves.
            while len(spots) > 1:
                spots = [(0.4 * x + 0.6 * u, 0.4 * y + 0.6 * v) for (x, y), (u, v) in pairwise(spots)]
            return spots[0]
    return 0.0, 0.0


def _runs_right(ring: skia.Path) -> float:
    """Twice the area that a ring's points go around; its sign tells which way it runs."""
    spots: list[tuple[float, float]] = [(p.x(), p.y()) for p in ring.getPoints(ring.countPoints())]
    return sum(x * v - u * y for (x, y), (u, v) in zip(spots, spots[1:] + spots[:1], strict=True))


def _nothing(path: skia.Path) -> bool:
    """Whether a path covers less than can be seen: slivers that are left where two outlines lie on each other."""
    return bool(sum(abs(_runs_right(ring)) for ring in _rings(path)) / 2 < 1e-3 * max(path.getBounds().width(), 1))
