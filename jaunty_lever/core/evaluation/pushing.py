"""Zones that push copies: where these are moved to, in the plane and in space."""

import numpy as np

from ..document.gauge import ZONE_SHAPES
from ..document.protocols import Values
from ..gauges.zone import GIVEN, SMOOTH, chances_of, push, pushed_apart
from ..geometry.matrices import applied
from ..geometry.outline import Floats
from ..kernels.compiled import Whole
from ..kernels.parallel import laid_out, over
from .depth import solid_world
from .gauging import in_space, near_zone
from .placing import world_matrix
from .readings import stands_moved
from .sample_times import SampleTimes
from .sampling import AtWork, Sampling


def pushed(at: AtWork, zone: str, values: Values, way: int) -> tuple[Values, bool]:
    """Where copies are moved to by a zone that stand at `values` on top of their places: (rows or 1, 2) of a position,
    (rows or 1, 1) of a depth; and whether it has been seen that all of that is finite."""
    sampler, array, samples = at.sampler, at.node.top, at.samples
    if values.shape[1] == 1:
        return values + _pushed_depth(at, zone, values, way), False
    if sampler.index.solid_zone(zone):
        return values + in_space_moved(at, zone, values, way)[..., :2].reshape(-1, 2), False
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
        away, moved = _moved(at, zone, flat, near, way, chances)
        if at.switch("walls"):
            moved = _outside(sampler, zone, samples, away, away + moved) - away
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
        spots = applied(world_matrix(sampler, array, samples), flat[..., 0], flat[..., 1])
        much = near_zone(sampler, zone, *spots, samples) * samples.from_rows(at.number("force"))[..., 0]
        chance = chances_of(_numbered(samples), at.whole("seed"))[..., 2]
        return samples.in_rows(((1.0, -1.0, 0.0)[way] * much * (1 - random / 100 * chance))[..., None])
    none = np.zeros((1, 1))
    away, moved = _moved(at, zone, flat, near, way, [none, none, random])
    solid = solid_world(sampler, array, samples)[..., :3]
    ahead = np.broadcast_to(solid[..., 2], away.shape)
    third = _lengths_back(sampler, array, samples, moved)[..., 2]
    if at.switch("walls"):
        third = _out_along(sampler, zone, samples, away, ahead, third)
    return samples.in_rows(third[..., None])


def _numbered(samples: SampleTimes) -> Whole:
    """The stream of each sample, (elements, times)."""
    numbers = np.zeros(1, dtype=np.int64) if samples.elements is None else samples.elements.streams
    return np.broadcast_to(numbers[:, None], samples.shape)


def _moved(at: AtWork, zone: str, flat: Floats, near: Floats, way: int, random: list[Floats]) -> tuple[Floats, Floats]:
    """Where copies lie from the centre of a zone that has an end in depth, and how far it moves them, in the scene's
    space: (elements, times, 3) each. `flat` and `near`: where they stand in their array; `random` in percent, by
    axis."""
    sampler, samples = at.sampler, at.samples
    whole = samples.shape
    spots = in_space(sampler, at.node.top, np.broadcast_to(flat, (*whole, 2)), samples, near)
    centre, deep = (sampler.evaluate(f"{zone}.{name}", samples) for name in ("centre", "centre_depth"))
    middle = np.stack(np.broadcast_arrays(centre[..., 0], centre[..., 1], deep[..., 0]), axis=-1)
    away = np.broadcast_to(spots - middle, (*whole, 3))
    much = near_zone(sampler, zone, spots[..., 0], spots[..., 1], samples, spots[..., 2])
    force = np.broadcast_to(samples.from_rows(at.number("force"))[..., 0], whole)
    less = np.stack([np.broadcast_to(part / 100, whole) for part in random], axis=-1)
    return away, pushed_apart(away, much, way, force, less, _numbered(samples), at.whole("seed"))


def _lengths_back(sampler: Sampling, array: str, samples: SampleTimes, moved: Floats) -> Floats:
    """Ways (…, 3) in the scene's space as ways in an array's own coordinates; none where it has no size."""
    solid = solid_world(sampler, array, samples)[..., :3]
    size = np.abs(np.linalg.det(solid)) > 1e-12
    back = np.linalg.inv(np.where(size[..., None, None], solid, np.eye(3)))
    return np.asarray(np.where(size[..., None], (back @ moved[..., None])[..., 0], 0.0))


