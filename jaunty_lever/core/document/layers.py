"""Layers: what is drawn. Every number of a layer is a parameter."""

from typing import Annotated, Any, ClassVar, Literal, Union, get_args

from pydantic import Field

from .arrangement import Arrangement, Order, Row
from .base_layer import BaseLayer
from .clips import Timing
from .edge import Edge
from .fills import Fill, NoFill, SolidFill, Stop
from .gauge import AnyGauge
from .ids import new_id
from .line_style import LineStyle
from .parameter import Parameter, spec
from .pictures import MOST_SIDE
from .space import Ball, Block, CameraLayer, LightLayer


class ShapeLayer(BaseLayer):
    """A layer with an outline that is filled and stroked."""

    fill: Fill = Field(default_factory=SolidFill)
    stroke: Parameter = spec("#22303c", "colour", label="Stroke")
    stroke_width: Parameter = spec(0.0, "length", label="Stroke width", low=0, high=40, step=0.5, ends=(0, None))
    edge: Edge | None = Field(default=None, description="What moves the outline point by point.")
    line: LineStyle | None = Field(default=None, description="Which part of the outline is stroked, and how.")


_CORNER = {"label": "Corner radius", "help": "How far corners between straight sides are rounded off."}


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
    corner: Parameter = spec(0.0, "length", low=0, high=80, step=1, **_CORNER)


class Star(ShapeLayer):
    """A star, a point upwards."""

    title: ClassVar[str] = "Star"
    kind: Literal["star"] = "star"
    points: Parameter = spec(5.0, label="Points", low=3, high=60, step=1, whole=True)
    outer: Parameter = spec(80.0, "length", label="Outer radius", low=0, step=1)
    inner: Parameter = spec(36.0, "length", label="Inner radius", low=0, step=1)
    corner: Parameter = spec(0.0, "length", low=0, high=80, step=1, **_CORNER)


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
    stroke_width: Parameter = spec(4.0, "length", label="Stroke width", low=0, high=40, step=0.5, ends=(0, None))
    start: Parameter = spec((-80.0, 0.0), "vector", unit="px", label="Start", step=1)
    end: Parameter = spec((80.0, 0.0), "vector", unit="px", label="End", step=1)


class Path(ShapeLayer):
    """An outline given as SVG path data."""

    title: ClassVar[str] = "Path"
    kind: Literal["path"] = "path"
    data: str = Field(default="M -80 40 C -40 -60 40 -60 80 40", max_length=100_000)
    corner: Parameter = spec(0.0, "length", low=0, high=80, step=1, **_CORNER)


class Text(ShapeLayer):
    """A line or lines of text about the middle of its first line, set in a shipped font or one of the project's."""

    title: ClassVar[str] = "Text"
    kind: Literal["text"] = "text"
    typeface: str | None = Field(
        default=None, description="The id of one of the project's fonts, which takes the place of the shipped one."
    )
    text: Parameter = spec("Text", "text", label="Text")
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


class ClipLayer(BaseLayer):
    """Moving pictures about their own middle."""

    title: ClassVar[str] = "Clip"
    does: ClassVar[str] = "A video, or numbered pictures: cut, at any speed, held, forwards and back."
    formula: ClassVar[tuple[str, ...]] = (
        "moment of the clip = from + ∫ speed dτ, since it begins, + moment",
        "held: kept within from … until; again: counted round and round; there and back: folded",
    )
    kind: Literal["clip"] = "clip"
    clip: str = Field(description="The id of one of the project's clips; what follows is told of it.")
    width: int = Field(ge=1, le=MOST_SIDE)
    height: int = Field(ge=1, le=MOST_SIDE)
    timing: Timing
    sound: bool = Field(default=False, description="Whether the clip has any.")
    sounds: bool = Field(default=True, description="Whether its sound goes into films.")
    begins: Parameter = spec(
        0.0, "time", label="Begins", help="When it begins to play, seconds of the scene.", step=0.1
    )
    speed: Parameter = spec(
        100.0,
        "percentage",
        label="Speed",
        help="At 50 % half as fast, below 0 backwards, at 0 the moment alone decides.",
        low=-200,
        high=200,
        step=5,
    )
    moment: Parameter = spec(
        0.0, "time", label="Moment", help="Seconds of the clip, on top of where it plays.", step=0.1
    )
    start: Parameter = spec(0.0, "time", label="From", help="What is before it is cut off.", low=0, step=0.1)
    stop: Parameter = spec(
        0.0, "time", label="Until", help="What is after it is cut off; at 0 nothing is.", low=0, step=0.1
    )
    ends: Parameter = spec(
        "held",
        "choice",
        label="At its ends",
        help="What shows before it begins and when it is over.",
        options=("held", "again", "there and back", "nothing"),
    )


def _fog() -> tuple[Stop, ...]:
    return (
        Stop(id=new_id("stop"), offset=0.0, colour="#8fa3a800"),
        Stop(id=new_id("stop"), offset=100.0, colour="#eef2efff"),
    )


