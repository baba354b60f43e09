"""Adjust: multiply, add, make absolute, reverse."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.modifier import Modifier
from ..document.parameter import Parameter, spec
from ..document.periodicity import PeriodContext, Periodicity, added
from ..document.protocols import Context, Signal, Values, Words
from ..kernels.compiled import Filled, Floats, kernel
from ..kernels.parallel import by_component, rows


class Adjust(Modifier):
    """Multiply the value, add to it, drop its sign or turn its sign round, in that order."""

    title: ClassVar[str] = "Adjust"
    called: ClassVar[str] = "scale offset multiply add subtract invert absolute gain"
    purpose: ClassVar[str] = "shape it"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "Times, plus, without its sign, or the other way round."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = ("y = in × times + plus", "out = y, |y|, −y or −|y|")
    example: ClassVar[dict[str, Any]] = {
        "chain": [{"kind": "wave", "amplitude": 40, "frequency": 1}],
        "settings": {"absolute": True, "times": 1.5},
    }

    kind: Literal["adjust"] = "adjust"
    times: Parameter = spec(1.0, label="Times", help="Multiplies the value.", step=0.05, main=True)
    plus: Parameter = spec(0.0, label="Plus", help="Added after multiplying.", owner="step", step=1, main=True)
    absolute: Parameter = spec(False, "switch", label="Absolute", help="Drops the sign: −20 becomes 20.")
    reverse: Parameter = spec(False, "switch", label="Reverse sign", help="Turns it the other way round.")

    @property
    def turns_signs(self) -> bool:
        """Whether what is added may be turned round afterwards."""
        return any(one.moves or one.constant_value is not False for one in (self.absolute, self.reverse))

    def apply(self, incoming: Signal, context: Context) -> Values:
        values, times, plus = incoming.values, context.number("times"), context.number("plus")
        sign = -1.0 if context.switch("reverse") else 1.0
        count = rows(values, times, plus)
        return by_component(_adjust, count, context.components, (values, times, plus), context.switch("absolute"), sign)

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        return (
            (np.sign(incoming.values * context.number("times") + context.number("plus")),)
            if context.switch("absolute")
            else ()
        )

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        times = context.exact("times")
        if (
            incoming is None
            or not incoming.drift
            or times is None
            or self.absolute.constant_value
            or self.reverse.constant_value
        ):
            return super().periodicity(incoming, context)
        return added(context.setting("plus"), incoming, times)

    def clause(self, words: Words) -> str:
        said = []
        if words.moves("times") or words.resting("times") != 1:
            said.append(f"times {words.of('times')}")
        plus = words.resting("plus")
        if words.moves("plus") or plus != 0:
            said.append(f"plus {words.of('plus')}")
        if words.resting("absolute"):
            said.append("without its sign")
        if words.resting("reverse"):
            said.append("the other way round")
        return ", ".join(said) or "stays as it is"


@kernel
def _adjust(
    first: int, last: int, values: Floats, times: Floats, plus: Floats, absolute: bool, sign: float, out: Filled
) -> None:
    sv, st, sp = values.size > 1, times.size > 1, plus.size > 1
    for i in range(first, last):
        y = values[i * sv] * times[i * st] + plus[i * sp]
        if absolute:
            y = abs(y)
        out[i] = sign * y
