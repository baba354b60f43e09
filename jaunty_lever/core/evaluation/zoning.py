"""Zones: how near copies are to a region of the stage, and the way that leads away from it."""

from collections.abc import Callable

import numpy as np

from ..document.base_layer import BaseLayer
from ..document.gauge import ALONG_LINES, EDGES, ZONE_SHAPES, Zone
from ..document.layers import ShapeLayer
from ..document.parameter import stands_out
from ..gauges.edges import Ease, edge
from ..gauges.zone import distances, from_ring, in_depth, near_by
from ..geometry.matrices import applied
from ..geometry.outline import Floats
from ..geometry.paths import path_outline
from ..geometry.segments import nearest, segments_of
from ..geometry.solid import through
from ..kernels.compiled import Whole
from ..motion.easing import eased
from .depth import solid_world
from .outlines import outlines_of
from .placing import world_matrix
from .readings import line_layer, reads_moved, zone_of
from .sample_times import SampleTimes
from .sampling import Sampling

Setting = Callable[..., Floats]

_AT_ONCE = 1_000_000
"""Straight pieces of outlines that are held at a time."""
_FAR = 1e300
"""How far out what is nowhere near lies, over the size of a zone."""


def parted(choices: list[Floats], work: Callable[[tuple[int, ...]], Floats]) -> Floats:
    """`work(choices)`, each sample taking what its own choices give; choices (elements or 1, times or 1). What is made
    may have numbers of its own for each sample, (…, k)."""
    rounded = [np.rint(choice).astype(int) for choice in choices]
    if all(choice.size == 1 for choice in rounded):
        return work(tuple(int(choice.ravel()[0]) for choice in rounded))
    whole = np.stack(np.broadcast_arrays(*rounded), axis=-1)
    out: Floats = np.zeros(1)
    for state in np.unique(whole.reshape(-1, len(choices)), axis=0):
        mine, made = (whole == state).all(axis=-1), work(tuple(int(part) for part in state))
        out = np.where(mine if made.ndim == mine.ndim else mine[..., None], made, out)
    return out


def edge_of(setting: Setting, kind: int) -> Ease:
    """The ease of a gauge's edge, by the number of its kind."""
    if EDGES[kind % len(EDGES)] != "cubic-bezier":
        return edge(EDGES[kind % len(EDGES)])  # type: ignore[arg-type]
    points = [np.clip(setting(n), 0, 1) if n[0] == "x" else setting(n) for n in ("x1", "y1", "x2", "y2")]
    return lambda share: eased(share, *points)


def zone_reading(sampler: Sampling, array: str, zone: Zone, samples: SampleTimes) -> Floats:
    """How near the copies of an array are to one of its zones, (elements or 1, times or 1)."""
    spots, near = sampler.evaluate(f"{array}.place", samples), None
    if reads_moved(sampler.index, zone.id, array):
        spots = spots + sampler.evaluate(f"{array}.copy_position", samples)
        near = sampler.evaluate(f"{array}.copy_depth", samples)
    if sampler.index.solid_zone(zone.id):
        spots = in_space(sampler, array, spots, samples, near)
        return near_zone(sampler, zone.id, spots[..., 0], spots[..., 1], samples, spots[..., 2])
    x, y = applied(world_matrix(sampler, array, samples), spots[..., 0], spots[..., 1])
    return near_zone(sampler, zone.id, x, y, samples)


def in_space(sampler: Sampling, array: str, flat: Floats, samples: SampleTimes, near: Floats | None = None) -> Floats:
    """Where copies that stand at (…, 2) in their array, and there at their own z, lie in the scene's space, (…, 3)."""
    z = sampler.evaluate(f"{array}.z", samples)
    parts = np.broadcast_arrays(flat[..., 0], flat[..., 1], (z if near is None else z + near)[..., 0])
    return through(solid_world(sampler, array, samples), np.stack(parts, axis=-1))


