"""Values of a Lottie file over time, as values and keys of parameters."""

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from jaunty_lever.core.motion.easing import solve

MOST_FRAMES_SAMPLED = 3_000
_FAR = 1e6
_APART = 1e-3
"""Frames by which two keys stand apart at least."""
_NEAR = 0.05
"""Frames before and after a moment between which it is asked where something goes."""

Numbers = tuple[float, ...]
Ease = str | tuple[float, float, float, float]
Told = Callable[[Numbers], Any]


class NoValue(Exception):
    """A value that makes no sense; what it belongs to is left out."""


def ease_of(share: float, ease: tuple[float, float, float, float]) -> float:
    """How far an ease has come at a share of its time."""
    x1, y1, x2, y2 = ease
    u = float(solve(share, x1, x2))
    return 3 * (1 - u) ** 2 * u * y1 + 3 * (1 - u) * u * u * y2 + u**3


@dataclass(frozen=True)
class Clock:
    """From frames of a composition to those of the scene."""

    start: float = 0.0
    factor: float = 1.0

    def at(self, frame: float) -> float:
        """The frame of the scene."""
        return self.start + frame * self.factor

    def inside(self, start: float, stretch: float) -> "Clock":
        """That of a composition that begins at a frame, and is stretched."""
        return Clock(self.at(start), self.factor * stretch)


@dataclass(frozen=True)
class Moving:
    """A value at its keys: one key for one that does not move."""

    frames: tuple[float, ...]
    values: tuple[Numbers, ...]
    eases: tuple[Ease, ...]

    @property
    def first(self) -> Numbers:
        return self.values[0]

    @property
    def still(self) -> bool:
        return all(value == self.values[0] for value in self.values)

    def at(self, frame: float) -> Numbers:
        """The value at a frame."""
        if frame <= self.frames[0]:
            return self.values[0]
        for k in range(len(self.frames) - 1):
            if frame < self.frames[k + 1]:
                ease = self.eases[k]
                share = (frame - self.frames[k]) / (self.frames[k + 1] - self.frames[k])
                share = 0.0 if ease == "hold" else share if isinstance(ease, str) else ease_of(share, ease)
                return tuple(a + (b - a) * share for a, b in zip(self.values[k], self.values[k + 1], strict=True))
        return self.values[-1]

    def parameter(self, told: Told) -> Any:
        """As a parameter of a layer."""
        if self.still:
            return told(self.values[0])
        keys = [
            {"frame": frame, "value": told(value), "ease": ease}
            for frame, value, ease in zip(self.frames, self.values, self.eases, strict=True)
        ]
        return {"rest": told(self.values[0]), "keys": keys}

    def each(self, of: Callable[[Numbers], Numbers]) -> "Moving":
        """Every value through a function."""
        return Moving(self.frames, tuple(of(value) for value in self.values), self.eases)


def still(*value: float) -> Moving:
    """A value that does not move."""
    return Moving((0.0,), (tuple(value),), ("linear",))


def moving(given: Any, clock: Clock, wide: int, remark: Callable[[str], None], default: Numbers) -> Moving:
    """A property as keys of `wide` numbers each. Raises NoValue."""
    if given is None:
        return still(*default)
    if not isinstance(given, dict):
        return still(*_numbers(given, wide, default))
    if isinstance(given.get("x"), str):
        remark("Expressions: they are never run, and what they would move stands as it was kept")
    if given.get("s") is True and "x" in given and "y" in given:
        return _joined(*(moving(given[axis], clock, 1, remark, (0.0,)) for axis in ("x", "y")))
    value = given.get("k")
    if isinstance(value, list) and value and isinstance(value[0], dict):
        return _keyed(value, clock, wide, default)
    return still(*_numbers(value, wide, default))


def _numbers(given: Any, wide: int, default: Numbers) -> Numbers:
    values = given if isinstance(given, list) else [given]
    found = []
    for k in range(wide):
        value = values[k] if k < len(values) else default[k % len(default)]
        if isinstance(value, bool) or not isinstance(value, int | float) or not math.isfinite(value):
            raise NoValue("a value is no number")
        found.append(float(min(max(value, -_FAR), _FAR)))
    return tuple(found)


