"""Steer: led by a lever or a gauge, on top of what is there."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.parameter import Parameter, spec
from ..document.protocols import Context, Signal, Values, Words
from ..document.specs import ParameterSpec, value_of
from ..kernels.compiled import Filled, Floats, kernel
from ..kernels.parallel import by_component, rows
from .linked import Linked

WAYS = ("towards", "by", "times")
LED_BY = {"towards": "target", "by": "amount", "times": "factor"}
"""The setting that each of them goes by."""


class Steer(Linked):
    """Go towards a value, by an amount or times a factor, as far as a lever or gauge says. Several of them add up."""

    title: ClassVar[str] = "Steer"
    called: ClassVar[str] = "lead tie gauge sweep toward offset add up stack layers of motion"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    decisive: ClassVar[tuple[str, ...]] = ("way",)
    does: ClassVar[str] = "A lever or a gauge leads it on from where it is: towards, by, or times. Several add up."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    takes_any: ClassVar[bool] = True
    formula: ClassVar[tuple[str, ...]] = (
        "g = (driver − from)/(to − from)",
        "towards: out = in + g × (target − in)",
        "by: out = in + g × amount",
        "times: out = in × (1 + g × (factor − 1))",
    )
    faults: ClassVar[tuple[str, ...]] = ("From and to are the same.", "What it follows has been deleted.")
    example: ClassVar[dict[str, Any]] = {
        "chain": [{"kind": "wiggle", "amplitude": 15, "frequency": 2, "seed": 3}],
        "driver": "wave",
        "settings": {"way": "by", "amount": 40, "low": -40, "high": 40},
    }

    kind: Literal["steer"] = "steer"
    way: Parameter = spec(
        "towards",
        "choice",
        label="Steers",
        help="Towards a value, by an amount that is added, or times a factor.",
        options=WAYS,
        main=True,
    )
    target: Parameter = spec(
        0.0, label="Target", help="Where it is when the driver is all there.", owner="value", step=1, main=True
    )
    amount: Parameter = spec(
        0.0, label="Amount", help="What is added when the driver is all there.", owner="step", step=1, main=True
    )
    factor: Parameter = spec(
        1.0,
        label="Factor",
        help="What it is multiplied by when the driver is all there.",
        owner="factor",
        step=0.05,
        main=True,
    )
    low: Parameter = spec(0.0, label="From", help="Where the driver does nothing yet.", step=0.05)
    high: Parameter = spec(1.0, label="To", help="Where the driver is all there; beyond, it goes on.", step=0.05)
    stop: Parameter = spec(
        False, "switch", label="Stop at the ends", help="Drivers below From or beyond To lead it no further."
    )

    def apply(self, incoming: Signal, context: Context) -> Values:
        context.fault((context.number("low") == context.number("high"))[:, 0], "From and to are the same")
        way = context.choice("way")
        values, led, meant = incoming.values, self.along(context), context.number(LED_BY[way])
        count, stop = rows(values, led, meant), context.switch("stop")
        return by_component(_steer, count, context.components, (values, led, meant), WAYS.index(way), stop)

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        if not context.switch("stop"):
            return ()
        led = self.along(context)
        return (np.sign(led), np.sign(led - 1))

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        hidden = super().hidden_settings(spec)
        if self.way.moves:
            return hidden
        return hidden | (set(LED_BY.values()) - {LED_BY[str(self.way.constant_value)]})

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Steer":
        if spec.kind == "colour":
            return self.changed(target=Parameter(rest="#22303c"))
        return self.changed(target=Parameter(rest=value_of(value, spec)))

    def _said(self, words: Words) -> str:
        way = str(words.resting("way"))
        if way == "by":
            said = words.of("amount")
            return said if said.startswith(("−", "+")) or words.moves("amount") else f"+{said}"
        return f"× {words.of('factor')}" if way == "times" else f"towards {words.of('target')}"

    def tie(self, words: Words) -> str:
        return f"{words.named(self.driver, self.component)}: {self._said(words)}"

    def clause(self, words: Words) -> str:
        way, name = str(words.resting("way")), words.named(self.driver, self.component)
        if way == "towards":
            return f"is led towards {words.of('target')} by {name}"
        said = f"by {words.of('amount')}" if way == "by" else f"to {words.of('factor')} times it"
        return f"is led {said} as {name} goes"


@kernel
def _steer(
    first: int, last: int, values: Floats, led: Floats, meant: Floats, way: int, stop: bool, out: Filled
) -> None:
    sv, sl, sm = values.size > 1, led.size > 1, meant.size > 1
    if sv and sl and not sm and not stop:
        # Most often: slices from the first on let compilers work on several samples at once.
        goal, shares, taken, row = meant[0], led[first:last], values[first:last], out[first:last]
        if way == 0:
            for j in range(len(row)):
                row[j] = taken[j] + shares[j] * (goal - taken[j])
        elif way == 1:
            for j in range(len(row)):
                row[j] = taken[j] + shares[j] * goal
        else:
            for j in range(len(row)):
                row[j] = taken[j] * (1.0 + shares[j] * (goal - 1.0))
        return
    for i in range(first, last):
        value, share, goal = values[i * sv], led[i * sl], meant[i * sm]
        if stop:
            share = min(max(share, 0.0), 1.0)
        if way == 0:
            out[i] = value + share * (goal - value)
        elif way == 1:
            out[i] = value + share * goal
        else:
            out[i] = value * (1.0 + share * (goal - 1.0))
