"""Hold steps: as if it had been filmed at a lower rate."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.modifier import Modifier
from ..document.notes import Note
from ..document.parameter import Parameter, spec
from ..document.periodicity import Pace, PeriodContext, Periodicity, Stretch, joined, together
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.quantity import plain_number


class HoldSteps(Modifier):
    """Hold everything that stands before it for a moment: on twos, as in stop-frame work."""

    title: ClassVar[str] = "Hold steps"
    called: ClassVar[str] = "stop motion frame rate stepped choppy on twos on threes strobe stutter"
    purpose: ClassVar[str] = "shape it"
    mixes_elements: ClassVar[bool] = True
    chain_limit: ClassVar[int] = 6
    does: ClassVar[str] = "Moves in steps, as if filmed on twos."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour", "switch", "choice")
    formula: ClassVar[tuple[str, ...]] = ("out = everything before it, at the time ⌊t·rate⌋/rate",)
    faults: ClassVar[tuple[str, ...]] = ("The rate is not above 0.",)
    example: ClassVar[dict[str, Any]] = {
        "chain": [{"kind": "wave", "amplitude": 40, "frequency": 0.6}],
        "settings": {"rate": 6},
    }

    kind: Literal["hold steps"] = "hold steps"
    rate: Parameter = spec(
        12.0,
        "frequency",
        label="Rate",
        help="New values a second; half the frame rate is on twos.",
        low=1,
        high=30,
        step=1,
        main=True,
    )

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        rate = context.exact("rate")
        if rate is None or rate <= 0:
            return None
        return incoming if incoming is not None and incoming.still else together(incoming, Periodicity(1 / rate))

    def apply(self, incoming: Signal, context: Context) -> Values:
        rate = context.number("rate")[:, 0]
        context.fault(rate <= 0, "The rate is not above 0")
        return incoming.at(np.ascontiguousarray(_steps(context) / np.where(rate > 0, rate, 1.0)))

    def takes_at_once(self) -> bool:
        return False

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        return (_steps(context),)

    def swings(self, incoming: float, context: Pace) -> float:
        return super().swings(min(incoming, context.most("rate")), context)

    def lasts(self, incoming: Stretch | None, context: Pace) -> Stretch | None:
        rate = self.rate.constant_value
        late = 1 / rate if isinstance(rate, int | float) and rate > 0 and not self.rate.moves else 0.0
        later = incoming and (incoming[0], incoming[1] + late)
        return None if self.rate.moves else joined(later)

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        rate = float(seen.number("rate")[0, 0])
        if rate <= 0:
            return ()
        each = f"Each value stands for {plain_number(seen.fps / rate, 2)} frames. "
        before = [modifier.title for modifier in seen.own.chain[: seen.position] if not modifier.bypassed]
        after = [modifier.title for modifier in seen.own.chain[seen.position + 1 :] if not modifier.bypassed]
        held = "the keys" if seen.keys is not None else "the resting value"
        text = f"It holds {', '.join(before) or held}"
        return (Note(each + text + (f"; {', '.join(after)} after it still moves at every frame." if after else ".")),)

    def clause(self, words: Words) -> str:
        return f"held in steps, {words.of('rate')}"


def _steps(context: Context) -> NDArray[Any]:
    """The number of the step that each moment lies in."""
    rate = context.number("rate")[:, 0]
    # A time comes out of a division: a whole number of steps is meant as one however it was rounded.
    return np.floor(context.times * np.where(rate > 0, rate, 1.0) + 1e-7)
