"""Wiggle: random motion around the incoming value, or inside a range."""

from dataclasses import dataclass
from fractions import Fraction
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.axes import CONSTANT, OVER_ELEMENTS, Axes
from ..document.keys import Value
from ..document.modifier import Modifier
from ..document.notes import Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import Pace, PeriodContext, Periodicity, added, together
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.references import ROUND, U
from ..document.specs import ParameterSpec
from ..kernels import wandering, wandering_together
from ..kernels.compiled import Whole
from ..kernels.noise import STEPPED
from ..kernels.parallel import column, over
from .between_noises import between, led_apart, surrounded
from .phase import came_round
from .scale import tenth_of, without_alpha
from .spans import around, missed

_CHARACTERS = ("smooth", "billow", "ridged", "stepped", "jitter")
_DIRECTIONS = ("both", "only above", "only below")
_OVER = ("each its own", "alike", "along")
_SETTLED = ("frequency", "repeat", "octaves", "persistence", "character", "direction", "mode", "seed", "apart")
_Settled = tuple[int, str, str, str, int, Values, Values]
"""Octaves, character, direction, mode, seed, persistence and how far components go apart."""


_LONG = 16
"""Moments from which on it is worth while to look at how they lie in the cells of the noise, before many copies
wander."""


def _wander(
    streams: Whole,
    phase: Values,
    rate: float,
    period: Values,
    base: Values,
    gain: Values,
    seed: int,
    component: int,
    octaves: int,
    persistence: Values,
    kind: int,
    side: int,
    out: Values,
) -> bool:
    """out[k] = base + gain × N of one component for copies with a stream each, at moments of their own or, with fewer
    phases than there are samples, at the same; whether all of it is finite."""
    each = out.size // len(streams)
    if _LONG <= len(phase) < out.size and kind != STEPPED and persistence.size == period.size == 1:
        shares, many = np.empty((octaves, each)), np.empty(octaves, dtype=np.int64)
        ends, cells = np.empty((2, octaves, each), dtype=np.int64)
        if wandering_together.stretches(phase, rate, shares, ends, cells, many):
            lain = (streams, shares, ends, cells, many, period[0])
            alike = (base, gain, seed, component, persistence[0], kind, side, out)
            return over(out.size, wandering_together.together, *lain, *alike, looked=out[None])
    alone = (rate, period, base, gain, seed, component, octaves, persistence, kind, side, out)
    return over(out.size, wandering.wiggle, each, streams, phase, *alone, looked=out[None])


@dataclass(frozen=True)
class _Lined:
    """Copies between noises: those that are needed, which of them each copy stands between, and how much it has of
    each."""

    numbers: Whole
    nodes: Whole
    weights: Values