class TextureLayer(BaseLayer):
    """Coherent noise about its own middle: fog, smoke, water, paper."""

    title: ClassVar[str] = "Texture"
    does: ClassVar[str] = "Fog, smoke, water, paper: noise over a rectangle, led through a ramp of colours."
    formula: ClassVar[tuple[str, ...]] = (
        "light = ½ + ½ · (contrast · Σ pᵏ·N(2ᵏ·x, 2ᵏ·y, 2ᵏ·evolution) / Σ pᵏ + brightness), x = (place − "
        "scroll)/zoom, each octave turned",
        "billow: 2|N| − 1 for N; ridged: 1 − 2|N|",
    )
    kind: Literal["texture"] = "texture"
    size: Parameter = spec((640.0, 360.0), "vector", unit="px", label="Size", low=0, step=1)
    zoom: Parameter = spec(160.0, "length", label="Zoom", help="How large what is in it is.", low=4, high=600, step=1)
    octaves: Parameter = spec(
        3.0,
        label="Octaves",
        help="How many finer noises lie over the first, each twice as fine.",
        low=1,
        high=8,
        limits=(1, 8),
        step=1,
        whole=True,
    )
    persistence: Parameter = spec(
        50.0,
        "percentage",
        label="Persistence",
        help="How much each has a say beside the one before.",
        low=0,
        high=100,
        step=1,
    )
    character: Parameter = spec(
        "smooth",
        "choice",
        label="Character",
        help="Soft hills, round clouds or sharp ridges.",
        options=("smooth", "billow", "ridged"),
    )
    contrast: Parameter = spec(
        140.0, "percentage", label="Contrast", help="Of light and dark in it.", low=0, high=400, step=1
    )
    brightness: Parameter = spec(
        0.0,
        "percentage",
        label="Brightness",
        help="More of the light end of the ramp, or of the dark.",
        low=-100,
        high=100,
        step=1,
    )
    scroll: Parameter = spec(
        (0.0, 0.0), "vector", unit="px", label="Scroll", help="How far what is in it has moved.", step=1
    )
    evolution: Parameter = spec(
        0.0,
        label="Evolution",
        help="A phase: while it goes on, what is in it becomes something else.",
        low=-10,
        high=10,
        step=0.05,
    )
    repeat: Parameter = spec(
        0.0,
        label="Repeats after",
        help="So many of evolution, whole; at 0 it never does.",
        low=0,
        high=20,
        step=1,
        whole=True,
        limits=(0, 10_000),
    )
    seed: Parameter = spec(
        1.0, label="Seed", help="Another seed, another texture.", low=1, high=99_999, step=1, whole=True
    )
    stops: tuple[Stop, ...] = Field(default_factory=_fog, min_length=2, max_length=16)


class TraceLayer(BaseLayer):
    """The line that a moving point leaves: worked out over the whole scene, and seen as far as the point has come."""

    title: ClassVar[str] = "Trace"
    does: ClassVar[str] = "The way of a point, drawn: of a layer, of each copy, of each spark."
    formula: ClassVar[tuple[str, ...]] = (
        "seen from t − how long to t, of a line on which no chord lies further than ¼ px from the way",
    )
    kind: Literal["trace"] = "trace"
    follows: str = Field(
        default="",
        max_length=200,
        description="The id of a layer, whose pivot it is; or of a vector, which is a place.",
    )
    at: Parameter = spec(
        (0.0, 0.0), "vector", unit="px", label="Point", help="From the layer's pivot, in its own coordinates.", step=1
    )
    seconds: Parameter = spec(
        0.0, "time", label="How long", help="So many seconds back; at 0 from the first frame.", low=0, high=10, step=0.1
    )
    stroke: Parameter = spec("#22303c", "colour", label="Stroke")
    stroke_width: Parameter = spec(3.0, "length", label="Stroke width", low=0, high=40, step=0.5, ends=(0, None))
    taper: Parameter = spec(
        0.0, "percentage", label="Taper", help="By how much it is thinner where it is oldest.", low=0, high=100, step=1
    )
    fade: Parameter = spec(
        0.0, "percentage", label="Fade", help="By how much it is clearer where it is oldest.", low=0, high=100, step=1
    )
    closed: Parameter = spec(False, "switch", label="Closed", help="Its two ends are joined.")


class Group(BaseLayer):
    """Layers that move, turn, scale and fade as one."""

    title: ClassVar[str] = "Group"
    kind: Literal["group"] = "group"
    by_depth: bool = Field(default=False, description="Whether what is nearer to the viewer is drawn later.")
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
    copy_depth: Parameter = spec(
        0.0,
        "length",
        label="Copy depth",
        help="How much nearer to the viewer.",
        low=-800,
        high=800,
        step=1,
        each=True,
        deep=True,
        stands=True,
    )
    copy_tilt: Parameter = spec(
        (0.0, 0.0),
        "vector",
        unit="°",
        label="Copy tilt",
        help="About its own x and y axis.",
        step=1,
        each=True,
        deep=True,
    )
    copy_opacity: Parameter = spec(
        100.0, "percentage", label="Copy opacity", low=0, high=100, step=1, each=True, ends=(0, 100)
    )
    gauges: tuple[AnyGauge, ...] = ()


Layer = Annotated[
    Union[
        Ellipse,
        Rectangle,
        Polygon,
        Star,
        GearLayer,
        Line,
        Path,
        Text,
        PictureLayer,
        ClipLayer,
        TextureLayer,
        TraceLayer,
        Block,
        Ball,
        CameraLayer,
        LightLayer,
        Group,
        ArrayLayer,
    ],
    Field(discriminator="kind"),
]

LAYER_KINDS: dict[str, type[BaseLayer]] = {
    cls.model_fields["kind"].default: cls for cls in get_args(get_args(Layer)[0])
}


def shown_by_none(cls: type[BaseLayer]) -> dict[str, Any]:
    """The fields that a layer of a kind needs before any picture or clip is at hand."""
    if cls is PictureLayer:
        return {"picture": "none", "width": 1, "height": 1}
    if cls is ClipLayer:
        return {"clip": "none", "width": 1, "height": 1, "timing": {"tick": 1.0, "runs": [[1, 1]]}}
    return {}
