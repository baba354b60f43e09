"""How a value repeats: exact periods as fractions of seconds, and a steady drift beside them."""

from dataclasses import dataclass
from fractions import Fraction
from math import lcm
from typing import Protocol


@dataclass(frozen=True)
class Cycle:
    """A value that repeats after `period` seconds (0: it never changes), apart from gaining `drift` each second."""

    period: Fraction = Fraction(0)
    drift: Fraction = Fraction(0)

    @property
    def still(self) -> bool:
        """Whether the value never changes."""
        return self.period == 0 and self.drift == 0


STILL = Cycle()


def common(one: Fraction, two: Fraction) -> Fraction:
    """The shortest time that is a whole number of both periods; 0 is a period of every length."""
    if one == 0 or two == 0:
        return one or two
    return Fraction(
        lcm(one.numerator * two.denominator, two.numerator * one.denominator), one.denominator * two.denominator
    )


def together(*cycles: Cycle | None) -> Cycle | None:
    """Values that are worked out from one another at each moment; None when one never repeats or drifts."""
    period = Fraction(0)
    for cycle in cycles:
        if cycle is None or cycle.drift:
            return None
        period = common(period, cycle.period)
    return Cycle(period)


def added(one: Cycle | None, two: Cycle | None, times: Fraction = Fraction(1)) -> Cycle | None:
    """One value plus another times a number."""
    if one is None or two is None:
        return None
    return Cycle(common(one.period, two.period), one.drift + two.drift * times)


class Repeats(Protocol):
    """What a modifier may ask when it says how its result repeats."""

    @property
    def fps(self) -> float: ...
    def setting(self, name: str) -> Cycle | None: ...
    def driver(self, parameter: str) -> Cycle | None: ...
    def exact(self, name: str) -> Fraction | None: ...
    def keyed(self) -> tuple[Fraction, Fraction, Fraction] | None: ...
