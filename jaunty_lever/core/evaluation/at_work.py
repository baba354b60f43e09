"""One modifier at work: what comes in, its settings at the moments asked for, and what it passes on."""

from collections.abc import Callable
from fractions import Fraction
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from ..document.index import ParameterNode
from ..document.modifier import Modifier, Window
from ..document.parameter import Parameter
from ..document.protocols import Values
from ..document.specs import ParameterSpec, specs_of
from ..kernels.parallel import all_finite
from ..motion.easing import KeyTable
from .cache import Fault
from .sample_times import SampleTimes, Times, worked_out

if TYPE_CHECKING:
    from .sampler import Sampler


class Signal:
    """What comes in from the left, at the asked moments and, when a modifier wants it, at others."""

    def __init__(
        self, sampler: "Sampler", node: ParameterNode, position: int, samples: SampleTimes, known: Values | None = None
    ) -> None:
        self._sampler, self._node, self._position, self._samples = sampler, node, position, samples
        self._known = known
        self.parameter: Parameter = node.parameter

    @property
    def values(self) -> Values:
        if self._known is None:
            # On a frame grid the whole chain is remembered; elsewhere several modifiers may ask for the same moments.
            ask = self._sampler.after if self._samples.grid is not None else self._sampler.before
            self._known = ask(self._node, self._samples, self._position)
        return self._known

    def at(self, times: Times) -> Values:
        return self._sampler.before(self._node, SampleTimes(worked_out(times, self._sampler.scene.fps)), self._position)

    def once(self, times: Times) -> Values:
        """At moments of a modifier's own making, that nobody asks for again."""
        return self._sampler.after(self._node, SampleTimes(times), self._position)

    def passed(self, times: Times) -> NDArray[np.int64]:
        return self._sampler.breaks.passed(self._node, self._position, worked_out(times, self._sampler.scene.fps))

    def breaks(self, low: int, high: int) -> Times:
        return self._sampler.breaks.after(self._node, self._position, low, high)

    @property
    def swings(self) -> float:
        return self._sampler.breaks.swings(self._node, self._position)

    @property
    def keys(self) -> KeyTable | None:
        return self._sampler.table(self._node)

    def part(self, chosen: NDArray[np.int64], some: SampleTimes) -> "Signal":
        """The same signal at some of the moments."""
        known = self._known
        if known is not None and known.shape[0] > 1:
            known = known[chosen]
        return Signal(self._sampler, self._node, self._position, some, known)


class At:
    """The moments asked for, with the modifier's settings there."""

    def __init__(self, sampler: "Sampler", node: ParameterNode, modifier: Modifier, samples: SampleTimes) -> None:
        self._sampler, self._node, self._modifier, self._samples = sampler, node, modifier, samples
        self._specs = specs_of(type(modifier))
        self.times = samples.times
        self.fps = sampler.scene.fps
        self.length = sampler.scene.length / sampler.scene.fps
        self.components = node.spec.components
        self.spec = node.spec
        self.wrong: NDArray[np.bool_] | None = None

    def moves(self, name: str) -> bool:
        moving: bool = getattr(self._modifier, name).moves
        return moving

    def number(self, name: str) -> Values:
        return self._sampler.evaluate(f"{self._modifier.id}.{name}", self._samples)

    def slot_of(self, reference: str) -> ParameterSpec | None:
        node = self._sampler.index.parameters.get(reference)
        return node.spec if node else None

    def texts(self, name: str) -> NDArray[Any]:
        distinct, which = self._sampler.texts(f"{self._modifier.id}.{name}", self._samples)
        return np.array(distinct, dtype=object)[which]

    def choice(self, name: str) -> str:
        options = self._specs[name].options
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
        if reference not in self._sampler.index.parameters:
            self.fault(np.array([True]), "What it follows is no longer there")
            return np.zeros((1, self.components))
        samples = self._samples if times is self.times else SampleTimes(worked_out(times, self.fps))
        values = self._sampler.evaluate(reference, samples)
        return values if component is None else values[:, component : component + 1]

    def turned(self, reference: str) -> tuple[Values, Fraction, float]:
        """A driver as the first wheel's value (n or 1, components), a ratio and what is added: exact along a train."""
        known = self._sampler.turning.of(reference)
        return self.driver(known.first, None, self.times), known.ratio, known.offset

    def passed(self, reference: str, times: Times) -> NDArray[np.int64]:
        node = self._sampler.index.parameters.get(reference)
        if node is None:
            return np.zeros(times.shape, dtype=np.int64)
        return self._sampler.breaks.passed(node, len(node.parameter.chain), worked_out(times, self.fps))

    def fault(self, wrong: NDArray[np.bool_] | np.bool_, message: str) -> None:
        if not wrong.any():
            return
        full = np.broadcast_to(wrong, self.times.shape)
        self.wrong = full if self.wrong is None else self.wrong | full
        first = float(self.times[np.flatnonzero(full)].min()) if full.size else 0.0
        self._sampler.note_all([Fault(self._node.id, self._modifier.id, message, first)])


