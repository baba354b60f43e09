"""How a value repeats: exact periods as fractions of seconds, and a steady drift beside them."""

import re
from dataclasses import dataclass
from fractions import Fraction
from math import inf, lcm
from typing import Protocol


@dataclass(frozen=True)
class Periodicity:
    """A value that repeats after `period` seconds (0: it never changes), apart from gaining `drift` each second."""

    period: Fraction = Fraction(0)
    drift: Fraction = Fraction(0)

    @property
    def still(self) -> bool:
        """Whether the value never changes."""
        return self.period == 0 and self.drift == 0


STILL = Periodicity()
_PLAIN = re.compile(r"[+-]?\d{1,16}(\.\d{0,18})?([eE][+-]?\d{1,2})?(/[+-]?\d{1,16})?")


def common(one: Fraction, two: Fraction) -> Fraction:
    """The shortest time that is a whole number of both periods; 0 is a period of every length."""
    if one == 0 or two == 0:
        return one or two
    return Fraction(
        lcm(one.numerator * two.denominator, two.numerator * one.denominator), one.denominator * two.denominator
    )


def together(*cycles: Periodicity | None) -> Periodicity | None:
    """Values that are worked out from one another at each moment; None when one never repeats or drifts."""
    period = Fraction(0)
    for cycle in cycles:
        if cycle is None or cycle.drift:
            return None
        period = common(period, cycle.period)
    return Periodicity(period)


def added(one: Periodicity | None, two: Periodicity | None, times: Fraction = Fraction(1)) -> Periodicity | None:
    """One value plus another times a number."""
    if one is None or two is None:
        return None
    return Periodicity(common(one.period, two.period), one.drift + two.drift * times)


class PeriodContext(Protocol):
    """What a modifier may ask when it says how its result repeats."""

    @property
    def fps(self) -> float: ...
    def setting(self, name: str) -> Periodicity | None: ...
    def driver(self, parameter: str) -> Periodicity | None: ...
    def exact(self, name: str) -> Fraction | None: ...
    def keyed(self) -> tuple[Fraction, Fraction, Fraction] | None: ...


Stretch = tuple[float, float]
"""First and last second between which a value may change; (inf, −inf) when it never does."""

MOTIONLESS: Stretch = (inf, -inf)


def joined(*stretches: Stretch | None) -> Stretch | None:
    """The stretch in which any of several values may change; None when one may at all times."""
    low, high = MOTIONLESS
    for one in stretches:
        if one is None:
            return None
        low, high = min(low, one[0]), max(high, one[1])
    return low, high


class Pace(Protocol):
    """What a modifier may ask when it says how fast, and for how long, its result may change."""

    fps: float

    def swings_of_setting(self, name: str) -> float: ...
    def swings_of_driver(self, parameter: str) -> float: ...
    def most(self, name: str) -> float: ...
    def stretch_of_setting(self, name: str) -> Stretch | None: ...
    def stretch_of_driver(self, parameter: str) -> Stretch | None: ...


def as_fraction(value: object, typed: tuple[str, ...] = ()) -> Fraction | None:
    """The exact fraction behind a number: as it was typed (`-14/35`), else the nearest with a small denominator."""
    shown = typed[0].replace(" ", "") if typed and typed[0] else str(value)
    # Nothing longer than a number can be: a power of ten that was typed would be worked out to its last place.
    if _PLAIN.fullmatch(shown):
        try:
            return Fraction(shown)
        except ZeroDivisionError:
            pass
    return Fraction(value).limit_denominator(1_000_000) if isinstance(value, float | int) else None
