"""The lines that moving points leave, over a whole scene: worked out once, as finely as the curve asks."""

from collections.abc import Iterator
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from ..document.index import SceneIndex
from ..document.layers import TraceLayer
from ..document.limits import MOST_TRACED, MOST_TRACED_LINES
from ..geometry.matrices import applied, inverted
from ..geometry.solid import NEAREST
from .breaks import breaks_of
from .cache import Fault
from .depth import deep_in, in_depth
from .layouts import Layouts
from .placing import world_matrix
from .readings import arrangement_parameters, array_of, time_parameters, world_parameters
from .sample_times import SampleTimes
from .sampling import Sampling
from .seen_in_depth import seen_from, seen_parameters
from .taking import copies_at, shown_at

Floats = NDArray[np.float64]
Bits = NDArray[np.bool_]

NEAR = 0.25
"""Pixels that no chord lies further from the true path."""
_NEARER = 0.15
"""Pixels that it lies no further away where it is looked at: a corner between two of these places is further off."""
_ASIDE = (0.17, 0.36, 0.63, 0.84)
"""Where else than half-way between two moments a point is looked at: shares that few motions come round in."""
_ONE = 1e-9
"""Seconds within which two moments are one."""
_A_SWING = 6
"""Moments in each swing of the fastest motion, to begin with."""
_MOST_OFFSETS = 64
"""Copies of which each has its corners where its own time has them; further ones find them as any curve does."""
_DEEPEST = 9
"""How often a frame is halved: what has not come near by then has jumped."""
_JUMP = 6.0
"""Pixels over the shortest span from which on a point has jumped, and its line begins anew."""


@dataclass(frozen=True)
class Traced:
    """Lines: their vertices (v, 2) px, in the coordinates of whatever the trace stands in, and the moment of each,
    seconds; the first vertex of each line and how many it has."""

    points: Floats
    times: Floats
    first: NDArray[np.int64]
    count: NDArray[np.int64]

    def parts(self, since: Floats, until: Floats) -> Floats:
        """Of each line at each moment, between which of its vertices it is seen, as fractions: (times, lines, 2)."""
        made = np.zeros((len(until), len(self.first), 2))
        for k, (first, count) in enumerate(zip(self.first, self.count, strict=True)):
            own, numbers = self.times[first : first + count], np.arange(count)
            made[:, k, 0] = np.interp(since, own, numbers)
            made[:, k, 1] = np.interp(until, own, numbers)
        return made


def traced_parameters(index: SceneIndex, layer: TraceLayer) -> Iterator[str]:
    """The parameters that decide the line of a trace."""
    target = layer.follows
    node = index.parameters.get(target)
    if node is not None:
        yield target
    elif target in index.layers:
        yield f"{target}.pivot"
        yield f"{layer.id}.at"
        yield from world_parameters(index, target)
        if target in deep_in(index):
            yield from seen_parameters(index, target)
        for array in index.arrays.get(target, ()):
            yield from arrangement_parameters(index, array_of(index, array))
            yield from time_parameters(array)
    parent = index.parents[layer.id]
    if parent is not None:
        yield from world_parameters(index, parent)


def traced(sampler: Sampling, layer: TraceLayer) -> Traced:
    """The lines of a trace over the whole scene."""
    index, scene = sampler.index, sampler.scene
    decides = list(dict.fromkeys(traced_parameters(index, layer)))
    whole = (layer.follows, index.parents[layer.id], index.arrays.get(layer.follows, ()), scene.length, scene.fps)
    key = ("trace", repr(whole), sampler.joined(decides))
    return sampler.remembered(key, lambda: _made(sampler, layer), lambda made: made.points.nbytes * 2 + 500)


