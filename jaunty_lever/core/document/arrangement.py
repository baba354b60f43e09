"""Arrangements: where the copies of an array stand before anything moves them, and in which order they are counted.

Coordinates are the array's own, px, its origin in the middle, x right, y down. Every number is a parameter.
"""

from typing import Annotated, Any, ClassVar, Literal, Union

from pydantic import Field

from .keys import Finite
from .limits import MOST_COPIES
from .model import Model
from .parameter import Parameter, spec, stands_out
from .specs import specs_of

_COUNT: dict[str, Any] = {
    "label": "Count",
    "low": 1,
    "high": 100,
    "limits": (0, MOST_COPIES),
    "step": 1,
    "whole": True,
    "travels": True,
    "main": True,
}
_FIT = ("gap", "span")
_DEEP: dict[str, Any] = {"low": -800, "high": 800, "step": 1, "deep": True}
_OUTLINE = "The layer whose outline is taken; none: the path data."


_GAP: dict[str, Any] = {
    "kind": "vector",
    "unit": "px",
    "label": "Gap",
    "help": "From middle to middle: between columns, between rows.",
    "step": 1,
}
_SPAN: dict[str, Any] = _GAP | {"label": "Span", "help": "From middle to middle: of all columns, all rows."}


class Row(Model):
    """Side by side along a line."""

    title: ClassVar[str] = "Row"
    does: ClassVar[str] = "Side by side, a gap apart or filling a span."
    formula: ClassVar[tuple[str, ...]] = ("(i − (n − 1)/2) · gap; from a span: gap = span/(n − 1)",)

    kind: Literal["row"] = "row"
    count: Parameter = spec(9.0, help="How many copies.", **_COUNT)
    fit: Parameter = spec(
        "gap", "choice", label="Spaced by", help="A gap between two, or a span for all.", options=_FIT
    )
    gap: Parameter = spec(
        (90.0, 0.0), "vector", unit="px", label="Gap", help="From the middle of one to the middle of the next.", step=1
    )
    span: Parameter = spec(
        (600.0, 0.0),
        "vector",
        unit="px",
        label="Span",
        help="From the middle of the first to that of the last.",
        step=1,
    )
    gap_depth: Parameter = spec(
        0.0, "length", label="Depth gap", help="How much nearer each stands than the one before.", **_DEEP
    )
    span_depth: Parameter = spec(
        0.0, "length", label="Depth span", help="How much nearer the last stands than the first.", **_DEEP
    )


class Grid(Model):
    """Row by row, in columns."""

    title: ClassVar[str] = "Grid"
    does: ClassVar[str] = "Columns and rows, every other row moved along if you like."
    formula: ClassVar[tuple[str, ...]] = (
        "i = row·C + col",
        "((col − (C − 1)/2)·gap.x + brick·gap.x·(row mod 2), (row − (R − 1)/2)·gap.y)",
    )

    kind: Literal["grid"] = "grid"
    columns: Parameter = spec(6.0, help="How many side by side.", **{**_COUNT, "label": "Columns"})
    rows: Parameter = spec(4.0, help="How many below one another.", **{**_COUNT, "label": "Rows"})
    fit: Parameter = spec(
        "gap", "choice", label="Spaced by", help="A gap between two, or a span for all.", options=_FIT
    )
    gap: Parameter = spec((90.0, 90.0), **_GAP)
    span: Parameter = spec((600.0, 400.0), **_SPAN)
    brick: Parameter = spec(
        0.0, "percentage", label="Brick", help="How far every other row is moved along.", low=0, high=100, step=5
    )
    levels: Parameter = spec(
        1.0,
        help="How many such grids, each nearer than the one before.",
        **{**_COUNT, "label": "Levels", "main": False, "deep": True},
    )
    gap_depth: Parameter = spec(90.0, "length", label="Depth gap", help="Between levels.", **_DEEP)
    span_depth: Parameter = spec(400.0, "length", label="Depth span", help="Of all levels.", **_DEEP)


