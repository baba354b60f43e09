"""The sampler: any parameter of a scene at any array of times."""

import sys
from collections.abc import Callable, Hashable, Iterable
from fractions import Fraction
from functools import cached_property
from math import ceil, floor
from typing import Any, TypeVar

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..document.index import Place
from ..document.parameter import Modifier, Parameter, Values, Window
from ..document.scene import Scene
from ..document.slots import Slot, numbers, slots_of
from ..kernels.parallel import all_finite
from ..motion.easing import KeyTable, key_table
from ..motion.phase import Beyond, Phase
from .breaks import Breaks
from .cache import Cache, Fault
from .moments import Moments, Times, worked_out
from .periods import Periods
from .turning import Turning
from .upstream import Upstream

Result = TypeVar("Result")

MOST_LENGTHS = 100
"""Over how many lengths of the scene a value is integrated at the most."""

# Each link of a long train of followers takes some ten calls, one inside the other.
sys.setrecursionlimit(max(sys.getrecursionlimit(), 30_000))


class Sampler:
    """Values of one scene's parameters as pure functions of time.

    A cache may be shared by many samplers and threads; one sampler belongs to one thread.
    """

    def __init__(self, scene: Scene, cache: Cache | None = None) -> None:
        self.scene = scene
        self.index = scene.index
        self.cache = cache if cache is not None else Cache(64 << 20)
        self.upstream = Upstream(self.index, scene.fps)
        self.faults: dict[tuple[str, str], Fault] = {}
        self.computed: set[str] = set()
        self._working: set[tuple[str, int]] = set()
        self.breaks = Breaks(self)
        #: How far from 0, in seconds, a value can be integrated that neither rests nor repeats.
        self.reach = float(
            ceil(min(MOST_LENGTHS * scene.length / scene.fps, max(2 * scene.length / scene.fps, 10_000)))
        )

    @cached_property
    def turning(self) -> Turning:
        """What turns the scene's wheels."""
        return Turning(self.index)

    @cached_property
    def periods(self) -> Periods:
        """How the scene's parameters repeat."""
        return Periods(self.index)

    def sample(self, parameter: str, times: ArrayLike) -> Values:
        """The parameter at times (…) in seconds, shape (…, components). Raises KeyError for an unknown id."""
        asked = np.asarray(times, dtype=np.float64)
        values = self.evaluate(parameter, Moments(asked.ravel()))
        return np.broadcast_to(values, (asked.size, values.shape[1])).reshape(*asked.shape, values.shape[1])

    def evaluate(self, parameter: str, moments: Moments) -> Values:
        """The parameter at some moments: (n, components), or (1, components) when it never changes."""
        place = self.index.places[parameter]
        own = place.parameter
        if not own.keys and not own.chain:
            return _resting(own, place.slot)
        return self._known(place, moments, len(own.chain))

    def _known(self, place: Place, moments: Moments, count: int) -> Values:
        """What `count` modifiers of a chain give, worked out once for the same moments."""

        def work() -> Values:
            values = self._last(place, moments, count)
            values.setflags(write=False)
            if moments.grid is not None:
                self.computed.add(place.id)
            return values

        if len(moments.times) > _TOO_MANY:
            return self._last(place, moments, count)
        return self.remembered((self.upstream.key(place.id), count, moments.key), work, lambda v: v.nbytes + 256)

    def remembered(self, key: Hashable, work: Callable[[], Result], size: Callable[[Result], int]) -> Result:
        """`work()`, or what the cache holds of it; the faults found on the way are remembered with it."""
        entry = self.cache.get(key)
        if entry is not None:
            self._note(entry.faults)
            known: Result = entry.value
            return known
        before, self.faults = self.faults, {}
        try:
            made = work()
        finally:
            mine, self.faults = self.faults, before
        self._note(mine.values())
        self.cache.put(key, made, tuple(mine.values()), size(made))
        return made

    def stations(self, parameter: str, moments: Moments) -> list[Values]:
        """What the resting value or keys give, and then what each modifier of the chain passes on."""
        place = self.index.places[parameter]
        return self.chain(place, moments, len(place.parameter.chain))

    def texts(self, parameter: str, moments: Moments) -> tuple[tuple[str, ...], NDArray[np.int64]]:
        """A text parameter's distinct texts, and which of them stands at each moment (n,) or (1,)."""
        place = self.index.places[parameter]
        own = place.parameter
        if own.keys:
            frames = np.array([key.frame for key in own.keys]) / self.scene.fps
            which = np.maximum(np.searchsorted(frames, moments.times, side="right") - 1, 0)
            given = np.array([str(key.value) for key in own.keys], dtype=object)[which]
        else:
            given = np.array([str(own.rest)], dtype=object)
        for modifier in () if own.bypassed else own.chain:
            if not modifier.bypassed:
                given = _written(_At(self, place, modifier, moments), modifier, given)
        if given.shape[0] == 1:
            return (given[0],), np.zeros(1, dtype=np.int64)
        distinct, which = np.unique(given, return_inverse=True)
        return tuple(distinct), which

    def note(self, fault: Fault) -> None:
        """Something that makes no sense, besides what modifiers tell."""
        self._note([fault])

    def _note(self, faults: Iterable[Fault]) -> None:
        for fault in faults:
            key = (fault.modifier, fault.message)
            known = self.faults.get(key)
            if known is None or fault.time < known.time:
                self.faults[key] = fault

    def _last(self, place: Place, moments: Moments, count: int) -> Values:
        asked = (place.id, count)
        if asked in self._working:
            # A circle that came in by a way round the checks: the value rests rather than recursing.
            return np.array([numbers(place.parameter.rest, place.slot)])
        self._working.add(asked)
        try:
            return self.after(place, moments, count)
        finally:
            self._working.discard(asked)

    def pieces(self, place: Place, position: int, times: Times) -> NDArray[np.int64] | None:
        """On which piece of what the modifier at `position` gives each moment lies, (n, any number); None: all one."""
        modifier, moments = place.parameter.chain[position], Moments(times)
        signal = _Signal(self, place, position, moments)

        def told(at: _At, signal: _Signal, count: int) -> NDArray[Any]:
            with np.errstate(all="ignore"):
                parts = [np.asarray(part, dtype=np.float64) for part in modifier.pieces(signal, at)]
            columns = [part[:, None] if part.ndim == 1 else part for part in parts]
            return np.hstack([np.zeros((count, 0)), *(np.broadcast_to(c, (count, c.shape[1])) for c in columns)])

        made = _by_state(self, place, modifier, signal, moments, told)
        return np.clip(np.nan_to_num(made), -1e18, 1e18).astype(np.int64) if made.shape[1] else None

    def chain(self, place: Place, moments: Moments, count: int) -> list[Values]:
        """The values after each of the first `count` modifiers, from the resting value or keys on."""
        given = [self._source(place, moments)]
        for position in range(count):
            given.append(self._passed(place, moments, position, given[-1]))
        return given

    def after(self, place: Place, moments: Moments, count: int) -> Values:
        """The values after `count` modifiers. What a modifier does not ask for is never worked out."""
        if count == 0:
            return self._source(place, moments)
        return self._passed(place, moments, count - 1, None)

    def before(self, place: Place, moments: Moments, count: int) -> Values:
        """The values after `count` modifiers at moments that may be asked for again."""
        return self._known(place, moments, count) if count else self._source(place, moments)

    def _passed(self, place: Place, moments: Moments, position: int, known: Values | None) -> Values:
        """What the modifier at `position` passes on; `known` is what comes in, when that has been worked out."""
        modifier = place.parameter.chain[position]
        signal = _Signal(self, place, position, moments, known)
        # Texts have no numbers: what they become is worked out by `texts`.
        if place.parameter.bypassed or modifier.bypassed or place.slot.kind == "text":
            return signal.values
        return _run(self, place, modifier, signal, moments)

    def _source(self, place: Place, moments: Moments) -> Values:
        own = place.parameter
        if not own.keys or place.slot.kind == "text":
            return np.array([numbers(own.rest if not own.keys else own.keys[0].value, place.slot)])
        return key_table(own, place.slot, self.scene.fps).at(moments.times)

    def table(self, place: Place) -> KeyTable | None:
        """The keys of a parameter that has two or more."""
        own = place.parameter
        return key_table(own, place.slot, self.scene.fps) if len(own.keys) > 1 else None

    def phase(self, parameter: str, low: float, high: float, component: int = 0, signed: bool = False) -> Phase:
        """The integral of one component of a parameter from 0, usable from `low` to `high` seconds, and beyond where
        the parameter rests or repeats. Unless it is `signed`, values below 0 count as 0.
        """
        place = self.index.places[parameter]
        count = len(place.parameter.chain)

        def rate(times: Times) -> Times:
            values = self.after(place, Moments(times), count)[:, component]
            return np.broadcast_to(values if signed else np.maximum(values, 0.0), times.shape)

        first, last, beyond = self._bounds(place, low, high, rate)
        key = ("phase", self.upstream.key(parameter), first, last, component, signed, self.reach)

        def work() -> Phase:
            breaks, swings = self.breaks.of(parameter, first, last), self.breaks.swings(place, count)
            return Phase(rate, breaks, swings, first, last, beyond)

        return self.remembered(key, work, lambda phase: phase.powers.nbytes * 2)

    def _bounds(self, place: Place, low: float, high: float, rate: Callable[[Times], Times]) -> tuple[int, int, Beyond]:
        """Over which whole seconds a rate is integrated in panels, and how it goes on beyond them."""
        reach = int(self.reach)
        # Whole spans keep the remembered phase useful for many questions.
        first = max(min(0, floor(max(low, -reach) / 8) * 8), -reach)
        last = min(max(8, ceil(min(high, reach) / 8) * 8), reach)
        stretch = self.breaks.stretch(place, len(place.parameter.chain))
        if stretch is not None:
            ends = (floor(max(min(stretch[0], 0.0), -reach)) - 1, ceil(min(max(stretch[1], 0.0), reach)) + 1)
            rest = rate(np.array([ends[0] - 1.0, ends[1] + 1.0]))
            below = float(rest[0]) if stretch[0] >= -reach else None
            above = float(rest[1]) if stretch[1] <= reach else None
            return (first if below is None else ends[0]), (last if above is None else ends[1]), Beyond(below, above)
        cycle = self.periods.of(place.id)
        if cycle is not None and not cycle.drift and 0 < cycle.period <= reach / 2 - 1:
            scene = self.scene.length / self.scene.fps
            return first, min(max(16, 2 * ceil(cycle.period), ceil(scene)), reach), Beyond(period=float(cycle.period))
        return first, last, Beyond()


