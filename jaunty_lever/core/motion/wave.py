"""Wave: an even swing of one of five shapes."""

from fractions import Fraction
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.modifier import Modifier
from ..document.notes import Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import Pace, PeriodContext, Periodicity, added, together
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.quantity import plain_number
from ..document.references import ROUND, U
from ..document.specs import ParameterSpec
from ..kernels.compiled import Filled, Floats, kernel
from ..kernels.cyclic import saw, square, triangle
from ..kernels.parallel import by_component, over
from ..kernels.sine import add_swings, swing, swings
from .scale import tenth_of, without_alpha
from .spans import missed

_SHAPES = ("sine", "triangle", "saw", "square", "pulse")


class Wave(Modifier):
    """Swing evenly about the incoming value."""

    title: ClassVar[str] = "Wave"
    called: ClassVar[str] = "swing oscillate sine sway bob pulse flicker blink breathe throb"
    purpose: ClassVar[str] = "keep it going"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "Swings evenly: sine, triangle, saw, square or pulse."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = (
        "out = in + offset + amplitude × S(φ + phase + along × u), φ the integral of the frequency, u the "
        "copy's place in "
        "the order",
        "S: sin 2πφ; triangle from 0, rising; saw 2·frac(φ + ½) − 1; square +1 while frac φ < duty, else −1; "
        "pulse sin²(π·frac φ/duty) while frac φ < duty, else 0",
    )
    faults: ClassVar[tuple[str, ...]] = ("The frequency is below 0.", "The duty is not between 0 and 100 %.")
    example: ClassVar[dict[str, Any]] = {"settings": {"amplitude": 40, "frequency": 0.8}}

    timely: ClassVar[bool] = True
    compared: ClassVar[str] = "shape"

    kind: Literal["wave"] = "wave"
    frequency: Parameter = spec(
        1.0, "frequency", label="Frequency", help="Swings a second.", low=0, high=12, step=0.1, main=True
    )
    amplitude: Parameter = spec(
        10.0, label="Amplitude", help="How far to either side.", owner="step", step=1, main=True
    )
    shape: Parameter = spec("sine", "choice", label="Shape", help="How it swings.", options=_SHAPES, main=True)
    phase: Parameter = spec(
        0.0,
        label="Phase",
        unit="turns",
        help="Where in the swing it starts; 0.25 is a quarter later.",
        low=0,
        high=1,
        step=0.05,
    )
    along: Parameter = spec(
        0.0,
        label="Along",
        unit="turns",
        help="How many swings lie between the first copy and the last, along the array's order.",
        step=0.05,
        copies=True,
        main=True,
    )
    offset: Parameter = spec(0.0, label="Offset", help="Moves the middle of the swing.", owner="step", step=1)
    duty: Parameter = spec(
        50.0,
        "percentage",
        label="Duty",
        help="The share of each swing that a square is up, or a pulse lasts.",
        low=0,
        high=100,
        step=1,
    )

    def apply(self, incoming: Signal, context: Context) -> Values:
        duty = context.number("duty")
        context.fault(context.number("frequency")[:, 0] < 0, "The frequency is below 0")
        context.fault(((duty < 0) | (duty > 100))[:, 0], "The duty is not between 0 and 100 %")
        swung = self._of_copies(incoming, context) if context.choice("shape") == "sine" else None
        if swung is not None:
            return swung
        values = (incoming.values, context.number("offset"), context.number("amplitude"), self._start(context), duty)
        phase = context.phase("frequency")
        return by_component(
            _wave,
            context.count,
            context.components,
            (phase[:, None], *values),
            _SHAPES.index(context.choice("shape")),
        )

    def _of_copies(self, incoming: Signal, context: Context) -> Values | None:
        """The sines of copies that are asked for at the same moments, where nothing but the sines moves in time."""
        one = context.moments
        if one is None or context.differs("frequency"):
            return None
        settings = [context.by_copy(name) for name in ("phase", "along", "offset", "amplitude")]
        place = context.by_copy(U) if self.references() else np.zeros((1, 1))
        circle = context.by_copy(ROUND) if self.references() else np.zeros((1, 1))
        if place is None or circle is None or any(setting is None for setting in settings):
            return None
        phase, along, offset, amplitude = (np.asarray(setting) for setting in settings)
        turns = np.ascontiguousarray(np.broadcast_to(one.phase("frequency"), one.times.shape))
        context.heed(one)
        lead = np.broadcast_to(
            phase + _ahead(along, place, circle) if self.references() else phase, (context.count // len(turns), 1)
        )
        out = np.empty((context.components, context.count))
        sizes = (np.ascontiguousarray(np.broadcast_to(part, (len(part), len(out))).T) for part in (offset, amplitude))
        values = np.ascontiguousarray(np.broadcast_to(incoming.values, (len(incoming.values), len(out))).T)
        lead = np.ascontiguousarray(lead[:, 0])
        context.sound = over(context.count, swings, turns, lead, values, *sizes, out, looked=out)
        return out.T

    def references(self) -> tuple[str, ...]:
        return (U, ROUND) if self.along.moves or self.along.constant_value != 0 else ()

    def _start(self, context: Context) -> Values:
        """Where in its swing each row begins, in turns."""
        phase = context.number("phase")
        if not self.references():
            return phase
        place, circle = (context.driver(one, None, context.times) for one in (U, ROUND))
        return phase + _ahead(context.number("along"), place, circle)

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        shape = context.choice("shape")
        if shape == "sine":
            return ()
        x = context.phase("frequency")[:, None] + self._start(context)
        turns = np.floor(x)
        if shape == "triangle":
            return (np.floor(2 * x + 0.5),)
        if shape == "saw":
            return (np.floor(x + 0.5),)
        return turns, x - turns < context.number("duty") * 0.01

    def swings(self, incoming: float, context: Pace) -> float:
        return max(
            super().swings(incoming, context),
            context.most("frequency") * (4 if self.shape.constant_value == "pulse" else 1),
        )

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Wave":
        made = self.changed(amplitude=Parameter(rest=tenth_of(spec)))
        return made.changed(weights=without_alpha()) if spec.kind == "colour" else made

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        return super().hidden_settings(spec) | (set() if self.shape.rest in ("square", "pulse") else {"duty"})

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        frequency = context.exact("frequency")
        rest = [context.setting(name) for name in ("amplitude", "phase", "along", "offset", "duty", "shape")]
        rest += [context.driver(reference) for reference in self.references()]
        if frequency is None:
            return None
        turns = Periodicity(1 / frequency if frequency > 0 else Fraction(0))
        return added(incoming, together(turns, *rest))

    def loop_fit(self, spec: ParameterSpec, seconds: Fraction, turn: Fraction) -> dict[str, Fraction]:
        kept = self.frequency.constant_value
        if self.frequency.moves or not isinstance(kept, int | float) or kept == 0:
            return {}
        sign = 1 if kept > 0 else -1
        return {"frequency": Fraction(max(1, round(abs(kept) * float(seconds))) * sign) / seconds}

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        fast = missed(seen.number("frequency"), seen.fps)
        found = (Note(fast, warn=True),) if fast else ()
        along = seen.number("along")
        if not self.references() or not seen.closes():
            return found
        whole = _whole_turns(along[:, :1])
        if np.array_equal(whole, along[:, :1]):
            return found
        told = plain_number(float(whole[0, 0]))
        return (
            *found,
            Note(
                f"Its copies close, so that whole turns go round: {told} instead of {plain_number(float(along[0, 0]))}."
            ),
        )

    def clause(self, words: Words) -> str:
        shape = words.resting("shape")
        way = "" if shape == "sine" else f" as a {shape}"
        said = f"swings by {words.of('amplitude')}, {words.of('frequency')}{way}"
        return said + (f", {words.of('along')} from the first copy to the last" if self.references() else "")


def _ahead(along: Values, place: Values, circle: Values) -> Values:
    """How many turns copies are ahead, (n, 1): along the order; round what closes (see `references.CIRCLE`) in whole
    turns, so that the last copy goes on into the first."""
    return np.where(circle[:, :1] >= 0, _whole_turns(along * circle[:, 1:2]) * circle[:, :1], along * place)


def _whole_turns(turns: Values) -> Values:
    """The nearest whole turns, 1 at the least where there are any."""
    return np.asarray(np.where(turns == 0, 0.0, np.sign(turns) * np.maximum(np.rint(np.abs(turns)), 1.0)))


@kernel
def _wave(
    first: int,
    last: int,
    phase: Floats,
    values: Floats,
    offset: Floats,
    amplitude: Floats,
    shift: Floats,
    duty: Floats,
    shape: int,
    out: Filled,
) -> None:
    sv, so, sa = values.size > 1, offset.size > 1, amplitude.size > 1
    ss, sd = shift.size > 1, duty.size > 1
    moves = phase.size > 1
    if shape == 0 and moves and not sa:
        for i in range(first, last):
            out[i] = values[i * sv] + offset[i * so]
        add_swings(out[first:last], phase[first:last], amplitude[0], shift[first:last] if ss else shift)
        return
    if shape == 0:
        for i in range(first, last):
            out[i] = values[i * sv] + offset[i * so] + swing(phase[i * moves], shift[i * ss], amplitude[i * sa])
        return
    for i in range(first, last):
        x = phase[i * moves] + shift[i * ss]
        if shape == 1:
            y = triangle(x)
        elif shape == 2:
            y = saw(x)
        elif shape == 3:
            y = square(x, duty[i * sd] * 0.01)
        else:
            wide = duty[i * sd] * 0.01
            x -= np.floor(x)
            y = np.sin(np.pi * x / wide) ** 2 if x < wide else 0.0
        out[i] = values[i * sv] + offset[i * so] + amplitude[i * sa] * y
