"""Arrangements: where the copies of an array stand before anything moves them, and in which order they are counted.

Coordinates are the array's own, px, its origin in the middle, x right, y down. Every number is a parameter.
"""

from typing import Annotated, Any, ClassVar, Literal, Union

from pydantic import Field

from .limits import MOST_COPIES
from .model import Model
from .parameter import Parameter, spec

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
_OUTLINE = "The layer whose outline is taken; none: the path data."


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
    gap: Parameter = spec((90.0, 0.0), "vector", unit="px", label="Gap", help="From one to the next.", step=1)
    span: Parameter = spec((600.0, 0.0), "vector", unit="px", label="Span", help="From the first to the last.", step=1)


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
    gap: Parameter = spec((90.0, 90.0), "vector", unit="px", label="Gap", help="Between columns, between rows.", step=1)
    span: Parameter = spec((600.0, 400.0), "vector", unit="px", label="Span", help="Of all columns, all rows.", step=1)
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
    seed: Parameter = spec(1.0, label="Seed", help="Another seed, other spots.", low=1, high=99_999, step=1, whole=True)


Arrangement = Annotated[Union[Row, Grid, Ring, AlongPath, Scatter], Field(discriminator="kind")]

ARRANGEMENTS: dict[str, type[Model]] = {
    cls.model_fields["kind"].default: cls for cls in (Row, Grid, Ring, AlongPath, Scatter)
}

MEASURES = ("number", "columns", "rows", "diagonal", "square", "round", "shuffled")


class Order(Model):
    """The sequence in which copies are counted: a measure from a point."""

    measure: Parameter = spec(
        "number", "choice", label="Order", help="What is measured from the point.", options=MEASURES, main=True
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