def _resting(own: Parameter, slot: Slot) -> Values:
    """The resting value as (1, components); remembered on the parameter, which never changes."""
    known: tuple[tuple[str, int], Values] | None = own.__dict__.get("_resting")
    asked = (slot.kind, slot.components)
    if known is None or known[0] != asked:
        known = (asked, np.array([_numbers_at_rest(own, slot)]))
        known[1].setflags(write=False)
        own.__dict__["_resting"] = known
    return known[1]


def _numbers_at_rest(own: Parameter, slot: Slot) -> tuple[float, ...]:
    try:
        return numbers(own.rest, slot)
    except ValueError:
        # A setting that nobody has set, of a modifier on a parameter of another kind.
        return numbers(slot.default, slot)


class _Signal:
    """What comes in from the left, at the asked moments and, when a modifier wants it, at others."""

    def __init__(
        self, sampler: Sampler, place: Place, position: int, moments: Moments, known: Values | None = None
    ) -> None:
        self._sampler, self._place, self._position, self._moments = sampler, place, position, moments
        self._known = known
        self.parameter: Parameter = place.parameter

    @property
    def values(self) -> Values:
        if self._known is None:
            # On a frame grid the whole chain is remembered; elsewhere several modifiers may ask for the same moments.
            ask = self._sampler.after if self._moments.grid is not None else self._sampler.before
            self._known = ask(self._place, self._moments, self._position)
        return self._known

    def at(self, times: Times) -> Values:
        return self._sampler.before(self._place, Moments(worked_out(times)), self._position)

    def once(self, times: Times) -> Values:
        """At moments of a modifier's own making, that nobody asks for again."""
        return self._sampler.after(self._place, Moments(times), self._position)

    def passed(self, times: Times) -> NDArray[np.int64]:
        return self._sampler.breaks.passed(self._place, self._position, worked_out(times))

    def breaks(self, low: int, high: int) -> Times:
        return self._sampler.breaks.after(self._place, self._position, low, high)

    @property
    def swings(self) -> float:
        return self._sampler.breaks.swings(self._place, self._position)

    @property
    def keys(self) -> KeyTable | None:
        return self._sampler.table(self._place)

    def part(self, chosen: NDArray[np.int64], some: Moments) -> "_Signal":
        """The same signal at some of the moments."""
        known = self._known
        if known is not None and known.shape[0] > 1:
            known = known[chosen]
        return _Signal(self._sampler, self._place, self._position, some, known)