class Wiggle(Modifier):
    """Random motion around the incoming value, never further than the amplitude, or inside a range."""

    title: ClassVar[str] = "Wiggle"
    called: ClassVar[str] = (
        "shake jitter noise flicker random wander tremble jiggle handheld earthquake wobble turbulence"
    )
    purpose: ClassVar[str] = "shake it"
    mixes_elements: ClassVar[bool] = True
    decisive: ClassVar[tuple[str, ...]] = ("apart",)
    does: ClassVar[str] = "Wanders at random, as far and as often as you say."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = (
        "out = in + amplitude × share × N(φ), |N| ≤ 1, φ the integral of the frequency",
        "octaves add N at 2, 4, 8 … times the frequency, each weaker by the persistence, the sum kept within ±1",
        "within: out = low + (high − low) × (N + 1)/2",
        "along: N over φ and along × u, which passes from one noise over into the next; apart: N of x led to "
        "that of y; what lies "
        "between two noises is as strong as each: their sum, spread as octaves are",
        "along, where copies close (a whole ring, a closed path or outline): N over φ and a circle as long, "
        "which has no seam",
    )
    faults: ClassVar[tuple[str, ...]] = (
        "The frequency is below 0.",
        "The time to repeat after is below 0.",
        "The persistence is not between 0 and 1.",
        "There are fewer than 1 or more than 8 octaves.",
    )
    example: ClassVar[dict[str, Any]] = {"settings": {"amplitude": 40, "frequency": 2.5, "seed": 5}}

    timely: ClassVar[bool] = True
    compared: ClassVar[str] = "character"

    kind: Literal["wiggle"] = "wiggle"
    frequency: Parameter = spec(
        2.0, "frequency", label="Frequency", help="New places a second.", low=0, high=12, step=0.1, main=True
    )
    amplitude: Parameter = spec(
        10.0, label="Amplitude", help="It never moves further than this.", low=0, owner="step", step=1, main=True
    )
    direction: Parameter = spec(
        "both", "choice", label="Direction", help="To which side of the incoming value.", options=_DIRECTIONS
    )
    character: Parameter = spec(
        "smooth",
        "choice",
        label="Character",
        help="How it travels from place to place.",
        options=_CHARACTERS,
        main=True,
    )
    octaves: Parameter = spec(
        1.0, label="Octaves", help="Layers of finer and finer detail.", low=1, high=8, step=1, whole=True
    )
    persistence: Parameter = spec(
        0.5, label="Persistence", help="How strong each finer octave is.", low=0, high=1, step=0.05
    )
    seed: Parameter = spec(
        1.0, label="Seed", help="Another seed, another motion.", low=1, high=99_999, step=1, whole=True
    )
    apart: Parameter = spec(
        100.0,
        "percentage",
        label="Apart",
        help="How far the components go ways of their own; at 0 % they move as one.",
        low=0,
        high=100,
        step=5,
    )
    over: Parameter = spec(
        "each its own",
        "choice",
        label="Over copies",
        help="Each copy wanders by itself, all as one, or neighbours nearly alike.",
        options=_OVER,
        copies=True,
        main=True,
    )
    along: Parameter = spec(
        2.0,
        label="Along",
        help="How many new places lie between the first copy and the last, along the array's order.",
        step=0.1,
        copies=True,
        main=True,
    )
    repeat: Parameter = spec(
        0.0, "time", label="Repeat every", help="Comes round without a seam; 0 never repeats.", low=0, high=20, step=0.1
    )
    mode: Parameter = spec(
        "around",
        "choice",
        label="Mode",
        help="Around the incoming value, or within low and high.",
        options=("around", "within"),
    )
    low: Parameter = spec(
        0.0, label="Low", help="The range's low end, in the mode within.", owner="value", step=1, main=True
    )
    high: Parameter = spec(
        10.0, label="High", help="The range's high end, in the mode within.", owner="value", step=1, main=True
    )

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        after = context.exact("repeat")
        names = (
            "amplitude",
            "low",
            "high",
            "mode",
            "character",
            "direction",
            "persistence",
            "octaves",
            "seed",
            "apart",
            "over",
            "along",
        )
        if context.exact("amplitude") == 0 and self.mode.constant_value == "around":
            return incoming
        if after is None or after <= 0 or context.exact("frequency") is None:
            return None
        heard = (context.driver(reference) for reference in self.references())
        own = together(Periodicity(after), *(context.setting(name) for name in names), *heard)
        return own if self.mode.constant_value == "within" else added(incoming, own)

    def loop_fit(self, spec: ParameterSpec, seconds: Fraction, turn: Fraction) -> dict[str, Fraction]:
        kept = self.repeat.constant_value
        if self.repeat.moves or not isinstance(kept, int | float):
            return {}
        return {"repeat": seconds / max(1, round(float(seconds) / kept)) if kept > 0 else seconds}

    def apply(self, incoming: Signal, context: Context) -> Values:
        settled = context.folded(_SETTLED, lambda: self._settled(context))
        octaves, character, direction, mode, seed, persistence, apart = settled
        moments = self._moments(context)
        lined = None if moments is None else self._lined(context)
        here = moments or context
        phase, rate, period = self._phase(here, character, *self._pace(here))
        if moments is not None:
            context.heed(moments)
        if mode == "within":
            low, high = context.number("low"), context.number("high")
            base, gain, direction = (low + high) / 2, (high - low) / 2, "both"
        else:
            base, gain = incoming.values, context.number("amplitude")
        kind, side = min(_CHARACTERS.index(character), STEPPED), _DIRECTIONS.index(direction)
        octaves = 1 if character == "jitter" else min(max(octaves, 1), 8)
        shape = (rate, period, seed, octaves, persistence, kind, side, lined)
        out = np.empty((context.components, context.count))
        first: Values | None = None
        sound = True
        for c in range(context.components):
            # Where components go one way, the others' own is not needed.
            own = 0 if c and not apart.any() else c
            if c == 0 or (apart.size == 1 and apart[0] in (0, 1)):
                sound &= self._component(context, phase, column(base, c), column(gain, c), own, shape, out[c])
                continue
            still, sound = (np.zeros(1), np.ones(1)), False
            if first is None:
                first = np.empty(context.count)
                self._component(context, phase, *still, 0, shape, first)
            self._component(context, phase, *still, c, shape, out[c])
            led_apart(first, out[c], apart, side, column(base, c), column(gain, c))
        context.sound = sound
        return out.T

    def _settled(self, context: Context) -> _Settled:
        """What its settings come to."""
        frequency, repeat = context.number("frequency")[:, 0], context.number("repeat")[:, 0]
        octaves, persistence = context.whole("octaves"), context.number("persistence")[:, 0]
        apart = np.clip(context.number("apart")[:, 0] / 100, 0, 1)
        wrong = (
            (frequency < 0, "The frequency is below 0"),
            (repeat < 0, "The time to repeat after is below 0"),
            ((persistence < 0) | (persistence > 1), "The persistence is not between 0 and 1"),
            (np.array([not 1 <= octaves <= 8]), "Octaves go from 1 to 8"),
        )
        for mask, message in wrong:
            context.fault(mask, message)
        choices = context.choice("character"), context.choice("direction"), context.choice("mode")
        return octaves, *choices, context.whole("seed"), np.clip(persistence, 0, 1), apart

    def _component(
        self, context: Context, phase: Values, base: Values, gain: Values, component: int, shape: Any, out: Values
    ) -> bool:
        """out[k] = base + gain × N of one component, for copies that have a stream each, one for all, or pass over;
        whether all of it is finite."""
        rate, period, seed, octaves, persistence, kind, side, lined = shape
        rest = (phase, rate, period), (seed, component, octaves, persistence, kind, side)
        count, streams, over_copies = context.count, context.streams, context.choice("over")
        # What stands in no array has the stream of the first.
        if streams is None:
            streams = np.zeros(1, dtype=np.int64)
        elif over_copies == "alike":
            streams = np.zeros_like(streams)
        still = np.zeros(1), np.ones(1)
        if lined is not None:
            table = np.empty((len(lined.numbers), len(phase)))
            _wander(lined.numbers, *rest[0], *still, *rest[1], table.ravel())
            return between(table, lined.nodes, lined.weights, side, base, gain, out)
        if over_copies != "along" or context.streams is None:
            return _wander(streams, *rest[0], base, gain, *rest[1], out)
        if len(phase) < count:
            rest = (np.tile(phase, count // len(phase)), rate, period), rest[1]
        along, place, circle = (
            np.broadcast_to(part, (count, part.shape[1]))
            for part in (context.number("along"), *(context.driver(one, None, context.times) for one in (U, ROUND)))
        )
        each = count // len(streams)
        told = np.concatenate([along, place, circle], axis=1).reshape(len(streams), each, -1)
        # A place that stays is asked for once for each copy.
        rows, each = (told[:, 0], each) if bool((told == told[:, :1]).all()) else (told.reshape(count, -1), 1)
        numbers, weights = surrounded(rows[:, 0], rows[:, 1], rows[:, 2:])
        table = np.empty((numbers.shape[1], count))
        for k, made in enumerate(table):
            over(count, wandering.wiggle, each, np.ascontiguousarray(numbers[:, k]), *rest[0], *still, *rest[1], made)
        nodes = np.arange(len(rows))[:, None] + len(rows) * np.arange(len(table))
        return between(table.reshape(-1, each), nodes, weights, side, base, gain, out)

    def _moments(self, context: Context) -> Context | None:
        """The moments at which all copies wander alike; None where each has its own, or its own pace."""
        own = context.moves("repeat") or any(context.differs(name) for name in ("frequency", "repeat"))
        return None if own or context.varies("persistence") else context.moments

    def _lined(self, context: Context) -> "_Lined | None":
        """How copies that wander at the same moments stand between the noises of whole numbers, if they stay there."""
        if context.choice("over") != "along":
            return None
        along, place, circle = context.by_copy("along"), context.by_copy(U), context.by_copy(ROUND)
        if along is None or place is None or circle is None:
            return None
        copies = 1 if context.streams is None else len(context.streams)
        around, weights = surrounded(
            np.broadcast_to(along[:, 0], (copies,)), np.broadcast_to(place[:, 0], (copies,)), circle
        )
        numbers, which = np.unique(around, return_inverse=True)
        # Where hardly two copies share a noise, a table of them saves nothing.
        return _Lined(numbers, which.reshape(around.shape), weights) if len(numbers) <= max(copies, 2) else None

    def _pace(self, context: Context) -> tuple[Values, Values]:
        frequency, repeat = (np.maximum(context.number(name)[:, 0], 0) for name in ("frequency", "repeat"))
        return frequency, repeat

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        character = context.choice("character")
        phase, rate, _ = self._phase(context, character, *self._pace(context))
        finest = 2 ** (min(max(context.whole("octaves"), 1), 8) - 1) if character == "stepped" else 1
        return (np.floor(phase * rate * finest),)

    def references(self) -> tuple[str, ...]:
        return (U, ROUND) if self.over.moves or self.over.constant_value == "along" else ()

    def axes(self, incoming: Axes, taken: Axes) -> Axes:
        alike = not self.over.moves and self.over.constant_value == "alike"
        return super().axes(incoming, taken) | (CONSTANT if alike else OVER_ELEMENTS)

    def swings(self, incoming: float, context: Pace) -> float:
        own = context.most("frequency") * 2 ** (min(max(context.most("octaves"), 1), 8) - 1)
        if self.character.moves or self.character.constant_value == "jitter":
            own = max(own, context.fps)
        return max(super().swings(incoming, context), own)

    def _phase(
        self, context: Context, character: str, frequency: Values, repeat: Values
    ) -> tuple[Values, float, Values]:
        """The phase (n,), a factor on it, and the whole phases after which it repeats (0: never)."""
        never = repeat.shape[0] == 1 and repeat[0] == 0
        if character != "jitter" and repeat.shape[0] == 1 and repeat[0] > 0 and not context.varies("frequency"):
            # At an even pace: so many whole phases that it is back after the time to repeat after.
            lapse = repeat * frequency
            whole = np.maximum(np.rint(lapse), 1)
            fit = whole / lapse if lapse[0] > 1e-9 else np.zeros(1)
            return np.mod(context.times, repeat) * frequency * fit, 1.0, whole
        times = (
            context.times
            if never
            else np.where(repeat > 0, np.mod(context.times, np.where(repeat > 0, repeat, 1)), context.times)
        )
        if character == "jitter":
            # A frame's time comes out of a division; half a millionth of a frame makes up for its rounding.
            frames = np.floor(times * context.fps + 5e-7)
            return frames, 1.0, np.maximum(np.rint(repeat * context.fps), np.where(repeat > 0, 1, 0))
        if never and not context.varies("frequency"):
            return times, float(frequency[0]), np.zeros(1)
        phase, whole = came_round(lambda at: context.phase_at("frequency", at), context.times, repeat)
        return np.ascontiguousarray(np.broadcast_to(phase, times.shape)), 1.0, whole

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Wiggle":
        updates = {"seed": Parameter(rest=float(seed))}
        if spec.kind == "colour":
            updates["weights"] = without_alpha()
            ends: tuple[Value, Value] = ("#000000", "#ffffff")
        else:
            # Within: its useful range to begin with, where it has one.
            ends = around(spec, value, tenth_of(spec))
        if spec.kind == "colour" or (spec.low is not None and spec.high is not None):
            updates["amplitude"] = Parameter(rest=tenth_of(spec))
        updates["low"], updates["high"] = (Parameter(rest=end) for end in ends)
        return self.changed(**updates)

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        other = {"amplitude", "direction"} if self.mode.rest == "within" else {"low", "high"}
        hidden = other | (set() if spec.components > 1 else {"apart"})
        return super().hidden_settings(spec) | hidden | (set() if self.over.rest == "along" else {"along"})

    def fresh(self, new_id: str, seed: int) -> "Wiggle":
        return self.changed(id=new_id, seed=self.seed.changed(rest=float(seed)))

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        # Jitter leaps from frame to frame, however often it is asked to.
        fast = "" if seen.choice("character") == "jitter" else missed(seen.number("frequency"), seen.fps)
        return (Note(fast, warn=True),) if fast else ()

    def clause(self, words: Words) -> str:
        direction, repeat = words.resting("direction"), words.resting("repeat")
        if words.resting("mode") == "within":
            said = f"wanders between {words.of('low')} and {words.of('high')}"
        else:
            said = f"wiggles by up to {words.of('amplitude')}"
        if words.resting("character") == "jitter":
            said += ", at every frame"
        else:
            said += f", {words.of('frequency')}"
        if direction != "both" and words.resting("mode") != "within":
            said += f", {direction}"
        if words.resting("character") in ("billow", "ridged", "stepped"):
            said += f", {words.resting('character')}"
        over_copies = words.resting("over")
        if over_copies == "along":
            said += ", neighbours nearly alike"
        elif over_copies == "alike":
            said += ", all copies as one"
        if words.moves("repeat") or repeat:
            said += f", coming round every {words.of('repeat')}"
        return said
