"""Follow: listen to another parameter or to a lever."""

import re
from fractions import Fraction
from functools import cached_property
from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.parameter import Parameter, spec
from ..document.periodicity import Pace, PeriodContext, Periodicity, Stretch, added, joined, together
from ..document.protocols import Context, Signal, Values, Words
from .linked import Linked
from .scale import earlier

_FRACTION = re.compile(r"-?\d{1,9}/[1-9]\d{0,8}")


class Follow(Linked):
    """Take the value of another parameter or a lever, times a factor, plus an offset, and later if wanted."""

    title: ClassVar[str] = "Follow"
    called: ClassVar[str] = "link listen parent copy expression mirror lag trail"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "Listens to a lever or another parameter."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour", "switch", "choice")
    formula: ClassVar[tuple[str, ...]] = (
        "out = blend(in, driver(speed·t − delay) × times + plus), blend: replace, add or multiply",
    )
    faults: ClassVar[tuple[str, ...]] = ("What it follows has been deleted.",)
    example: ClassVar[dict[str, Any]] = {"driver": "wave", "settings": {"times": 0.5, "delay": 0.4}}

    kind: Literal["follow"] = "follow"
    times: Parameter = spec(1.0, label="Times", help="Multiplies what the driver gives.", step=0.05, main=True)
    plus: Parameter = spec(0.0, label="Plus", help="Added after multiplying.", owner="step", step=1, main=True)
    delay: Parameter = spec(0.0, "time", label="Delay", help="How much later it follows.", step=0.02)
    speed: Parameter = spec(1.0, label="Speed", help="How fast the driver's time runs here.", step=0.05)
    blend: Parameter = spec(
        "replace",
        "choice",
        label="Blend",
        help="What happens to the value that comes in.",
        options=("replace", "add", "multiply"),
    )

    def decides(self) -> bool:
        return self.blend.constant_value == "replace"

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        given, speed, delay, times = (
            context.driver(self.driver),
            context.exact("speed"),
            context.exact("delay"),
            context.exact("times"),
        )
        if given is None or speed is None or delay is None:
            return None
        given = Periodicity(given.period / abs(speed), given.drift * speed) if speed else Periodicity()
        plus = context.setting("plus")
        if times is None or self.blend.constant_value == "multiply" or self.blend.moves:
            parts = () if self.blend.constant_value == "replace" else (incoming,)
            return together(given, context.setting("times"), plus, *parts)
        own = added(plus, given, times)
        return added(incoming, own) if self.blend.constant_value == "add" else own

    def heard_at_once(self) -> tuple[str, ...]:
        return self.references() if self._at_once else ()

    @cached_property
    def ratio(self) -> Fraction | None:
        """The fraction that was typed as its factor, when it is followed at once and by nothing but that."""
        typed = self.times.typed[0].replace(" ", "") if self.times.typed else ""
        if self.times.moves or self.times.keys or not self._at_once or not _FRACTION.fullmatch(typed):
            return None
        return Fraction(typed)

    @cached_property
    def _at_once(self) -> bool:
        return (
            not (self.speed.moves or self.delay.moves)
            and self.speed.constant_value == 1
            and self.delay.constant_value == 0
        )

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        return () if self._at_once else (context.passed(self.driver, self._times(context)),)

    def swings(self, incoming: float, context: Pace) -> float:
        return max(super().swings(incoming, context), context.swings_of_driver(self.driver) * context.most("speed"))

    def lasts(self, incoming: Stretch | None, context: Pace) -> Stretch | None:
        heard = earlier(context.stretch_of_driver(self.driver), self.speed, self.delay)
        settings = [context.stretch_of_setting(name) for name in ("times", "plus", "delay", "speed", "blend")]
        return joined(incoming, heard, *settings)

    def _times(self, context: Context) -> NDArray[np.float64]:
        """When the driver is listened to, for each moment."""
        return context.number("speed")[:, 0] * context.times - context.number("delay")[:, 0]

    def apply(self, incoming: Signal, context: Context) -> Values:
        factor, plus = context.number("times"), context.number("plus")
        if self.ratio is not None and self.component is None:
            # Along a train of exact fractions it is multiplied once, and divided last.
            given, through, offset = context.turned(self.driver)
            whole = self.ratio * through
            if max(abs(whole.numerator), whole.denominator) < 1 << 53:
                given = given * whole.numerator / whole.denominator
                if offset:
                    given = given + offset * self.ratio.numerator / self.ratio.denominator
                factor = np.ones((1, 1))
            else:
                given = context.driver(self.driver, None, context.times)
        else:
            given = context.driver(
                self.driver, self.component, context.times if self._at_once else self._times(context)
            )
        # Multiplying by 1 and adding 0 would turn a choice's or a colour's exact value into itself: skip both.
        if not (factor.shape[0] == 1 and factor[0, 0] == 1):
            given = given * factor
        if plus.shape[0] > 1 or plus.any():
            given = given + plus
        blend = context.choice("blend")
        if blend == "add":
            return incoming.values + given
        if blend == "multiply":
            return incoming.values * given
        if given.shape[1] != context.components:
            given = np.broadcast_to(given, (given.shape[0], context.components))
        return given

    def tie(self, words: Words) -> str:
        return self.clause(words).removeprefix("follows ")

    def clause(self, words: Words) -> str:
        said = {"add": "adds ", "multiply": "is multiplied by "}.get(str(words.resting("blend")), "follows ")
        said += words.named(self.driver, self.component)
        times, plus = words.resting("times"), words.resting("plus")
        if not words.moves("times") and times == -1:
            said += ", reversed"
        elif words.moves("times") or times != 1:
            said += f" × {words.of('times')}"
        if words.moves("plus") or (isinstance(plus, int | float) and plus != 0):
            offset = words.of("plus")
            said += f" − {offset[1:]}" if offset.startswith("−") else f" + {offset}"
        delay = words.resting("delay")
        if words.moves("delay") or (isinstance(delay, int | float) and delay > 0):
            said += f", {words.of('delay')} later"
        return said