class _At:
    """The moments asked for, with the modifier's settings there."""

    def __init__(self, sampler: Sampler, place: Place, modifier: Modifier, moments: Moments) -> None:
        self._sampler, self._place, self._modifier, self._moments = sampler, place, modifier, moments
        self._slots = slots_of(type(modifier))
        self.times = moments.times
        self.fps = sampler.scene.fps
        self.length = sampler.scene.length / sampler.scene.fps
        self.components = place.slot.components
        self.slot = place.slot
        self.wrong: NDArray[np.bool_] | None = None

    def moves(self, name: str) -> bool:
        moving: bool = getattr(self._modifier, name).moves
        return moving

    def number(self, name: str) -> Values:
        return self._sampler.evaluate(f"{self._modifier.id}.{name}", self._moments)

    def slot_of(self, reference: str) -> Slot | None:
        place = self._sampler.index.places.get(reference)
        return place.slot if place else None

    def texts(self, name: str) -> NDArray[Any]:
        distinct, which = self._sampler.texts(f"{self._modifier.id}.{name}", self._moments)
        return np.array(distinct, dtype=object)[which]

    def choice(self, name: str) -> str:
        options = self._slots[name].options
        return options[min(max(self.whole(name), 0), len(options) - 1)]

    def most(self, name: str) -> float:
        """The greatest size of a setting over the scene's frames."""
        return self._sampler.breaks.most(f"{self._modifier.id}.{name}")

    def whole(self, name: str) -> int:
        return round(float(self.number(name)[0, 0]))

    def switch(self, name: str) -> bool:
        return bool(self.number(name)[0, 0] >= 0.5)

    def phase(self, name: str) -> Values:
        return self.phase_at(name, self.times)

    def phase_at(self, name: str, times: Times) -> Values:
        return self._integral(name, times, 0, False)

    def integral(self, name: str, component: int) -> Values:
        return self._integral(name, self.times, component, True)

    def _integral(self, name: str, times: Times, component: int, signed: bool) -> Values:
        if not times.size:
            return times
        if not self.moves(name):
            rate = float(self.number(name)[0, component])
            return times * (rate if signed else max(0.0, rate))
        low, high = float(times.min()), float(times.max())
        phase = self._sampler.phase(f"{self._modifier.id}.{name}", low, high, component, signed)
        beyond = phase.beyond
        far = np.zeros(1, dtype=bool)
        if beyond.below is None and low < phase.first:
            far = times < phase.first
        if beyond.above is None and not beyond.period and high > phase.last:
            far = far | (times > phase.last)
        self.fault(far, f"It is asked for a moment too far from the scene: over {phase.last:,.0f} s away")
        return phase.at(np.ascontiguousarray(times))

    def driver(self, reference: str, component: int | None, times: Times) -> Values:
        if reference not in self._sampler.index.places:
            self.fault(np.array([True]), "What it follows is no longer there")
            return np.zeros((1, self.components))
        moments = self._moments if times is self.times else Moments(worked_out(times))
        values = self._sampler.evaluate(reference, moments)
        return values if component is None else values[:, component : component + 1]

    def turned(self, reference: str) -> tuple[Values, Fraction, float]:
        """A driver as the first wheel's value (n or 1, components), a ratio and what is added: exact along a train."""
        known = self._sampler.turning.of(reference)
        return self.driver(known.first, None, self.times), known.ratio, known.offset

    def passed(self, reference: str, times: Times) -> NDArray[np.int64]:
        place = self._sampler.index.places.get(reference)
        if place is None:
            return np.zeros(times.shape, dtype=np.int64)
        return self._sampler.breaks.passed(place, len(place.parameter.chain), worked_out(times))

    def fault(self, wrong: NDArray[np.bool_] | np.bool_, message: str) -> None:
        if not wrong.any():
            return
        full = np.broadcast_to(wrong, self.times.shape)
        self.wrong = full if self.wrong is None else self.wrong | full
        first = float(self.times[np.flatnonzero(full)].min()) if full.size else 0.0
        self._sampler._note([Fault(self._place.id, self._modifier.id, message, first)])


