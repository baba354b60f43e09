"""The elements of an array: copies by number, those of an array inside another by the copy that they stand in.

A value is a pure function of time and of the element. No element remembers another: any of them can be worked out
alone, and gives the same numbers as among all.
"""

from collections.abc import Hashable
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from ..kernels.digest import digest_of

Numbers = NDArray[np.int64]

_APART = 20_011
"""More than there are copies of one array: numbers of copies inside copies never meet."""


@dataclass(frozen=True, eq=False)
class Elements:
    """Copies of one array by number, (e,); the same one may stand in several rows.

    `outer` are those of the array around it, if any, and `parents` (e,) tells in which of them each stands, by
    position.
    """

    array: str
    numbers: Numbers
    outer: "Elements | None" = None
    parents: Numbers | None = None
    when: Numbers | None = None
    """Of sparks that come and go, each at a single moment: the position of that moment among those asked for (e,)."""
    aged: bool = False
    """Whether their moments are counted from each spark's birth on, as its pattern lives."""

    @classmethod
    def of(cls, array: str, count: int, outer: "Elements | None" = None) -> "Elements":
        """All copies of an array of so many, in each copy of the array around it."""
        many = 1 if outer is None else len(outer)
        parents = None if outer is None else np.repeat(np.arange(many), count)
        return cls(array, np.tile(np.arange(count), many), outer, parents)

    def __len__(self) -> int:
        return len(self.numbers)

    @cached_property
    def depth(self) -> int:
        """How many arrays there are, one inside the other."""
        return 1 if self.outer is None else 1 + self.outer.depth

    def stands_in(self, array: str) -> bool:
        """Whether these are copies of an array, or stand in copies of it."""
        return self.array == array or (self.outer is not None and self.outer.stands_in(array))

    @cached_property
    def key(self) -> Hashable:
        """What results for these elements are remembered under."""
        parts = (self.numbers,) if self.parents is None else (self.numbers, self.parents)
        return self.array, len(self), digest_of(*parts), self.aged, self.outer and self.outer.key

    @cached_property
    def streams(self) -> Numbers:
        """A number for each that it shares with no other, for what is random; the first has 0."""
        if self.outer is None or self.parents is None:
            return self.numbers
        return self.numbers + self.outer.streams[self.parents] * _APART

    def part(self, chosen: Numbers) -> "Elements":
        """Some of them, by their positions here."""
        if self.outer is None or self.parents is None:
            return Elements(self.array, self.numbers[chosen], aged=self.aged)
        used, parents = np.unique(self.parents[chosen], return_inverse=True)
        return Elements(self.array, self.numbers[chosen], self.outer.part(used), parents.ravel(), aged=self.aged)

    def cut(self, depth: int) -> "tuple[Elements | None, Numbers | None]":
        """The elements of the outermost `depth` arrays, and in which of them each of these stands (None: its own)."""
        if depth >= self.depth:
            return self, None
        known: dict[int, tuple[Elements | None, Numbers | None]] = self.__dict__.setdefault("_cuts", {})
        if depth not in known:
            if depth <= 0 or self.outer is None or self.parents is None:
                known[depth] = None, None
            else:
                outer, rows = self.outer.cut(depth)
                known[depth] = outer, self.parents if rows is None else rows[self.parents]
        return known[depth]
