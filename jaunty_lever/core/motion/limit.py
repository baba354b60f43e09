"""Limit: keep the value inside a range."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.modifier import Modifier
from ..document.notes import Note
from ..document.parameter import Parameter, spec
from ..document.protocols import Context, Seen, Signal, Values, Words
from ..document.specs import ParameterSpec
from ..kernels.compiled import Filled, Floats, kernel
from ..kernels.parallel import by_component, rows
from .spans import around, spans_in_words


class Limit(Modifier):
    """Keep the value inside a range, with soft corners if wanted."""

    title: ClassVar[str] = "Limit"
    called: ClassVar[str] = "clamp bound minimum maximum cap stop range"
    purpose: ClassVar[str] = "shape it"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "Never lets it go below one end or above the other."
    kinds: ClassVar[tuple[str, ...]] = ("number", "vector", "colour")
    formula: ClassVar[tuple[str, ...]] = (
        "out = min(max(in, low), high)",
        "within c = soft × (high − low)/2 of an end: a parabola of the width 2c, so that the slope stays continuous",
    )
    faults: ClassVar[tuple[str, ...]] = ("Low is above high.", "The soft corners are not between 0 and 100 %.")
    example: ClassVar[dict[str, Any]] = {
        "chain": [{"kind": "wave", "amplitude": 60, "frequency": 0.7}],
        "settings": {"low": -40, "high": 40, "softness": 30},
    }

    kind: Literal["limit"] = "limit"
    low: Parameter = spec(0.0, label="Low", help="Never below this.", owner="value", step=1, main=True)
    high: Parameter = spec(100.0, label="High", help="Never above this.", owner="value", step=1, main=True)
    softness: Parameter = spec(
        0.0, "percentage", label="Soft corners", help="How gently it meets the ends.", low=0, high=100, step=1
    )

    def apply(self, incoming: Signal, context: Context) -> Values:
        low, high, softness = context.number("low"), context.number("high"), context.number("softness")
        context.fault((low > high).any(axis=1), "Low is above high")
        context.fault(((softness < 0) | (softness > 100))[:, 0], "The soft corners are not between 0 and 100 %")
        values = incoming.values
        count = rows(values, low, high, softness)
        return by_component(_limit, count, context.components, (values, low, high, softness))

    def pieces(self, incoming: Signal, context: Context) -> tuple[NDArray[Any], ...]:
        values, low, high = incoming.values, context.number("low"), context.number("high")
        corner = np.clip(context.number("softness"), 0, 100) * 0.005 * (high - low)
        return tuple(np.sign(values - edge) for edge in (low - corner, low + corner, high - corner, high + corner))

    def fitted(self, spec: ParameterSpec, value: tuple[float, ...], seed: int) -> "Limit":
        if spec.kind == "colour":
            return self.changed(low=Parameter(rest="#000000"), high=Parameter(rest="#ffffff"))
        low, high = around(spec, value)
        return self.changed(low=Parameter(rest=low), high=Parameter(rest=high))

    def notes(self, seen: Seen) -> tuple[Note, ...]:
        values, low, high = seen.incoming, seen.number("low"), seen.number("high")
        found = []
        for reached, words in (((values <= low).any(axis=1), "low"), ((values >= high).any(axis=1), "high")):
            spans = spans_in_words(np.broadcast_to(reached, seen.length))
            if spans:
                found.append(f"{words} at {spans}")
        return (Note(f"Reaches {'; '.join(found)}." if found else "Its ends are never reached."),)

    def clause(self, words: Words) -> str:
        return f"never under {words.of('low')} nor over {words.of('high')}"


@kernel
def _limit(first: int, last: int, values: Floats, low: Floats, high: Floats, softness: Floats, out: Filled) -> None:
    sv, sl, sh, ss = values.size > 1, low.size > 1, high.size > 1, softness.size > 1
    for i in range(first, last):
        x, a, b, soft = values[i * sv], low[i * sl], high[i * sh], softness[i * ss]
        y = min(max(x, a), b)
        corner = soft * 0.005 * (b - a)
        if corner > 0.0:
            if abs(x - b) < corner:
                over = x - (b - corner)
                y = x - over * over / (4.0 * corner)
            elif abs(x - a) < corner:
                under = (a + corner) - x
                y = x + under * under / (4.0 * corner)
            y = min(max(y, a), b)
        out[i] = y
