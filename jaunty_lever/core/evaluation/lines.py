"""The lines of shapes: the part of the outline that is stroked, where that is not all of it."""

import numpy as np
from numpy.typing import NDArray

from ..arrangements.drawn_part import drawn_parts
from ..arrangements.ribbon import ribbons
from ..document.layers import ShapeLayer
from ..document.line_style import LineStyle
from ..document.specs import specs_of
from ..geometry.outline import Outline
from ..motion.easing import profile_of
from .edges import Floats
from .outlines import Outlines
from .sample_times import SampleTimes
from .sampling import Sampling

PART = ("start", "end", "turn", "contours")
"""Settings of a line that tell which part of the outline it is."""


def is_ribbon(layer: ShapeLayer) -> bool:
    """Whether the width of a shape's line changes along it."""
    return layer.line is not None and bool(layer.line.profile.keys)


def ribbon_of(sampler: Sampling, layer: ShapeLayer, lines: Outlines, samples: SampleTimes) -> Outlines:
    """Lines as what is filled where their width changes along them."""
    assert layer.line is not None
    profile = profile_of(layer.line.profile, specs_of(LineStyle)["profile"])
    width = np.maximum(np.nan_to_num(sampler.evaluate(f"{layer.id}.stroke_width", samples)[..., 0]), 0)
    shape = np.broadcast_shapes(lines.which.shape, width.shape)
    stands, wide = np.broadcast_to(lines.which, shape).ravel(), np.broadcast_to(width, shape).ravel()
    which = np.full(len(stands), -1)
    each: list[Outline] = []
    for k, one in enumerate(lines.each):
        mine = np.flatnonzero(stands == k)
        if not len(mine) or not one.points.shape[1]:
            continue
        rows = np.broadcast_to(lines.points(k), (*shape, one.points.shape[1])).reshape(len(stands), -1)[mine]
        for part in ribbons(one.verbs, np.ascontiguousarray(rows), wide[mine], profile):
            where = mine[part.lines]
            which[where] = len(each)
            each.append(Outline(part.verbs, _in_rows(part.points, where, len(stands))))
    if (which < 0).any():
        each.append(Outline("", np.zeros((1, 0))))
    return Outlines(tuple(each), np.where(which < 0, len(each) - 1, which).reshape(shape))


def _in_rows(points: Floats, where: NDArray[np.int64], count: int) -> Floats:
    """Points of some of so many rows, in all of them."""
    if len(where) == count:
        return points
    made = np.zeros((count, points.shape[1]))
    made[where] = points
    return made


def is_parted(layer: ShapeLayer) -> bool:
    """Whether a shape's line may be less than its whole outline."""
    line = layer.line
    if line is None:
        return False
    whole = {"start": 0.0, "end": 100.0}
    return any(own.moves or own.constant_value != whole[name] for name in whole for own in [getattr(line, name)])


def drawn_line(sampler: Sampling, layer: ShapeLayer, outlines: Outlines, samples: SampleTimes) -> Outlines:
    """The drawn part of a shape's outlines at some samples."""
    settings = {n: sampler.evaluate(f"{layer.id}.line.{n}", samples)[..., 0] for n in PART}
    shape = np.broadcast_shapes(outlines.which.shape, *(values.shape for values in settings.values()))
    stands = np.broadcast_to(outlines.which, shape).ravel()
    start, end, turn, contours = (np.broadcast_to(settings[n], shape).ravel() for n in PART)
    which = np.full(len(stands), -1)
    each: list[Outline] = []
    for k, one in enumerate(outlines.each):
        mine = np.flatnonzero(stands == k)
        if not len(mine) or not one.points.shape[1]:
            continue
        rows = np.broadcast_to(outlines.points(k), (*shape, one.points.shape[1])).reshape(len(stands), -1)[mine]
        parts, _ = drawn_parts(
            one.verbs,
            np.ascontiguousarray(rows),
            start[mine] / 100,
            end[mine] / 100,
            turn[mine] / 100,
            np.rint(contours[mine]).astype(np.int64),
        )
        for part in parts:
            where = mine[part.outlines]
            which[where] = len(each)
            each.append(Outline(part.verbs, _in_rows(part.points, where, len(stands))))
    if (which < 0).any():
        each.append(Outline("", np.zeros((1, 0))))
    return Outlines(tuple(each), np.where(which < 0, len(each) - 1, which).reshape(shape))


def length_of(sampler: Sampling, layer: ShapeLayer, outlines: Outlines, samples: SampleTimes) -> Floats:
    """How long the outline of a shape is, px: (elements or 1, times or 1)."""
    shape = outlines.which.shape
    stands = outlines.which.ravel()
    made = np.zeros(len(stands))
    for k, one in enumerate(outlines.each):
        mine = np.flatnonzero(stands == k)
        if len(mine) and one.points.shape[1]:
            rows = np.broadcast_to(outlines.points(k), (*shape, one.points.shape[1])).reshape(len(stands), -1)[mine]
            none = np.zeros(len(mine))
            made[mine] = drawn_parts(one.verbs, np.ascontiguousarray(rows), none, none, none, none.astype(np.int64))[1]
    return made.reshape(shape)
