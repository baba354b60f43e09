"""Reading what is typed into a number field: the arithmetic of formulas, with units, and with commas as people write
them."""

import math
import re
from dataclasses import replace

import numpy as np

from ..document.specs import ParameterSpec
from ..document.units import NAMES, TYPED, kind_of_unit
from .library import FUNCTIONS, Array
from .nodes import Call, Chain, Mistake, Name, Node, Number, Single
from .parse import parse

MOST_LETTERS = 200
MOST = 1e9

#: 1,000 and 12,345,678.5 as people (and this program's own messages) write them; 0,5 and 1,5 are one and a half.
_THOUSANDS = re.compile(r"(?<![\d.,])[1-9]\d{0,2}(?:,\d{3})+(?![\d,])")
_UNIT = "|".join(sorted((re.escape(unit) for unit in (*TYPED, "f")), key=len, reverse=True))
_APART = re.compile(rf"(?<=[\d.])\s+(?=(?:{_UNIT})(?![\w(]))", re.IGNORECASE)
_BEHIND = re.compile(rf"\)\s*({_UNIT})(?![\w(.])", re.IGNORECASE)
#: What only formulas have.
_STRANGE = re.compile(r'[#$";\n]')

_PLAIN = ParameterSpec("number", 1.0, "A factor")

Quantity = tuple[float, str]
"""A number in its base unit, and the kind of value it is ("": a plain number)."""


class Unreadable(ValueError):
    """What was typed is no number for this field; the message says why, for the artist."""


def read_number(text: str, spec: ParameterSpec, fps: float) -> float:
    """The number typed into a field, in the spec's unit: `360/31`, `3*1turn`, `12f`, `50%`, `sqrt(2) * 10`.

    Raises Unreadable with a sentence that says what is wrong and what would do.
    """
    shown = text.strip()
    if not shown:
        raise Unreadable("Nothing was typed. Write a number, such as 12 or 360/31.")
    if len(shown) > MOST_LETTERS:
        raise Unreadable(f"That is {len(shown):,} letters long; a number has at most {MOST_LETTERS}.")
    plain = _plain(shown)
    try:
        strange = _STRANGE.search(plain)
        if strange:
            raise Mistake("", strange.start(), strange.end())
        program = parse(plain)
        if program.steps:
            raise Mistake("", 0, 1)
        value, kind = _quantity(program.result, fps)
    except Mistake as mistake:
        if "is no unit" in mistake.message or "too large" in mistake.message:
            raise Unreadable(mistake.message) from None
        at = min(mistake.start, max(len(plain) - 1, 0))
        near = f" at “{plain[at : at + 12]}”" if at < len(plain) - 1 or at == 0 else " at its end"
        raise Unreadable(f"“{shown[:40]}” is not a number{near}. Write 12, 360/31 or 3*1turn.") from None
    except OverflowError:
        raise Unreadable("That number is too large.") from None
    wanted = kind_of_unit(spec.unit)
    if kind == "percentage" and not wanted:
        value, kind = value / 100, ""
    if kind and kind != wanted:
        raise Unreadable(f"{spec.label} takes {NAMES.get(wanted, 'a plain number')}, not {NAMES[kind]}.")
    if not math.isfinite(value) or abs(value) > MOST:
        raise Unreadable(f"That number is too large; it may go up to {MOST:,.0f}.")
    # A count that is strict about its limits is told what is wrong with a fraction; others are rounded.
    return float(round(value)) if spec.whole and not spec.limits else value


def read_step(text: str, spec: ParameterSpec, fps: float) -> tuple[float, float] | None:
    """(factor, more) of what is typed to act on the value that is there: `+20`, `+-5px`, `*1.1`, `/2`, and `+10%` where
    the value itself is no percentage; None where a number is typed. Raises Unreadable as `read_number` does."""
    shown = text.strip()
    if not shown or shown[0] not in "+*/":
        return None
    rest = shown[1:].strip()
    if not rest:
        raise Unreadable(f"Write how much behind “{shown[0]}”: +20 adds, *1.1 and /2 scale, +-5 takes away.")
    if shown[0] == "+":
        if rest.endswith("%") and kind_of_unit(spec.unit) != "percentage":
            return 1 + read_number(rest, _PLAIN, fps), 0.0
        return 1.0, read_number(rest, replace(spec, whole=False, limits=None), fps)
    factor = read_number(rest, _PLAIN, fps)
    if shown[0] == "*":
        return factor, 0.0
    if factor == 0:
        raise Unreadable("Nothing can be divided by 0.")
    return 1 / factor, 0.0


def _plain(text: str) -> str:
    """What was typed, as the language has it: no commas, units close behind their numbers, `(1/4) turn` as a
    product."""
    text = _THOUSANDS.sub(lambda found: found[0].replace(",", ""), text).replace(",", ".").replace("−", "-")
    return _BEHIND.sub(r")*1\1", _APART.sub("", text)).replace("°", "deg")


def _quantity(node: Node, fps: float) -> Quantity:
    """What a node is worth. Raises Mistake for what is no number, and Unreadable."""
    if isinstance(node, Number):
        if node.frames:
            return node.value / fps, "time"
        return node.value, "percentage" if node.share else node.kind
    if isinstance(node, Name) and node.name.casefold() == "pi":
        return math.pi, ""
    if isinstance(node, Single) and node.operator in "+-":
        value, kind = _quantity(node.part, fps)
        return (value if node.operator == "+" else -value), kind
    if isinstance(node, Chain):
        parts = [_quantity(part, fps) for part in node.parts]
        made = parts[0]
        for operator, part in zip(node.operators, parts[1:], strict=True):
            made = _joined(operator, made, part, node)
        return made
    if isinstance(node, Call):
        return _called(node, fps)
    raise Mistake("", node.start, node.end)


def _joined(operator: str, one: Quantity, two: Quantity, node: Node) -> Quantity:
    (a, kind), (b, other) = one, two
    if operator in "+-":
        if kind and other and kind != other:
            raise Unreadable(f"{NAMES[kind].capitalize()} and {NAMES[other]} cannot be added.")
        return (a + b if operator == "+" else a - b), kind or other
    if operator == "*":
        if kind and other:
            raise Unreadable("Two values with units cannot be multiplied.")
        return a * b, kind or other
    if operator == "/":
        if b == 0:
            raise Unreadable("This divides by 0.")
        if other and other != kind:
            raise Unreadable("A value cannot be divided by one of another unit.")
        return a / b, "" if other else kind
    if operator == "^":
        value = a**b
        if isinstance(value, complex):
            raise Unreadable("A negative number has no such power.")
        return value, kind
    raise Mistake("", node.start, node.end)


def _called(node: Call, fps: float) -> Quantity:
    """A function of one plain number (an angle in degrees may be one)."""
    function = FUNCTIONS.get(node.name.casefold())
    if function is None or function.takes != "each" or len(node.parts) != 1 or not function.least <= 1 <= function.most:
        raise Mistake("", node.start, node.end)
    value, kind = _quantity(node.parts[0], fps)
    if kind not in ("", "angle"):
        raise Unreadable(f"{node.name}( ) takes a plain number, not {NAMES[kind]}.")

    def fault(mask: Array, message: str) -> None:
        raise Unreadable(f"{message}.")

    with np.errstate(all="ignore"):
        return float(function.run(fault, np.array([[value]]))[0, 0]), ""
