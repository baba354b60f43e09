"""A trace: the part of its lines that is seen, thinner and clearer where it is older if asked."""

import numpy as np
import skia
from numpy.typing import NDArray

from jaunty_lever.core.display.node import DisplayNode

from .brush import Brush, colour

PIECES = 64
"""In how many pieces a line is drawn that changes along its length."""


def seen(points: NDArray[np.float64], begin: float, end: float) -> NDArray[np.float64]:
    """The vertices of a line between two places on it, fractions of vertices, with the two ends."""

    def at(place: float) -> NDArray[np.float64]:
        k = min(int(place), len(points) - 1)
        after = points[min(k + 1, len(points) - 1)]
        made: NDArray[np.float64] = points[k] + (after - points[k]) * (place - k)
        return made

    return np.concatenate([[at(begin)], points[int(np.floor(begin)) + 1 : int(np.ceil(end))], [at(end)]])


def _path(points: NDArray[np.float64], close: bool) -> skia.Path:
    path = skia.Path()
    path.addPoly(list(map(skia.Point, *points.T.tolist())), close)
    return path


def draw(brush: Brush, node: DisplayNode, opacity: float) -> None:
    """Stroke what is seen of each line."""
    width, taper, fade = (brush.number(node, name) for name in ("width", "taper", "fade"))
    rgba, part = brush.row(node, "stroke"), brush.row(node, "part")
    closed = brush.number(node, "closed") >= 0.5
    points = np.array(brush.row(node, "points")).reshape(-1, 2)
    if width <= 0:
        return
    paint = skia.Paint(AntiAlias=True, Style=skia.Paint.kStroke_Style, StrokeWidth=width)
    paint.setStrokeCap(skia.Paint.kRound_Cap)
    paint.setStrokeJoin(skia.Paint.kRound_Join)
    paint.setColor4f(colour(rgba))
    opaque = paint.getAlphaf()
    taper, fade = min(max(taper, 0.0), 1.0), min(max(fade, 0.0), 1.0)
    canvas, plain = brush.canvas, not (taper or fade)
    if not plain:
        # Where a line crosses itself the newer part lies on the older one, and neither adds to the other.
        canvas.saveLayer(None, None)
    for (first, count), begin, end in zip(node.fixed["lines"], part[::2], part[1::2], strict=True):
        if end <= begin:
            continue
        own = points[first : first + count]
        if plain:
            paint.setAlphaf(opaque * opacity)
            canvas.drawPath(_path(seen(own, begin, end), closed), paint)
            continue
        for k in range(PIECES):
            a, b = (begin + (end - begin) * share / PIECES for share in (k, k + 1))
            age = 1 - (k + 0.5) / PIECES
            paint.setStrokeWidth(width * (1 - taper * age))
            path = _path(seen(own, a, b), False)
            # Taken out and added: at its soft edge each piece passes over into the one before.
            paint.setAlphaf(1.0)
            paint.setBlendMode(skia.BlendMode.kDstOut)
            canvas.drawPath(path, paint)
            paint.setAlphaf(opaque * opacity * (1 - fade * age))
            paint.setBlendMode(skia.BlendMode.kPlus)
            canvas.drawPath(path, paint)
    if not plain:
        canvas.restore()
