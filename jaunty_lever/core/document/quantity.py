"""Numbers, and numbers of things, as people read them."""

from collections.abc import Sequence
from decimal import ROUND_HALF_UP, Decimal

_EXACT = 1e15


def first_of(names: Sequence[str], most: int) -> str:
    """The first of some names, `most` of them, and how many more there are."""
    more = f" and {len(names) - most} more" if len(names) > most else ""
    return ", ".join(names[:most]) + more


def plain_number(value: float, digits: int = 4) -> str:
    """A number for people: at most `digits` places, no trailing zeros, a true minus sign."""
    # Halves are rounded away from 0, as people do it and as the pages' scripts do.
    exact = abs(value) < _EXACT
    text = f"{Decimal(value).quantize(Decimal(1).scaleb(-digits), ROUND_HALF_UP) if exact else value:.{digits}f}"
    text = text.rstrip("0").rstrip(".") if "." in text else text
    return text.replace("-", "−") if text not in ("-0", "0") else "0"


def with_unit(value: float, unit: str, digits: int = 2) -> str:
    """Such as `12 %`, `90°`, `3 times a second`, `0.5 s`."""
    number = plain_number(value, digits)
    if unit == "Hz":
        return {"1": "once a second", "2": "twice a second"}.get(number, f"{number} times a second")
    return number + (unit if unit.startswith("°") else f" {unit}" if unit else "")