def _made(sampler: Sampling, layer: TraceLayer) -> Traced:
    fps, length = sampler.scene.fps, sampler.scene.length
    if layer.follows not in sampler.index.layers and layer.follows not in sampler.index.parameters:
        return Traced(np.zeros((0, 2)), np.zeros(0), np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64))
    times = np.arange(2 * (length - 1) + 1) / (2 * fps)
    chosen = _chosen(sampler, layer, times)
    times = _first_moments(sampler, layer, times, chosen)
    points, there = _places(sampler, layer, times, chosen)
    checked = np.zeros(len(times) - 1, dtype=bool)
    for _ in range(_DEEPEST):
        open_ended = np.flatnonzero(~checked)
        if not len(open_ended):
            break
        begin, end = times[open_ended], times[open_ended + 1]
        middle = (begin + end) / 2
        # Half-way alone would miss what sways to both sides, or goes round whole times, between two moments.
        asked = [middle, *(begin + share * (end - begin) for share in _ASIDE)]
        both, live = _places(sampler, layer, np.concatenate(asked), chosen)
        between, *aside = np.split(both, len(asked), axis=1)
        alive = live[:, : len(middle)]
        a, b = points[:, open_ended], points[:, open_ended + 1]
        off = np.max([_apart(some, a, b) for some in (between, *aside)], axis=0)
        far = ((off > _NEARER) | _leaps(between, a, b)).any(axis=0)
        if (len(times) + int(far.sum())) * len(points) > MOST_TRACED:
            told = (
                f"A trace has at most {MOST_TRACED:,} vertices; this one is drawn with fewer than its motion asks for"
            )
            sampler.note(Fault(f"{layer.id}.seconds", "", told, 0.0))
            break
        checked[open_ended[~far]] = True
        split = open_ended[far]
        times = np.insert(times, split + 1, middle[far])
        points = np.insert(points, split + 1, between[:, far], axis=1)
        there = np.insert(there, split + 1, alive[:, far], axis=1)
        checked = np.insert(checked, split + 1, False)
    return _lines(times, points, there)


def _first_moments(sampler: Sampling, layer: TraceLayer, times: Floats, chosen: dict[str, NDArray[np.int64]]) -> Floats:
    """The moments that a line begins with: often enough for its fastest swing, and wherever something jumps or bends,
    as keys do. What stands in arrays has its corners where the own time of each copy has them."""
    index, high = sampler.index, float(times[-1])
    last, arrays = int(np.ceil(max(high, 1.0))), index.arrays.get(layer.follows, ())
    inner, offsets = SampleTimes(np.zeros(1)), np.zeros(1)
    for array in arrays:
        inner = shown_at(sampler, array, copies_at(sampler, array, inner, chosen[array]))
        offsets = -np.broadcast_to(inner.times, inner.shape)[:, 0]
    offsets = np.unique(np.append(offsets[:_MOST_OFFSETS], 0.0))
    found, fastest = [times], 0.0
    for parameter in dict.fromkeys(traced_parameters(index, layer)):
        node = index.target(parameter)
        if node is None or not sampler.axes.of(parameter).times:
            continue
        element = None
        if index.arrays_of(node):
            element = sampler.of_first(parameter, SampleTimes(np.zeros(1))).elements
        breaks = breaks_of(sampler, element)
        fastest = max(fastest, breaks.whole_swings(parameter))
        own = breaks.of(parameter, -last if arrays else 0, 2 * last if arrays else last)
        found.append((own[:, None] + (offsets if arrays else np.zeros(1))).ravel())
    lines = int(np.prod([max(len(one), 1) for one in chosen.values()], dtype=np.int64))
    most = MOST_TRACED // (2 * lines)
    # Two moments a frame there are already.
    if np.isfinite(fastest) and fastest * _A_SWING > 2 * sampler.scene.fps and high > 0:
        found.append(np.linspace(0.0, high, min(int(np.ceil(high * fastest * _A_SWING)), most) + 1))
    more = np.unique(np.concatenate(found))
    more = more[(more >= 0) & (more <= high)]
    # Frames stay to the last bit; what is one of them but for rounding is that frame.
    frame = times[np.minimum(np.searchsorted(times, more - _ONE), len(times) - 1)]
    more = more[np.abs(more - frame) >= _ONE]
    whole = np.sort(np.concatenate([times, more[np.diff(more, prepend=-1.0) > _ONE]]))
    if len(whole) > max(2 * most, len(times)):
        return times
    return np.asarray(whole, dtype=np.float64)


