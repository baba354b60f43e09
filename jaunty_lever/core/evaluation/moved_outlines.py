"""Outlines as they are drawn: those whose edge is moved point by point, with the shells inside them, and all others."""

import numpy as np

from ..arrangements.points import Cut
from ..document.layers import ShapeLayer
from ..document.limits import MOST_SHELLS
from ..geometry.outline import Outline
from .edges import Edges, Floats, Points, Whole
from .outlines import Outlines, outlines_of
from .sample_times import SampleTimes
from .sampling import Sampling
from .structure import edged
from .taking import copies_at


def drawn_outlines(sampler: Sampling, layer: ShapeLayer, samples: SampleTimes) -> tuple[Outlines, ...]:
    """The outline of a shape at some samples, and those of its shells from the outermost to the innermost."""
    if edged(sampler.index, layer.id) is None:
        return (outlines_of(sampler, layer, samples),)
    points = Edges(sampler).points(layer.id, samples)
    out_by = _out_by(sampler, layer, points, samples)
    one, still = np.ones((1, 1)), np.zeros((1, 1, 2))
    made = [_drawn(points, out_by, one, one, still)]
    counts = shell_counts(sampler, layer, samples)
    most = int(counts.max(initial=0))
    if most:
        names = ("innermost", "share")
        size, share = (sampler.evaluate(f"{layer.id}.edge.{n}", samples)[..., 0] / 100 for n in names)
        about = sampler.evaluate(f"{layer.id}.edge.about", samples)
        for k in range(1, most + 1):
            far = np.minimum(k / np.maximum(counts, 1), 1.0)
            made.append(_drawn(points, out_by, 1 + (size - 1) * far, 1 + (share - 1) * far, about))
    return tuple(made)


def shell_counts(sampler: Sampling, layer: ShapeLayer, samples: SampleTimes) -> Floats:
    """How many shells there are: (elements or 1, times or 1)."""
    shells = sampler.evaluate(f"{layer.id}.edge.shells", samples)[..., 0]
    return np.asarray(np.clip(np.nan_to_num(np.rint(shells)), 0, MOST_SHELLS))


def _out_by(sampler: Sampling, layer: ShapeLayer, points: Points, samples: SampleTimes) -> Floats:
    """How far each point moves outwards: (outer or 1, times or 1, points or 1)."""
    if not points.most:
        return np.zeros((1, 1, 1))
    where = copies_at(sampler, layer.id, samples)
    values = sampler.evaluate(f"{layer.id}.edge.out", where)[..., 0]
    if values.shape[0] == 1:
        return values[..., None]
    many = 1 if samples.elements is None else len(samples.elements)
    return np.ascontiguousarray(values.reshape(many, -1, values.shape[1]).transpose(0, 2, 1))


def _drawn(points: Points, out_by: Floats, size: Floats, share: Floats, about: Floats) -> Outlines:
    parts = points.which, out_by[..., 0], size, share, about[..., 0]
    shape = np.broadcast_shapes(*(part.shape for part in parts))
    which = np.broadcast_to(points.which, shape)
    stands, state = which.ravel(), np.broadcast_to(points.state, shape).ravel()
    each = []
    for k, one in enumerate(points.cuts):
        mine = np.flatnonzero(stands == k)
        each.append(_spread(one, mine, state, shape, (out_by, size[..., None], share[..., None], about)))
    if (stands < 0).any():
        # Outlines without length, or in too many pieces, are nothing.
        each.append(Outline("", np.zeros((1, 0))))
    return Outlines(tuple(each), np.where(which < 0, len(points.cuts), which))


def _spread(one: Cut, mine: Whole, state: Whole, shape: tuple[int, ...], parts: tuple[Floats, ...]) -> Outline:
    """The outlines of one cut, in the rows where they stand."""

    def rows(part: Floats) -> Floats:
        if part.shape[:2] == (1, 1):
            return np.asarray(part[0])
        return np.ascontiguousarray(np.broadcast_to(part, (*shape, part.shape[2])).reshape(len(state), -1)[mine])

    out_by, size, share, about = (rows(part) for part in parts)
    drawn = one.drawn(state[mine], out_by, size[:, 0], share[:, 0], about)
    if len(mine) == len(state) or not len(mine):
        return Outline(one.verbs, drawn)
    made = np.zeros((len(state), drawn.shape[1]))
    made[mine] = drawn
    return Outline(one.verbs, made)
