"""Zones that push copies: where these are moved to, in the plane and in space."""

from typing import TYPE_CHECKING

import numpy as np

from ..document.gauge import ZONE_SHAPES
from ..document.protocols import Values
from ..gauges.zone import GIVEN, SMOOTH, push, pushed_apart
from ..geometry.matrices import applied
from ..geometry.outline import Floats
from ..kernels.parallel import laid_out, over
from .depth import solid_world
from .gauging import in_space, near_zone
from .placing import world_matrix
from .readings import solid_zone
from .sample_times import SampleTimes

if TYPE_CHECKING:
    from .sampler import Sampler


def pushed(
    sampler: "Sampler",
    array: str,
    zone: str,
    samples: SampleTimes,
    values: Values,
    way: int,
    force: Values,
    random: Values,
    seed: int,
    walls: bool,
) -> tuple[Values, bool]:
    """Where copies that stand at `values` (rows or 1, 2) on top of their places are moved to by a zone; (rows, 2). And whether
    it has been seen that all of that is finite."""
    if solid_zone(sampler.index, zone):
        moved = pushed_in_depth(sampler, array, zone, samples, values, way, force, random, seed, walls)
        return values + moved[..., :2].reshape(-1, 2), False
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
    rows = [
        laid_out(part, whole) for part in (*parts, samples.from_rows(force)[..., 0], samples.from_rows(random)[..., 0])
    ]
    x, y = (np.ascontiguousarray(values[:, k]) for k in (0, 1))
    out = np.empty((2, many * each))
    sound = over(
        out.shape[1],
        push,
        *(x, y, placed, np.ascontiguousarray(lying.reshape(-1, 6).T), each, laid_out(near, whole), *rows, numbers),
        *(seed, way, round(float(shape.ravel()[0])) % len(ZONE_SHAPES), edge),
        *(bool(backwards.ravel()[0] >= 0.5), walls, out),
        looked=out,
    )
    return out.T, sound


def pushed_in_depth(
    sampler: "Sampler",
    array: str,
    zone: str,
    samples: SampleTimes,
    values: Values,
    way: int,
    force: Values,
    random: Values,
    seed: int,
    walls: bool,
) -> Floats:
    """How far a zone that has an end in depth moves copies which stand at `values` (rows or 1, 2) on top of their places,
    in the array's own coordinates: (elements, times, 3)."""
    whole = samples.shape
    flat = np.broadcast_to(samples.from_rows(values) + sampler.evaluate(f"{array}.place", samples), (*whole, 2))
    spots = in_space(sampler, array, flat, samples, sampler.evaluate(f"{array}.copy_depth", samples))
    near = near_zone(sampler, zone, spots[..., 0], spots[..., 1], samples, spots[..., 2])
    centre, deep = (sampler.evaluate(f"{zone}.{name}", samples) for name in ("centre", "centre_depth"))
    middle = np.stack(np.broadcast_arrays(centre[..., 0], centre[..., 1], deep[..., 0]), axis=-1)
    numbers = np.zeros(1, dtype=np.int64) if samples.elements is None else samples.elements.streams
    forces, chances = (np.broadcast_to(samples.from_rows(part)[..., 0], whole) for part in (force, random))
    numbered = np.broadcast_to(numbers[:, None], whole)
    away = np.broadcast_to(spots - middle, (*whole, 3))
    moved = pushed_apart(away, near, way, forces, chances, numbered, seed)
    if walls:
        moved = _outside(sampler, zone, samples, away, away + moved) - away
    # Back from the scene's space, lengths alone.
    solid = solid_world(sampler, array, samples)[..., :3]
    size = np.abs(np.linalg.det(solid)) > 1e-12
    back = np.linalg.inv(np.where(size[..., None, None], solid, np.eye(3)))
    return np.asarray(np.where(size[..., None], (back @ moved[..., None])[..., 0], 0.0))


def _outside(sampler: "Sampler", zone: str, samples: SampleTimes, before: Floats, spots: Floats) -> Floats:
    """Spots (…, 3) about the centre of a zone that has an end in depth, no further in than its inner share."""
    size, deep, angle, inner, shape = (
        sampler.evaluate(f"{zone}.{name}", samples) for name in ("size", "size_depth", "angle", "inner", "shape")
    )
    turn = np.deg2rad(angle[..., 0])
    cos, sin = np.cos(turn), np.sin(turn)
    half = np.stack(np.broadcast_arrays(size[..., 0], size[..., 1], deep[..., 0]), axis=-1)
    half = np.maximum(half, 1e-9)
    kind = ZONE_SHAPES[round(float(shape.ravel()[0])) % len(ZONE_SHAPES)]
    share = np.clip(inner[..., :1] / 100, 0, 1)

    def local(some: Floats) -> Floats:
        parts = (some[..., 0] * cos + some[..., 1] * sin, some[..., 1] * cos - some[..., 0] * sin, some[..., 2])
        return np.asarray(np.stack(np.broadcast_arrays(*parts), axis=-1) / half)

    def out_to(some: Floats) -> Floats:
        if kind == "bar":
            some = some[..., [0, 2]]
        made: Floats = np.linalg.norm(some, axis=-1) if kind == "disc" else np.abs(some).max(axis=-1)
        return np.asarray(made[..., None])

    here = local(spots)
    far = out_to(here)
    # In the very middle: out along the way it came from.
    there = np.where(far > 1e-12, here, local(np.where(before.any(axis=-1, keepdims=True), before, [1.0, 0.0, 0.0])))
    grown = there * share / np.maximum(out_to(there), 1e-12) * half
    back = (grown[..., 0] * cos - grown[..., 1] * sin, grown[..., 0] * sin + grown[..., 1] * cos, grown[..., 2])
    kept = np.stack(np.broadcast_arrays(*back), axis=-1)
    return np.asarray(np.where(far < share, kept, spots))
