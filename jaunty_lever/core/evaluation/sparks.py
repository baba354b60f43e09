"""The sparks of emitters: which are alive at some moments, and what each knows of itself.

A spark is numbered by its birth, and all that decides about it is taken at its birth: any spark at any moment is worked
out alone, with no step before it.
"""

from collections.abc import Hashable, Iterator
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from ..arrangements.emission import NEAR, births
from ..document.arrangement import Emitter
from ..document.layers import ArrayLayer, ShapeLayer
from ..document.limits import MOST_SPARKS
from ..document.protocols import Values
from ..document.specs import specs_of
from ..geometry.along import Track, track_of
from ..geometry.matrices import applied, inverted, product
from ..kernels.flight import fly, pairs
from ..kernels.noise import even_at
from ..kernels.parallel import over
from .cache import Fault
from .elements import Elements
from .outlines import outlines_of
from .placing import world_matrix
from .sample_times import SampleTimes

if TYPE_CHECKING:
    from .sampler import Sampler

Floats = NDArray[np.float64]
Whole = NDArray[np.int64]

_LIFETIME, _ANGLE, _SPEED, _SPIN, _ALONG, _OUT, _BIRTH = range(7)
"""What of a spark is random, each by a stream of its own."""
_SHAPES = ("point", "line", "disc", "outline")


@dataclass(frozen=True)
class Flock:
    """The sparks alive at some moments: the position of the moment, of the copy of the array around, and the number of
    each, (p,), moment after moment in the order in which they are drawn."""

    when: Whole
    outer: Whole
    numbers: Whole


def is_emitter(sampler: "Sampler", array: str) -> bool:
    """Whether an array's copies come and go."""
    layer = sampler.index.layers[array]
    return isinstance(layer, ArrayLayer) and isinstance(layer.arrangement, Emitter)


