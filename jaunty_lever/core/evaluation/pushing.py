"""Zones that push copies: where these are moved to, in the plane and in space."""

import numpy as np

from ..document.gauge import ZONE_SHAPES
from ..document.protocols import Values
from ..gauges.push import GIVEN, SMOOTH, chances_of, push, pushed_apart
from ..geometry.matrices import applied, inverted
from ..geometry.outline import Floats
from ..kernels.compiled import Whole
from ..kernels.parallel import laid_out, over
from .depth import solid_world
from .placing import world_matrix
from .readings import by_its_line, stands_moved
from .sample_times import SampleTimes
from .sampling import AtWork, Sampling
from .walls import kept_out, kept_out_along
from .zoning import hollow_of, in_space, met, near_zone, setting_of


def pushed(at: AtWork, zone: str, values: Values, way: int) -> tuple[Values, bool]:
    """Where copies are moved to by a zone that stand at `values` on top of their places: (rows or 1, 2) of a position,
    (rows or 1, 1) of a depth; and whether it has been seen that all of that is finite."""
    sampler, array, samples = at.sampler, at.node.top, at.samples
    if values.shape[1] == 1:
        return values + _pushed_depth(at, zone, values, way), False
    if sampler.index.solid_zone(zone):
        return values + in_space_moved(at, zone, values, way)[..., :2].reshape(-1, 2), False
    if by_its_line(sampler.index, zone):
        return values + _in_plane_moved(at, zone, values, way), False
    matrix, place = world_matrix(sampler, array, samples), sampler.evaluate(f"{array}.place", samples)
    names = ("centre", "centre", "size", "size", "angle", "inner", "shape", "edge", "backwards")
    axes = (0, 1, 0, 1, 0, 0, 0, 0, 0)
    parts = [sampler.evaluate(f"{zone}.{n}", samples)[..., k] for n, k in zip(names, axes, strict=True)]
    parts[5] = np.clip(parts[5] / 100, 0, 1)
    *parts, shape, kind, backwards = parts
    edge, near = round(float(kind.ravel()[0])), np.ones((1, 1))
    if max(shape.size, kind.size, backwards.size) > 1 or edge > SMOOTH:
        # An ease of its own, or what differs from copy to copy or in time, is worked out first.
        spots = samples.from_rows(values) + place
        near, edge = near_zone(sampler, zone, *applied(matrix, spots[..., 0], spots[..., 1]), samples), GIVEN
    many, each = samples.shape
    whole = (many, each)
    steady = place.shape[1] == 1
    spots = np.ascontiguousarray(np.broadcast_to(place, (many if place.shape[0] > 1 else 1, 1 if steady else each, 2)))
    if not steady:
        spots = np.broadcast_to(spots, (*whole, 2))
    placed = np.ascontiguousarray(spots.reshape(-1, 2).T)
    lying = matrix if matrix.shape[:2] == (1, 1) else np.broadcast_to(matrix, (*whole, 6))
    numbers = np.zeros(1, dtype=np.int64) if samples.elements is None else samples.elements.streams
    force, random = (samples.from_rows(at.number(name)) for name in ("force", "random"))
    rows = [laid_out(part, whole) for part in (*parts, force[..., 0], random[..., 0] / 100, random[..., 1] / 100)]
    x, y = (np.ascontiguousarray(values[:, k]) for k in (0, 1))
    out = np.empty((2, many * each))
    sound = over(
        out.shape[1],
        push,
        *(x, y, placed, np.ascontiguousarray(lying.reshape(-1, 6).T), each, laid_out(near, whole), *rows, numbers),
        *(at.whole("seed"), way, round(float(shape.ravel()[0])) % len(ZONE_SHAPES), edge),
        *(bool(backwards.ravel()[0] >= 0.5), at.switch("walls"), out),
        looked=out,
    )
    return out.T, sound


def _in_plane_moved(at: AtWork, zone: str, values: Values, way: int) -> Values:
    """How far such a zone moves copies whose position stands at `values` (rows or 1, 2), in the plane: as rows."""
    sampler, array, samples = at.sampler, at.node.top, at.samples
    whole, matrix = samples.shape, world_matrix(sampler, array, samples)
    flat = samples.from_rows(values) + sampler.evaluate(f"{array}.place", samples)
    x, y = applied(matrix, flat[..., 0], flat[..., 1])
    random = samples.from_rows(at.number("random"))
    spots = np.broadcast_to(np.stack([x, y, np.zeros_like(x)], axis=-1), (*whole, 3))
    moved = _pushed_from(at, zone, spots, None, way, [random[..., 0], random[..., 1], np.zeros((1, 1))])
    if at.switch("walls"):
        moved = kept_out(sampler, zone, samples, spots, moved, solid=False)
    back = inverted(matrix) * [1.0, 1.0, 1.0, 1.0, 0.0, 0.0]
    return np.stack(np.broadcast_arrays(*applied(back, moved[..., 0], moved[..., 1])), axis=-1).reshape(-1, 2)


