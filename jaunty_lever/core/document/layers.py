"""Layers: what is drawn. Every number of a layer is a parameter."""

from typing import Annotated, ClassVar, Literal, Union

from pydantic import Field

from .arrangement import Arrangement, Order, Row
from .gauge import AnyGauge
from .ids import Id, OneLine
from .model import Model
from .parameter import Parameter, spec
from .pictures import MOST_SIDE


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
    stops: tuple[Stop, ...] = Field(min_length=2, max_length=16)


Fill = Annotated[Union[NoFill, SolidFill, LinearFill, RadialFill], Field(discriminator="kind")]


class BaseLayer(Model):
    """What every layer has. It turns and scales about its pivot, which `position` places in its parent."""

    title: ClassVar[str] = ""

    id: Id
    kind: str
    name: OneLine = Field(min_length=1, max_length=120)
    hidden: bool = False
    position: Parameter = spec((0.0, 0.0), "vector", unit="px", label="Position", step=1)
    rotation: Parameter = spec(0.0, "angle", label="Rotation", step=1)
    scale: Parameter = spec((100.0, 100.0), "vector", unit="%", label="Scale", step=1)
    pivot: Parameter = spec((0.0, 0.0), "vector", unit="px", label="Pivot", step=1)
    opacity: Parameter = spec(100.0, "percentage", label="Opacity", low=0, high=100, step=1)


class ShapeLayer(BaseLayer):
    """A layer with an outline that is filled and stroked."""

    fill: Fill = Field(default_factory=SolidFill)
    stroke: Parameter = spec("#22303c", "colour", label="Stroke")
    stroke_width: Parameter = spec(0.0, "length", label="Stroke width", low=0, high=40, step=0.5)


class Ellipse(ShapeLayer):
    """An ellipse about its own origin."""

    title: ClassVar[str] = "Ellipse"
    kind: Literal["ellipse"] = "ellipse"
    size: Parameter = spec((120.0, 120.0), "vector", unit="px", label="Size", low=0, step=1)


class Rectangle(ShapeLayer):
    """A rectangle about its own origin, with rounded corners."""

    title: ClassVar[str] = "Rectangle"
    kind: Literal["rectangle"] = "rectangle"
    size: Parameter = spec((160.0, 100.0), "vector", unit="px", label="Size", low=0, step=1)
    corner: Parameter = spec(0.0, "length", label="Corner radius", low=0, high=80, step=1)


class Polygon(ShapeLayer):
    """A regular polygon, a corner upwards."""

    title: ClassVar[str] = "Polygon"
    kind: Literal["polygon"] = "polygon"
    sides: Parameter = spec(6.0, label="Sides", low=3, high=60, step=1, whole=True)
    radius: Parameter = spec(70.0, "length", label="Radius", low=0, step=1)


class Star(ShapeLayer):
    """A star, a point upwards."""

    title: ClassVar[str] = "Star"
    kind: Literal["star"] = "star"
    points: Parameter = spec(5.0, label="Points", low=3, high=60, step=1, whole=True)
    outer: Parameter = spec(80.0, "length", label="Outer radius", low=0, step=1)
    inner: Parameter = spec(36.0, "length", label="Inner radius", low=0, step=1)


class GearLayer(ShapeLayer):
    """A gear wheel with involute teeth, a ring with teeth inside, or a rack; a tooth (of a ring: a gap) upwards."""

    title: ClassVar[str] = "Gear"
    kind: Literal["gear"] = "gear"
    form: Parameter = spec("wheel", "choice", label="Form", options=("wheel", "ring", "rack"))
    module: Parameter = spec(
        10.0,
        "length",
        label="Module",
        help="Pitch diameter over teeth; wheels mesh when theirs is the same.",
        low=1,
        high=60,
        step=0.5,
    )
    teeth: Parameter = spec(
        20.0,
        label="Teeth",
        help="How many; of a rack, along its length.",
        low=6,
        high=120,
        limits=(6, 400),
        step=1,
        whole=True,
    )
    pressure_angle: Parameter = spec(
        20.0,
        "angle",
        label="Pressure angle",
        help="How the flanks lean; wheels mesh when theirs is the same.",
        low=14.5,
        high=28,
        step=0.5,
    )
    bore: Parameter = spec(12.0, "length", label="Bore", help="The radius of the hole.", low=0, high=80, step=1)


class Line(ShapeLayer):
    """A straight line between two points."""

    title: ClassVar[str] = "Line"
    kind: Literal["line"] = "line"
    fill: Fill = Field(default_factory=NoFill)
    stroke_width: Parameter = spec(4.0, "length", label="Stroke width", low=0, high=40, step=0.5)
    start: Parameter = spec((-80.0, 0.0), "vector", unit="px", label="Start", step=1)
    end: Parameter = spec((80.0, 0.0), "vector", unit="px", label="End", step=1)