_ALL = np.ones((1, 1))


def run(sampler: "Sampler", node: ParameterNode, modifier: Modifier, signal: Signal, samples: SampleTimes) -> Values:
    """One modifier with its strength, windows and shares, its jumping settings held apart, its faults passed over."""
    at = At(sampler, node, modifier, samples)
    share = _ALL if modifier.full_strength else _share(modifier, at)
    if share is not _ALL and share.shape[0] == 1 and not share.any():
        return signal.values
    out = by_state(sampler, node, modifier, signal, samples, lambda here, part, _: _sound(here, modifier, part), at)
    if share is _ALL or (share.shape[0] == 1 and bool(np.all(share == 1))):
        return out
    return np.where(share == 0, signal.values, np.where(share == 1, out, signal.values + share * (out - signal.values)))


def by_state(
    sampler: "Sampler", node: ParameterNode, modifier: Modifier, signal: Signal, samples: SampleTimes,
    work: Callable[[At, Signal, int], Values], at: At | None = None,
) -> Values:  # fmt: skip
    """`work(at, signal, how many moments)`, done apart for the moments at which the settings that jump stand alike."""
    at = at or At(sampler, node, modifier, samples)
    jumps = [values for name in modifier.animated_discrete if (values := at.number(name)).shape[0] > 1]
    count = len(samples.times)
    if not jumps:
        return work(at, signal, count)
    states, which = np.unique(np.rint(np.hstack(jumps)), axis=0, return_inverse=True)
    out: Values | None = None
    for state in range(len(states)):
        chosen = np.flatnonzero(which.ravel() == state)
        some = SampleTimes(samples.times[chosen])
        made = work(At(sampler, node, modifier, some), signal.part(chosen, some), len(chosen))
        if out is None:
            out = np.zeros((count, made.shape[1]))
        if made.shape[1] > out.shape[1]:
            out = np.hstack([out, np.zeros((count, made.shape[1] - out.shape[1]))])
        out[chosen, : made.shape[1]] = made
    return np.zeros((count, 0)) if out is None else out


def _sound(at: At, modifier: Modifier, signal: Signal) -> Values:
    out = modifier.apply(signal, at)
    if out.shape[1] != at.components:
        out = np.broadcast_to(out, (out.shape[0], at.components))
    if not all_finite(out):
        at.fault(np.asarray(~np.isfinite(out).all(axis=1)), "The result is not a finite number")
    if at.wrong is not None:
        out = np.where(at.wrong[:, None], signal.values, out)
    return out


def written(at: At, modifier: Modifier, given: NDArray[Any]) -> NDArray[Any]:
    """One modifier of a text. A text is never half one thing and half another: it takes the stronger."""
    share = _share(modifier, at)[:, 0]
    if not share.any():
        return given
    out = modifier.write(given, at)
    wrong = np.zeros(1, dtype=bool) if at.wrong is None else at.wrong
    return np.asarray(np.where((share >= 0.5) & ~wrong, out, given), dtype=object)


def _share(modifier: Modifier, at: At) -> Values:
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
