"""A value of many copies as one number: that of a copy, or the mean, least or greatest of all.

And from samples of what stands around an array to those of what is inside it: which copies there are, and which moment
each of them shows.
"""

from collections.abc import Mapping
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..document.limits import MOST_COPIES
from ..document.protocols import Values
from ..document.references import Taken
from .elements import Elements
from .gauging import random_of
from .layouts import Layouts
from .sample_times import SampleTimes, worked_out
from .sampling import Sampling
from .sparks import Sparks, is_emitter

_AT_ONCE = 8_000_000
"""Values of copies that are held at a time while they are taken as one, were there as many as there may be."""


def copies_at(
    sampler: Sampling, array: str, samples: SampleTimes, chosen: NDArray[np.int64] | None = None
) -> SampleTimes:
    """Samples of the copies of an array, those that are chosen by number or all, at samples of what stands around
    it."""
    outer = samples.elements
    many = 1 if outer is None else len(outer)
    if chosen is None and is_emitter(sampler, array):
        flock = Sparks(sampler).alive(array, samples)

        def of_pairs(then: SampleTimes) -> SampleTimes:
            around = None if then.elements is None else flock.outer
            elements = Elements(array, flock.numbers, then.elements, around, flock.when)
            times = then.times[flock.when] if then.times.ndim == 1 else then.times[flock.outer, flock.when]
            return SampleTimes(np.ascontiguousarray(times)[:, None], None, elements, then.each_around(of_pairs))

        return of_pairs(samples)
    if chosen is None:
        whole = Elements.of(array, Layouts(sampler).copies(array, samples), outer)
    else:
        whole = Elements(
            array, np.tile(chosen, many), outer, None if outer is None else np.repeat(np.arange(many), len(chosen))
        )

    def of_copies(then: SampleTimes) -> SampleTimes:
        elements = whole if then is samples else replace(whole, outer=then.elements)
        times = then.times if then.times.ndim == 1 else np.repeat(then.times, len(whole) // max(many, 1), axis=0)
        return SampleTimes(times, then.grid if times.ndim == 1 else None, elements, then.each_around(of_copies))

    return of_copies(samples)


def shown_at(sampler: Sampling, array: str, copies: SampleTimes) -> SampleTimes:
    """Samples of an array's pattern: the moments that its copies show at samples of these copies."""

    def setting(name: str) -> Values:
        values: Values = sampler.evaluate(f"{array}.{name}", copies)[..., 0]
        return values

    elements = copies.elements
    assert elements is not None
    lives, later, chance = setting("lives"), setting("later"), setting("random_later")
    held = lives >= 0.5
    sparks = is_emitter(sampler, array)
    if not sparks and not held.any() and not later.any() and not chance.any():
        return copies
    # What a spark shows begins with its birth.
    times = sampler.evaluate(f"{array}.age", copies)[..., 0] if sparks else copies.times
    shown = replace(elements, aged=True) if sparks else elements
    if later.any():
        times = times - later * setting("rank")
    if chance.any():
        times = times - chance * random_of(elements.streams, setting("random_seed"))
    if held.any():
        times = np.where(held, setting("moment"), times)
    whole = times if times.shape == copies.shape else np.broadcast_to(times, copies.shape)
    moments = worked_out(np.ascontiguousarray(whole).ravel(), sampler.scene.fps).reshape(whole.shape)
    return SampleTimes(moments, None, shown, {**copies.around, array: copies})


Chosen = Mapping[str, int | NDArray[np.int64]]
"""Copies of arrays, by number: one, or several."""


def inside(sampler: Sampling, parameter: str, samples: SampleTimes, copies: Chosen | None = None) -> SampleTimes:
    """Samples of a parameter, through all arrays that it stands in, at samples of the scene; `copies` chooses some of
    an array's copies by number."""
    node = sampler.index.target(parameter)
    assert node is not None
    arrays = sampler.index.arrays_of(node)
    for k, array in enumerate(arrays):
        only = copies.get(array) if copies is not None else None
        samples = copies_at(sampler, array, samples, None if only is None else np.atleast_1d(np.asarray(only)))
        if k + 1 < len(arrays) or not node.each:
            samples = shown_at(sampler, array, samples)
    return samples


def taken_of(sampler: Sampling, parameter: str, way: Taken, samples: SampleTimes, shared: int) -> Values:
    """See `Sampling.taken`. Long stretches of time are worked through part by part, so that memory stays bounded."""
    at_once = max(16, _AT_ONCE // MOST_COPIES)
    if samples.times.ndim == 2 or samples.times.size <= at_once:
        return _taken(sampler, parameter, way, samples, shared)
    parts = []
    for first in range(0, samples.times.size, at_once):
        some = samples.times[first : first + at_once]
        part = _taken(sampler, parameter, way, SampleTimes(some, None, samples.elements), shared)
        parts.append(np.broadcast_to(part, (part.shape[0], some.size, part.shape[2])))
    many = max(part.shape[0] for part in parts)
    return np.concatenate([np.broadcast_to(part, (many, *part.shape[1:])) for part in parts], axis=1)


def _taken(sampler: Sampling, parameter: str, way: Taken, samples: SampleTimes, shared: int) -> Values:
    node = sampler.index.target(parameter)
    assert node is not None
    arrays = sampler.index.arrays_of(node)
    outer = samples.elements
    rows: NDArray[np.int64] | None = None
    if outer is not None and outer.depth > shared:
        cut, rows = outer.cut(shared)
        if samples.times.ndim == 2 and cut is not None and rows is not None:
            samples, rows = samples.cut(shared, rows), None
        elif samples.times.ndim == 2:
            made = taken_of(sampler, parameter, way, SampleTimes(samples.rows), 0)
            return made.reshape(*samples.shape, -1) if made.shape[1] > 1 else made
        else:
            samples = SampleTimes(samples.times, samples.grid, cut) if cut is None else samples.cut(shared)
    base, there = samples, None
    many = 1 if base.elements is None else len(base.elements)
    for k, array in enumerate(arrays[shared:]):
        before = samples
        only = np.array([way]) if isinstance(way, int) and k + shared + 1 == len(arrays) else None
        if only is None and is_emitter(sampler, array):
            # All that are alive at any of the moments, at all of them.
            only = np.unique(Sparks(sampler).alive(array, before).numbers)
        samples = copies_at(sampler, array, before, only)
        assert samples.elements is not None
        here = Layouts(sampler).there(array, samples)
        if there is not None:
            assert samples.elements.parents is not None
            here = here & there[samples.elements.parents]
        there = here
        if k + shared + 1 < len(arrays) or not node.each:
            samples = shown_at(sampler, array, samples)
    assert there is not None and samples.elements is not None
    if not len(samples.elements):
        return np.zeros((1, 1, node.spec.components))
    values = sampler.evaluate(parameter, samples)
    shape = np.broadcast_shapes(values.shape[:2], there.shape, (len(samples.elements), 1))
    values = np.broadcast_to(values, (*shape, values.shape[2])).reshape(many, -1, shape[1], values.shape[2])
    mask = np.broadcast_to(there, shape).reshape(many, -1, shape[1])[..., None]
    made = _joined(values, mask, way)
    return made if rows is None else made[rows]


def _joined(values: Values, there: NDArray[np.bool_], way: Taken) -> Values:
    """Values (outer, copies, times, components) as one for each outer element: 0 where there is no copy."""
    some = there.any(axis=1)
    if way == "mean":
        # Around the first, so that what is the same in all is exactly that.
        first = values[:, :1]
        count = np.maximum(there.sum(axis=1), 1)
        return np.asarray(np.where(some, first[:, 0] + np.where(there, values - first, 0.0).sum(axis=1) / count, 0.0))
    if way == "least":
        return np.where(some, np.where(there, values, np.inf).min(axis=1), 0.0)
    if way == "greatest":
        return np.where(some, np.where(there, values, -np.inf).max(axis=1), 0.0)
    return np.where(some, values[:, 0], 0.0)
