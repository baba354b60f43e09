"""What the inside of an outline is painted with."""

from typing import Annotated, Literal, Union

from pydantic import Field

from .ids import Id
from .model import Model
from .parameter import Parameter, spec

FOCUS_WITHIN = 0.999
"""How far out, in radii, the focus of a gradient lies at the most: from the edge itself nothing can be drawn beyond
it."""


class Stop(Model):
    """A colour at a place along a gradient."""

    id: Id
    offset: Parameter = spec(0.0, "percentage", label="Place", low=0, high=100)
    colour: Parameter = spec("#8a9a9f", "colour", label="Colour")


class NoFill(Model):
    """The inside of the outline is left open."""

    kind: Literal["none"] = "none"


class SolidFill(Model):
    """One colour."""

    kind: Literal["solid"] = "solid"
    colour: Parameter = spec("#3f7f88", "colour", label="Fill")


class LinearFill(Model):
    """A gradient along a line, in the layer's own coordinates; CSS and SVG colour mixing."""

    kind: Literal["linear"] = "linear"
    start: Parameter = spec((0.0, -50.0), "vector", unit="px", label="Gradient start")
    end: Parameter = spec((0.0, 50.0), "vector", unit="px", label="Gradient end")
    stops: tuple[Stop, ...] = Field(min_length=2, max_length=16)


class RadialFill(Model):
    """A gradient from a centre outwards, in the layer's own coordinates."""

    kind: Literal["radial"] = "radial"
    centre: Parameter = spec((0.0, 0.0), "vector", unit="px", label="Gradient centre")
    radius: Parameter = spec(50.0, "length", label="Gradient radius", low=0)
    focus: Parameter = spec(
        (0.0, 0.0),
        "vector",
        unit="px",
        label="Gradient focus",
        help="Where it begins, from the centre; further out than the radius it lies at the edge.",
        step=1,
    )
    stops: tuple[Stop, ...] = Field(min_length=2, max_length=16)


class ConicFill(Model):
    """A gradient round a centre, clockwise from an angle, as in CSS: 0° points upwards."""

    kind: Literal["conic"] = "conic"
    centre: Parameter = spec((0.0, 0.0), "vector", unit="px", label="Gradient centre")
    angle: Parameter = spec(
        0.0, "angle", label="Gradient angle", help="Where it begins, clockwise from the top.", step=1
    )
    stops: tuple[Stop, ...] = Field(min_length=2, max_length=16)


Gradient = LinearFill | RadialFill | ConicFill
"""Fills that go from colour to colour."""

Fill = Annotated[Union[NoFill, SolidFill, LinearFill, RadialFill, ConicFill], Field(discriminator="kind")]