class Ground(Model):
    """A grid that lies on the ground: x to the right, its rows one behind the other."""

    title: ClassVar[str] = "Ground"
    does: ClassVar[str] = "A grid laid flat: columns side by side, rows from the far end to the near one."
    formula: ClassVar[tuple[str, ...]] = (
        "i = row·C + col",
        "x = (col − (C − 1)/2)·gap.x + brick·gap.x·(row mod 2), depth = (row − (R − 1)/2)·gap.y",
    )

    kind: Literal["ground"] = "ground"
    columns: Parameter = spec(12.0, help="How many side by side.", **{**_COUNT, "label": "Columns"})
    rows: Parameter = spec(8.0, help="How many behind one another.", **{**_COUNT, "label": "Rows"})
    fit: Parameter = spec(
        "gap", "choice", label="Spaced by", help="A gap between two, or a span for all.", options=_FIT
    )
    gap: Parameter = spec((90.0, 90.0), **_GAP)
    span: Parameter = spec((900.0, 600.0), **_SPAN)
    brick: Parameter = spec(
        0.0, "percentage", label="Brick", help="How far every other row is moved along.", low=0, high=100, step=5
    )


class Ring(Model):
    """Round a middle, the angle counted clockwise from straight up."""

    title: ClassVar[str] = "Ring"
    does: ClassVar[str] = "Round a middle: a whole circle or an arc."
    formula: ClassVar[tuple[str, ...]] = (
        "a = start + arc·i/n for a whole circle, else start + arc·i/(n − 1)",
        "(r·sin a, −r·cos a); facing turns the copy by a",
    )

    kind: Literal["ring"] = "ring"
    count: Parameter = spec(12.0, help="How many copies.", **_COUNT)
    radius: Parameter = spec(220.0, "length", label="Radius", help="From the middle to each.", low=0, step=1, main=True)
    start: Parameter = spec(0.0, "angle", label="Start", help="Where the first stands; 0 is straight up.", step=1)
    arc: Parameter = spec(
        360.0, "angle", label="Arc", help="How far round the last one stands; ±360 closes.", low=-360, high=360, step=1
    )
    facing: Parameter = spec(True, "switch", label="Facing", help="Each is turned by its angle.")
    rise: Parameter = spec(
        0.0, "length", label="Depth rise", help="How much nearer each stands than the one before.", **_DEEP
    )


class AlongPath(Model):
    """Along an outline, by its length."""

    title: ClassVar[str] = "Along a path"
    does: ClassVar[str] = "Along path data or another layer's outline."
    formula: ClassVar[tuple[str, ...]] = (
        "by arc length: from + (to − from)·i/(n − 1); on a closed path from 0 to 100 %: i/n",
        "facing turns the copy by the tangent",
    )

    kind: Literal["path"] = "path"
    data: str = Field(default="M -320 60 C -160 -120 160 120 320 -60", max_length=100_000)
    outline: str | None = Field(default=None, description=_OUTLINE)
    count: Parameter = spec(12.0, help="How many copies.", **_COUNT)
    start: Parameter = spec(0.0, "percentage", label="From", help="Where the first one stands.", step=1, main=True)
    end: Parameter = spec(100.0, "percentage", label="To", help="Where the last one stands.", step=1, main=True)
    facing: Parameter = spec(True, "switch", label="Facing", help="Each is turned along the path.")


class Scatter(Model):
    """Anywhere inside an area."""

    title: ClassVar[str] = "Scatter"
    does: ClassVar[str] = "Anywhere inside an area, kept apart if you like."
    formula: ClassVar[tuple[str, ...]] = (
        "even inside the area, by seed and number",
        "apart: of 24 spots the first that is far enough from all before it, else the one that is farthest",
    )

    kind: Literal["scatter"] = "scatter"
    count: Parameter = spec(40.0, help="How many copies.", **_COUNT)
    shape: Parameter = spec(
        "rectangle", "choice", label="Shape", help="Of the area.", options=("rectangle", "ellipse", "outline")
    )
    area: Parameter = spec(
        (700.0, 400.0), "vector", unit="px", label="Area", help="Its width and height.", low=0, step=1
    )
    outline: str | None = Field(default=None, description=_OUTLINE)
    data: str = Field(default="M 0 -200 L 260 160 L -260 160 Z", max_length=100_000)
    apart: Parameter = spec(
        0.0, "length", label="Apart", help="How far they keep from each other, as far as that goes.", low=0, step=1
    )
    area_depth: Parameter = spec(
        0.0, "length", label="Depth area", help="How far it reaches towards the viewer and away.", **_DEEP
    )
    seed: Parameter = spec(1.0, label="Seed", help="Another seed, other spots.", low=1, high=99_999, step=1, whole=True)


