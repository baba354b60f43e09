"""Orders that are measured by something else than a point: along what is drawn, or by a gauge."""

import numpy as np

from ..arrangements.places import Places
from ..document.arrangement import Order as OrderSettings
from ..geometry.matrices import inverted, product
from ..geometry.outline import Floats
from ..geometry.segments import nearest
from .elements import Elements
from .placing import world_matrix
from .sample_times import SampleTimes
from .sampling import Sampling
from .zoning import drawn_by, laid_on


def along_line(
    sampler: Sampling, array: str, order: OrderSettings, outer: SampleTimes, places: Places, states: tuple[int, ...]
) -> Floats:
    """How far along a line the nearest spot of it to each copy lies, as a share of its length; (states, copies). As
    many states as there are samples around the array (`states`), or one. Where nothing is drawn: 0."""
    lead = sampler.index.layers.get(order.outline or "")
    local, which, way = drawn_by(sampler, lead, order.data, outer, False)
    if lead is not None:
        way = product(inverted(world_matrix(sampler, array, outer)), way)
    shape = np.broadcast_shapes(which.shape, way.shape[:2])
    segments, number = laid_on(local, which, way, shape, slice(None))
    rows = np.broadcast_to(number, states).reshape(-1, 1) if number.size > 1 else number
    x, y, row = np.broadcast_arrays(*places.plan, rows)
    across, down = (np.ascontiguousarray(part).ravel() for part in (x, y))
    *_, piece = nearest(across, down, segments, row.ravel(), np.full(x.size, np.inf))
    if not segments.shape[1]:
        return np.zeros(x.shape)
    lengths = np.hypot(segments[..., 2] - segments[..., 0], segments[..., 3] - segments[..., 1])
    whole = np.concatenate([np.zeros((len(lengths), 1)), np.cumsum(lengths, axis=1)], axis=1)
    k = np.minimum(piece.astype(np.int64), segments.shape[1] - 1)
    mine = row.ravel()
    far = whole[mine, k] + (piece - k) * lengths[mine, k]
    long = whole[mine, -1]
    return np.asarray(np.where(long > 0, far / np.where(long > 0, long, 1.0), 0.0).reshape(x.shape))


def by_gauge(
    sampler: Sampling, array: str, gauge: str, outer: SampleTimes, count: int, states: tuple[int, ...]
) -> Floats:
    """What a gauge of the array reads of each of its copies, (states, copies)."""
    many, each = states
    copies = SampleTimes(
        outer.times if outer.times.ndim == 1 else np.repeat(outer.times, count, axis=0),
        outer.grid if outer.times.ndim == 1 else None,
        Elements.of(array, count, outer.elements),
    )
    values = sampler.evaluate(f"{gauge}.value", copies)[..., 0]
    told = np.broadcast_to(values, (many * count, each)).reshape(many, count, each)
    return np.ascontiguousarray(np.nan_to_num(told).transpose(0, 2, 1).reshape(many * each, count))