class Path(ShapeLayer):
    """An outline given as SVG path data."""

    title: ClassVar[str] = "Path"
    kind: Literal["path"] = "path"
    data: str = Field(default="M -80 40 C -40 -60 40 -60 80 40", max_length=100_000)


class Text(ShapeLayer):
    """A line or lines of text about the middle of its first line, set in a shipped font or one of the project's."""

    title: ClassVar[str] = "Text"
    kind: Literal["text"] = "text"
    typeface: str | None = Field(
        default=None, description="The id of one of the project's fonts, which takes the place of the shipped one."
    )
    text: Parameter = spec("Lantern Quay", "text", label="Text")
    font: Parameter = spec(
        "Bricolage Grotesque",
        "choice",
        label="Font",
        options=("Bricolage Grotesque", "Instrument Sans", "Martian Mono"),
    )
    weight: Parameter = spec(600.0, label="Weight", low=200, high=800, step=10)
    font_size: Parameter = spec(64.0, "length", label="Font size", low=1, high=400, step=1)
    tracking: Parameter = spec(0.0, "percentage", label="Letter spacing", low=-10, high=100, step=1)
    leading: Parameter = spec(120.0, "percentage", label="Line height", low=60, high=240, step=1)
    align: Parameter = spec("middle", "choice", label="Align", options=("start", "middle", "end"))


class PictureLayer(BaseLayer):
    """A picture about its own middle; `width` and `height` are its own, in pixels."""

    title: ClassVar[str] = "Picture"
    kind: Literal["picture"] = "picture"
    picture: str = Field(description="The id of one of the project's pictures.")
    width: int = Field(ge=1, le=MOST_SIDE)
    height: int = Field(ge=1, le=MOST_SIDE)
    beyond: Parameter = spec(
        "nothing",
        "choice",
        label="Beyond edge",
        help="What shows where the picture ends.",
        options=("nothing", "repeated", "mirrored"),
    )


class Group(BaseLayer):
    """Layers that move, turn, scale and fade as one."""

    title: ClassVar[str] = "Group"
    kind: Literal["group"] = "group"
    layers: tuple["Layer", ...] = ()


class ArrayLayer(Group):
    """A layer that shows its pattern (the layers inside it) many times, each copy at its place."""

    title: ClassVar[str] = "Array"
    kind: Literal["array"] = "array"  # type: ignore[assignment]
    arrangement: Arrangement = Field(default_factory=Row)
    order: Order = Field(default_factory=Order)
    later: Parameter = spec(
        0.0, "time", label="Each later", help="How much later each rank lives than the one before.", step=0.1
    )
    random_later: Parameter = spec(
        0.0,
        "time",
        label="Random later",
        help="Up to so much later, each copy by a number of its own.",
        low=0,
        step=0.1,
    )
    random_seed: Parameter = spec(
        1.0, label="Random seed", help="Another seed, other moments.", low=1, high=99_999, step=1, whole=True
    )
    lives: Parameter = spec(
        "on",
        "choice",
        label="Lives",
        help="The pattern's time goes on, or each copy stands at the moment told.",
        options=("on", "at a moment"),
    )
    moment: Parameter = spec(
        0.0, "time", label="Moment", help="Of the pattern's own time, that each copy shows.", step=0.1, each=True
    )
    copy_position: Parameter = spec(
        (0.0, 0.0),
        "vector",
        unit="px",
        label="Copy position",
        help="On top of its place.",
        step=1,
        each=True,
        stands=True,
    )
    copy_rotation: Parameter = spec(0.0, "angle", label="Copy rotation", help="About its place.", step=1, each=True)
    copy_scale: Parameter = spec(
        (100.0, 100.0), "vector", unit="%", label="Copy scale", help="About its place.", step=1, each=True
    )
    copy_opacity: Parameter = spec(100.0, "percentage", label="Copy opacity", low=0, high=100, step=1, each=True)
    gauges: tuple[AnyGauge, ...] = ()


Layer = Annotated[
    Union[Ellipse, Rectangle, Polygon, Star, GearLayer, Line, Path, Text, PictureLayer, Group, ArrayLayer],
    Field(discriminator="kind"),
]

LAYER_KINDS: dict[str, type[BaseLayer]] = {
    cls.model_fields["kind"].default: cls
    for cls in (Ellipse, Rectangle, Polygon, Star, GearLayer, Line, Path, Text, PictureLayer, Group, ArrayLayer)
}
