"""How the line of a shape is drawn: which part of it, in dashes, with which ends."""

from typing import ClassVar

from .model import Model
from .parameter import Parameter, spec

CAPS = ("round", "butt", "square")
JOINS = ("round", "miter", "bevel")
MITER_LIMIT = 10.0
"""How far pointed corners reach, in widths of the line, where nothing else is told."""


class LineStyle(Model):
    """The part of an outline that is stroked, its dashes, ends and corners.

    Percentages are of the outline's length, from where it begins.
    """

    title: ClassVar[str] = "Line"
    does: ClassVar[str] = "Write a line on, erase it behind itself, let dashes run along it."
    formula: ClassVar[tuple[str, ...]] = (
        "drawn from (start + turn) · L to (end + turn) · L, L the length; what runs over the end goes on at the "
        "beginning",
        "with a profile: stroke width · profile(s/L′), L′ the length of what is drawn; then it has no dashes",
        "at length s there is a dash where (s − start · L − offset) mod (dash + gap) < dash",
    )

    start: Parameter = spec(
        0.0, "percentage", label="From", help="Where the drawn part begins.", low=0, high=100, step=1
    )
    end: Parameter = spec(100.0, "percentage", label="To", help="Where the drawn part ends.", low=0, high=100, step=1)
    turn: Parameter = spec(
        0.0, "percentage", label="Turn", help="How far the part is moved along the outline.", low=-100, high=100, step=1
    )
    contours: Parameter = spec(
        "one after another",
        "choice",
        label="Contours",
        help="Whether an outline of several is drawn one after another, or each by itself.",
        options=("one after another", "each by itself"),
    )
    cap: Parameter = spec("round", "choice", label="Ends", help="Of the line and of its dashes.", options=CAPS)
    join: Parameter = spec("round", "choice", label="Joins", help="How the line goes round its corners.", options=JOINS)
    miter: Parameter = spec(
        MITER_LIMIT,
        label="Miter limit",
        help="How far pointed corners may reach, in widths of the line; those that would reach further are cut off.",
        low=1,
        high=20,
        limits=(1, 1000),
        step=0.5,
    )
    profile: Parameter = spec(
        1.0,
        label="Width along it",
        help="How wide the line is along its length: keys over 0 to 100 % of what is drawn. Without keys: "
        "everywhere the same.",
        low=0,
        high=1,
        step=0.05,
        passage=True,
    )
    dash: Parameter = spec(
        0.0,
        "length",
        label="Dash",
        help="How long each dash is; at 0 the line is whole.",
        low=0,
        high=100,
        limits=(0, 100_000),
        step=1,
    )
    gap: Parameter = spec(
        12.0, "length", label="Gap", help="Between two dashes.", low=0, high=100, limits=(0, 100_000), step=1
    )
    offset: Parameter = spec(
        0.0, "length", label="Dash offset", help="How far the dashes have run.", low=-200, high=200, step=1
    )
