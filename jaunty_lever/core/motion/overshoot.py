"""Overshoot: damped swings that carry on the speed with which the value arrives."""

from math import atan2, exp, log, pi, sin
from typing import Any, ClassVar, Literal

import numpy as np

from ..document.modifier import Modifier
from ..document.notes import Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import Pace, PeriodContext, Periodicity
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.quantity import plain_number
from ..kernels.compiled import Filled, Floats, inlined, inner, kernel
from ..kernels.parallel import by_component
from ..kernels.sine import fallen, sine
from .easing import run_end
from .keyed import ease_mends, without_keys


class Overshoot(Modifier):
    """Shoot past the key and settle: every key at which the speed changes sets a damped swing going."""

    title: ClassVar[str] = "Overshoot"
    called: ClassVar[str] = "spring elastic settle wobble jelly springy inertia swing"
    purpose: ClassVar[str] = "land it"
    does: ClassVar[str] = "Shoots past its last key, swings and settles."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = (
        "out = in + Σ over keys passed of (v⁻ − v⁺)·amplitude/(2πf) · sin(2πf·τ) · e^(−decay·τ)",
        "v⁻, v⁺: speeds just before and after the key, τ: seconds since it",
    )
    faults: ClassVar[tuple[str, ...]] = ("The frequency is not above 0.", "The decay is below 0.")
    example: ClassVar[dict[str, Any]] = {
        "keys": [{"frame": 5, "value": -40, "ease": "ease-in"}, {"frame": 25, "value": 30}],
        "settings": {"frequency": 2, "decay": 3},
    }

    timely: ClassVar[bool] = True

    kind: Literal["overshoot"] = "overshoot"
    frequency: Parameter = spec(
        2.0, "frequency", label="Frequency", help="Swings a second.", low=0, high=12, step=0.1, main=True
    )
    decay: Parameter = spec(
        5.0, label="Decay", help="How quickly it settles, each second.", unit="/s", low=0, high=20, step=0.1, main=True
    )
    amplitude: Parameter = spec(
        1.0,
        label="Amplitude",
        help="1 leaves the key at exactly the speed it arrived.",
        low=0,
        high=3,
        step=0.05,
        main=True,
    )
    which: Parameter = spec("last", "choice", label="Keys", help="Which keys set it swinging.", options=("last", "all"))

    def swings(self, incoming: float, context: Pace) -> float:
        return max(super().swings(incoming, context), context.most("frequency"))

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        return None if context.keyed() else incoming

    def mixes(self, context: Context) -> bool:
        # How far the swings of a key have turned is told from that key on: one number, unless the pace differs.
        return not context.varies("frequency")

    def apply(self, incoming: Signal, context: Context) -> Values:
        frequency, decay = context.number("frequency"), context.number("decay")
        context.fault((frequency <= 0)[:, 0], "The frequency is not above 0")
        context.fault((decay < 0)[:, 0], "The decay is below 0")
        keys = incoming.keys
        if keys is None:
            return incoming.values
        last = len(keys.times) - 1
        which = range(last + 1) if context.choice("which") == "all" else [last]
        jumps = np.array([keys.slope(k) - keys.slope(k, before=False) for k in which])
        starts = keys.times[list(which)]
        turns, turns_at = context.phase("frequency"), context.phase_at("frequency", starts)
        values = (
            context.times[:, None],
            incoming.values,
            turns[:, None],
            frequency,
            decay,
            context.number("amplitude"),
            jumps,
        )
        return by_component(_swing, context.count, context.components, values, starts, turns_at)

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        frequency, decay, amplitude = (float(seen.number(n)[0, 0]) for n in ("frequency", "decay", "amplitude"))
        if seen.keys is None:
            return (without_keys("nothing to shoot past"),)
        if frequency <= 0 or decay < 0:
            return ()
        last = len(seen.keys.times) - 1
        speed = float(np.abs(seen.keys.slope(last)).max())
        if speed < 1e-9 and seen.choice("which") == "last":
            text = "It arrives at rest, so there is nothing to shoot past."
            return (Note(text, warn=True, mends=ease_mends(seen, last)),)
        turn = 2 * pi * frequency
        peak = atan2(turn, decay) / turn
        size = speed * abs(amplitude) / turn * sin(turn * peak) * exp(-decay * peak)
        text = f"Shoots past by {seen.said(size)} at first"
        if decay == 0:
            return (Note(f"{text}; without decay it never settles."),)
        settled = float(seen.keys.times[-1]) + log(100) / decay
        return (
            Note(f"{text}; down to 1 % at frame {plain_number(settled * seen.fps, 0)} ({plain_number(settled, 2)} s)."),
        )

    def clause(self, words: Words) -> str:
        where = "each key" if words.resting("which") == "all" else "its last key"
        return f"shoots past {where} and settles, {words.of('frequency')}"


@inlined
def _one(jump: float, turns: float, spent: float) -> float:
    # What has fallen to e⁻⁴⁰ is gone.
    return jump * sine(turns) * fallen(spent) if spent <= 40.0 else 0.0


@inlined
def _height(amplitude: float, f: float) -> float:
    return amplitude / (2.0 * np.pi * f) if f > 0.0 else 1.0


@inner
def _add_swing(row: Floats, times: Floats, turns: Floats, jump: float, start: float, turn: float, fade: float) -> None:
    for i in range(len(row)):
        row[i] += _one(jump, turns[i] - turn, fade * (times[i] - start))


@kernel(error_model="numpy")
def _swing(
    first: int,
    last: int,
    times: Floats,
    values: Floats,
    turns: Floats,
    frequency: Floats,
    decay: Floats,
    amplitude: Floats,
    jumps: Floats,
    starts: Floats,
    turns_at: Floats,
    out: Filled,
) -> None:
    st, sv, sf, sd, sa = times.size > 1, values.size > 1, frequency.size > 1, decay.size > 1, amplitude.size > 1
    sp = turns.size > 1
    count = len(starts)
    i = first
    while i < last:
        # A run of samples that have passed the same keys.
        k = np.searchsorted(starts, times[i * st])
        low = starts[k - 1] if k > 0 else -np.inf
        high = starts[k] if k < count else np.inf
        # A key counts from just after its own moment.
        j = i + run_end(times[i:last], np.nextafter(low, np.inf), np.nextafter(high, np.inf)) if st else last
        out[i:j] = 0.0
        for key in range(k - 1, -1, -1):
            if jumps[key] == 0.0:
                continue
            if sd or not (st and sp):
                for m in range(i, j):
                    spent = max(decay[m * sd], 0.0) * (times[m * st] - starts[key])
                    out[m] += _one(jumps[key], turns[m * sp] - turns_at[key], spent)
            else:
                fade = max(decay[0], 0.0)
                # The oldest swings of a long train have died away for all of the run.
                if fade * (times[i:j].min() - starts[key]) > 40.0:
                    break
                _add_swing(out[i:j], times[i:j], turns[i:j], jumps[key], starts[key], turns_at[key], fade)
        row = out[i:j]
        if sf or sa:
            for m in range(len(row)):
                row[m] *= _height(amplitude[(i + m) * sa], frequency[(i + m) * sf])
        else:
            row *= _height(amplitude[0], frequency[0])
        if sv:
            row += values[i:j]
        else:
            row += values[0]
        i = j
