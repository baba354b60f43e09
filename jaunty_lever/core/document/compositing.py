"""How a layer goes together with what lies below it: blend, filters, matte. Words and defaults are those of CSS."""

from typing import Annotated, ClassVar, Literal, Union

from pydantic import Field

from .ids import Id
from .model import Model
from .parameter import Parameter, spec

BLENDS = (
    "normal",
    "multiply",
    "screen",
    "overlay",
    "darken",
    "lighten",
    "color-dodge",
    "color-burn",
    "hard-light",
    "soft-light",
    "difference",
    "exclusion",
    "plus-lighter",
)
"""CSS's mix-blend-mode, as far as it is offered."""


class Filter(Model):
    """Changes the picture of a layer before it is laid down. Filters act one after the other."""

    title: ClassVar[str] = ""
    does: ClassVar[str] = ""
    formula: ClassVar[tuple[str, ...]] = ()
    #: What a filter that is added begins with, so that it is seen.
    begins: ClassVar[dict[str, float | tuple[float, ...]]] = {}

    id: Id
    kind: str
    bypassed: bool = False


def _amount(default: float, label: str, help: str, high: float = 300) -> Parameter:
    made: Parameter = spec(default, "percentage", label=label, help=help, low=0, high=high, step=1, main=True)
    return made


class Blur(Filter):
    """Soft, as if out of focus."""

    title: ClassVar[str] = "Blur"
    does: ClassVar[str] = "Soft, as if out of focus."
    formula: ClassVar[tuple[str, ...]] = ("the picture folded with a Gaussian of this standard deviation",)
    begins: ClassVar[dict[str, float | tuple[float, ...]]] = {"radius": 6}
    kind: Literal["blur"] = "blur"
    radius: Parameter = spec(
        0.0,
        "length",
        label="Radius",
        help="The standard deviation, in the layer's own pixels.",
        low=0,
        high=80,
        step=0.5,
        main=True,
    )


class Brightness(Filter):
    """Lighter or darker."""

    title: ClassVar[str] = "Brightness"
    does: ClassVar[str] = "Lighter or darker: every colour times an amount."
    formula: ClassVar[tuple[str, ...]] = ("c′ = a · c",)
    begins: ClassVar[dict[str, float | tuple[float, ...]]] = {"amount": 130}
    kind: Literal["brightness"] = "brightness"
    amount: Parameter = _amount(100.0, "Amount", "100 % leaves it as it is, 0 % is black.")


class Contrast(Filter):
    """Further from grey or nearer to it."""

    title: ClassVar[str] = "Contrast"
    does: ClassVar[str] = "Lights and darks further apart, or nearer to grey."
    formula: ClassVar[tuple[str, ...]] = ("c′ = a · (c − ½) + ½",)
    begins: ClassVar[dict[str, float | tuple[float, ...]]] = {"amount": 140}
    kind: Literal["contrast"] = "contrast"
    amount: Parameter = _amount(100.0, "Amount", "100 % leaves it as it is, 0 % is grey.")


class Saturate(Filter):
    """Stronger colours, or weaker ones."""

    title: ClassVar[str] = "Saturate"
    does: ClassVar[str] = "Stronger colours, or weaker ones."
    formula: ClassVar[tuple[str, ...]] = ("c′ = Y + a · (c − Y), Y = 0.213 R + 0.715 G + 0.072 B",)
    begins: ClassVar[dict[str, float | tuple[float, ...]]] = {"amount": 160}
    kind: Literal["saturate"] = "saturate"
    amount: Parameter = _amount(100.0, "Amount", "100 % leaves it as it is, 0 % is without colour.")


class HueRotate(Filter):
    """All hues turned."""

    title: ClassVar[str] = "Hue rotate"
    does: ClassVar[str] = "All hues turned by an angle."
    formula: ClassVar[tuple[str, ...]] = ("a turn about the grey axis of R, G and B that keeps Y",)
    begins: ClassVar[dict[str, float | tuple[float, ...]]] = {"angle": 60}
    kind: Literal["hue-rotate"] = "hue-rotate"
    angle: Parameter = spec(0.0, "angle", label="Angle", help="By how much.", step=1, main=True)


