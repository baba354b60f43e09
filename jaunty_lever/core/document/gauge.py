"""Gauges: each reads one number for each copy of an array, and drives parameters as levers do."""

import base64
from functools import cached_property
from hashlib import blake2b
from typing import Annotated, ClassVar, Literal, Self, Union

from pydantic import Field, field_validator, model_validator

from .arrangement import Order
from .ids import Id, OneLine
from .limits import MOST_COPIES
from .model import Model
from .parameter import Parameter, spec
from .specs import ParameterSpec

EDGES = ("linear", "smooth", "cubic-bezier")
WAYS = ("enter", "leave", "pulse", "notch")
ZONE_SHAPES = ("disc", "box", "bar", "outline", "line")
ALONG_LINES = ("outline", "line")
"""Those whose edge is drawn: the inside of an outline, or what is near its line."""
FIELD_OVER = ("place", "row and column", "number", "along", "time alone")
"""What a noise may lie on: where copies stand, their numbers, or their order or outline."""
FIELD_CHARACTERS = ("smooth", "billow", "ridged", "cells")


class Gauge(Model):
    """What every gauge has: a name, and a value whose chain begins with what the gauge reads."""

    title: ClassVar[str] = ""
    wish: ClassVar[str] = ""
    does: ClassVar[str] = ""
    formula: ClassVar[tuple[str, ...]] = ()
    others: ClassVar[tuple[str, ...]] = ()
    """The further numbers that it has of each copy, each with a chain of its own, beside its value."""

    id: Id
    kind: str
    name: OneLine = Field(min_length=1, max_length=80)
    value: Parameter = Parameter.model_construct()

    @cached_property
    def spec(self) -> ParameterSpec:
        """What the gauge's value is: a number, 0 to 1 before its chain."""
        return self.spec_of(self.name)

    @property
    def numbers(self) -> tuple[str, ...]:
        """The names of all numbers that it has of each copy, its value first."""
        return ("value", *self.others)

    def spec_of(self, name: str) -> ParameterSpec:
        """What its value, or one of its other numbers, is: by the name that it has."""
        return ParameterSpec("number", 0.0, name, low=0.0, high=1.0, step=0.05, help=self.does, each=True)


def _each(default: object, *kind: object, **rest: object) -> Parameter:
    made: Parameter = spec(default, *kind, each=True, **rest)  # type: ignore[arg-type]
    return made


class _Edged(Gauge):
    """A gauge with a soft edge that an ease leads through."""

    edge: Parameter = _each("smooth", "choice", label="Edge", help="How it passes from 0 to 1.", options=EDGES)
    x1: Parameter = _each(0.4, label="x1", help="Of the cubic-bezier.", low=0, high=1, step=0.05)
    y1: Parameter = _each(0.0, label="y1", help="Of the cubic-bezier.", low=-1, high=2, step=0.05)
    x2: Parameter = _each(0.6, label="x2", help="Of the cubic-bezier.", low=0, high=1, step=0.05)
    y2: Parameter = _each(1.0, label="y2", help="Of the cubic-bezier.", low=-1, high=2, step=0.05)


class OrderGauge(Gauge):
    """Where each copy stands along an order, 0 to 1."""

    title: ClassVar[str] = "Order"
    wish: ClassVar[str] = "along the order"
    does: ClassVar[str] = "How far along the order each copy stands."
    formula: ClassVar[tuple[str, ...]] = (
        "u, of the order: what is measured, from the least to the greatest as 0 to 1",
        "points: how far from the nearest; line: the share of its length at its nearest spot; gauge: what it reads",
    )

    kind: Literal["order"] = "order"
    order: Order | None = None


