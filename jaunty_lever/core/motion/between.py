"""Between: a blend of two values."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.modifier import Modifier
from ..document.parameter import Parameter, spec
from ..document.protocols import Context, Signal, Values, Words
from ..document.specs import ParameterSpec
from ..kernels.compiled import Filled, Floats, kernel
from ..kernels.parallel import by_component, rows
from .spans import around


class Between(Modifier):
    """Stand between two values, by an amount. Each of the three may be a number, a link or a lever."""

    title: ClassVar[str] = "Between"
    called: ClassVar[str] = "mix blend cross fade interpolate two poses a to b"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    decisive: ClassVar[tuple[str, ...]] = ("stop",)
    does: ClassVar[str] = "Blends two values; a lever for the amount moves it from one to the other."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = ("out = A + (B − A) × amount",)
    example: ClassVar[dict[str, Any]] = {
        "settings": {
            "a": -40,
            "b": 40,
            "amount": {
                "keys": [
                    {"frame": 10, "value": 0},
                    {"frame": 45, "value": 100},
                    {"frame": 80, "value": 30},
                ]
            },
        },
    }

    kind: Literal["between"] = "between"
    a: Parameter = spec(0.0, label="A", help="The value at 0 %.", owner="value", step=1, main=True)
    b: Parameter = spec(100.0, label="B", help="The value at 100 %.", owner="value", step=1, main=True)
    amount: Parameter = spec(
        50.0, "percentage", label="Amount", help="How far from A to B.", low=0, high=100, step=1, main=True
    )
    stop: Parameter = spec(True, "switch", label="Stop at the ends", help="Amounts below 0 or over 100 go no further.")

    def apply(self, incoming: Signal, context: Context) -> Values:
        a, b, amount = context.number("a"), context.number("b"), context.number("amount")
        return by_component(_between, rows(a, b, amount), context.components, (a, b, amount), context.switch("stop"))

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        amount = context.number("amount")
        return (np.sign(amount), np.sign(amount - 100)) if context.switch("stop") else ()

    def decides(self) -> bool:
        return True

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Between":
        if spec.kind == "colour":
            return self.changed(a=Parameter(rest="#22303c"), b=Parameter(rest="#fffdf8"))
        low, high = around(spec, value)
        return self.changed(a=Parameter(rest=low), b=Parameter(rest=high))

    def clause(self, words: Words) -> str:
        amount, ends = words.of("amount"), f"{words.of('a')} to {words.of('b')}"
        # What leads it has a name, and no share is called so.
        return (
            f"stands {amount} of the way from {ends}" if amount.endswith("%") else f"goes from {ends} as {amount} does"
        )


@kernel
def _between(first: int, last: int, a: Floats, b: Floats, amount: Floats, stop: bool, out: Filled) -> None:
    sa, sb, sm = a.size > 1, b.size > 1, amount.size > 1
    if sm and not sa and not sb:
        # Most often: slices from the first on let compilers work on several samples at once.
        begin, way, shares, row = a[0], b[0] - a[0], amount[first:last], out[first:last]
        for j in range(len(row)):
            part = min(max(shares[j], 0.0), 100.0) if stop else shares[j]
            row[j] = begin + way * part / 100.0
        return
    for i in range(first, last):
        share = amount[i * sm]
        if stop:
            share = min(max(share, 0.0), 100.0)
        start = a[i * sa]
        out[i] = start + (b[i * sb] - start) * share / 100.0
