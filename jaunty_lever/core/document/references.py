"""What a link or formula says that it listens to.

A reference is a parameter's id (`lantern3.opacity`); or what the copy knows of itself, by the array around whoever asks
(`element.u`, and `outer.u` for the array around that one); or a value of an array's copies taken as one number
(`gulls.copy_position@12`, `@mean`, `@least`, `@greatest`).
"""

from typing import Literal

KNOWN = {
    "i": 0.0,
    "n": 1.0,
    "u": 0.0,
    "rank": 0.0,
    "row": 0.0,
    "col": 0.0,
    "x": 0.0,
    "y": 0.0,
    "z": 0.0,
    "age": 0.0,
    "life": 0.0,
    "height": 0.0,
}
"""What an element knows as a number, and what that is outside an array."""
VECTORS = {"across": (0.0, 0.0)}
"""What an element knows as a vector."""
ALL_KNOWN: dict[str, tuple[float, ...]] = {**{name: (rest,) for name, rest in KNOWN.items()}, **VECTORS}
"""Both, as components."""

CIRCLE = "circle"
"""How far round what closes a copy stands, as a share, −1 where nothing closes; the share that is of all copies; and
which of several circles it is. Modifiers ask for it; it is no name of the formula language."""
PLAN = "plan"
"""Where a copy stands in the plane that its array lays out, and how far out of that: across, down and near, or on the
ground across, into the distance and up. Modifiers and gauges ask for it."""
LENGTH = "whole_length"
"""How long what a copy or point stands along is: an outline in px, an order in steps from copy to copy."""
ALL_TOLD = {**ALL_KNOWN, CIRCLE: (-1.0, 1.0, 0.0), PLAN: (0.0, 0.0, 0.0), LENGTH: (0.0,)}
"""All that an element may be asked for, as components."""

PREFIX, OUTER = "element.", "outer."
U = "element.u"
"""Where a copy stands along its array's order, 0 to 1."""
RANK = "element.rank"
"""The whole number of its place in that order, from 0."""
ROUND = PREFIX + CIRCLE
"""Where it stands on a circle, if its array's order closes."""

Taken = int | Literal["mean", "least", "greatest"]
WAYS = ("mean", "least", "greatest")


def parted(reference: str) -> tuple[str, Taken | None]:
    """A reference's id, and how a value of many is taken as one. Raises ValueError for a way that there is not."""
    own, at, way = reference.partition("@")
    if not at:
        return own, None
    if way in WAYS:
        return own, way  # type: ignore[return-value]
    if not way.isdecimal() or len(way) > 6:
        raise ValueError(f"a value of many copies is taken as a copy's number, {', '.join(WAYS)}, not as “{way}”")
    return own, int(way)


def bare(reference: str) -> str:
    """A reference without how it is taken."""
    return reference.partition("@")[0]


def said(taken: Taken) -> str:
    """How a value of many is taken, in words."""
    return f"copy {taken}" if isinstance(taken, int) else f"the {taken} of all copies"


def known_name(reference: str) -> tuple[str, int] | None:
    """What of itself a copy is asked for, and how many arrays further out; None for another reference."""
    level, rest = 0, reference
    while rest.startswith(OUTER):
        level, rest = level + 1, rest.removeprefix(OUTER)
    if not level:
        if not reference.startswith(PREFIX):
            return None
        rest = reference.removeprefix(PREFIX)
    return (rest, level) if rest in ALL_TOLD else None