class Sweep(_Edged):
    """A front or a band that travels through the copies along the order."""

    title: ClassVar[str] = "Sweep"
    wish: ClassVar[str] = "a change that travels"
    does: ClassVar[str] = "A front or a band that travels through the copies."
    formula: ClassVar[tuple[str, ...]] = (
        "enter: p = travel·(1 + s), a = E((p − u)/s); leave: 1 − enter",
        "pulse: p = travel·(1 + w + s) − (w + s)/2, a = E((w/2 + s/2 − |u − p|)/s); notch: 1 − pulse",
    )

    kind: Literal["sweep"] = "sweep"
    way: Parameter = _each("enter", "choice", label="Way", help="What passes through.", options=WAYS, main=True)
    travel: Parameter = _each(
        0.0, "percentage", label="Travel", help="How far it has come.", low=0, high=100, step=1, main=True
    )
    soft: Parameter = _each(
        20.0,
        "percentage",
        label="Soft",
        help="How much of the array its edge covers.",
        low=0,
        high=100,
        step=1,
        main=True,
    )
    width: Parameter = _each(20.0, "percentage", label="Width", help="Of a pulse or a notch.", low=0, high=100, step=1)
    circle: Parameter = _each(False, "switch", label="Comes round", help="A pulse or notch goes round a circle.")
    profile: Parameter = _each(
        1.0,
        label="Profile",
        help="What each copy plays while the front passes: keys over 0 to 100 % of its passage. Without keys: "
        "the edge.",
        low=0,
        high=1,
        step=0.05,
        passage=True,
    )
    order: Order | None = None


class Zone(_Edged):
    """How near each copy is to a region of the stage."""

    title: ClassVar[str] = "Zone"
    wish: ClassVar[str] = "what is near"
    does: ClassVar[str] = "How near each copy is to a region of the stage."
    formula: ClassVar[tuple[str, ...]] = (
        "d of R(−angle)(place − centre)/size: its length (disc), greater part (box) or first part (bar)",
        "1 up to the inner share q, then E((1 − d)/(1 − q)) up to d = 1, then 0",
        "hollow h: |d − h|/(1 − h) instead of d: 1 along a ring, 0 inside from 2h − 1 in",
        "outline, line: d the distance to what is drawn over size.x; inside an outline d = 0",
        "with an end in depth, z from its centre over the depth size: √(d² + z²), of a box or a bar max(d, |z|)",
    )

    kind: Literal["zone"] = "zone"
    outline: str | None = Field(
        default=None, description="The layer whose outline it has, of the shapes outline and line; none: the path data."
    )
    data: str = Field(default="", max_length=100_000, description="SVG path data on the stage.")
    centre: Parameter = _each((0.0, 0.0), "vector", unit="px", label="Centre", help="On the stage.", step=1, main=True)
    size: Parameter = _each(
        (160.0, 160.0), "vector", unit="px", label="Size", help="From its middle to its edge.", low=0, step=1, main=True
    )
    centre_depth: Parameter = _each(
        0.0, "length", label="Depth centre", help="How near to the viewer.", low=-800, high=800, step=1, deep=True
    )
    size_depth: Parameter = _each(
        0.0,
        "length",
        label="Depth size",
        help="From its middle to its edge; at 0 it goes on for ever, near and far.",
        low=0,
        high=800,
        step=1,
        deep=True,
    )
    angle: Parameter = _each(0.0, "angle", label="Angle", help="How it is turned.", step=1)
    turn: Parameter = _each(0.0, "angle", label="Turn", help="How it is turned as seen from above.", step=1, deep=True)
    shape: Parameter = _each(
        "disc",
        "choice",
        label="Shape",
        help="Of the region; outline and line: as drawn.",
        options=ZONE_SHAPES,
        main=True,
    )
    inner: Parameter = _each(
        20.0, "percentage", label="Inner", help="The share of it that is 1 throughout.", low=0, high=100, step=5
    )
    hollow: Parameter = _each(
        0.0,
        "percentage",
        label="Hollow",
        help="How far out it is strongest: a ring, with nothing in its middle.",
        low=0,
        high=100,
        step=5,
    )
    backwards: Parameter = _each(False, "switch", label="Reversed", help="1 outside and 0 within.")