def near_zone(
    sampler: Sampling, zone: str, x: Floats, y: Floats, samples: SampleTimes, z: Floats | None = None
) -> Floats:
    """How near points of the stage, (elements or 1, times or 1), are to a zone; `z`: of one that has an end in
    depth."""
    setting = setting_of(sampler, zone, samples)
    meets = _meeting(sampler, zone, x, y, samples, z)
    out, inner = parted([setting("shape")], lambda state: meets(state)[0]), np.clip(setting("inner") / 100, 0, 1)
    if stands_out(sampler.index.parameters[f"{zone}.hollow"].parameter):
        out = from_ring(out, hollow_of(setting))
    near = parted([setting("edge")], lambda state: near_by(out, inner, edge_of(setting, state[0])))
    return np.where(setting("backwards") >= 0.5, 1 - near, near)


def setting_of(sampler: Sampling, zone: str, samples: SampleTimes) -> Setting:
    """What tells a setting of a gauge by its name, and one component of it: (elements or 1, times or 1)."""

    def setting(name: str, component: int = 0) -> Floats:
        values: Floats = sampler.evaluate(f"{zone}.{name}", samples)[..., component]
        return values

    return setting


def hollow_of(setting: Setting) -> Floats:
    """How far out a zone is strongest, 0 in its middle."""
    return np.clip(setting("hollow") / 100, 0, 1)


def met(sampler: Sampling, zone: str, x: Floats, y: Floats, samples: SampleTimes, z: Floats | None = None) -> Floats:
    """How points of the stage, (elements or 1, times or 1), meet a zone: how far out they lie, 0 in its middle or on
    what is drawn and 1 at its edge, the way that leads there from it, px, and how far inside an outline: (…, 5).

    `z`: of one that has an end in depth. What is drawn leads away from the nearest spot of its line, an outline from
    inside over that. How far out what lies beyond it is, is told only where it is reversed.
    """
    meets = _meeting(sampler, zone, x, y, samples, z)
    shape = setting_of(sampler, zone, samples)("shape")
    return parted([shape], lambda state: np.stack(np.broadcast_arrays(*meets(state)), axis=-1))


def _meeting(
    sampler: Sampling, zone: str, x: Floats, y: Floats, samples: SampleTimes, z: Floats | None
) -> Callable[[tuple[int, ...]], tuple[Floats, ...]]:
    """The numbers of `met`, by the shape that a zone has."""
    setting = setting_of(sampler, zone, samples)
    before = None if z is None else z - setting("centre_depth")

    def work(state: tuple[int, ...]) -> tuple[Floats, ...]:
        name, deep, within = ZONE_SHAPES[state[0] % len(ZONE_SHAPES)], before, np.zeros((1, 1))
        if name in ALONG_LINES:
            out, across, down, within = _from_line(sampler, zone, name == "outline", x, y, setting, samples)
        else:
            across, down = x - setting("centre"), y - setting("centre", 1)
            here = across
            if before is not None and (turn := np.deg2rad(setting("turn"))).any():
                here = across * np.cos(turn) + before * np.sin(turn)
                deep = before * np.cos(turn) - across * np.sin(turn)
            size = (setting("size"), setting("size", 1))
            out = distances((here, down), (0.0, 0.0), size, setting("angle"), name)  # type: ignore[arg-type]
        if deep is not None:
            out = in_depth(out, deep / np.maximum(setting("size_depth"), 1e-9), name)
        return out, across, down, np.zeros((1, 1)) if before is None else before, within

    return work


def _from_line(
    sampler: Sampling, zone: str, filled: bool, x: Floats, y: Floats, setting: Setting, samples: SampleTimes
) -> tuple[Floats, Floats, Floats, Floats]:
    """How far points lie from what is drawn, over the zone's size, the way from there, and how far inside, px:
    (elements or 1, times or 1) each."""
    size, backwards = np.maximum(setting("size"), 0.0), setting("backwards")
    reach = np.where(backwards >= 0.5, np.inf, size)
    apart, at_x, at_y = _nearest(sampler, zone, filled, x, y, reach, samples)
    inside = np.asarray((apart < 0) & filled)
    far = np.where(inside, 0.0, np.abs(apart))
    with np.errstate(all="ignore"):
        out = np.where(far > 0, np.minimum(far / np.maximum(size, 1e-300), _FAR), 0.0)
    sign = np.where(inside, -1.0, 1.0)
    return out, (x - at_x) * sign, (y - at_y) * sign, np.where(inside, -apart, 0.0)


