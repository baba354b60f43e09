"""Column: what a column of a table has for each copy, as the copy's own colour, number or switch."""

from typing import Any, ClassVar, Literal

import numpy as np
from pydantic import Field

from ..document.gauge import COLUMN_BEYOND
from ..document.ids import OneLine
from ..document.keys import Finite
from ..document.limits import MOST_COPIES
from ..document.parameter import Parameter, spec
from ..document.protocols import Context, Signal, Values, Words
from ..document.specs import ParameterSpec
from ..kernels.rows import row_at
from .linked import Linked

Cell = tuple[Finite, ...]


class Cells(Linked):
    """Take the cell of a column whose number is the driver's: each copy its own, or by a lever."""

    title: ClassVar[str] = "Column"
    called: ClassVar[str] = "table spreadsheet data csv chart each copy its colour row cell"
    purpose: ClassVar[str] = "follow something"
    mixes_elements: ClassVar[bool] = True
    does: ClassVar[str] = "Each copy has what a column of a table says: a colour, a number, on or off."
    kinds: ClassVar[tuple[str, ...]] = ("number", "colour", "switch")
    takes_any: ClassVar[bool] = True
    formula: ClassVar[tuple[str, ...]] = ("out = cells[number], the first one being 0; in where that is empty",)
    faults: ClassVar[tuple[str, ...]] = ("What chooses has been deleted.",)
    example: ClassVar[dict[str, Any]] = {
        "driver": "ramp",
        "settings": {"cells": [[-30], [10], [25], [-10], [40]], "beyond": "from the first on"},
    }

    kind: Literal["cells"] = "cells"
    cells: tuple[Cell | None, ...] = Field(
        default=(), max_length=MOST_COPIES, description="The components of each cell, the first one number 0."
    )
    source: OneLine = Field(default="", max_length=300, description="The table and the column, for people.")
    beyond: Parameter = spec(
        "nothing",
        "choice",
        label="Beyond",
        help="What copies have after the last row: what comes in, the last one, or from the first on.",
        options=COLUMN_BEYOND,
        main=True,
    )

    def apply(self, incoming: Signal, context: Context) -> Values:
        values, count, many = incoming.values, len(self.cells), context.components
        if not count:
            return values
        number, beyond = context.driver(self.driver, self.component, context.times)[:, 0], context.number("beyond")
        number, way = np.broadcast_arrays(np.floor(number + 1e-9), np.rint(beyond[:, 0]))
        found, there = row_at(np.clip(number, -1, 1e9).astype(np.int64), way, count)
        table, full = self._table(many)
        there = there & full[found]
        made: Values = np.where(there[:, None], table[found], values)
        return made

    def _table(self, components: int) -> tuple[Values, Any]:
        """The cells, (cells, components), and which of them are not empty; kept, since documents never change."""
        known: Any = self.__dict__.setdefault("_tables", {})
        if components not in known:
            table = np.zeros((len(self.cells), components))
            full = np.zeros(len(self.cells), dtype=bool)
            for k, cell in enumerate(self.cells):
                if cell:
                    table[k] = [cell[min(c, len(cell) - 1)] for c in range(components)]
                    full[k] = True
            known[components] = table, full
        made: tuple[Values, Any] = known[components]
        return made

    def pieces(self, incoming: Signal, context: Context) -> tuple[Any, ...]:
        return (np.floor(context.driver(self.driver, self.component, context.times)[:, :1] + 1e-9),)

    def hidden_settings(self, spec: ParameterSpec) -> frozenset[str]:
        return super().hidden_settings(spec) | {"strength"}

    def tie(self, words: Words) -> str:
        return self.source or words.named(self.driver, self.component)

    def clause(self, words: Words) -> str:
        of = f" from {self.source}" if self.source else ""
        return f"takes one of {len(self.cells)} cells{of}, by {words.named(self.driver, self.component)}"
