"""Shift: everything before it, later, earlier, faster or backwards."""

from typing import Any, ClassVar, Literal

from numpy.typing import NDArray

from ..document.cycle import Cycle, Pace, Repeats, Stretch, joined
from ..document.parameter import Modifier, MomentsLike, Parameter, SignalLike, Values, Words
from ..document.slots import slot
from .scale import earlier


class Shift(Modifier):
    """Move everything that stands before it in time, and change its speed."""

    title: ClassVar[str] = "Shift"
    purpose: ClassVar[str] = "shape it"
    chain_limit: ClassVar[int] = 6
    does: ClassVar[str] = "Later, earlier, faster, slower or backwards."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour", "switch", "choice")
    formula: ClassVar[tuple[str, ...]] = ("out = everything before it, at the time speed·t − delay",)
    example: ClassVar[dict[str, Any]] = {
        "keys": [{"frame": 0, "value": 0}, {"frame": 20, "value": 40}, {"frame": 40, "value": 10}],
        "settings": {"delay": 0.8},
    }

    kind: Literal["shift"] = "shift"
    delay: Parameter = slot(
        0.0,
        "time",
        label="Delay",
        help="How much later; below 0 it is earlier. 12f is 12 frames.",
        step=0.02,
        main=True,
    )
    speed: Parameter = slot(1.0, label="Speed", help="2 is twice as fast, −1 is backwards.", step=0.05, main=True)

    def repeats(self, incoming: Cycle | None, at: Repeats) -> Cycle | None:
        speed, delay = at.exact("speed"), at.exact("delay")
        if incoming is None or speed is None or delay is None:
            return None
        return Cycle(incoming.period / abs(speed), incoming.drift * speed) if speed else Cycle()

    def apply(self, incoming: SignalLike, at: MomentsLike) -> Values:
        return incoming.at(_times(at))

    def takes_at_once(self) -> bool:
        return False

    def pieces(self, incoming: SignalLike, at: MomentsLike) -> tuple[NDArray[Any], ...]:
        return (incoming.passed(_times(at)),)

    def swings(self, incoming: float, at: Pace) -> float:
        return max(super().swings(0.0, at), incoming * at.most("speed"))

    def lasts(self, incoming: Stretch | None, at: Pace) -> Stretch | None:
        settings = (at.stretch_of_setting("speed"), at.stretch_of_setting("delay"))
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


def _times(at: MomentsLike) -> NDArray[Any]:
    return at.number("speed")[:, 0] * at.times - at.number("delay")[:, 0]
