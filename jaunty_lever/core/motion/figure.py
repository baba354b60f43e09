"""Figure: two swings at right angles, whose ratio draws circles, eights and knots."""

from fractions import Fraction
from math import gcd
from typing import Any, ClassVar, Literal

import numpy as np

from ..document.modifier import Modifier
from ..document.notes import Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import Pace, PeriodContext, Periodicity, added, common, together
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.quantity import plain_number
from ..document.specs import ParameterSpec
from ..kernels.compiled import Filled, Floats, kernel
from ..kernels.parallel import by_component
from ..kernels.sine import add_sines, sine


class Figure(Modifier):
    """Go round a closed figure about the incoming point: a circle, an eight, a knot."""

    title: ClassVar[str] = "Figure"
    called: ClassVar[str] = "orbit circle ellipse eight round path loop swirl"
    purpose: ClassVar[str] = "keep it going"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "Goes round a circle, an eight or a knot."
    kinds: ClassVar[tuple[str, ...]] = ("vector",)
    formula: ClassVar[tuple[str, ...]] = (
        "x = in x + size x · sin(2π·p·φ + phase)",
        "y = in y + size y · sin(2π·q·φ), φ the integral of the speed",
        "for whole p and q it closes after 1/(speed × gcd(p, q)) seconds",
    )
    example: ClassVar[dict[str, Any]] = {
        "parameter": "position",
        "rest": [0, 0],
        "settings": {"p": 3, "q": 2, "speed": 0.34, "size": [60, 60]},
    }

    timely: ClassVar[bool] = True

    kind: Literal["figure"] = "figure"
    p: Parameter = spec(
        1.0, label="p", help="Swings from side to side in each round.", low=1, high=9, step=1, main=True
    )
    q: Parameter = spec(1.0, label="q", help="Swings up and down in each round.", low=1, high=9, step=1, main=True)
    size: Parameter = spec(
        (80.0, 80.0), label="Size", help="How far it goes to either side.", owner="step", step=1, main=True
    )
    speed: Parameter = spec(
        0.5,
        "frequency",
        label="Speed",
        help="Rounds a second; below 0 it goes the other way.",
        low=0,
        high=4,
        step=0.05,
        main=True,
    )
    phase: Parameter = spec(
        90.0, "angle", label="Phase", help="How far the two swings are apart: 90° makes a circle of 1 : 1.", step=5
    )

    def apply(self, incoming: Signal, context: Context) -> Values:
        both = np.hstack(np.broadcast_arrays(context.number("p"), context.number("q")))
        turns = context.integral("speed", 0)[:, None]
        lead = context.number("phase") / 360
        shift = np.hstack([lead, np.zeros_like(lead)])
        return by_component(_figure, context.count, 2, (incoming.values, context.number("size"), both, turns, shift))

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        p, q, speed = context.exact("p"), context.exact("q"), context.exact("speed")
        if p is None or q is None or speed is None:
            return None
        swings = [abs(1 / (speed * one)) for one in (p, q) if one * speed]
        turns = Periodicity(common(*swings)) if len(swings) == 2 else Periodicity(swings[0] if swings else Fraction(0))
        return added(incoming, together(turns, context.setting("size"), context.setting("phase")))

    def swings(self, incoming: float, context: Pace) -> float:
        return max(super().swings(incoming, context), context.most("speed") * max(context.most("p"), context.most("q")))

    def loop_fit(self, spec: ParameterSpec, seconds: Fraction, turn: Fraction) -> dict[str, Fraction]:
        kept = self.speed.constant_value
        if self.speed.moves or not isinstance(kept, int | float) or kept == 0:
            return {}
        sign = 1 if kept > 0 else -1
        return {"speed": Fraction(max(1, round(abs(kept) * float(seconds))) * sign) / seconds}

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Figure":
        return self.changed(size=Parameter(rest=(20.0, 20.0))) if spec.unit == "%" else self

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        p, q, speed = (float(seen.number(name)[0, 0]) for name in ("p", "q", "speed"))
        if any(getattr(self, name).moves for name in ("p", "q")) or p == 0 or q == 0:
            return ()
        if not (p.is_integer() and q.is_integer()):
            return (Note(f"p : q is {plain_number(p)} : {plain_number(q)}. Whole numbers make a figure that closes."),)
        ratio = Fraction(int(p), int(q))
        words = f"{ratio.numerator} : {ratio.denominator} in lowest terms"
        if self.speed.moves or speed == 0:
            return (Note(f"{words}; it closes after every {_rounds(p, q)}."),)
        seconds = 1 / (abs(speed) * gcd(int(p), int(q)))
        return (
            Note(
                f"{words}; it closes after {plain_number(seconds, 3)} s ({plain_number(seconds * seen.fps, 2)} frames)."
            ),
        )

    def clause(self, words: Words) -> str:
        return f"goes round a figure of {words.of('p')} : {words.of('q')}, {words.of('speed')}"


def _rounds(p: float, q: float) -> str:
    shared = gcd(int(p), int(q))
    return "round" if shared == 1 else f"1/{shared} round"


@kernel
def _figure(
    first: int, last: int, values: Floats, size: Floats, per_round: Floats, turns: Floats, shift: Floats, out: Filled
) -> None:
    sv, ss, sp, sh = values.size > 1, size.size > 1, per_round.size > 1, shift.size > 1
    moves = turns.size > 1
    if moves and not (ss or sp or sh):
        for i in range(first, last):
            out[i] = values[i * sv]
        add_sines(out[first:last], turns[first:last], size[0], per_round[0], shift[0])
        return
    for i in range(first, last):
        x = per_round[i * sp] * turns[i * moves] + shift[i * sh]
        out[i] = values[i * sv] + size[i * ss] * sine(x)
