"""Numbers, and numbers of things, as people read them."""

from collections.abc import Sequence

from jaunty_lever.figures import plain_number as plain_number


def first_of(names: Sequence[str], most: int) -> str:
    """The first of some names, `most` of them, and how many more there are."""
    more = f" and {len(names) - most} more" if len(names) > most else ""
    return ", ".join(names[:most]) + more


def with_unit(value: float, unit: str, digits: int = 2) -> str:
    """Such as `12 %`, `90°`, `3 times a second`, `0.5 s`."""
    number = plain_number(value, digits)
    if unit == "Hz":
        return {"1": "once a second", "2": "twice a second"}.get(number, f"{number} times a second")
    return number + (unit if unit.startswith("°") else f" {unit}" if unit else "")