def _keyed(keys: Sequence[Any], clock: Clock, wide: int, default: Numbers) -> Moving:
    frames: list[float] = []
    values: list[Numbers] = []
    eases: list[Ease] = []
    curved: list[tuple[int, Numbers, Numbers]] = []
    apart: list[tuple[int, list[Ease]]] = []
    end: Any = None
    for key in keys:
        if not isinstance(key, dict):
            raise NoValue("a key is none")
        frame = clock.at(_numbers(key.get("t"), 1, (0.0,))[0])
        value = _numbers(key.get("s", end), wide, default)
        end = key.get("e", key.get("s"))
        if frames and frame - frames[-1] < _APART:
            # What stands at one frame, or goes back in time: the later one holds, and where it leaps it does so just
            # before.
            leaps = len(frames) > 1 and values[-1] != value and frames[-1] - frames[-2] > 2 * _APART
            if leaps:
                frames.insert(-1, frames[-1] - _APART)
                values.insert(-1, values[-1])
                eases[-1:] = ["hold", eases[-1]]
            values[-1] = value
        else:
            frames.append(frame)
            values.append(value)
            eases.append("linear")
        own = _eases(key, wide)
        eases[-1] = own[0]
        if any(one != own[0] for one in own):
            apart.append((len(frames) - 1, own))
        out, into = key.get("to"), key.get("ti")
        if wide == 2 and out and into and any(_numbers(out, 2, (0.0,)) + _numbers(into, 2, (0.0,))):
            curved.append((len(frames) - 1, _numbers(out, 2, (0.0,)), _numbers(into, 2, (0.0,))))
    if not frames:
        return still(*default)
    made = Moving(tuple(frames), tuple(values), tuple(eases))
    return _sampled(made, apart, curved) if apart or curved else made


def _eases(key: dict[str, Any], wide: int) -> list[Ease]:
    """How a value goes on from a key, for each of its numbers."""
    if key.get("h"):
        return ["hold"] * wide
    out, into = key.get("o"), key.get("i")
    if not isinstance(out, dict) or not isinstance(into, dict):
        return ["linear"] * wide

    def part(given: Any, k: int, default: float) -> float:
        values = given if isinstance(given, list) else [given]
        value = values[min(k, len(values) - 1)] if values else default
        return float(value) if isinstance(value, int | float) and math.isfinite(value) else default

    found: list[Ease] = []
    for k in range(wide):
        x1, y1 = part(out.get("x"), k, 0.0), part(out.get("y"), k, 0.0)
        x2, y2 = part(into.get("x"), k, 1.0), part(into.get("y"), k, 1.0)
        straight = abs(x1 - y1) < 1e-6 and abs(x2 - y2) < 1e-6
        found.append("linear" if straight else (min(max(x1, 0.0), 1.0), y1, min(max(x2, 0.0), 1.0), y2))
    return found


def _sampled(made: Moving, apart: list[tuple[int, list[Ease]]], curved: list[tuple[int, Numbers, Numbers]]) -> Moving:
    """The same with a key at every frame where its numbers go their own ways, or it runs along a curve."""
    own, bent = dict(apart), {k: (out, into) for k, out, into in curved}
    frames: list[float] = []
    values: list[Numbers] = []
    eases: list[Ease] = []
    for k, (frame, value) in enumerate(zip(made.frames, made.values, strict=True)):
        frames.append(frame)
        values.append(value)
        eases.append(made.eases[k])
        if k + 1 == len(made.frames) or (k not in own and k not in bent) or eases[-1] == "hold":
            continue
        eases[-1] = "linear"
        last, target = made.frames[k + 1], made.values[k + 1]
        steps = math.ceil(last - frame)
        if steps > MOST_FRAMES_SAMPLED:
            raise NoValue("a key lies too far from the one before it")
        # Files tell times such as 22.0000009: a key there leaves no room for one at 22.
        for step in range(1, steps if last - frame - (steps - 1) > _APART else steps - 1):
            share = step / (last - frame)
            ways = own.get(k, [made.eases[k]] * len(value))
            shares = [share if isinstance(way, str) else ease_of(share, way) for way in ways]
            frames.append(frame + step)
            eases.append("linear")
            if k in bent:
                values.append(_along(value, target, *bent[k], shares[0]))
            else:
                values.append(tuple(a + (b - a) * s for a, b, s in zip(value, target, shares, strict=True)))
    return Moving(tuple(frames), tuple(values), tuple(eases))