class Invert(Filter):
    """Light to dark and dark to light."""

    title: ClassVar[str] = "Invert"
    does: ClassVar[str] = "Light to dark and dark to light."
    formula: ClassVar[tuple[str, ...]] = ("c′ = c + a · (1 − 2 c)",)
    kind: Literal["invert"] = "invert"
    amount: Parameter = _amount(100.0, "Amount", "0 % leaves it as it is, 50 % is grey.", 100)


class Grayscale(Filter):
    """Without colour."""

    title: ClassVar[str] = "Grayscale"
    does: ClassVar[str] = "Without colour."
    formula: ClassVar[tuple[str, ...]] = ("c′ = c + a · (Y − c), Y = 0.2126 R + 0.7152 G + 0.0722 B",)
    kind: Literal["grayscale"] = "grayscale"
    amount: Parameter = _amount(100.0, "Amount", "0 % leaves it as it is.", 100)


class Sepia(Filter):
    """Brown, like an old print."""

    title: ClassVar[str] = "Sepia"
    does: ClassVar[str] = "Brown, like an old print."
    formula: ClassVar[tuple[str, ...]] = ("c′ = c + a · (S c − c), S the matrix of Filter Effects",)
    kind: Literal["sepia"] = "sepia"
    amount: Parameter = _amount(100.0, "Amount", "0 % leaves it as it is.", 100)


class DropShadow(Filter):
    """A shadow behind it."""

    title: ClassVar[str] = "Drop shadow"
    does: ClassVar[str] = "A shadow behind it, of its own shape."
    formula: ClassVar[tuple[str, ...]] = ("its shape in one colour, moved and blurred, under it",)
    begins: ClassVar[dict[str, float | tuple[float, ...]]] = {"offset": (6.0, 8.0), "radius": 6}
    kind: Literal["drop-shadow"] = "drop-shadow"
    offset: Parameter = spec(
        (0.0, 0.0),
        "vector",
        unit="px",
        label="Shadow offset",
        help="In the layer's own coordinates.",
        step=1,
        main=True,
    )
    radius: Parameter = spec(
        0.0, "length", label="Radius", help="How soft: the standard deviation.", low=0, high=80, step=0.5, main=True
    )
    colour: Parameter = spec("#22303c80", "colour", label="Shadow colour", main=True)


class TwoColours(Filter):
    """Darks led to one colour, lights to another."""

    title: ClassVar[str] = "Two colours"
    does: ClassVar[str] = "Darks become one colour and lights another."
    formula: ClassVar[tuple[str, ...]] = (
        "c′ = c + a · (dark + (light − dark) · Y − c), Y = 0.2126 R + 0.7152 G + 0.0722 B",
    )
    kind: Literal["two-colours"] = "two-colours"
    dark: Parameter = spec("#1c2d44", "colour", label="Dark", help="What darks become.", main=True)
    light: Parameter = spec("#f0d9a8", "colour", label="Light", help="What lights become.", main=True)
    amount: Parameter = _amount(100.0, "Amount", "0 % leaves it as it is.", 100)


AnyFilter = Annotated[
    Union[Blur, Brightness, Contrast, Saturate, HueRotate, Invert, Grayscale, Sepia, DropShadow, TwoColours],
    Field(discriminator="kind"),
]

FILTERS: dict[str, type[Filter]] = {
    cls.model_fields["kind"].default: cls
    for cls in (Blur, Brightness, Contrast, Saturate, HueRotate, Invert, Grayscale, Sepia, DropShadow, TwoColours)
}


class Matte(Model):
    """A layer shows only where another one is."""

    title: ClassVar[str] = "Matte"
    does: ClassVar[str] = "It shows only where another layer is, hidden or not."
    formula: ClassVar[tuple[str, ...]] = (
        "α′ = α · m, m the other layer's alpha, or its luminance on black; reversed: α · (1 − m)",
    )

    layer: str = Field(description="The id of the layer where it shows.")
    by: Parameter = spec(
        "alpha",
        "choice",
        label="Matte by",
        help="How much of it is there, or how light it is.",
        options=("alpha", "luminance"),
    )
    backwards: Parameter = spec(False, "switch", label="Reversed", help="It shows where the other layer is not.")