class Rails(Model):
    """Along a rail, each knowing its partner on another."""

    title: ClassVar[str] = "Between rails"
    does: ClassVar[str] = "Along a rail, each knowing the way to its partner on another one."
    formula: ClassVar[tuple[str, ...]] = (
        "on each rail by arc length: from + (to − from)·i/(n − 1)",
        "across = partner − place; a line whose end follows it joins the rails",
    )

    kind: Literal["rails"] = "rails"
    data: str = Field(default="M -320 -120 C -160 -60 160 -60 320 -120", max_length=100_000)
    outline: str | None = Field(default=None, description=_OUTLINE)
    other_data: str = Field(default="M -320 120 C -160 180 160 180 320 120", max_length=100_000)
    other_outline: str | None = Field(default=None, description="The same for the other rail.")
    count: Parameter = spec(12.0, help="How many copies.", **_COUNT)
    start: Parameter = spec(0.0, "percentage", label="From", help="Where the first one stands.", step=1, main=True)
    end: Parameter = spec(100.0, "percentage", label="To", help="Where the last one stands.", step=1, main=True)
    other_start: Parameter = spec(0.0, "percentage", label="Other from", help="Where its partner stands.", step=1)
    other_end: Parameter = spec(100.0, "percentage", label="Other to", help="Where the last one's stands.", step=1)
    facing: Parameter = spec(False, "switch", label="Facing", help="Each is turned along its rail.")


class Letters(Model):
    """The text inside, taken apart: each copy shows one of its letters, words or lines where it is set."""

    title: ClassVar[str] = "Letters"
    does: ClassVar[str] = "The text inside taken apart, each letter, word or line a copy where it is set."
    formula: ClassVar[tuple[str, ...]] = ("the pivot of part i, in the order in which the text is read",)

    kind: Literal["letters"] = "letters"
    by: Parameter = spec(
        "letter",
        "choice",
        label="Taken apart by",
        help="What each copy is.",
        options=("letter", "word", "line"),
        main=True,
    )
    pivot: Parameter = spec(
        "its own middle",
        "choice",
        label="Turns about",
        help="Where each part's pivot lies.",
        options=("its own middle", "the baseline", "the line's middle"),
    )


class Emitter(Model):
    """Copies that come and go: thrown from somewhere, at a rate. What decides about a spark is taken at its birth."""

    title: ClassVar[str] = "Emitter"
    does: ClassVar[str] = "Sparks that are thrown, fly and go out, each living from its own birth on."
    formula: ClassVar[tuple[str, ...]] = (
        "spark k is born where the integral of the rate, from −pre-roll on, is k",
        "v = v₀·e^(−drag·age) + g·(1 − e^(−drag·age))/drag; place = start + ∫ v",
    )

    kind: Literal["emitter"] = "emitter"
    rate: Parameter = spec(
        20.0, label="Rate", help="Sparks a second.", low=0, high=200, limits=(0, 100_000), step=1, main=True
    )
    lifetime: Parameter = spec(
        1.5,
        "time",
        label="Lifetime",
        help="How long each lives.",
        low=0.1,
        high=6,
        limits=(0, 600),
        step=0.1,
        main=True,
    )
    lifetime_random: Parameter = spec(
        0.0, "percentage", label="Lifetime random", help="By how much of it lifetimes differ.", low=0, high=100, step=5
    )
    shape: Parameter = spec(
        "point", "choice", label="Thrown from", help="Where sparks begin.", options=("point", "line", "disc", "outline")
    )
    origin: Parameter = spec(
        (0.0, 0.0), "vector", unit="px", label="Start", help="Where its middle is.", step=1, main=True
    )
    size: Parameter = spec(
        (120.0, 120.0), "vector", unit="px", label="Start size", help="Of the line or disc.", low=0, step=1
    )
    size_depth: Parameter = spec(
        0.0, "length", label="Depth start", help="How far sparks begin before and behind it.", **_DEEP
    )
    outline: str | None = Field(default=None, description="The layer that sparks are thrown from; none: the start.")
    data: str = Field(default="M -120 0 L 120 0", max_length=100_000)
    direction: Parameter = spec(
        0.0, "angle", label="Direction", help="0 is straight up, 90 to the right.", step=1, main=True
    )
    spread: Parameter = spec(
        30.0, "angle", label="Spread", help="How far to either side at most.", low=0, high=180, step=1, main=True
    )
    speed: Parameter = spec(
        260.0, "length", label="Speed", help="Pixels a second.", low=0, high=1500, step=5, main=True
    )
    speed_random: Parameter = spec(
        30.0, "percentage", label="Speed random", help="By how much of it speeds differ.", low=0, high=100, step=5
    )
    speed_depth: Parameter = spec(
        0.0, "length", label="Depth speed", help="Pixels a second towards the viewer.", **_DEEP
    )
    spread_depth: Parameter = spec(
        0.0, "length", label="Depth spread", help="By how much more or less at most.", **_DEEP
    )
    gravity: Parameter = spec(
        (0.0, 300.0), "vector", unit="px", label="Gravity", help="Pixels a second, each second.", step=5, main=True
    )
    drag: Parameter = spec(
        0.0, label="Drag", help="How much of its speed air takes, each second.", low=0, high=5, step=0.1
    )
    spin: Parameter = spec(0.0, "angle", label="Spin", help="Degrees a second.", step=5)
    spin_random: Parameter = spec(
        0.0, "percentage", label="Spin random", help="By how much of it spins differ.", low=0, high=200, step=5
    )
    facing: Parameter = spec(False, "switch", label="Facing", help="Each is turned along its way.")
    births: Parameter = spec(
        "evenly", "choice", label="Births", help="One after the other, or at random.", options=("evenly", "at random")
    )
    pre_roll: Parameter = spec(
        0.0,
        "time",
        label="Pre-roll",
        help="So long before the scene it begins.",
        low=0,
        high=10,
        limits=(0, 600),
        step=0.5,
    )
    repeat: Parameter = spec(
        0.0,
        "time",
        label="Repeat every",
        help="All comes round after it, without a seam; 0: never.",
        low=0,
        high=20,
        limits=(0, 600),
        step=0.5,
    )
    on_top: Parameter = spec(
        "newest", "choice", label="On top", help="Which lie over others.", options=("newest", "oldest")
    )
    seed: Parameter = spec(
        1.0, label="Seed", help="Another seed, other sparks.", low=1, high=99_999, step=1, whole=True
    )


