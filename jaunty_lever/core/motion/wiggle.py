"""Wiggle: random motion around the incoming value, or inside a range."""

from fractions import Fraction
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.cycle import Cycle, Pace, Repeats, added, together
from ..document.parameter import Modifier, MomentsLike, Parameter, SignalLike, Values, Words
from ..document.slots import Slot, slot
from ..kernels import noise
from ..kernels.parallel import column, over

_CHARACTERS = ("smooth", "billow", "ridged", "stepped", "jitter")
_DIRECTIONS = ("both", "only above", "only below")


class Wiggle(Modifier):
    """Random motion around the incoming value, never further than the amplitude, or inside a range."""

    title: ClassVar[str] = "Wiggle"
    purpose: ClassVar[str] = "shake it"
    does: ClassVar[str] = "Wanders at random, as far and as often as you say."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = (
        "out = in + amplitude × share × N(φ), |N| ≤ 1, φ the integral of the frequency",
        "octaves add N at 2, 4, 8 … times the frequency, each weaker by the persistence, the sum kept within ±1",
        "within: out = low + (high − low) × (N + 1)/2",
    )
    faults: ClassVar[tuple[str, ...]] = (
        "The frequency is below 0.", "The time to repeat after is below 0.", "The persistence is not between 0 and 1.",
        "There are fewer than 1 or more than 8 octaves.",
    )  # fmt: skip
    example: ClassVar[dict[str, Any]] = {"settings": {"amplitude": 40, "frequency": 2.5, "seed": 5}}

    timely: ClassVar[bool] = True
    compared: ClassVar[str] = "character"

    kind: Literal["wiggle"] = "wiggle"
    frequency: Parameter = slot(
        2.0, "frequency", label="Frequency", help="New places a second.", low=0, high=12, step=0.1, main=True
    )
    amplitude: Parameter = slot(
        10.0, label="Amplitude", help="It never moves further than this.", low=0, owner="step", step=1, main=True
    )
    direction: Parameter = slot(
        "both", "choice", label="Direction", help="To which side of the incoming value.", options=_DIRECTIONS
    )
    character: Parameter = slot(
        "smooth",
        "choice",
        label="Character",
        help="How it travels from place to place.",
        options=_CHARACTERS,
        main=True,
    )
    octaves: Parameter = slot(
        1.0, label="Octaves", help="Layers of finer and finer detail.", low=1, high=8, step=1, whole=True
    )
    persistence: Parameter = slot(
        0.5, label="Persistence", help="How strong each finer octave is.", low=0, high=1, step=0.05
    )
    seed: Parameter = slot(
        1.0, label="Seed", help="Another seed, another motion.", low=1, high=99_999, step=1, whole=True
    )
    tied: Parameter = slot(False, "switch", label="Tie components", help="All components move as one.")
    repeat: Parameter = slot(
        0.0, "time", label="Repeat every", help="Comes round without a seam; 0 never repeats.", low=0, high=20, step=0.1
    )
    mode: Parameter = slot(
        "around", "choice", label="Mode", help="Around the incoming value, or within low and high.",
        options=("around", "within"),
    )  # fmt: skip
    low: Parameter = slot(
        0.0, label="Low", help="The range's low end, in the mode within.", owner="value", step=1, main=True
    )
    high: Parameter = slot(
        10.0, label="High", help="The range's high end, in the mode within.", owner="value", step=1, main=True
    )

    def repeats(self, incoming: Cycle | None, at: Repeats) -> Cycle | None:
        after = at.exact("repeat")
        names = ("amplitude", "low", "high", "mode", "character", "direction", "persistence", "octaves", "seed", "tied")
        if at.exact("amplitude") == 0 and self.mode.only == "around":
            return incoming
        if after is None or after <= 0 or at.exact("frequency") is None:
            return None
        own = together(Cycle(after), *(at.setting(name) for name in names))
        return own if self.mode.only == "within" else added(incoming, own)

    def tempo(self, slot: Slot, seconds: Fraction) -> dict[str, Fraction]:
        kept = self.repeat.only
        if self.repeat.moves or not isinstance(kept, int | float):
            return {}
        return {"repeat": seconds / max(1, round(float(seconds) / kept)) if kept > 0 else seconds}

    def apply(self, incoming: SignalLike, at: MomentsLike) -> Values:
        frequency, repeat = at.number("frequency")[:, 0], at.number("repeat")[:, 0]
        octaves, persistence = at.whole("octaves"), at.number("persistence")[:, 0]
        at.fault(frequency < 0, "The frequency is below 0")
        at.fault(repeat < 0, "The time to repeat after is below 0")
        at.fault((persistence < 0) | (persistence > 1), "The persistence is not between 0 and 1")
        at.fault(np.array([not 1 <= octaves <= 8]), "Octaves go from 1 to 8")
        frequency, repeat = np.maximum(frequency, 0), np.maximum(repeat, 0)
        character, direction = at.choice("character"), at.choice("direction")
        phase, rate, period = self._phase(at, character, frequency, repeat)
        if at.choice("mode") == "within":
            low, high = at.number("low"), at.number("high")
            base, gain, direction = (low + high) / 2, (high - low) / 2, "both"
        else:
            base, gain = incoming.values, at.number("amplitude")
        kind, side = min(_CHARACTERS.index(character), noise.STEPPED), _DIRECTIONS.index(direction)
        octaves = 1 if character == "jitter" else min(max(octaves, 1), 8)
        out = np.empty((at.components, len(at.times)))
        for c in range(at.components):
            over(
                len(at.times), noise.wiggle, phase, rate, period, column(base, c), column(gain, c), at.whole("seed"),
                0 if at.switch("tied") else c, octaves, np.clip(persistence, 0, 1), kind, side, out[c],
            )  # fmt: skip
        return out.T

    def pieces(self, incoming: SignalLike, at: MomentsLike) -> tuple[NDArray[Any], ...]:
        character = at.choice("character")
        frequency, repeat = (np.maximum(at.number(name)[:, 0], 0) for name in ("frequency", "repeat"))
        phase, rate, _ = self._phase(at, character, frequency, repeat)
        finest = 2 ** (min(max(at.whole("octaves"), 1), 8) - 1) if character == "stepped" else 1
        return (np.floor(phase * rate * finest),)

    def swings(self, incoming: float, at: Pace) -> float:
        own = at.most("frequency") * 2 ** (min(max(at.most("octaves"), 1), 8) - 1)
        if self.character.moves or self.character.only == "jitter":
            own = max(own, at.fps)
        return max(super().swings(incoming, at), own)

    def _phase(
        self, at: MomentsLike, character: str, frequency: Values, repeat: Values
    ) -> tuple[Values, float, Values]:
        """The phase (n,), a factor on it, and the whole phases after which it repeats (0: never)."""
        never = repeat.shape[0] == 1 and repeat[0] == 0
        times = at.times if never else np.where(repeat > 0, np.mod(at.times, np.where(repeat > 0, repeat, 1)), at.times)
        if character == "jitter":
            # A frame's time comes out of a division; half a millionth of a frame makes up for its rounding.
            frames = np.floor(times * at.fps + 5e-7)
            return frames, 1.0, np.maximum(np.rint(repeat * at.fps), np.where(repeat > 0, 1, 0))
        if never and not at.moves("frequency"):
            return times, float(frequency[0]), np.zeros(1)
        phase = at.phase_at("frequency", times)
        if never:
            return phase, 1.0, np.zeros(1)
        lapse = at.phase_at("frequency", repeat)
        whole = np.where(repeat > 0, np.maximum(np.rint(lapse), 1), 0)
        # A frequency of (as good as) 0 stands still: there is nothing to stretch onto a whole number.
        moving = lapse > 1e-9
        fit = np.where(repeat > 0, np.where(moving, whole / np.where(moving, lapse, 1), 0), 1)
        return np.ascontiguousarray(np.broadcast_to(phase * fit, times.shape)), 1.0, whole

    def fitted(self, slot: Slot, value: tuple[float, ...], seed: int) -> "Wiggle":
        bounded = slot.low is not None and slot.high is not None
        tenth = (slot.high - slot.low) / 10 if slot.low is not None and slot.high is not None else 10.0
        updates = {"seed": Parameter(rest=float(seed))}
        if slot.kind == "colour":
            updates["amplitude"] = Parameter(rest=0.1)
            updates["low"], updates["high"] = Parameter(rest="#000000"), Parameter(rest="#ffffff")
            return self.changed(**updates)
        if bounded:
            updates["amplitude"] = Parameter(rest=float(f"{tenth:.2g}"))
        for name, side in (("low", -tenth), ("high", tenth)):
            ends = tuple(v + side for v in value)
            updates[name] = Parameter(rest=ends[0] if len(ends) == 1 else ends)
        return self.changed(**updates)

    def aside(self, slot: Slot) -> frozenset[str]:
        other = {"amplitude", "direction"} if self.mode.rest == "within" else {"low", "high"}
        return super().aside(slot) | other | (set() if slot.components > 1 else {"tied"})

    def fresh(self, new_id: str, seed: int) -> "Wiggle":
        return self.changed(id=new_id, seed=self.seed.changed(rest=float(seed)))

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
        if words.moves("repeat") or repeat:
            said += f", coming round every {words.of('repeat')}"
        return said
