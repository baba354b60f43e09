"""The sampler: any parameter of a scene at any array of times."""

import sys
from collections.abc import Callable, Hashable, Iterable
from dataclasses import dataclass
from typing import Any, TypeVar

import numpy as np
from numpy.typing import ArrayLike, NDArray

from ..document.index import Place
from ..document.parameter import Modifier, Parameter, Values, Window
from ..document.scene import Scene
from ..document.slots import Slot, numbers, slots_of
from ..kernels.parallel import all_finite
from ..motion.easing import KeyTable, key_table
from ..motion.phase import Phase
from .cache import Cache, Fault
from .upstream import Upstream

Times = NDArray[np.float64]
Result = TypeVar("Result")

# Each link of a long train of followers takes some ten calls, one inside the other.
sys.setrecursionlimit(max(sys.getrecursionlimit(), 30_000))


@dataclass(frozen=True)
class Moments:
    """Times in seconds (n,). `grid` names a frame grid, so that results on it can be remembered."""

    times: Times
    grid: tuple[float, float, float, float] | None = None

    @classmethod
    def frames(cls, fps: float, start: float, stop: float, step: float = 1.0) -> "Moments":
        """The times of the frames start, start + step, … before stop."""
        count = max(0, int(np.ceil((stop - start) / step - 1e-9)))
        return cls((start + step * np.arange(count, dtype=np.float64)) / fps, (fps, start, stop, step))


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
        self._working: list[str] = []

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
        if moments.grid is None:
            return self._last(place, moments)

        def work() -> Values:
            values = self._last(place, moments)
            values.setflags(write=False)
            self.computed.add(parameter)
            return values

        key = (self.upstream.key(parameter), moments.grid)
        return self.remembered(key, work, lambda values: values.nbytes + 256)

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

    def _note(self, faults: Iterable[Fault]) -> None:
        for fault in faults:
            key = (fault.modifier, fault.message)
            known = self.faults.get(key)
            if known is None or fault.time < known.time:
                self.faults[key] = fault

    def _last(self, place: Place, moments: Moments) -> Values:
        if place.id in self._working:
            # A circle that came in by a way round the checks: the value rests rather than recursing.
            return np.array([numbers(place.parameter.rest, place.slot)])
        self._working.append(place.id)
        try:
            return self.after(place, moments, len(place.parameter.chain))
        finally:
            self._working.pop()

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
        """The integral of one component of a parameter from 0, usable from `low` to `high` seconds.

        Unless it is `signed`, values below 0 count as 0.
        """
        place = self.index.places[parameter]
        # Whole spans keep the remembered phase useful for many questions.
        low, high = float(min(0, np.floor(low / 8) * 8)), float(np.ceil(max(high, 1.0) / 8) * 8)
        key = ("phase", self.upstream.key(parameter), low, high, component, signed)

        def rate(times: Times) -> Times:
            values = self._last(place, Moments(times))[:, component]
            return np.broadcast_to(values if signed else np.maximum(values, 0.0), times.shape)

        return self.remembered(
            key, lambda: Phase(rate, self.upstream.breaks(parameter), low, high), lambda phase: phase.powers.nbytes * 2
        )


def _resting(own: Parameter, slot: Slot) -> Values:
    """The resting value as (1, components); remembered on the parameter, which never changes."""
    known: tuple[tuple[str, int], Values] | None = own.__dict__.get("_resting")
    asked = (slot.kind, slot.components)
    if known is None or known[0] != asked:
        known = (asked, np.array([numbers(own.rest, slot)]))
        known[1].setflags(write=False)
        own.__dict__["_resting"] = known
    return known[1]


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
            self._known = self._sampler.after(self._place, self._moments, self._position)
        return self._known

    def at(self, times: Times) -> Values:
        return self._sampler.after(self._place, Moments(times), self._position)

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
        return phase.at(np.ascontiguousarray(times))

    def driver(self, reference: str, component: int | None, times: Times) -> Values:
        if reference not in self._sampler.index.places:
            self.fault(np.array([True]), "What it follows is no longer there")
            return np.zeros((1, self.components))
        moments = self._moments if times is self.times else Moments(times)
        values = self._sampler.evaluate(reference, moments)
        return values if component is None else values[:, component : component + 1]

    def fault(self, wrong: NDArray[np.bool_] | np.bool_, message: str) -> None:
        if not wrong.any():
            return
        full = np.broadcast_to(wrong, self.times.shape)
        self.wrong = full if self.wrong is None else self.wrong | full
        first = float(self.times[np.flatnonzero(full)].min()) if full.size else 0.0
        self._sampler._note([Fault(self._place.id, self._modifier.id, message, first)])


_ALL = np.ones((1, 1))


def _run(sampler: Sampler, place: Place, modifier: Modifier, signal: _Signal, moments: Moments) -> Values:
    """One modifier with its strength, windows and shares, its jumping settings held apart, its faults passed over."""
    count = len(moments.times)
    at = _At(sampler, place, modifier, moments)
    share = _ALL if modifier.undimmed else _share(modifier, at)
    if share is not _ALL and share.shape[0] == 1 and not share.any():
        return signal.values
    jumps = [values for name in modifier.jumping if (values := at.number(name)).shape[0] > 1]
    if jumps:
        states, which = np.unique(np.rint(np.hstack(jumps)), axis=0, return_inverse=True)
        out = np.empty((count, place.slot.components))
        for state in range(len(states)):
            chosen = np.flatnonzero(which.ravel() == state)
            some = Moments(moments.times[chosen])
            out[chosen] = _sound(_At(sampler, place, modifier, some), modifier, signal.part(chosen, some))
    else:
        out = _sound(at, modifier, signal)
    if share is _ALL or (share.shape[0] == 1 and bool(np.all(share == 1))):
        return out
    return np.where(share == 0, signal.values, np.where(share == 1, out, signal.values + share * (out - signal.values)))


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
