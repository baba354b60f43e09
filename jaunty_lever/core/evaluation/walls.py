"""Walls: what pushes keep out of the inner part of a zone."""

import numpy as np

from ..document.gauge import ZONE_SHAPES
from ..geometry.outline import Floats
from .readings import by_its_line
from .sample_times import SampleTimes
from .sampling import Sampling
from .zoning import hollow_of, met, setting_of

_STEPS, _HALVINGS = 32, 30
"""Into how many steps the way out of a zone is parted, and how often the one that leads out is halved."""


class _Wall:
    """The inner part of a zone: what lies at most `band` further in or out than `ring`, as shares of its size."""

    def __init__(self, sampler: Sampling, zone: str, samples: SampleTimes, solid: bool) -> None:
        self._asked = sampler, zone, samples
        self._solid, self.setting = solid, setting_of(sampler, zone, samples)
        self.ring = hollow_of(self.setting)
        self.band = np.clip(self.setting("inner") / 100, 0, 1) * (1 - self.ring)

    def met(self, spots: Floats) -> Floats:
        """How spots (…, 3) of the scene meet the zone, see `zoning.met`."""
        sampler, zone, samples = self._asked
        z = spots[..., 2] if self._solid else None
        return met(sampler, zone, spots[..., 0], spots[..., 1], samples, z)

    def holds(self, out: Floats) -> Floats:
        """Whether what lies so far out is within it."""
        return np.asarray(np.abs(out - self.ring) < self.band)


def kept_out(sampler: Sampling, zone: str, samples: SampleTimes, spots: Floats, moved: Floats, solid: bool) -> Floats:
    """How far what lies at spots (…, 3) of the scene is to go that wants to go `moved`, so as to end no further in than
    the inner share of a zone; `solid`: of one that has an end in depth."""
    wall = _Wall(sampler, zone, samples, solid)
    ends = spots + moved
    meets = wall.met(ends)
    # In the very middle: out along the way it came from.
    middle = (np.abs(meets[..., 1:4]).max(axis=-1) <= 1e-9)[..., None]
    came = wall.met(spots)[..., 1:4]
    came = np.where(np.abs(came).max(axis=-1, keepdims=True) > 1e-9, came, [1.0, 0.0, 0.0])
    probe = np.where(middle, ends + came, ends)
    seen = np.where(middle, wall.met(probe), meets)
    out, away, within = seen[..., :1], seen[..., 1:4], seen[..., 4:]
    inner, outer = (wall.ring - wall.band)[..., None], (wall.ring + wall.band)[..., None]
    wanted = np.where((meets[..., :1] < wall.ring[..., None]) & (inner > 0), inner, outer)
    led = probe - away + away * (wanted / np.maximum(out, 1e-12))
    # Out of an outline: to its nearest spot, and on from there.
    size = np.maximum(wall.setting("size"), 0.0)[..., None]
    flat = away * [1.0, 1.0, 0.0]
    led = np.where(within > 0, probe + flat * (1 + wanted * size / np.maximum(within, 1e-12)), led)
    return np.asarray(np.where(wall.holds(meets[..., 0])[..., None], led - spots, moved))


def kept_out_along(
    sampler: Sampling, zone: str, samples: SampleTimes, spots: Floats, ahead: Floats, moved: Floats
) -> Floats:
    """How far what lies at spots (…, 3) of the scene is to go along a way (…, 3), that wants to go `moved` (…) times
    it, so as to end no further in than the inner share of a zone with an end in depth: as it wants, or out where that
    is nearest."""
    if by_its_line(sampler.index, zone):
        return _sought(sampler, zone, samples, spots, ahead, moved)
    centre, deep = (sampler.evaluate(f"{zone}.{name}", samples) for name in ("centre", "centre_depth"))
    middle = np.stack(np.broadcast_arrays(centre[..., 0], centre[..., 1], deep[..., 0]), axis=-1)
    return _out_along(sampler, zone, samples, spots - middle, ahead, moved)


def _sought(sampler: Sampling, zone: str, samples: SampleTimes, spots: Floats, ahead: Floats, moved: Floats) -> Floats:
    """The same, out of any zone: the nearest way out is sought step by step."""
    wall = _Wall(sampler, zone, samples, True)

    def held(go: Floats) -> Floats:
        return wall.holds(wall.met(spots + go[..., None] * ahead)[..., 0])

    inside = held(moved)
    if not inside.any():
        return moved
    long = np.maximum(np.linalg.norm(ahead, axis=-1), 1e-9)
    step = 2.5 * np.maximum(wall.setting("size_depth"), 1e-9) / long / _STEPS
    best = np.full(moved.shape, np.inf)
    for side in (1.0, -1.0):
        # Just as far either way: towards the viewer.
        far = np.full(moved.shape, np.nan)
        for k in range(1, _STEPS + 1):
            out = np.isnan(far) & np.logical_not(held(moved + side * k * step))
            far = np.where(out, k * 1.0, far)
        low, high = far - 1, far
        for _ in range(_HALVINGS):
            half = (low + high) / 2
            still = held(moved + side * np.nan_to_num(half) * step)
            low, high = np.where(still, half, low), np.where(still, high, half)
        way = side * high * step
        best = np.where(np.isfinite(way) & (np.abs(way) < np.abs(best) * (1 - 1e-9)), way, best)
    return np.asarray(np.where(inside & np.isfinite(best), moved + np.where(np.isfinite(best), best, 0.0), moved))


class _Body:
    """The inside of a zone that has an end in depth, as lengths about its centre: 1 at its edge."""

    def __init__(self, sampler: Sampling, zone: str, samples: SampleTimes) -> None:
        names = ("size", "size_depth", "angle", "turn", "inner", "shape")
        size, deep, angle, turn, inner, shape = (sampler.evaluate(f"{zone}.{name}", samples) for name in names)
        (self._cos, self._sin), (self._along, self._aside) = (
            (np.cos(own), np.sin(own)) for own in (np.deg2rad(part[..., 0]) for part in (angle, turn))
        )
        half = np.stack(np.broadcast_arrays(size[..., 0], size[..., 1], deep[..., 0]), axis=-1)
        self._half = np.maximum(half, 1e-9)
        self.kind = ZONE_SHAPES[round(float(shape.ravel()[0])) % len(ZONE_SHAPES)]
        self.share = np.clip(inner[..., :1] / 100, 0, 1)

    def local(self, some: Floats) -> Floats:
        """Ways (…, 3) in the scene's space as shares of its size."""
        x, y, z = (some[..., k] for k in range(3))
        x, z = x * self._along + z * self._aside, z * self._along - x * self._aside
        parts = (x * self._cos + y * self._sin, y * self._cos - x * self._sin, z)
        return np.asarray(np.stack(np.broadcast_arrays(*parts), axis=-1) / self._half)

    def axes(self, some: Floats) -> Floats:
        """The parts of (…, 3) that count: a bar has no end down and up."""
        return some[..., [0, 2]] if self.kind == "bar" else some

    def out_to(self, some: Floats) -> Floats:
        """How far out (…, 3) lie, (…, 1)."""
        some = self.axes(some)
        made: Floats = np.linalg.norm(some, axis=-1) if self.kind == "disc" else np.abs(some).max(axis=-1)
        return made[..., None]


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
