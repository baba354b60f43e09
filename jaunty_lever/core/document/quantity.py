"""Reading what is typed into a number field, and writing numbers for people."""

import math
import re
from decimal import ROUND_HALF_UP, Decimal
from functools import cache
from importlib.resources import files
from typing import Any

from lark import Lark, Token, Transformer, UnexpectedInput
from lark.exceptions import VisitError

from .specs import ParameterSpec
from .units import NAMES, TYPED, kind_of_unit

MOST_LETTERS = 200
MOST = 1e9
_EXACT = 1e15

#: 1,000 and 12,345,678.5 as people (and this program's own messages) write them; 0,5 and 1,5 are one and a half.
_THOUSANDS = re.compile(r"(?<![\d.,])[1-9]\d{0,2}(?:,\d{3})+(?![\d,])")

Quantity = tuple[float, str]


class Unreadable(ValueError):
    """What was typed is no number for this field; the message says why, for the artist."""


class _Value(Transformer[Token, Quantity]):
    def __init__(self, fps: float) -> None:
        super().__init__()
        self._fps = fps

    def quantity(self, parts: list[Token]) -> Quantity:
        return self._with_unit(float(parts[0]), "", parts[1] if len(parts) > 1 else None)

    def enclosed(self, parts: list[Any]) -> Quantity:
        value, dimension = parts[0]
        return self._with_unit(value, dimension, parts[1] if len(parts) > 1 else None)

    def _with_unit(self, value: float, dimension: str, unit: Token | None) -> Quantity:
        if unit is None:
            return value, dimension
        if dimension:
            raise Unreadable("A unit stands on a unit.")
        if unit.lower() == "f":
            return value / self._fps, "time"
        dimension, factor = TYPED[unit.lower()]
        return value * factor, dimension

    def pi(self, _: list[Token]) -> Quantity:
        return math.pi, ""

    def add(self, parts: list[Quantity]) -> Quantity:
        return parts[0][0] + parts[1][0], self._same(parts)

    def subtract(self, parts: list[Quantity]) -> Quantity:
        return parts[0][0] - parts[1][0], self._same(parts)

    def _same(self, parts: list[Quantity]) -> str:
        one, two = parts[0][1], parts[1][1]
        if one and two and one != two:
            raise Unreadable(f"{NAMES[one].capitalize()} and {NAMES[two]} cannot be added.")
        return one or two

    def multiply(self, parts: list[Quantity]) -> Quantity:
        if parts[0][1] and parts[1][1]:
            raise Unreadable("Two values with units cannot be multiplied.")
        return parts[0][0] * parts[1][0], parts[0][1] or parts[1][1]

    def divide(self, parts: list[Quantity]) -> Quantity:
        if parts[1][0] == 0:
            raise Unreadable("This divides by 0.")
        if parts[1][1] and parts[1][1] != parts[0][1]:
            raise Unreadable("A value cannot be divided by one of another unit.")
        return parts[0][0] / parts[1][0], "" if parts[1][1] else parts[0][1]

    def negate(self, parts: list[Quantity]) -> Quantity:
        return -parts[0][0], parts[0][1]

    def power(self, parts: list[Quantity]) -> Quantity:
        value = parts[0][0] ** parts[1][0]
        if isinstance(value, complex):
            raise Unreadable("A negative number has no such power.")
        return value, parts[0][1]


@cache
def _parser() -> Lark:
    return Lark(files(__package__).joinpath("quantity.lark").read_text(encoding="utf-8"), parser="lalr")


def read_number(text: str, spec: ParameterSpec, fps: float) -> float:
    """The number typed into a field, in the slot's unit: `360/31`, `3*1turn`, `12f`, `50%`.

    Raises Unreadable with a sentence that says what is wrong and what would do.
    """
    shown = text.strip()
    if not shown:
        raise Unreadable("Nothing was typed. Write a number, such as 12 or 360/31.")
    if len(shown) > MOST_LETTERS:
        raise Unreadable(f"That is {len(shown):,} letters long; a number has at most {MOST_LETTERS}.")
    try:
        value, dimension = _Value(fps).transform(
            _parser().parse(
                _THOUSANDS.sub(lambda found: found[0].replace(",", ""), shown).replace(",", ".").replace("−", "-")
            )
        )
    except UnexpectedInput as error:
        column = min(max(getattr(error, "column", 1), 1), len(shown))
        if (shown[column - 1 :].strip() and column < len(shown)) or column == 1:
            near = f" at “{shown[column - 1 : column + 11]}”"
        else:
            near = " at its end"
        raise Unreadable(f"“{shown[:40]}” is not a number{near}. Write 12, 360/31 or 3*1turn.") from None
    except VisitError as error:
        if isinstance(error.orig_exc, Unreadable):
            raise error.orig_exc from None
        raise Unreadable("That number is too large.") from None
    wanted = kind_of_unit(spec.unit)
    if dimension == "percentage" and not wanted:
        value, dimension = value / 100, ""
    if dimension and dimension != wanted:
        raise Unreadable(f"{spec.label} takes {NAMES.get(wanted, 'a plain number')}, not {NAMES[dimension]}.")
    if not math.isfinite(value) or abs(value) > MOST:
        raise Unreadable(f"That number is too large; it may go up to {MOST:,.0f}.")
    # A count that is strict about its limits is told what is wrong with a fraction; others are rounded.
    return float(round(value)) if spec.whole and not spec.limits else value


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