class Sparks:
    """The sparks of one scene's emitters."""

    def __init__(self, sampler: "Sampler") -> None:
        self._sampler = sampler
        self._last: tuple[Hashable, Floats] | None = None

    def alive(self, array: str, outer: SampleTimes) -> Flock:
        """Those alive at samples of what stands around the emitter, the limit of how many kept to."""
        key = ("sparks", self._sampler.upstream.key(f"{array}.place"), outer.key)
        return self._sampler.remembered(key, lambda: self._alive(array, outer), lambda made: made.when.nbytes * 3 + 200)

    def count(self, array: str, outer: SampleTimes) -> Whole:
        """How many are alive: (outer copies, times)."""
        flock = self.alive(array, outer)
        many, each = outer.shape
        return np.bincount(flock.outer * each + flock.when, minlength=many * each).reshape(many, each).astype(np.int64)

    def born(self, array: str, samples: SampleTimes) -> int:
        """How many have been born at the last of some moments, as many as there may be at the most."""
        last = SampleTimes(np.array([samples.times.max(initial=0.0)]))
        return max((source.last(last.times, MOST_SPARKS * 4) for source, _ in self._sources(array, last)), default=0)

    def there(self, array: str, samples: SampleTimes) -> NDArray[np.bool_]:
        """Which sparks, by number, are alive: (elements, times)."""
        return np.asarray(self._flown(array, samples)[7] > 0)

    def known(self, array: str, what: str, samples: SampleTimes) -> Values:
        """What sparks know of themselves: (elements, times or 1, components)."""
        elements = samples.elements
        assert elements is not None
        if what == "i":
            return elements.numbers.astype(np.float64)[:, None, None]
        if what in ("rank", "row", "col"):
            return np.zeros((1, 1, 1))
        if what == "n":
            return self._neighbours(array, elements, samples)
        flown = self._flown(array, samples)
        if what == "place":
            return np.stack([flown[2], flown[3]], axis=-1)
        if what == "facing":
            return self._facing(array, flown)[..., None]
        return np.asarray(flown[{"age": 0, "life": 1, "u": 1, "x": 2, "y": 3}[what]][..., None])

    def flight(self, array: str, outer: SampleTimes, points: int = 28) -> Floats:
        """The way of a spark that is thrown at each moment with nothing left to chance, in the emitter's own coordinates:
        (times, points, 2)."""
        source, _ = next(self._sources(array, outer))
        return source.flight(outer.times if outer.times.ndim == 1 else outer.times[0], points)

    def _facing(self, array: str, flown: Floats) -> Floats:
        layer: Any = self._sampler.index.layers[array]
        turn: Floats = flown[6]
        if layer.arrangement.facing.constant_value is True:
            turn = turn + np.rad2deg(np.arctan2(flown[5], flown[4]))
        return turn

    def _neighbours(self, array: str, elements: Elements, samples: SampleTimes) -> Values:
        """How many are alive beside each."""
        if elements.aged:
            return self._neighbours_of_aged(array, elements, samples)
        moments, back = np.unique(samples.times, return_inverse=True)
        if elements.outer is None or elements.parents is None:
            counts = self.count(array, SampleTimes(moments))[0]
            made = counts[back.reshape(samples.times.shape)]
            return np.broadcast_to(made, samples.shape).astype(np.float64)[..., None]
        counts = self.count(array, SampleTimes(moments, None, elements.outer))
        where = np.broadcast_to(back.reshape(samples.times.shape), samples.shape)
        return counts[elements.parents[:, None], where].astype(np.float64)[..., None]

    def _neighbours_of_aged(self, array: str, elements: Elements, samples: SampleTimes) -> Values:
        births = np.zeros(len(elements))
        for source, rows in self._sources(
            array, None if elements.outer is None else SampleTimes(np.zeros(1), None, elements.outer)
        ):
            mine = (
                np.arange(len(elements))
                if rows is None or elements.parents is None
                else np.flatnonzero(np.isin(elements.parents, rows))
            )
            distinct, back = np.unique(elements.numbers[mine], return_inverse=True)
            births[mine] = source.of(distinct)[0][back]
        times = np.broadcast_to(samples.times, samples.shape) + births[:, None]
        return self._neighbours(array, replace(elements, aged=False), SampleTimes(times, None, elements))

    def _flown(self, array: str, samples: SampleTimes) -> Floats:
        """What `fly` tells of sparks at samples, (8, elements, times). Place, turn, age and life are asked for one after the
        other: the last answer is kept at hand."""
        key = (array, samples.key)
        if self._last is None or self._last[0] != key:
            self._last = (key, self._fly(array, samples))
        return self._last[1]

    def _fly(self, array: str, samples: SampleTimes) -> Floats:
        elements = samples.elements
        assert elements is not None
        many, each = samples.shape
        out = np.empty((8, many, each))
        times = np.broadcast_to(samples.times, (many, each))
        around = None if elements.outer is None else SampleTimes(np.zeros(1), None, elements.outer)
        for source, rows in self._sources(array, around):
            mine = (
                np.arange(many)
                if rows is None or elements.parents is None
                else np.flatnonzero(np.isin(elements.parents, rows))
            )
            if not len(mine):
                continue
            numbers = elements.numbers[mine]
            low, high = int(numbers.min()), int(numbers.max())
            if high - low < 4 * len(mine) + 20_000:
                born, which = source.table(low, high), numbers - low
            else:
                distinct, which = np.unique(numbers, return_inverse=True)
                born = source.of(distinct)
            whole = len(mine) == many
            part = out.reshape(8, -1) if whole else np.empty((8, len(mine) * each))
            when = np.ascontiguousarray(times if whole else times[mine]).ravel()
            if elements.aged:
                # What a pattern asks is counted from the birth on.
                born = np.concatenate([np.zeros((1, born.shape[1])), born[1:]])
            over(part.shape[1], fly, np.repeat(which, each), when, born, 0.0 if elements.aged else source.again, part)
            if not whole:
                out[:, mine] = part.reshape(8, len(mine), each)
        return out

    def _alive(self, array: str, outer: SampleTimes) -> Flock:
        many, each = outer.shape
        times = np.broadcast_to(outer.times, (many, each))
        layer: Any = self._sampler.index.layers[array]
        most = max(1, MOST_SPARKS // max(1, many if many <= 64 else 64))
        most = MOST_SPARKS if many == 1 else most
        parts: list[tuple[Whole, Whole, Whole]] = []
        for source, rows in self._sources(array, outer):
            mine = np.arange(many) if rows is None else rows
            flat = np.ascontiguousarray(times[mine]).ravel()
            when, numbers, crowded = source.alive(flat, most)
            if crowded is not None:
                message = f"An emitter has at most {MOST_SPARKS:,} sparks alive; the oldest are left out"
                self._sampler.note(Fault(f"{array}.arrangement.rate", "", message, crowded))
            parts.append((when % each, mine[when // each], numbers))
        when, around, numbers = (
            np.concatenate(some) if some else np.zeros(0, dtype=np.int64) for some in zip(*parts, strict=True)
        )
        if layer.arrangement.on_top.constant_value == "oldest":
            order = np.lexsort((-numbers, when, around))
            when, around, numbers = when[order], around[order], numbers[order]
        return Flock(when, around, numbers)

    def _sources(self, array: str, outer: SampleTimes | None) -> "Iterator[tuple[_Source, Whole | None]]":
        """What sparks come from: one for all copies of what stands around, or one for each of them where that differs."""
        elements = None if outer is None else outer.elements
        layer: Any = self._sampler.index.layers[array]
        names = [f"{array}.arrangement.{name}" for name in specs_of(Emitter)]
        # Copies of an array throw sparks of their own; sparks that throw sparks all throw the same ones, unless they differ.
        inside = any(is_emitter(self._sampler, one) for one in self._sampler.index.arrays.get(array, ()))
        differs = not inside or any(self._sampler.axes.of(name).elements for name in names)
        if not differs or elements is None:
            yield _Source(self._sampler, array, layer.arrangement, None), None
            return
        streams, back = np.unique(elements.streams, return_inverse=True)
        for k in range(len(streams)):
            rows = np.flatnonzero(back == k)
            yield _Source(self._sampler, array, layer.arrangement, elements.part(rows[:1])), rows


class _Source:
    """An emitter in one copy of what stands around it."""

    def __init__(self, sampler: "Sampler", array: str, kind: Emitter, element: Elements | None) -> None:
        self._sampler, self._array, self._kind, self._element = sampler, array, kind, element
        self.before = self._at_start("pre_roll")
        self.again = self._at_start("repeat")
        self.seed = round(self._at_start("seed"))
        if self.again:
            self.before = 0.0

    def _at_start(self, name: str) -> float:
        return max(float(self._values(name, np.zeros(1))[0, 0]), 0.0)

    def _values(self, name: str, times: Floats) -> Floats:
        """A setting at moments: (times or 1, components)."""
        made: Floats = self._sampler.evaluate(
            f"{self._array}.arrangement.{name}", SampleTimes(times, None, self._element)
        )[0]
        return made

    def _count(self, times: Floats) -> Floats:
        """How many have been born at moments, as a number with a fraction."""
        rate = f"{self._array}.arrangement.rate"
        if not self._sampler.axes.of(rate).times:
            return max(float(self._values("rate", np.zeros(1))[0, 0]), 0.0) * (times + self.before)
        low, high = min(-self.before, 0.0), max(float(times.max(initial=0.0)), 1.0)
        phase = self._sampler.phase(rate, low, high, elements=self._element)
        return np.asarray(phase.at(np.ascontiguousarray(times, dtype=np.float64)) - phase.at(np.array([-self.before])))

    def _round(self) -> int:
        """How many are born in a round."""
        return int(np.ceil(float(self._count(np.array([self.again]))[0]) - NEAR))

    def last(self, times: Floats, most: int) -> int:
        """How many have been born at the last of some moments, at most so many."""
        whole = self._round() if self.again else int(np.floor(float(self._count(times).max(initial=0.0)) + NEAR)) + 1
        return max(0, min(whole, most))

    def _longest(self) -> float:
        """The longest that any spark of the scene lives."""
        scene = self._sampler.scene
        seconds = scene.length / scene.fps
        marks = np.linspace(-self.before, seconds, 2_000) if self._moves("lifetime", "lifetime_random") else np.zeros(1)
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
            born = self.table(0, max(many - 1, 0)) if many else np.zeros((11, 0))
            return self._in_round(times, born, many, most)
        newest = np.floor(self._count(times) + NEAR).astype(np.int64)
        newest[times < -self.before - NEAR] = -1
        longest = self._longest()
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
        born = self.table(low, high)
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
            born = self.table(low, high)
            when, number = (np.empty(high - low + 1, dtype=np.int64) for _ in range(2))
            found = pairs(np.array([low]), np.array([high - low + 1]), times[t : t + 1], low, born, most, when, number)
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

    def table(self, low: int, high: int) -> Floats:
        """What decides about the sparks low … high, see `kernels.flight.fly`."""
        sampler = self._sampler
        element = None if self._element is None else self._element.key
        key = ("born", sampler.upstream.key(f"{self._array}.place"), low, high, element)
        return sampler.remembered(key, lambda: self.of(np.arange(low, high + 1)), lambda made: int(made.nbytes))

    def of(self, numbers: Whole) -> Floats:
        """The same for sparks by number, in ascending order."""
        made = np.zeros((11, len(numbers)))
        if not len(numbers):
            return made
        number = numbers.astype(np.float64)
        wanted = number
        if self._kind.births.constant_value == "at random":
            wanted = number + self._chance(numbers, _BIRTH)
        birth = self._births(wanted)
        never = ~np.isfinite(birth)
        at = np.where(never, 0.0, birth)
        lifetime = self._values("lifetime", at)[:, 0] * (
            1 + self._share("lifetime_random", at) * (2 * self._chance(numbers, _LIFETIME) - 1)
        )
        lifetime = np.maximum(np.nan_to_num(lifetime), 0.0)
        if self.again:
            lifetime = np.minimum(lifetime, self.again)
        angle = self._values("direction", at)[:, 0] + self._values("spread", at)[:, 0] * (
            2 * self._chance(numbers, _ANGLE) - 1
        )
        speed = self._values("speed", at)[:, 0] * (
            1 + self._share("speed_random", at) * (2 * self._chance(numbers, _SPEED) - 1)
        )
        spin = self._values("spin", at)[:, 0] * (
            1 + self._share("spin_random", at, 10.0) * (2 * self._chance(numbers, _SPIN) - 1)
        )
        gravity = self._values("gravity", at)
        turn = np.deg2rad(angle)
        made[0], made[1] = np.where(never, np.inf, birth), np.where(never, 0.0, lifetime)
        made[2], made[3] = self._starts(numbers, at)
        made[4], made[5] = speed * np.sin(turn), -speed * np.cos(turn)
        made[6] = np.clip(self._values("drag", at)[:, 0], 0.0, 1e3)
        made[7], made[8] = gravity[:, 0], gravity[:, 1]
        made[10] = spin
        return made

    def flight(self, times: Floats, points: int) -> Floats:
        """See `Sparks.flight`."""
        many = len(times)
        born = np.zeros((11, many))
        angle, speed = np.deg2rad(self._values("direction", times)[:, 0]), self._values("speed", times)[:, 0]
        gravity = self._values("gravity", times)
        born[1] = np.maximum(self._values("lifetime", times)[:, 0], 0.0)
        middle = np.zeros(1, dtype=np.int64)
        x, y = self._from(middle, times, np.full(1, 0.5), np.zeros(1))
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

    def _share(self, name: str, times: Floats, most: float = 1.0) -> Floats:
        return np.clip(self._values(name, times)[:, 0] / 100, 0.0, most)

    def _chance(self, numbers: Whole, stream: int) -> Floats:
        out = np.empty(len(numbers))
        own = 0 if self._element is None else int(self._element.streams[0])
        seeds = np.full(len(numbers), float(self.seed * 8 + stream + own * 1_000_003))
        even_at(numbers.astype(np.float64), np.zeros(1), seeds, out)
        return out

    def _starts(self, numbers: Whole, at: Floats) -> tuple[Floats, Floats]:
        """Where each is thrown from, in the emitter's own coordinates."""
        return self._from(numbers, at, self._chance(numbers, _ALONG), self._chance(numbers, _OUT))

    def _from(self, numbers: Whole, at: Floats, along: Floats, out: Floats) -> tuple[Floats, Floats]:
        """The same, at shares of the way along it and out from its middle."""
        shape = _SHAPES[round(float(self._values("shape", np.zeros(1))[0, 0])) % len(_SHAPES)]
        origin, size = self._values("origin", at), self._values("size", at)
        x, y = np.broadcast_to(origin[:, 0], at.shape), np.broadcast_to(origin[:, 1], at.shape)
        lead = self._sampler.index.layers.get(self._kind.outline) if self._kind.outline else None
        samples = SampleTimes(at, None, self._element)
        if shape == "outline":
            return self._on_outline(lead, along, x, y, samples)
        if lead is not None:
            # From where the layer stood when the spark was born.
            pivot = self._sampler.evaluate(f"{lead.id}.pivot", samples)
            px, py = self._into(lead.id, samples, pivot[..., 0], pivot[..., 1])
            x, y = x + px, y + py
        if shape == "line":
            x = x + (along - 0.5) * size[:, 0]
        elif shape == "disc":
            far, turn = np.sqrt(out), 2 * np.pi * along
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