def _along(start: Numbers, end: Numbers, out: Numbers, into: Numbers, share: float) -> Numbers:
    """A point at a share of the length of a cubic."""
    curve = [
        start,
        tuple(a + b for a, b in zip(start, out, strict=True)),
        tuple(a + b for a, b in zip(end, into, strict=True)),
        end,
    ]
    points = [_on(curve, k / 60) for k in range(61)]
    lengths = [0.0]
    for a, b in zip(points, points[1:], strict=False):
        lengths.append(lengths[-1] + math.dist(a, b))
    wanted = min(max(share, 0.0), 1.0) * lengths[-1]
    for k in range(60):
        if lengths[k + 1] >= wanted:
            step = lengths[k + 1] - lengths[k]
            return _on(curve, (k + ((wanted - lengths[k]) / step if step else 0.0)) / 60)
    return end


def _on(curve: list[Numbers], t: float) -> Numbers:
    a, b, c, d = curve
    u = 1 - t
    return tuple(
        u**3 * p + 3 * u * u * t * q + 3 * u * t * t * r + t**3 * s for p, q, r, s in zip(a, b, c, d, strict=True)
    )


def _joined(x: Moving, y: Moving) -> Moving:
    """Two numbers that move by keys of their own as one value."""
    if x.frames == y.frames and x.eases == y.eases:
        return Moving(x.frames, tuple((*a, *b) for a, b in zip(x.values, y.values, strict=True)), x.eases)
    if x.still or y.still:
        led, other, first = (y, x.first, False) if x.still else (x, y.first, True)
        return led.each(lambda value: (*value, *other) if first else (*other, *value))
    low, high = min(x.frames[0], y.frames[0]), max(x.frames[-1], y.frames[-1])
    if high - low > MOST_FRAMES_SAMPLED:
        raise NoValue("its keys lie too far apart")
    # Each with eases of its own: a key at every frame, and at those that lie between.
    wanted = {low + k for k in range(math.ceil(high - low))} | set(x.frames) | set(y.frames)
    held = {frame for one in (x, y) for frame, ease in zip(one.frames, one.eases, strict=True) if ease == "hold"}
    frames: list[float] = []
    for frame in sorted(wanted):
        if not frames or frame - frames[-1] > _APART:
            frames.append(frame)
    values = tuple((*x.at(frame), *y.at(frame)) for frame in frames)
    return Moving(tuple(frames), values, tuple("hold" if frame in held else "linear" for frame in frames))


def heading(position: Moving, turn: Moving) -> Moving:
    """A rotation, turned further along the way that a position goes; a key at every frame. Raises NoValue.

    Where it stands still it keeps the way that it went, or is about to go.
    """
    first, last = position.frames[0], position.frames[-1]
    if last - first > MOST_FRAMES_SAMPLED:
        raise NoValue("its keys lie too far apart")
    frames = [first + k for k in range(math.ceil(last - first - _APART))] + [last]
    ways: list[float | None] = []
    for frame in frames:
        before, after = position.at(max(frame - _NEAR, first)), position.at(min(frame + _NEAR, last))
        dx, dy = after[0] - before[0], after[1] - before[1]
        ways.append(math.degrees(math.atan2(dy, dx)) if math.hypot(dx, dy) > 1e-6 else None)
    known = next((way for way in ways if way is not None), 0.0)
    values: list[Numbers] = []
    for frame, way in zip(frames, ways, strict=True):
        if way is not None:
            # The shorter way round.
            known += (way - known + 180) % 360 - 180
        values.append((turn.at(frame)[0] + known,))
    return Moving(tuple(frames), tuple(values), ("linear",) * len(frames))