def _pushed_from(at: AtWork, zone: str, spots: Floats, z: Floats | None, way: int, random: list[Floats]) -> Floats:
    """How far a zone moves what lies at spots of the scene, (elements, times, 3); `z`: of one that has an end in depth;
    `random` in percent, by axis."""
    sampler, samples = at.sampler, at.samples
    whole, setting = samples.shape, setting_of(sampler, zone, samples)
    meets = np.broadcast_to(met(sampler, zone, spots[..., 0], spots[..., 1], samples, z), (*whole, 5))
    away = meets[..., 1:4]
    if way != 2:
        # Inside a ring, its middle lies away from it.
        away = np.where((meets[..., 0] < hollow_of(setting))[..., None], -away, away)
    much = near_zone(sampler, zone, spots[..., 0], spots[..., 1], samples, z)
    force = np.broadcast_to(samples.from_rows(at.number("force"))[..., 0], whole)
    less = np.stack([np.broadcast_to(part / 100, whole) for part in random], axis=-1)
    return pushed_apart(away, much, way, force, less, _numbered(samples), at.whole("seed"))


def in_space_moved(at: AtWork, zone: str, values: Values, way: int) -> Floats:
    """How far a zone that has an end in depth moves copies whose position stands at `values` (rows or 1, 2) on top of
    their places, in the array's own coordinates: (elements, times, 3)."""
    sampler, array, samples = at.sampler, at.node.top, at.samples

    def work() -> Floats:
        near = sampler.evaluate(sampler.index.own_depth(array), samples) + sampler.brought(
            array, samples, at.modifier.id
        )
        flat = samples.from_rows(values) + sampler.evaluate(f"{array}.place", samples)
        random = samples.from_rows(at.number("random"))
        chances = [random[..., 0], random[..., 1], samples.from_rows(at.number("random_depth"))[..., 0]]
        spots, moved = _moved(at, zone, flat, near, way, chances)
        if at.switch("walls"):
            moved = kept_out(sampler, zone, samples, spots, moved, solid=True)
        return _lengths_back(sampler, array, samples, moved)

    # The position takes two of the three, the depth the third.
    key = ("moved in space", sampler.key(at.node.id), at.modifier.id, samples.key)
    return sampler.remembered(key, work, lambda made: made.nbytes + 256)


def _pushed_depth(at: AtWork, zone: str, values: Values, way: int) -> Values:
    """How far a zone moves copies whose depth is at `values` (rows or 1, 1), in rows: nearer or further away alone."""
    sampler, array, samples = at.sampler, at.node.top, at.samples
    flat = sampler.evaluate(f"{array}.place", samples)
    if stands_moved(sampler.index, array):
        flat = flat + sampler.evaluate(f"{array}.copy_position", samples)
    near, random = samples.from_rows(values), samples.from_rows(at.number("random"))[..., 0]
    if not sampler.index.solid_zone(zone):
        # It goes on for ever, near and far: away from it is towards the viewer.
        x, y = applied(world_matrix(sampler, array, samples), flat[..., 0], flat[..., 1])
        much = near_zone(sampler, zone, x, y, samples) * samples.from_rows(at.number("force"))[..., 0]
        chance = chances_of(_numbered(samples), at.whole("seed"))[..., 2]
        return samples.in_rows(((1.0, -1.0, 0.0)[way] * much * (1 - random / 100 * chance))[..., None])
    none = np.zeros((1, 1))
    spots, moved = _moved(at, zone, flat, near, way, [none, none, random])
    solid = solid_world(sampler, array, samples)[..., :3]
    ahead = np.broadcast_to(solid[..., 2], spots.shape)
    third = _lengths_back(sampler, array, samples, moved)[..., 2]
    if at.switch("walls"):
        third = kept_out_along(sampler, zone, samples, spots, ahead, third)
    return samples.in_rows(third[..., None])


def _numbered(samples: SampleTimes) -> Whole:
    """The stream of each sample, (elements, times)."""
    numbers = np.zeros(1, dtype=np.int64) if samples.elements is None else samples.elements.streams
    return np.broadcast_to(numbers[:, None], samples.shape)


def _moved(at: AtWork, zone: str, flat: Floats, near: Floats, way: int, random: list[Floats]) -> tuple[Floats, Floats]:
    """Where copies lie that stand at `flat` and so `near` in their array, and how far a zone that has an end in depth
    moves them, in the scene's space: (elements, times, 3) each; `random` in percent, by axis."""
    samples = at.samples
    whole = samples.shape
    spots = in_space(at.sampler, at.node.top, np.broadcast_to(flat, (*whole, 2)), samples, near)
    spots = np.broadcast_to(spots, (*whole, 3))
    return spots, _pushed_from(at, zone, spots, spots[..., 2], way, random)


def _lengths_back(sampler: Sampling, array: str, samples: SampleTimes, moved: Floats) -> Floats:
    """Ways (…, 3) in the scene's space as ways in an array's own coordinates; none where it has no size."""
    solid = solid_world(sampler, array, samples)[..., :3]
    size = np.abs(np.linalg.det(solid)) > 1e-12
    back = np.linalg.inv(np.where(size[..., None, None], solid, np.eye(3)))
    return np.asarray(np.where(size[..., None], (back @ moved[..., None])[..., 0], 0.0))
