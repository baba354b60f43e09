"""What an emitter throws: when each spark is born, and what decides about it, taken at its birth."""

from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrangements.emission import NEAR, births
from ..document.arrangement import Emitter, leads_out
from ..document.layers import ShapeLayer
from ..document.limits import MOST_SPARKS
from ..document.protocols import Values
from ..geometry.along import Track, track_of
from ..geometry.matrices import applied, inverted, product
from ..kernels.flight import fly, pairs, throw
from ..kernels.noise import even_at
from ..kernels.parallel import over
from .elements import Elements
from .integrals import integral
from .outlines import outlines_of
from .placing import world_matrix
from .sample_times import SampleTimes
from .sampling import Sampling

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]

_LIFETIME, _ANGLE, _SPEED, _SPIN, _ALONG, _OUT, _BIRTH, _NEAR = range(8)
"""What of a spark is random, each by a stream of its own."""
AT_BIRTH = (
    "lifetime",
    "lifetime_random",
    "direction",
    "spread",
    "speed",
    "speed_random",
    "spin",
    "spin_random",
    "drag",
)
"""The settings that decide about a spark at its birth, as `throw` takes them, but for gravity and where it starts."""
_MOST_LOOKED_AT = 200_000
"""Sparks of which each is asked how long it lives, where lifetimes move."""
_SHAPES = ("point", "line", "disc", "outline")