Arrangement = Annotated[
    Union[Row, Grid, Ground, Ring, AlongPath, Rails, Scatter, Letters, Emitter], Field(discriminator="kind")
]

ARRANGEMENTS: dict[str, type[Model]] = {
    cls.model_fields["kind"].default: cls
    for cls in (Row, Grid, Ground, Ring, AlongPath, Rails, Scatter, Letters, Emitter)
}


def leads_out(arrangement: Model) -> bool:
    """Whether an arrangement leads out of the plane of its array."""
    if isinstance(arrangement, Grid):
        return arrangement.levels.moves or arrangement.levels.constant_value != 1
    names = (name for name, one in specs_of(type(arrangement)).items() if one.deep)
    return isinstance(arrangement, Ground) or any(stands_out(getattr(arrangement, name)) for name in names)


MEASURES = ("number", "columns", "rows", "diagonal", "square", "round", "shuffled", "points", "line", "gauge")
MOST_POINTS = 16
"""Points from the nearest of which copies may be counted."""


class Order(Model):
    """The sequence in which copies are counted: a measure from a point; from the nearest of several; along what is
    drawn; or by what a gauge reads."""

    points: tuple[tuple[Finite, Finite], ...] = Field(
        default=(),
        max_length=MOST_POINTS,
        description="Further points, in percent of the array's extent, of the measure points.",
    )
    outline: str | None = Field(default=None, description="The layer whose line is followed; none: the path data.")
    data: str = Field(default="", max_length=100_000, description="SVG path data in the array's own coordinates.")
    gauge: str | None = Field(default=None, description="The gauge of the array by which its copies are sorted.")
    measure: Parameter = spec(
        "number", "choice", label="Order", help="What is measured, from where.", options=MEASURES, main=True
    )
    origin: Parameter = spec(
        (0.0, 0.0),
        "vector",
        unit="%",
        label="Order from",
        help="A point of the array's extent: 0 0 the top left, 100 100 the bottom right.",
        step=5,
    )
    backwards: Parameter = spec(False, "switch", label="Reversed", help="Last comes first.")
    seed: Parameter = spec(
        1.0, label="Order seed", help="Another seed, another shuffle.", low=1, high=99_999, step=1, whole=True
    )