class NoiseGauge(Gauge):
    """A coherent scatter: neighbours are alike when zoomed far in."""

    title: ClassVar[str] = "Noise"
    wish: ClassVar[str] = "a coherent scatter"
    does: ClassVar[str] = "What a coherent noise says at each copy's place."
    formula: ClassVar[tuple[str, ...]] = (
        "(N + 1)/2 of coherent noise at ((place − scroll)/zoom, phase); y and z: N of other components of that field",
        "in step: N of y and z led to that of the first; along, where copies close: N on a circle as long, without "
        "a seam",
    )
    others: ClassVar[tuple[str, ...]] = ("y", "z")

    kind: Literal["noise"] = "noise"
    y: Parameter = Parameter.model_construct()
    z: Parameter = Parameter.model_construct()
    over: Parameter = _each("place", "choice", label="Over", help="What the noise lies on.", options=FIELD_OVER)
    character: Parameter = _each(
        "smooth",
        "choice",
        label="Character",
        help="Hills, tufts with creases between, ridges, or scattered spots.",
        options=FIELD_CHARACTERS,
        main=True,
    )
    zoom: Parameter = _each(
        (200.0, 200.0), "vector", label="Zoom", help="How far apart new values lie.", low=0, step=5, main=True
    )
    zoom_depth: Parameter = _each(
        0.0,
        label="Depth zoom",
        help="The same near and far; at 0 it goes on unchanged.",
        low=0,
        high=800,
        step=5,
        deep=True,
    )
    scroll: Parameter = _each((0.0, 0.0), "vector", label="Scroll", help="How far it is moved along.", step=5)
    scroll_depth: Parameter = _each(
        0.0, label="Depth scroll", help="How far it is moved nearer.", low=-800, high=800, step=5, deep=True
    )
    frequency: Parameter = _each(
        0.0, "frequency", label="Frequency", help="New values a second.", low=0, high=12, step=0.1, main=True
    )
    repeat: Parameter = _each(
        0.0, "time", label="Repeat every", help="Comes round without a seam; 0 never repeats.", low=0, high=20, step=0.1
    )
    octaves: Parameter = _each(1.0, label="Octaves", help="Layers of finer detail.", low=1, high=8, step=1, whole=True)
    persistence: Parameter = _each(
        0.5, label="Persistence", help="How strong each finer octave is.", low=0, high=1, step=0.05
    )
    in_step: Parameter = _each(
        0.0,
        "percentage",
        label="In step",
        help="How far y and z go with the first number; at 100 % all three are one.",
        low=0,
        high=100,
        step=5,
    )
    seed: Parameter = _each(
        1.0, label="Seed", help="Another seed, another noise.", low=1, high=99_999, step=1, whole=True, main=True
    )


class RandomGauge(Gauge):
    """A number of its own for each copy."""

    title: ClassVar[str] = "Random"
    wish: ClassVar[str] = "each its own"
    does: ClassVar[str] = "A number of its own for each copy."
    formula: ClassVar[tuple[str, ...]] = ("even in 0..1, by seed and number",)

    kind: Literal["random"] = "random"
    seed: Parameter = _each(
        1.0, label="Seed", help="Another seed, other numbers.", low=1, high=99_999, step=1, whole=True, main=True
    )


COLUMN_BY = ("number", "rank")
COLUMN_AS = ("share of the greatest", "as written")
COLUMN_BEYOND = ("nothing", "the last one", "from the first on")