class Source:
    """An emitter in one copy of what stands around it."""

    def __init__(self, sampler: Sampling, array: str, kind: Emitter, element: Elements | None) -> None:
        self._sampler, self._array, self._kind, self._element = sampler, array, kind, element
        start = SampleTimes(np.zeros(1), None, element)
        self.before, self.again, seed = (
            max(float(self._set(name, start)[0, 0]), 0.0) for name in ("pre_roll", "repeat", "seed")
        )
        self.seed = round(seed)
        self.deep = leads_out(kind)
        if self.again:
            self.before = 0.0

    def _values(self, name: str, times: Floats) -> Floats:
        """A setting at moments: (times or 1, components)."""
        return self._set(name, SampleTimes(times, None, self._element))

    def _set(self, name: str, samples: SampleTimes) -> Floats:
        made: Floats = self._sampler.evaluate(f"{self._array}.arrangement.{name}", samples)[0]
        return made

    def _count(self, times: Floats) -> Floats:
        """How many have been born at moments, as a number with a fraction."""
        rate = f"{self._array}.arrangement.rate"
        if not self._sampler.axes.of(rate).times:
            return max(float(self._values("rate", np.zeros(1))[0, 0]), 0.0) * (times + self.before)
        low, high = min(-self.before, 0.0), max(float(times.max(initial=0.0)), 1.0)
        phase = integral(self._sampler, rate, low, high, elements=self._element)
        return np.asarray(phase.at(np.ascontiguousarray(times, dtype=np.float64)) - phase.at(np.array([-self.before])))

    def _round(self) -> int:
        """How many are born in a round."""
        return int(np.ceil(float(self._count(np.array([self.again]))[0]) - NEAR))

    def last(self, times: Floats, most: int) -> int:
        """How many have been born at the last of some moments, at most so many."""
        whole = self._round() if self.again else int(np.floor(float(self._count(times).max(initial=0.0)) + NEAR)) + 1
        return max(0, min(whole, most))

    def _longest(self, newest: int) -> float:
        """The longest that any spark up to the newest lives."""
        scene = self._sampler.scene
        seconds = scene.length / scene.fps
        moves = self._moves("lifetime", "lifetime_random")
        if moves and not self.again and 0 <= newest < _MOST_LOOKED_AT:
            # A lifetime is taken at births alone: whatever it is between them, however shortly, is nobody's.
            born, first = self.table(0, newest)
            return max(float(born[1, : newest + 1 - first].max(initial=0.0)), 0.0)
        marks = np.linspace(-self.before, seconds, 2_000) if moves else np.zeros(1)
        long = self._values("lifetime", marks)[:, 0] * (
            1 + np.clip(self._values("lifetime_random", marks)[:, 0], 0, 100) / 100
        )
        longest = max(float(long.max(initial=0.0)), 0.0)
        return min(longest, self.again) if self.again else longest

    def _moves(self, *names: str) -> bool:
        return any(self._sampler.axes.of(f"{self._array}.arrangement.{name}").times for name in names)

    def alive(self, times: Floats, most: int) -> tuple[Whole, Whole, float | None]:
        """Positions of moments (in ascending order) and numbers of those alive; the first moment that has too many."""
        if self.again:
            many = min(self._round(), 4 * MOST_SPARKS)
            born = self.table(0, many - 1)[0][:, :many] if many else np.zeros((11, 0))
            return self._in_round(times, born, many, most)
        newest = np.floor(self._count(times) + NEAR).astype(np.int64)
        newest[times < -self.before - NEAR] = -1
        longest = self._longest(int(newest.max(initial=-1)))
        oldest = np.floor(self._count(np.maximum(times - longest, -self.before)) - NEAR).astype(np.int64)
        oldest = np.where(times - longest < -self.before, 0, np.maximum(oldest, 0))
        # Of far too many, the newest are looked at.
        crowded = newest - oldest >= 4 * most
        oldest = np.maximum(oldest, newest - 4 * most)
        counts = np.maximum(newest - oldest + 1, 0)
        if not counts.sum():
            return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64), None
        some = counts > 0
        low, high = int(oldest[some].min()), int(newest[some].max())
        if high - low > 4 * int(counts.sum()) + 100_000:
            return self._scattered(times, oldest, counts, most)
        born, low = self.table(low, high)
        when, number = (np.empty(int(counts.sum()), dtype=np.int64) for _ in range(2))
        found = pairs(oldest, counts, times, low, born, most, when, number)
        full = np.bincount(when[:found], minlength=len(times)) >= most
        bad = np.flatnonzero(full & (crowded | (counts > most)))
        return when[:found], number[:found], float(times[bad[0]]) if len(bad) else None

    def _scattered(self, times: Floats, oldest: Whole, counts: Whole, most: int) -> tuple[Whole, Whole, float | None]:
        """The same where so many are born that few of them are ever looked at: moment by moment."""
        whens, numbers = [], []
        for t in range(len(times)):
            low = max(int(oldest[t]), int(oldest[t] + counts[t]) - most)
            high = int(oldest[t] + counts[t]) - 1
            born, first = self.table(low, high)
            when, number = (np.empty(high - low + 1, dtype=np.int64) for _ in range(2))
            found = pairs(
                np.array([low]), np.array([high - low + 1]), times[t : t + 1], first, born, most, when, number
            )
            whens.append(np.full(found, t))
            numbers.append(number[:found])
        return np.concatenate(whens), np.concatenate(numbers), float(times[0])

    def _in_round(self, times: Floats, born: Floats, many: int, most: int) -> tuple[Whole, Whole, float | None]:
        whens, numbers, crowded = [], [], None
        for t, time in enumerate(times):
            # Born again and again: each as long ago as its last birth.
            with np.errstate(invalid="ignore"):
                age = np.mod(time - born[0], self.again)
            found = np.flatnonzero(age < born[1])
            found = found[np.argsort(-age[found], kind="stable")]
            if len(found) > most:
                found, crowded = found[-most:], time if crowded is None else crowded
            whens.append(np.full(len(found), t))
            numbers.append(found)
        if not whens:
            return np.zeros(0, dtype=np.int64), np.zeros(0, dtype=np.int64), None
        return np.concatenate(whens), np.concatenate(numbers), None if crowded is None else float(crowded)

    def table(self, low: int, high: int) -> tuple[Floats, int]:
        """What decides about the sparks low … high, and maybe some more, see `kernels.flight.fly`; and the first of
        them."""
        sampler = self._sampler
        element = None if self._element is None else self._element.key
        known: tuple[Floats, int] | None = sampler.memory.get(("thrown", self._array, element))
        if known is not None and known[1] <= low and high < known[1] + known[0].shape[1]:
            return known
        key = ("born", sampler.key(f"{self._array}.place"), low, high, element)
        born = sampler.remembered(key, lambda: self.of(np.arange(low, high + 1)), lambda made: int(made.nbytes))
        sampler.memory["thrown", self._array, element] = born, low
        return born, low

    def of(self, numbers: Whole) -> Floats:
        """The same for sparks by number, in ascending order."""
        made = np.empty((13 if self.deep else 11, len(numbers)))
        if not len(numbers):
            return made
        wanted = numbers.astype(np.float64)
        if self._kind.births.constant_value == "at random":
            wanted = wanted + self._chance(numbers, _BIRTH)
        birth = self._births(wanted)
        born = np.isfinite(birth)
        # Every setting is asked for at the same births.
        at = SampleTimes(birth if born.all() else np.where(born, birth, 0.0), None, self._element)
        settings = [self._set(name, at)[:, 0] for name in AT_BIRTH]
        gravity = self._set("gravity", at).T
        seeds = np.array([self._seed(stream) for stream in (_LIFETIME, _ANGLE, _SPEED, _SPIN)])
        over(len(numbers), throw, numbers, seeds, birth, *settings, gravity[0], gravity[1], self.again, made)
        made[2], made[3] = self._starts(numbers, at)
        if self.deep:
            self._in_depth(made, numbers, at)
        return made

    def _in_depth(self, made: Floats, numbers: Whole, at: SampleTimes) -> None:
        size, speed, spread = (self._set(f"{name}_depth", at)[:, 0] for name in ("size", "speed", "spread"))
        made[11] = (self._chance(numbers, _NEAR) - 0.5) * size
        made[12] = speed + spread * (2 * self._chance(-1 - numbers, _NEAR) - 1)

    def flight(self, times: Floats, points: int) -> Floats:
        """See `Sparks.flight`."""
        many = len(times)
        born = np.zeros((11, many))
        angle, speed = np.deg2rad(self._values("direction", times)[:, 0]), self._values("speed", times)[:, 0]
        gravity = self._values("gravity", times)
        born[1] = np.maximum(self._values("lifetime", times)[:, 0], 0.0)
        samples = SampleTimes(times, None, self._element)
        x, y = self._from(samples, lambda stream: np.full(1, 0.0 if stream == _OUT else 0.5))
        born[2], born[3], born[4], born[5] = x, y, speed * np.sin(angle), -speed * np.cos(angle)
        born[6] = np.clip(self._values("drag", times)[:, 0], 0.0, 1e3)
        born[7], born[8] = gravity[:, 0], gravity[:, 1]
        which = np.repeat(np.arange(many), points)
        ages = (np.linspace(0, 1, points) * born[1][:, None]).ravel()
        out = np.empty((8, len(which)))
        over(len(which), fly, which, ages, born, 0.0, out)
        return np.stack([out[2], out[3]], axis=-1).reshape(many, points, 2)

    def _births(self, wanted: Floats) -> Floats:
        rate = f"{self._array}.arrangement.rate"
        if not self._sampler.axes.of(rate).times:
            steady = max(float(self._values("rate", np.zeros(1))[0, 0]), 0.0)
            return wanted / steady - self.before if steady > 0 else np.where(wanted <= 0, -self.before, np.inf)
        scene = self._sampler.scene
        high = max(scene.length / scene.fps, 1.0)
        if self.again:
            high = self.again
        else:
            while float(self._count(np.array([high]))[0]) < float(wanted.max()) and high < self._sampler.reach:
                high *= 2
        return births(self._count, wanted, -self.before, min(high, self._sampler.reach))

    def _seed(self, stream: int) -> int:
        own = 0 if self._element is None else int(self._element.streams[0])
        return self.seed * 8 + stream + own * 1_000_003

    def _chance(self, numbers: Whole, stream: int) -> Floats:
        out = np.empty(len(numbers))
        even_at(numbers.astype(np.float64), np.zeros(1), np.full(1, float(self._seed(stream))), out)
        return out

    def _starts(self, numbers: Whole, at: SampleTimes) -> tuple[Floats, Floats]:
        """Where each is thrown from, in the emitter's own coordinates: values (n,) or (1,)."""
        return self._from(at, lambda stream: self._chance(numbers, stream))

    def _from(self, samples: SampleTimes, chance: Callable[[int], Floats]) -> tuple[Floats, Floats]:
        """The same, at shares of the way along it and out from its middle."""
        shape = _SHAPES[round(float(self._values("shape", np.zeros(1))[0, 0])) % len(_SHAPES)]
        x, y = self._set("origin", samples).T
        lead = self._sampler.index.layers.get(self._kind.outline) if self._kind.outline else None
        if shape == "outline":
            return self._on_outline(lead, chance(_ALONG), x, y, samples)
        if lead is not None:
            # From where the layer stood when the spark was born.
            pivot = self._sampler.evaluate(f"{lead.id}.pivot", samples)
            px, py = self._into(lead.id, samples, pivot[..., 0], pivot[..., 1])
            x, y = x + px, y + py
        size = self._set("size", samples)
        if shape == "line":
            x = x + (chance(_ALONG) - 0.5) * size[:, 0]
        elif shape == "disc":
            far, turn = np.sqrt(chance(_OUT)), 2 * np.pi * chance(_ALONG)
            x, y = x + far * np.cos(turn) * size[:, 0] / 2, y + far * np.sin(turn) * size[:, 1] / 2
        return x, y

    def _into(self, layer: str, samples: SampleTimes, x: Values, y: Values) -> tuple[Floats, Floats]:
        """Points of a layer in the emitter's own coordinates."""
        back = inverted(world_matrix(self._sampler, self._array, samples))
        way = product(back, world_matrix(self._sampler, layer, samples))
        made = applied(way, x, y)
        many = samples.shape[1]
        return np.broadcast_to(made[0][0], (many,)), np.broadcast_to(made[1][0], (many,))

    def _on_outline(
        self, lead: Any, along: Floats, x: Floats, y: Floats, samples: SampleTimes
    ) -> tuple[Floats, Floats]:
        if not isinstance(lead, ShapeLayer):
            ox, oy, _ = track_of(self._kind.data).at(along)
            return x + ox, y + oy
        # Outlines that move are taken as they are at the scene's first frame: where they lie is taken at each birth.
        first = outlines_of(self._sampler, lead, SampleTimes(np.zeros(1), None, self._element))
        outline = first.each[int(first.which.ravel()[0])]
        ox, oy, _ = Track(outline.verbs, outline.points[0]).at(along)
        px, py = self._into(lead.id, samples, ox[None, :], oy[None, :])
        return x + px, y + py
