"""Texts taken apart by an array: which text it is, how many parts it has, and where they stand."""

from typing import Any

import numpy as np
from numpy.typing import NDArray

from ..arrangements.places import Places
from ..document.layers import ArrayLayer, Text
from ..document.parameter import Parameter
from ..document.specs import components, specs_of
from ..geometry.letters import Part, parts_of, placed
from ..geometry.matrices import applied, layer_matrix
from .elements import Elements
from .sample_times import SampleTimes
from .sampling import Sampling
from .structure import LAYS, text_in, ways

Floats = NDArray[np.float64]


def _rest(own: Parameter) -> float:
    value = own.keys[0].value if own.keys else own.rest
    return float(value) if isinstance(value, int | float) else 0.0


class Lettering:
    """The parts of a text over the states of what stands around its array."""

    def __init__(self, sampler: Sampling, array: str, outer: SampleTimes) -> None:
        self.sampler, self.text = sampler, text_in(sampler.index, array)
        layer = sampler.index.layers[array]
        assert isinstance(layer, ArrayLayer)
        self.by, self.pivot = ways(layer)
        self.shape, self.which = (1, 1), np.zeros(1, dtype=np.int64)
        self.states: list[tuple[str, str, str]] = []
        self.numbers: dict[str, Floats] = {}
        if self.text is not None:
            self._read(array, outer)

    def _read(self, array: str, outer: SampleTimes) -> None:
        assert self.text is not None
        at, specs = self.text.id, specs_of(Text)
        many = 1 if outer.elements is None else len(outer.elements)
        # Where parts stand is the same for all of them: as the first one has it.
        parents = None if outer.elements is None else np.arange(many)
        first = Elements(array, np.zeros(many, dtype=np.int64), outer.elements, parents)
        samples = SampleTimes(outer.times, outer.grid, first)
        texts, index = self.sampler.texts(f"{at}.text", samples)
        made = {n: self.sampler.evaluate(f"{at}.{n}", samples) for n in LAYS if n != "text"}
        words = index.reshape(1, 1) if index.size == 1 else index.reshape(samples.shape)
        self.shape = np.broadcast_shapes((1, 1), words.shape, *(values.shape[:2] for values in made.values()))
        count = self.shape[0] * self.shape[1]

        def rows(values: NDArray[Any]) -> NDArray[Any]:
            flat: NDArray[Any] = np.broadcast_to(values, self.shape).ravel()
            return flat

        self.numbers = {n: rows(made[n][..., 0]) for n in ("font_size", "tracking", "leading")}
        columns = np.stack(
            [rows(words), *(np.rint(rows(made[n][..., 0])).astype(int) for n in ("font", "align"))], axis=1
        )
        distinct, which = np.unique(columns, axis=0, return_inverse=True)
        self.which = which.ravel() if count else np.zeros(0, dtype=np.int64)
        fonts, aligns = specs["font"].options, specs["align"].options
        self.states = [
            (texts[w], self.text.typeface or fonts[f % len(fonts)], aligns[a % len(aligns)]) for w, f, a in distinct
        ]

    def parts(self, state: int) -> tuple[Part, ...]:
        """The parts of the text in a state."""
        assert self.text is not None
        text, family, _ = self.states[state]
        return parts_of(text, family, _rest(self.text.weight), self.by)

    def counts(self) -> NDArray[np.int64]:
        """How many parts there are, in the shape of the states."""
        if self.text is None:
            return np.zeros(self.shape, dtype=np.int64)
        each = np.array([len(self.parts(k)) for k in range(len(self.states))], dtype=np.int64)
        return each[self.which].reshape(self.shape)

    def places(self) -> Places:
        """Where the parts stand, a row for each state."""
        counts = self.counts().ravel()
        most, many = int(counts.max(initial=0)), len(counts)
        x, y, row, col = (np.zeros((many, most)) for _ in range(4))
        for state in range(len(self.states)):
            mine = np.flatnonzero(self.which == state)
            size, tracking, leading = (self.numbers[n][mine] for n in ("font_size", "tracking", "leading"))
            for k, part in enumerate(self.parts(state)):
                _, spot = placed(part, self.states[state][2], self.pivot, size, tracking, leading)
                x[mine, k], y[mine, k] = spot[:, 0], spot[:, 1]
                row[mine, k], col[mine, k] = part.row, part.col
        x, y = self._led(x, y)
        still = np.zeros((1, most))
        wide = np.array([int(col.max(initial=-1)) + 1])
        return Places(x, y, still, row, col, counts, wide, np.array([int(row.max(initial=-1)) + 1]))

    def _led(self, x: Floats, y: Floats) -> tuple[Floats, Floats]:
        """Spots of the text as the layer lies in the pattern at rest: turned and scaled with it, not moved."""
        layer = self.text
        if layer is None:
            return x, y
        specs = specs_of(Text)
        rotation, scale = (
            np.array(components(getattr(layer, n).rest, specs[n]), dtype=np.float64) for n in ("rotation", "scale")
        )
        matrix = layer_matrix(np.zeros(2), rotation, scale, np.zeros(2))
        return applied(matrix, x, y)