_ALL = np.ones((1, 1))
_TOO_MANY = 1 << 18
"""Results at more moments than this are not remembered: they would push out all else."""


def _run(sampler: Sampler, place: Place, modifier: Modifier, signal: _Signal, moments: Moments) -> Values:
    """One modifier with its strength, windows and shares, its jumping settings held apart, its faults passed over."""
    at = _At(sampler, place, modifier, moments)
    share = _ALL if modifier.undimmed else _share(modifier, at)
    if share is not _ALL and share.shape[0] == 1 and not share.any():
        return signal.values
    out = _by_state(sampler, place, modifier, signal, moments, lambda here, part, _: _sound(here, modifier, part), at)
    if share is _ALL or (share.shape[0] == 1 and bool(np.all(share == 1))):
        return out
    return np.where(share == 0, signal.values, np.where(share == 1, out, signal.values + share * (out - signal.values)))


def _by_state(
    sampler: Sampler, place: Place, modifier: Modifier, signal: _Signal, moments: Moments,
    work: Callable[[_At, _Signal, int], Values], at: _At | None = None,
) -> Values:  # fmt: skip
    """`work(at, signal, how many moments)`, done apart for the moments at which the settings that jump stand alike."""
    at = at or _At(sampler, place, modifier, moments)
    jumps = [values for name in modifier.jumping if (values := at.number(name)).shape[0] > 1]
    count = len(moments.times)
    if not jumps:
        return work(at, signal, count)
    states, which = np.unique(np.rint(np.hstack(jumps)), axis=0, return_inverse=True)
    out: Values | None = None
    for state in range(len(states)):
        chosen = np.flatnonzero(which.ravel() == state)
        some = Moments(moments.times[chosen])
        made = work(_At(sampler, place, modifier, some), signal.part(chosen, some), len(chosen))
        if out is None:
            out = np.zeros((count, made.shape[1]))
        if made.shape[1] > out.shape[1]:
            out = np.hstack([out, np.zeros((count, made.shape[1] - out.shape[1]))])
        out[chosen, : made.shape[1]] = made
    return np.zeros((count, 0)) if out is None else out


