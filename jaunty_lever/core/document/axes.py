"""Along which axes a value varies: from element to element, and over time."""

from dataclasses import dataclass
from functools import reduce
from operator import or_


@dataclass(frozen=True)
class Axes:
    """Which axes of (elements, times) a value has; along the others it is the same everywhere."""

    elements: bool = False
    times: bool = False

    def __or__(self, other: "Axes") -> "Axes":
        return Axes(self.elements or other.elements, self.times or other.times)


CONSTANT = Axes()
OVER_TIME = Axes(times=True)
OVER_ELEMENTS = Axes(elements=True)


def joined_axes(*axes: Axes) -> Axes:
    """The axes of what is worked out from several values."""
    return reduce(or_, axes, CONSTANT)
