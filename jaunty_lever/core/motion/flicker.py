"""Flicker: off at random moments, for a while each, and back as it was."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.axes import CONSTANT, OVER_ELEMENTS, Axes
from ..document.modifier import Modifier
from ..document.notes import Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import Pace, PeriodContext, Periodicity, together
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.quantity import plain_number
from ..document.specs import ParameterSpec, value_of
from ..kernels.compiled import Filled, Floats, Whole, kernel
from ..kernels.noise import even, stream_of
from ..kernels.parallel import by_component, laid_out, over
from .phase import came_round
from .scale import tenth_of, without_alpha
from .spans import missed

_OVER = ("each its own", "alike")


class Flicker(Modifier):
    """Goes off at random moments, for a while each, and comes back as it was."""

    title: ClassVar[str] = "Flicker"
    called: ClassVar[str] = (
        "blink outage lamp tube neon broken light switch on off strobe glitch stutter cut out random"
    )
    purpose: ClassVar[str] = "shake it"
    mixes_elements: ClassVar[bool] = True
    timely: ClassVar[bool] = True
    decisive: ClassVar[tuple[str, ...]] = ("over",)
    does: ClassVar[str] = "Goes right off at random moments, holds, and comes back as it was."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = (
        "in each turn k of φ, the integral of the frequency, with the chance: off from φ = k + R(k)·(1 − hₖ) on, "
        "for hₖ",
        "hₖ = hold × (1 − random × R′(k)); out = off then, else in",
    )
    faults: ClassVar[tuple[str, ...]] = (
        "The frequency is below 0.",
        "The time to repeat after is below 0.",
        "Hold, chance or random is not between 0 and 100 %.",
    )
    example: ClassVar[dict[str, Any]] = {
        "rest": 30,
        "settings": {"frequency": 2, "hold": 40, "off": -30, "seed": 4},
    }

    kind: Literal["flicker"] = "flicker"
    off: Parameter = spec(0.0, label="Off", help="What it is while it is off.", owner="value", step=1, main=True)
    frequency: Parameter = spec(
        2.0,
        "frequency",
        label="Frequency",
        help="How often a second it may go off.",
        low=0,
        high=12,
        step=0.1,
        main=True,
    )
    hold: Parameter = spec(
        20.0,
        "percentage",
        label="Hold",
        help="How long it stays off: of the time from once to the next.",
        low=0,
        high=100,
        step=5,
        main=True,
    )
    chance: Parameter = spec(
        100.0, "percentage", label="Chance", help="How many of these times it does.", low=0, high=100, step=5, main=True
    )
    random: Parameter = spec(
        50.0, "percentage", label="Random", help="How much shorter it may stay off.", low=0, high=100, step=5
    )
    over: Parameter = spec(
        "each its own",
        "choice",
        label="Over copies",
        help="Each copy at moments of its own, or all at once.",
        options=_OVER,
        copies=True,
        main=True,
    )
    repeat: Parameter = spec(
        0.0, "time", label="Repeat every", help="Comes round without a seam; 0 never repeats.", low=0, high=20, step=0.1
    )
    seed: Parameter = spec(
        1.0, label="Seed", help="Another seed, other moments.", low=1, high=99_999, step=1, whole=True
    )

    def apply(self, incoming: Signal, context: Context) -> Values:
        frequency, repeat = (context.number(name)[:, 0] for name in ("frequency", "repeat"))
        shares = np.stack(np.broadcast_arrays(*(context.number(name)[:, 0] for name in ("hold", "chance", "random"))))
        context.fault(frequency < 0, "The frequency is below 0")
        context.fault(repeat < 0, "The time to repeat after is below 0")
        context.fault(((shares < 0) | (shares > 100)).any(axis=0), "Hold, chance and random lie between 0 and 100 %")
        away = self._away(context)[1][:, None]
        return by_component(_put, context.count, context.components, (incoming.values, context.number("off"), away))

    def _away(self, context: Context) -> tuple[Values, Values]:
        """Which turn each row is in, and 1 where it is off; (n,) each."""
        every = np.maximum(context.number("repeat")[:, 0], 0.0)
        phase, lapse = came_round(lambda times: context.phase_at("frequency", times), context.times, every)
        count, streams = context.count, context.streams
        if streams is None or context.choice("over") == "alike":
            streams = np.zeros(1 if streams is None else len(streams), dtype=np.int64)
        names = ("hold", "chance", "random")
        shares = (laid_out(np.clip(context.number(name)[:, 0] / 100, 0, 1), (count,)) for name in names)
        turns, away = np.empty(count), np.empty(count)
        phase, lapse = (laid_out(part, (count,)) for part in (phase, lapse))
        each = max(count // len(streams), 1)
        over(count, _outages, each, streams, phase, *shares, lapse, context.whole("seed"), turns, away)
        return turns, away

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        return self._away(context)

    def swings(self, incoming: float, context: Pace) -> float:
        return max(super().swings(incoming, context), context.most("frequency") * 8)

    def axes(self, incoming: Axes, taken: Axes) -> Axes:
        alike = not self.over.moves and self.over.constant_value == "alike"
        return super().axes(incoming, taken) | (CONSTANT if alike else OVER_ELEMENTS)

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        after = context.exact("repeat")
        if after is None or after <= 0 or context.exact("frequency") is None:
            return None
        names = ("off", "hold", "chance", "random", "over", "seed")
        return together(incoming, Periodicity(after), *(context.setting(name) for name in names))

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Flicker":
        updates = {"seed": Parameter(rest=float(seed))}
        if spec.kind == "colour":
            return self.changed(**updates, off=Parameter(rest="#000000"), weights=without_alpha())
        # What has a least value goes down to that; what has none leaps aside.
        least = spec.low
        away = tuple(v + tenth_of(spec) if least is None else least for v in value)
        return self.changed(**updates, off=Parameter(rest=value_of(away, spec)))

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        still = not self.hold.moves and self.hold.constant_value == 0
        return super().hidden_settings(spec) | (frozenset({"random"}) if still else frozenset())

    def fresh(self, new_id: str, seed: int) -> "Flicker":
        return self.changed(id=new_id, seed=self.seed.changed(rest=float(seed)))

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        frequency, hold = float(seen.number("frequency")[0, 0]), float(seen.number("hold")[0, 0])
        fast = missed(seen.number("frequency"), seen.fps)
        if fast or frequency <= 0:
            return (Note(fast, warn=True),) if fast else ()
        frames = hold / 100 / frequency * seen.fps
        if frames < 1:
            return (Note(f"Off for {frames:.2g} of a frame at most: some of it falls between two frames.", warn=True),)
        return (Note(f"Off for {plain_number(round(frames, 1))} frames at most."),)

    def clause(self, words: Words) -> str:
        said = f"flickers to {words.of('off')}, {words.of('frequency')}"
        if words.moves("chance") or words.resting("chance") != 100:
            said += f", {words.of('chance')} of the times"
        if words.moves("repeat") or words.resting("repeat"):
            said += f", coming round every {words.of('repeat')}"
        return said


@kernel
def _put(first: int, last: int, values: Floats, off: Floats, away: Floats, out: Filled) -> None:
    sv, so, sa = values.size > 1, off.size > 1, away.size > 1
    for i in range(first, last):
        out[i] = off[i * so] if away[i * sa] > 0.0 else values[i * sv]


@kernel
def _outages(
    first: int,
    last: int,
    each: int,
    streams: Whole,
    phase: Floats,
    hold: Floats,
    chance: Floats,
    random: Floats,
    lapse: Floats,
    seed: int,
    turns: Filled,
    away: Filled,
) -> None:
    """Which turn each sample is in, and 1 where it is off; `each` samples of each of the streams, side by side."""
    sp, sh, sc, sr, sl = phase.size > 1, hold.size > 1, chance.size > 1, random.size > 1, lapse.size > 1
    for i in range(first, last):
        x = phase[i * sp]
        turn = np.floor(x)
        stream = stream_of(seed, 7, 0, streams[i // each])
        k = np.int64(turn)
        if lapse[i * sl] > 0:
            k %= np.int64(lapse[i * sl])
        turns[i], away[i] = turn, 0.0
        if 0.5 + 0.5 * even(stream, 3 * k) < chance[i * sc]:
            long = hold[i * sh] * (1.0 - random[i * sr] * (0.5 + 0.5 * even(stream, 3 * k + 1)))
            begin = (0.5 + 0.5 * even(stream, 3 * k + 2)) * (1.0 - long)
            if begin <= x - turn < begin + long:
                away[i] = 1.0