class _Body:
    """The inside of a zone that has an end in depth, as lengths about its centre: 1 at its edge."""

    def __init__(self, sampler: Sampling, zone: str, samples: SampleTimes) -> None:
        size, deep, angle, inner, shape = (
            sampler.evaluate(f"{zone}.{name}", samples) for name in ("size", "size_depth", "angle", "inner", "shape")
        )
        turn = np.deg2rad(angle[..., 0])
        self._cos, self._sin = np.cos(turn), np.sin(turn)
        half = np.stack(np.broadcast_arrays(size[..., 0], size[..., 1], deep[..., 0]), axis=-1)
        self._half = np.maximum(half, 1e-9)
        self.kind = ZONE_SHAPES[round(float(shape.ravel()[0])) % len(ZONE_SHAPES)]
        self.share = np.clip(inner[..., :1] / 100, 0, 1)

    def local(self, some: Floats) -> Floats:
        """Ways (…, 3) in the scene's space as shares of its size."""
        x, y, z = (some[..., k] for k in range(3))
        parts = (x * self._cos + y * self._sin, y * self._cos - x * self._sin, z)
        return np.asarray(np.stack(np.broadcast_arrays(*parts), axis=-1) / self._half)

    def scene(self, some: Floats) -> Floats:
        """The other way."""
        x, y, z = np.moveaxis(some * self._half, -1, 0)
        return np.stack(np.broadcast_arrays(x * self._cos - y * self._sin, x * self._sin + y * self._cos, z), axis=-1)

    def axes(self, some: Floats) -> Floats:
        """The parts of (…, 3) that count: a bar has no end down and up."""
        return some[..., [0, 2]] if self.kind == "bar" else some

    def out_to(self, some: Floats) -> Floats:
        """How far out (…, 3) lie, (…, 1)."""
        some = self.axes(some)
        made: Floats = np.linalg.norm(some, axis=-1) if self.kind == "disc" else np.abs(some).max(axis=-1)
        return made[..., None]


def _outside(sampler: Sampling, zone: str, samples: SampleTimes, before: Floats, spots: Floats) -> Floats:
    """Spots (…, 3) about the centre of a zone that has an end in depth, no further in than its inner share."""
    body = _Body(sampler, zone, samples)
    here = body.local(spots)
    far = body.out_to(here)
    # In the very middle: out along the way it came from.
    there = np.where(
        far > 1e-12, here, body.local(np.where(before.any(axis=-1, keepdims=True), before, [1.0, 0.0, 0.0]))
    )
    grown = there * body.share / np.maximum(body.out_to(there), 1e-12)
    return np.asarray(np.where(far < body.share, body.scene(grown), spots))


def _out_along(
    sampler: Sampling, zone: str, samples: SampleTimes, before: Floats, ahead: Floats, moved: Floats
) -> Floats:
    """How far spots that lie at (…, 3) about the centre of such a zone are to go along a way (…, 3), which want to go
    `moved` (…) times it, so as to lie no further in than its inner share: as they want, or out where that is
    nearest."""
    body = _Body(sampler, zone, samples)
    here = body.local(before + moved[..., None] * ahead)
    inside = body.out_to(here) < body.share
    spot, way = body.axes(here), body.axes(body.local(ahead))
    with np.errstate(all="ignore"):
        if body.kind == "disc":
            a, b = (way * way).sum(axis=-1), (way * spot).sum(axis=-1)
            c = (spot * spot).sum(axis=-1) - body.share[..., 0] ** 2
            root = np.sqrt(np.maximum(b * b - a * c, 0))
            there, back = (-b + root) / a, (-b - root) / a
        else:
            # Out of a block at the first of its walls.
            walls = [(side * body.share - spot) / way for side in (1, -1)]
            there, back = np.maximum(*walls).min(axis=-1), np.minimum(*walls).max(axis=-1)
    # Just as far either way: towards the viewer.
    nearest = np.where(np.abs(there) <= np.abs(back) * (1 + 1e-12), there, back)
    return np.asarray(np.where(inside[..., 0] & np.isfinite(nearest), moved + nearest, moved))