def _lines(times: Floats, points: Floats, there: Bits) -> Traced:
    """Lines of points (lines, times, 2), each broken where its point jumps or is not there."""
    steps = np.hypot(*np.moveaxis(np.diff(points, axis=1), 2, 0))
    short = np.diff(times) < np.diff(times).max(initial=0.0) / 2 ** (_DEEPEST - 2)
    joined = there[:, 1:] & there[:, :-1] & ~((steps > _JUMP) & short[None, :])
    starts, counts, parts, moments, total = [], [], [], [], 0
    for k in range(len(points)):
        edges = np.flatnonzero(np.diff(np.concatenate([[0], joined[k].astype(np.int8), [0]])))
        for first, last in zip(edges[::2], edges[1::2], strict=True):
            starts.append(total)
            counts.append(last - first + 1)
            parts.append(points[k, first : last + 1])
            moments.append(times[first : last + 1])
            total += last - first + 1
    if not parts:
        return Traced(np.zeros((0, 2)), np.zeros(0), np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64))
    return Traced(np.concatenate(parts), np.concatenate(moments), np.array(starts), np.array(counts))


def _apart(points: Floats, a: Floats, b: Floats) -> Floats:
    """How far points lie from the stretches a b, (…, 2) each."""
    way = b - a
    size = (way**2).sum(axis=-1)
    share = ((points - a) * way).sum(axis=-1) / np.where(size > 0, size, 1)
    foot = a + np.clip(share, 0, 1)[..., None] * way
    return np.asarray(np.hypot(*np.moveaxis(points - foot, -1, 0)))


def _leaps(points: Floats, a: Floats, b: Floats) -> Bits:
    """Where a point half-way in time is still, or already, at an end of a long stretch: somewhere it jumps."""
    whole, first, second = (np.hypot(*np.moveaxis(way, -1, 0)) for way in (b - a, points - a, b - points))
    made: Bits = (whole > _JUMP) & (np.minimum(first, second) < 0.02 * whole)
    return made


def _chosen(sampler: Sampling, layer: TraceLayer, times: Floats) -> dict[str, NDArray[np.int64]]:
    """Which copies of each array around the point leave a line: all, as far as there may be so many."""
    found: dict[str, NDArray[np.int64]] = {}
    room, samples = MOST_TRACED_LINES, SampleTimes(times)
    for array in sampler.index.arrays.get(layer.follows, ()):
        many = Layouts(sampler).copies(array, samples)
        if many > room:
            told = (
                f"A trace has at most {MOST_TRACED_LINES:,} lines; here are {many:,} points, and the first "
                "of them leave theirs"
            )
            sampler.note(Fault(f"{layer.id}.seconds", "", told, 0.0))
        found[array] = np.arange(min(many, room))
        room = max(room // max(len(found[array]), 1), 1)
        samples = shown_at(sampler, array, copies_at(sampler, array, samples, found[array]))
    return found


def _places(
    sampler: Sampling, layer: TraceLayer, times: Floats, chosen: dict[str, NDArray[np.int64]]
) -> tuple[Floats, Bits]:
    """Where the points are at some moments, and whether they are there: (lines, times, 2), (lines, times)."""
    index, samples = sampler.index, SampleTimes(np.ascontiguousarray(times))
    target = layer.follows
    there = np.ones((1, 1), dtype=bool)
    if target in index.parameters:
        spots = sampler.evaluate(target, sampler.of_first(target, samples))
    elif target in index.layers:
        inner = samples
        for array in index.arrays.get(target, ()):
            copies = copies_at(sampler, array, inner, chosen[array])
            assert copies.elements is not None
            here = Layouts(sampler).there(array, copies)
            there = here if copies.elements.parents is None else here & there[copies.elements.parents]
            inner = shown_at(sampler, array, copies)
        pivot = sampler.evaluate(f"{target}.pivot", inner) + sampler.evaluate(f"{layer.id}.at", samples)
        if target in in_depth(sampler.scene):
            spots = seen_from(sampler, target, inner, samples, pivot)
            # What is behind the viewer leaves no line.
            there = there & (spots[..., 2] > NEAREST)
            spots = spots[..., :2]
        else:
            x, y = applied(world_matrix(sampler, target, inner), pivot[..., 0], pivot[..., 1])
            spots = np.stack(np.broadcast_arrays(x, y), axis=-1)
    else:
        spots = np.zeros((1, 1, 2))
    parent = index.parents[layer.id]
    if parent is not None:
        back = inverted(world_matrix(sampler, parent, samples))
        x, y = applied(back, spots[..., 0], spots[..., 1])
        spots = np.stack(np.broadcast_arrays(x, y), axis=-1)
    many = max(spots.shape[0], there.shape[0])
    whole = np.broadcast_to(spots, (many, len(times), 2)).astype(np.float64)
    return np.nan_to_num(whole), np.broadcast_to(there, (many, len(times)))
