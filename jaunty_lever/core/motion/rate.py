"""Rate: on and on, at so much a second."""

from fractions import Fraction
from typing import Any, ClassVar, Literal

import numpy as np

from ..document.modifier import Modifier
from ..document.parameter import Parameter, spec
from ..document.periodicity import PeriodContext, Periodicity, added
from ..document.protocols import Context, Signal, Values, Words
from ..document.specs import ParameterSpec
from ..kernels.compiled import Filled, Floats, kernel
from ..kernels.parallel import by_component
from .scale import tenth_of


class Rate(Modifier):
    """Go on at a speed: a wheel that turns, a cloud that drifts. The speed may be keyed or steered at any time."""

    title: ClassVar[str] = "Rate"
    called: ClassVar[str] = "spin turn rotate drive speed scroll constant velocity"
    purpose: ClassVar[str] = "keep it going"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "Goes on and on, so much a second."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector")
    formula: ClassVar[tuple[str, ...]] = ("out = in + ∫₀ᵗ rate dτ",)
    example: ClassVar[dict[str, Any]] = {
        "settings": {
            "rate": {
                "keys": [
                    {"frame": 0, "value": 10, "ease": "ease-in-out"},
                    {"frame": 60, "value": 60, "ease": "ease-in-out"},
                    {"frame": 90, "value": -20},
                ]
            }
        },
    }

    timely: ClassVar[bool] = True

    kind: Literal["rate"] = "rate"
    rate: Parameter = spec(10.0, label="Rate", help="How much it gains each second.", owner="rate", step=1, main=True)

    def apply(self, incoming: Signal, context: Context) -> Values:
        values, rate = incoming.values, context.number("rate")
        if not context.moves("rate"):
            return by_component(_steady, context.count, context.components, (context.times[:, None], values, rate))
        sums = np.stack([context.integral("rate", c) for c in range(rate.shape[1])], axis=1)
        return values + sums

    def periodicity(self, incoming: Periodicity | None, context: PeriodContext) -> Periodicity | None:
        rate = context.exact("rate")
        return None if rate is None else added(incoming, Periodicity(drift=rate))

    def loop_fit(self, spec: ParameterSpec, seconds: Fraction, turn: Fraction) -> dict[str, Fraction]:
        if spec.kind != "angle":
            return {}
        kept = self.rate.constant_value
        if self.rate.moves or not isinstance(kept, int | float) or kept == 0:
            return {}
        sign = 1 if kept > 0 else -1
        turns = max(1, round(abs(kept) * float(seconds) / float(turn)))
        return {"rate": turns * sign * turn / seconds}

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Rate":
        rest = 90.0 if spec.kind == "angle" else tenth_of(spec)
        return self.changed(
            rate=Parameter(rest=(rest, *[0.0] * (spec.components - 1)) if spec.components > 1 else rest)
        )

    def clause(self, words: Words) -> str:
        return f"goes on by {words.of('rate').replace('/s', ' a second')}"


@kernel
def _steady(first: int, last: int, times: Floats, values: Floats, rate: Floats, out: Filled) -> None:
    sv, sr = values.size > 1, rate.size > 1
    for i in range(first, last):
        out[i] = values[i * sv] + rate[i * sr] * times[i * (times.size > 1)]