class ColumnGauge(Gauge):
    """What a column of a table says of each copy. Its cells are a copy of the table's, kept up by what follows it."""

    title: ClassVar[str] = "Column"
    wish: ClassVar[str] = "what a table says"
    does: ClassVar[str] = "The number that a column of a table has for each copy."
    formula: ClassVar[tuple[str, ...]] = ("the cell of row i, or of the copy's rank; as a share: over the greatest",)

    kind: Literal["column"] = "column"
    source: OneLine = Field(default="", max_length=300, description="The table and the column, for people.")
    cells: tuple[float, ...] = Field(default=(), max_length=MOST_COPIES)
    by: Parameter = _each("number", "choice", label="Row by", help="Which row is a copy's own.", options=COLUMN_BY)
    scale: Parameter = _each(
        "share of the greatest", "choice", label="Read as", help="0 to 1, or the numbers.", options=COLUMN_AS, main=True
    )
    beyond: Parameter = _each(
        "nothing", "choice", label="Beyond", help="What copies have after the last row.", options=COLUMN_BEYOND
    )
    order: Order | None = None

    @property
    def greatest(self) -> float:
        """What its value is at most: 1 as a share."""
        as_share = self.scale.constant_value != "as written"
        return 1.0 if as_share else max((abs(cell) for cell in self.cells), default=1.0)

    @cached_property
    def digest(self) -> str:
        """What the cells are, in a few letters."""
        return blake2b(repr(self.cells).encode(), digest_size=10).hexdigest()


MOST_GRID = 128
"""Spots of a picture along a side that a gauge keeps."""


class PictureGauge(Gauge):
    """How bright a picture is at each copy's place. It keeps the brightness alone, small: pictures may go."""

    title: ClassVar[str] = "Picture"
    wish: ClassVar[str] = "what a picture shows"
    does: ClassVar[str] = "How bright a picture is where each copy stands, laid over all of them."
    formula: ClassVar[tuple[str, ...]] = (
        "the brightness at the place's share of the array's extent, 0 black, 1 white",
    )

    kind: Literal["picture"] = "picture"
    source: OneLine = Field(default="", max_length=200, description="The picture's name, for people.")
    wide: int = Field(default=1, ge=1, le=MOST_GRID)
    high: int = Field(default=1, ge=1, le=MOST_GRID)
    data: str = Field(default="AA==", max_length=4 * MOST_GRID**2, description="A byte for each spot, in base64.")
    backwards: Parameter = _each(False, "switch", label="Reversed", help="1 where it is dark.", main=True)

    @field_validator("data")
    @classmethod
    def _bytes(cls, value: str) -> str:
        try:
            base64.b64decode(value, validate=True)
        except ValueError:
            raise ValueError("the brightness of a picture is bytes in base64") from None
        return value

    @model_validator(mode="after")
    def _whole(self) -> Self:
        if len(base64.b64decode(self.data)) != self.wide * self.high:
            raise ValueError(f"{self.wide} × {self.high} spots need as many bytes")
        return self

    @cached_property
    def digest(self) -> str:
        """What the brightness is, in a few letters."""
        return blake2b(f"{self.wide} {self.data}".encode(), digest_size=10).hexdigest()


class LifeGauge(Gauge):
    """How far a spark has come in its life, along a curve of its own."""

    title: ClassVar[str] = "Life"
    wish: ClassVar[str] = "how far each has lived"
    does: ClassVar[str] = "How much of its life each spark has lived."
    formula: ClassVar[tuple[str, ...]] = ("life = age/lifetime; with a curve: the curve at life",)

    kind: Literal["life"] = "life"
    profile: Parameter = _each(
        1.0,
        label="Curve",
        help="What each spark plays while it lives: keys over 0 to 100 % of its life. Without keys: 0 to 1.",
        low=0,
        high=1,
        step=0.05,
        passage=True,
    )


AnyGauge = Annotated[
    Union[OrderGauge, Sweep, Zone, NoiseGauge, RandomGauge, ColumnGauge, LifeGauge, PictureGauge],
    Field(discriminator="kind"),
]

GAUGES: dict[str, type[Gauge]] = {
    cls.model_fields["kind"].default: cls
    for cls in (Sweep, Zone, NoiseGauge, RandomGauge, OrderGauge, ColumnGauge, PictureGauge, LifeGauge)
}
