"""Labels: one of several texts, chosen by a number."""

from typing import Any, ClassVar, Literal

import numpy as np
from numpy.typing import NDArray
from pydantic import Field

from ..document.gauge import COLUMN_BEYOND
from ..document.ids import OneLine
from ..document.limits import MOST_COPIES
from ..document.parameter import Parameter, spec
from ..document.protocols import Context, Words
from ..document.specs import ParameterSpec
from ..kernels.rows import row_at
from .linked import Linked


class Labels(Linked):
    """Show the text whose number is the driver's: each copy its own, or by a lever."""

    title: ClassVar[str] = "Labels"
    called: ClassVar[str] = "text list names words caption"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "Shows one of several texts, by a number."
    kinds: ClassVar[tuple[str, ...]] = ("text",)
    formula: ClassVar[tuple[str, ...]] = ("out = texts[number], the first one being 0",)
    faults: ClassVar[tuple[str, ...]] = ("What chooses has been deleted.",)

    kind: Literal["labels"] = "labels"
    texts: tuple[str, ...] = Field(default=(), max_length=MOST_COPIES, description="The texts, the first one number 0.")
    source: OneLine = Field(default="", max_length=300, description="The table and the column, for people.")
    beyond: Parameter = spec(
        "nothing",
        "choice",
        label="Beyond",
        help="What stands where there is no such text.",
        options=COLUMN_BEYOND,
        main=True,
    )

    def decides(self) -> bool:
        return True

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        return super().hidden_settings(spec) | {"strength"}

    def write(self, incoming: NDArray[Any], context: Context) -> NDArray[Any]:
        number = np.floor(context.driver(self.driver, self.component, context.times)[:, 0] + 1e-9)
        number, beyond = np.broadcast_arrays(number, np.rint(context.number("beyond")[:, 0]))
        place, there = row_at(np.clip(number, -1, 1e9).astype(np.int64), beyond, len(self.texts))
        texts = np.array([*self.texts, ""], dtype=object)
        return np.asarray(texts[np.where(there, place, len(self.texts))])

    def tie(self, words: Words) -> str:
        return words.named(self.driver, self.component)

    def clause(self, words: Words) -> str:
        of = f" from {self.source}" if self.source else ""
        return f"shows one of {len(self.texts)} texts{of}, by {words.named(self.driver, self.component)}"
