"""Along which axes a value varies: from element to element, and over time."""

from dataclasses import dataclass
from functools import reduce
from operator import or_

_INNERMOST = 1 << 10


@dataclass(frozen=True)
class Axes:
    """Which axes of (elements, times) a value has; along the others it is the same everywhere.

    `elements` counts the arrays, from the outermost in, along whose copies it varies: 0 for a value that is the same
    for all, 2 for one that differs between the copies of an array inside another.
    """

    elements: int = 0
    times: bool = False

    def __or__(self, other: "Axes") -> "Axes":
        return Axes(max(self.elements, other.elements), self.times or other.times)

    def within(self, depth: int) -> "Axes":
        """The axes of a value that stands inside so many arrays."""
        return self if self.elements <= depth else Axes(depth, self.times)


CONSTANT = Axes()
OVER_TIME = Axes(times=True)
OVER_ELEMENTS = Axes(elements=_INNERMOST)
"""From copy to copy of the innermost array around whatever it is said of."""


def joined_axes(*axes: Axes) -> Axes:
    """The axes of what is worked out from several values."""
    return reduce(or_, axes, CONSTANT)