def _nearest(
    sampler: Sampling, zone: str, filled: bool, x: Floats, y: Floats, reach: Floats, samples: SampleTimes
) -> tuple[Floats, Floats, Floats]:
    """How far points lie from the line of a zone, px, below 0 inside, and the nearest spot of it."""
    own = zone_of(sampler.index, zone)
    assert own is not None
    local, which, way = drawn_by(sampler, line_layer(sampler.index, own), own.data, samples, filled)
    states = np.broadcast_shapes(which.shape, way.shape[:2])
    shape = np.broadcast_shapes(states, x.shape, y.shape, reach.shape)
    most = max(one.shape[1] for one in local)
    # So many elements at once that their outlines are not too much to hold.
    step = max(1, _AT_ONCE // max(most * states[1], 1)) if states[0] > 1 else shape[0]
    parts = [np.broadcast_to(part, shape) for part in (x, y, reach)]
    made = np.empty((3, *shape))
    for first in range(0, shape[0], step):
        rows = slice(first, first + step)
        mine = [part[rows] for part in parts]
        taken = rows if states[0] > 1 else slice(None)
        segments, number = laid_on(local, which, way, states, taken)
        where: Whole = np.broadcast_to(number, mine[0].shape).ravel()
        across, down, far = (np.ascontiguousarray(part).ravel() for part in mine)
        told = nearest(across, down, segments, where, far)[:3]
        made[:, rows] = np.stack(told).reshape(3, *mine[0].shape)
    return made[0], made[1], made[2]


def drawn_by(
    sampler: Sampling, lead: BaseLayer | None, data: str, samples: SampleTimes, closing: bool
) -> tuple[list[Floats], Whole, Floats]:
    """The straight pieces of a layer's outlines, which of them holds where, and the matrices that take them to the
    stage; of no layer: those of path data, as it is. As `laid_on` takes them."""
    if isinstance(lead, ShapeLayer):
        found = outlines_of(sampler, lead, samples)
        return [segments_of(one, closing) for one in found.each], found.which, world_matrix(sampler, lead.id, samples)
    pieces = segments_of(path_outline(data), closing) if data else np.zeros((1, 0, 4))
    return [pieces], np.zeros((1, 1), dtype=np.int64), np.array([[[1.0, 0.0, 0.0, 1.0, 0.0, 0.0]]])


def laid_on(
    local: list[Floats], which: Whole, way: Floats, states: tuple[int, ...], rows: slice
) -> tuple[Floats, Whole]:
    """The straight pieces of outlines (rows or 1, pieces, 4) through matrices, a row for each of their states, and
    which row holds where; those of some elements. `which` outline holds is (elements or 1, times or 1), `way` with the
    six numbers of a matrix each."""
    numbers, ways = np.broadcast_to(which, states)[rows], np.broadcast_to(way, (*states, 6))[rows]
    order = np.broadcast_to(np.arange(which.size).reshape(which.shape), states)[rows].ravel()
    most = max(one.shape[1] for one in local)
    # Of fewer pieces than another has, the last end stands for the others.
    pieces = np.full((numbers.size, most, 4), 1e15)
    for number, one in enumerate(local):
        mine = numbers.ravel() == number
        taken = one if len(one) == 1 else one[order[mine]]
        if one.shape[1]:
            pieces[mine] = np.tile(taken[:, -1:, 2:], 2)
            pieces[mine, : one.shape[1]] = taken
    lying = ways.reshape(-1, 1, 6)
    (ax, ay), (bx, by) = (applied(lying, pieces[..., k], pieces[..., k + 1]) for k in (0, 2))
    told = np.stack([ax, ay, bx, by], axis=-1)
    return np.ascontiguousarray(told), np.arange(numbers.size).reshape(numbers.shape)
