"""The elements of one array: copies, letters, sparks or points, and what each knows of itself.

A value is a pure function of time and of the element. No element remembers another: any of them can be worked out
alone, and gives the same numbers as among all.
"""

from collections.abc import Hashable, Mapping
from dataclasses import dataclass, field
from functools import cached_property
from hashlib import blake2b

import numpy as np
from numpy.typing import NDArray

from ..document.index import ParameterNode
from ..document.parameter import Parameter
from ..document.specs import ParameterSpec

KNOWN = {"i": 0.0, "n": 1.0, "u": 0.0, "rank": 0.0, "row": 0.0, "col": 0.0, "x": 0.0, "y": 0.0}
"""What an element knows, and what it is outside an array."""

PREFIX = "element."


@dataclass(frozen=True, eq=False)
class Elements:
    """Elements by number, (e,), out of `count`; the same one may stand in several rows.

    `known` holds, by name, what they know besides their number and count, (e,) each. `inside` are the layers (and
    levers) that belong to each of them, by id; None: all of the scene. What stands elsewhere is the same for all.
    """

    numbers: NDArray[np.int64]
    count: int
    known: Mapping[str, NDArray[np.float64]] = field(default_factory=dict)
    inside: frozenset[str] | None = None

    @classmethod
    def of(cls, count: int, inside: frozenset[str] | None = None, **known: NDArray[np.float64]) -> "Elements":
        """All elements of an array of so many."""
        return cls(np.arange(count), count, known, inside)

    def __len__(self) -> int:
        return len(self.numbers)

    @cached_property
    def key(self) -> Hashable:
        """What results for these elements are remembered under."""
        whole = blake2b(self.numbers.tobytes(), digest_size=16)
        for name in sorted(self.known):
            whole.update(name.encode())
            whole.update(self.known[name].tobytes())
        return self.count, whole.digest(), self.inside

    def part(self, chosen: NDArray[np.int64]) -> "Elements":
        """Some of them, by their positions here."""
        known = {name: values[chosen] for name, values in self.known.items()}
        return Elements(self.numbers[chosen], self.count, known, self.inside)

    def holds(self, node: ParameterNode) -> bool:
        """Whether a parameter belongs to each of the elements, and not to all of them together."""
        return self.inside is None or node.top in self.inside

    def values(self, name: str) -> NDArray[np.float64]:
        """One of the things that elements know, (e,)."""
        if name == "i":
            return self.numbers.astype(np.float64)
        if name == "n":
            return np.full(len(self), float(self.count))
        return self.known.get(name, np.full(len(self), KNOWN[name]))


def known_of(elements: Elements | None, name: str) -> NDArray[np.float64]:
    """What elements know, (e, 1, 1); outside an array, what stands for it there, (1, 1, 1)."""
    values = np.array([KNOWN[name]]) if elements is None else elements.values(name)
    return values[:, None, None]


def _node(name: str) -> ParameterNode:
    spec = ParameterSpec("number", KNOWN[name], name)
    own = Parameter(rest=KNOWN[name])
    return ParameterNode(PREFIX + name, own, spec, (), ((PREFIX + name, name),), PREFIX, name)


#: What an element knows, under ids that parameters can listen to.
ELEMENT_NODES = {PREFIX + name: _node(name) for name in KNOWN}
