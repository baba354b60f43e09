"""Readout: a parameter or lever as a number that people read on the stage."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray

from ..document.parameter import Parameter, spec
from ..document.protocols import Context, Words
from ..document.specs import ParameterSpec
from ..formula.format import number_text
from .linked import Linked

_GROUPS = {"none": ("", "."), "space": ("\u202f", "."), "comma": (",", "."), "point": (".", ",")}
_SIGNS = ("only minus", "always")


class Readout(Linked):
    """Show a number as text: 57 %, never 56.98214 %."""

    title: ClassVar[str] = "Readout"
    called: ClassVar[str] = "counter number display digits percent text"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "Shows a lever or a value as a number."
    kinds: ClassVar[tuple[str, ...]] = ("text",)
    formula: ClassVar[tuple[str, ...]] = ("out = prefix + the driver × times, rounded to its decimals + suffix",)
    faults: ClassVar[tuple[str, ...]] = ("What it shows has been deleted.",)

    kind: Literal["readout"] = "readout"
    decimals: Parameter = spec(
        0.0, label="Decimals", help="Figures behind the point.", low=0, high=6, step=1, whole=True, main=True
    )
    prefix: Parameter = spec("", "text", label="Before", help="Text before the number.", main=True)
    suffix: Parameter = spec("", "text", label="After", help="Text after the number, such as a unit.", main=True)
    sign: Parameter = spec("only minus", "choice", label="Sign", help="Whether a plus is shown.", options=_SIGNS)
    thousands: Parameter = spec(
        "none",
        "choice",
        label="Thousands",
        help="What stands between them; a point makes the decimal point a comma.",
        options=tuple(_GROUPS),
    )
    times: Parameter = spec(1.0, label="Times", help="Multiplies what is shown.", step=0.05)

    def decides(self) -> bool:
        return True

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        return super().hidden_settings(spec) | {"strength"}

    def write(self, incoming: NDArray[Any], context: Context) -> NDArray[Any]:
        values = context.driver(self.driver, self.component, context.times)[:, :1] * context.number("times")
        parts = [values[:, 0], *(context.number(name)[:, 0] for name in ("decimals", "sign", "thousands"))]
        rows = np.broadcast_arrays(*parts, context.texts("prefix"), context.texts("suffix"))
        groups = list(_GROUPS.values())
        made = np.empty(rows[0].shape, dtype=object)
        for k, (value, decimals, sign, group, prefix, suffix) in enumerate(zip(*rows, strict=True)):
            thousands, point = groups[min(max(round(group), 0), len(groups) - 1)]
            places = min(max(round(decimals), 0), 6)
            made[k] = f"{prefix}{number_text(value, places, thousands, round(sign) == 1, point)}{suffix}"
        return made

    def tie(self, words: Words) -> str:
        return words.named(self.driver, self.component)

    def clause(self, words: Words) -> str:
        return f"shows {words.named(self.driver, self.component)}"
