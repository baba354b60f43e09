"""Shift: everything before it, later, earlier, faster or backwards."""

from typing import Any, ClassVar, Literal

from numpy.typing import NDArray

from ..document.modifier import Modifier
from ..document.parameter import Parameter, spec
from ..document.periodicity import Pace, PeriodContext, Periodicity, Stretch, joined
from ..document.protocols import Context, Signal, Values, Words
from .scale import earlier


class Shift(Modifier):
    """Move everything that stands before it in time, and change its speed."""

    title: ClassVar[str] = "Shift"
    called: ClassVar[str] = "delay later earlier offset time lag stagger speed slow reverse"
    purpose: ClassVar[str] = "shape it"
    mixes_elements: ClassVar[bool] = True
    chain_limit: ClassVar[int] = 6
    does: ClassVar[str] = "Later, earlier, faster, slower or backwards."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour", "switch", "choice")
    formula: ClassVar[tuple[str, ...]] = ("out = everything before it, at the time speed·t − delay",)
    example: ClassVar[dict[str, Any]] = {
        "keys": [{"frame": 0, "value": 0}, {"frame": 20, "value": 40}, {"frame": 40, "value": 10}],
        "settings": {"delay": 0.8},
    }

    kind: Literal["shift"] = "shift"
    delay: Parameter = spec(
        0.0,
        "time",
        label="Delay",
        help="How much later; below 0 it is earlier. 12f is 12 frames.",
        step=0.02,
        main=True,
    )
    speed: Parameter = spec(1.0, label="Speed", help="2 is twice as fast, −1 is backwards.", step=0.05, main=True)

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        speed, delay = context.exact("speed"), context.exact("delay")
        if incoming is None or speed is None or delay is None:
            return None
        return Periodicity(incoming.period / abs(speed), incoming.drift * speed) if speed else Periodicity()

    def apply(self, incoming: Signal, context: Context) -> Values:
        return incoming.at(_times(context))

    def takes_at_once(self) -> bool:
        return False

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        return (incoming.passed(_times(context)),)

    def swings(self, incoming: float, context: Pace) -> float:
        return max(super().swings(0.0, context), incoming * context.most("speed"))

    def lasts(self, incoming: Stretch | None, context: Pace) -> Stretch | None:
        settings = (context.stretch_of_setting("speed"), context.stretch_of_setting("delay"))
        return joined(earlier(incoming, self.speed, self.delay), *settings)

    def clause(self, words: Words) -> str:
        delay, speed = words.resting("delay"), words.resting("speed")
        said = []
        if words.moves("delay") or delay:
            earlier = isinstance(delay, float) and delay < 0
            said.append(f"{words.of('delay').lstrip('−')} {'earlier' if earlier else 'later'}")
        if words.moves("speed") or speed != 1:
            said.append(f"at {words.of('speed')} times the speed")
        return ", ".join(said) or "not shifted"


def _times(context: Context) -> NDArray[Any]:
    return context.number("speed")[:, 0] * context.times - context.number("delay")[:, 0]
