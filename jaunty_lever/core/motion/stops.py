"""Stops: one value for each place of a driver, and what lies between them."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.parameter import Parameter, spec
from ..document.protocols import Context, Signal, Values, Words
from ..document.specs import ParameterSpec
from .linked import Linked

MOST_STOPS = 8


def _stop(number: int) -> Any:
    return spec(0.0, label=f"Stop {number}", help="The value at this stop.", owner="same", step=1, main=number <= 3)


class Stops(Linked):
    """Stand at one of several values, by a choice, a switch or a number; numbers also stand between two stops."""

    title: ClassVar[str] = "Stops"
    called: ClassVar[str] = "choose pick switch states poses snapshots cases"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "One value for each choice of a lever, or for each snapshot of a blend."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour", "switch", "choice")
    takes_any: ClassVar[bool] = True
    formula: ClassVar[tuple[str, ...]] = (
        "x = (driver − from)/(to − from) × (n − 1), kept within 0 … n − 1",
        "out = the stop at ⌊x⌋, blended with the next by what is left; switches and choices take the nearer stop",
    )
    faults: ClassVar[tuple[str, ...]] = ("From and to are the same.", "What it follows has been deleted.")
    example: ClassVar[dict[str, Any]] = {
        "driver": "wave",
        "settings": {"low": -40, "high": 40, "count": 3, "stop_1": -30, "stop_2": 30, "stop_3": 0},
    }

    kind: Literal["stops"] = "stops"
    count: int = Field(default=2, ge=2, le=MOST_STOPS, description="How many stops there are.")
    snapshots: tuple[str, ...] = Field(default=(), max_length=MOST_STOPS, description="The snapshots behind the stops.")
    low: Parameter = spec(0.0, label="From", help="Where the driver stands at the first stop.", step=1)
    high: Parameter = spec(1.0, label="To", help="Where the driver stands at the last stop.", step=1)
    stop_1: Parameter = _stop(1)
    stop_2: Parameter = _stop(2)
    stop_3: Parameter = _stop(3)
    stop_4: Parameter = _stop(4)
    stop_5: Parameter = _stop(5)
    stop_6: Parameter = _stop(6)
    stop_7: Parameter = _stop(7)
    stop_8: Parameter = _stop(8)

    def apply(self, incoming: Signal, context: Context) -> Values:
        context.fault((context.number("low") == context.number("high"))[:, 0], "From and to are the same")
        x = np.clip(self.along(context) * (self.count - 1), 0, self.count - 1)
        if context.spec.stepped:
            x = np.rint(x)
        below = np.minimum(np.floor(x), self.count - 2)
        share = x - below
        stops = [context.number(f"stop_{k + 1}") for k in range(self.count)]
        first, second = stops[0], stops[1]
        for k in range(1, self.count - 1):
            first, second = np.where(below >= k, stops[k], first), np.where(below >= k, stops[k + 1], second)
        # At a stop, the stop itself: not the stop plus nothing of a difference.
        made: Values = np.where(share == 0, first, np.where(share == 1, second, first + (second - first) * share))
        return made

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        x = self.along(context) * (self.count - 1)
        return (np.floor(x), np.rint(x))

    def retargeted(self, table: dict[str, str]) -> "Stops":
        moved = super().retargeted(table)
        return moved.changed(snapshots=tuple(table.get(one, one) for one in self.snapshots))

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        hidden = {f"stop_{k}" for k in range(self.count + 1, MOST_STOPS + 1)}
        return super().hidden_settings(spec) | hidden

    def decides(self) -> bool:
        return True

    def tie(self, words: Words) -> str:
        return f"{words.named(self.driver, self.component)}: {self._said(words)}"

    def _said(self, words: Words) -> str:
        shown = [words.of(f"stop_{k + 1}") for k in range(self.count)]
        return ", ".join(shown if self.count <= 4 else [*shown[:3], "…"])

    def clause(self, words: Words) -> str:
        return f"stands at {self._said(words)} by {words.named(self.driver, self.component)}"