def _sound(at: _At, modifier: Modifier, signal: _Signal) -> Values:
    out = modifier.apply(signal, at)
    if out.shape[1] != at.components:
        out = np.broadcast_to(out, (out.shape[0], at.components))
    if not all_finite(out):
        at.fault(np.asarray(~np.isfinite(out).all(axis=1)), "The result is not a finite number")
    if at.wrong is not None:
        out = np.where(at.wrong[:, None], signal.values, out)
    return out


def _written(at: _At, modifier: Modifier, given: NDArray[Any]) -> NDArray[Any]:
    """One modifier of a text. A text is never half one thing and half another: it takes the stronger."""
    share = _share(modifier, at)[:, 0]
    if not share.any():
        return given
    out = modifier.write(given, at)
    wrong = np.zeros(1, dtype=bool) if at.wrong is None else at.wrong
    return np.asarray(np.where((share >= 0.5) & ~wrong, out, given), dtype=object)


def _share(modifier: Modifier, at: _At) -> Values:
    """How much of the effect is passed on: strength/100 × windows × shares; (1 or n, 1 or components)."""
    strength = np.clip(at.number("strength") / 100, 0, 1)
    if modifier.windows:
        strength = strength * envelope(modifier.windows, at.times, at.fps)[:, None]
    weights = np.clip(at.number("weights"), 0, 1)
    if weights.shape[0] == 1 and bool(np.all(weights == weights[0, 0])):
        weights = weights[:, :1]
    return strength * weights


def envelope(windows: tuple[Window, ...], times: Times, fps: float) -> Times:
    """1 inside an active window, 0 outside, smoothstep over the fades, which lie inside; (n,)."""
    whole = np.zeros(len(times))
    for window in windows:
        start, end = window.start / fps, window.end / fps
        inside = ((times >= start) & (times <= end)).astype(np.float64)
        for into, fade in ((times - start, window.fade_in / fps), (end - times, window.fade_out / fps)):
            if fade > 0:
                s = np.clip(into / fade, 0, 1)
                inside = inside * (s * s * (3 - 2 * s))
        whole = np.maximum(whole, inside)
    return whole
