"""Layers for scenes in depth: two solids, and what looks at them and lights them."""

from typing import ClassVar, Literal

from .base_layer import BaseLayer
from .parameter import Parameter, spec

PERSPECTIVE = 1000.0
"""How far before the stage a new camera stands where the scene has no perspective, px."""


class Solid(BaseLayer):
    """What has a thickness, and is shaded by the scene's light."""

    colour: Parameter = spec("#c8553d", "colour", label="Colour")
    stroke: Parameter = spec("#22303c", "colour", label="Stroke")
    stroke_width: Parameter = spec(0.0, "length", label="Stroke width", low=0, high=40, step=0.5)


class Block(Solid):
    """A box with right angles about its own middle, or on it."""

    title: ClassVar[str] = "Block"
    does: ClassVar[str] = "A box of a width, a height and a thickness; its faces are shaded by the light."
    formula: ClassVar[tuple[str, ...]] = ("face = colour · (shade + (100 % − shade) · strength · max(0, n · l))",)
    kind: Literal["block"] = "block"
    width: Parameter = spec(120.0, "length", label="Width", low=0, high=600, step=1)
    height: Parameter = spec(120.0, "length", label="Height", low=0, high=600, step=1)
    thickness: Parameter = spec(120.0, "length", label="Thickness", help="How deep it is.", low=0, high=600, step=1)
    stands: Parameter = spec(
        "about its middle",
        "choice",
        label="Stands",
        help="Where its own middle is: in it, or under it.",
        options=("about its middle", "on its base"),
    )


class Ball(Solid):
    """A ball about its own middle."""

    title: ClassVar[str] = "Ball"
    does: ClassVar[str] = "A ball, as a disc whose shading follows the light."
    formula: ClassVar[tuple[str, ...]] = ("lightest where it faces the light; colour · (shade + … · max(0, n · l))",)
    kind: Literal["ball"] = "ball"
    colour: Parameter = spec("#1f6f78", "colour", label="Colour")
    radius: Parameter = spec(60.0, "length", label="Radius", low=0, high=400, step=1)


class CameraLayer(BaseLayer):
    """Who looks at the scene."""

    title: ClassVar[str] = "Camera"
    does: ClassVar[str] = "Looks at all that lies in depth: from its position, at its aim. The topmost one counts."
    formula: ClassVar[tuple[str, ...]] = (
        "seen = (x, y) · perspective / distance, along the way from position to aim",
        "around turns the position about the aim; rotation and tilt turn the camera where it stands",
    )
    idle: ClassVar[frozenset[str]] = frozenset({"scale", "pivot", "opacity", "blend"})
    drawn: ClassVar[bool] = False
    kind: Literal["camera"] = "camera"
    aim: Parameter = spec((640.0, 360.0), "vector", unit="px", label="Aim", help="The place it looks at.", step=1)
    aim_depth: Parameter = spec(
        0.0, "length", label="Aim depth", help="How near that lies.", low=-2000, high=2000, step=1
    )
    around: Parameter = spec(
        (0.0, 0.0),
        "vector",
        unit="°",
        label="Around",
        help="Carried round its aim: to the right, and up.",
        step=1,
    )
    perspective: Parameter = spec(
        PERSPECTIVE,
        "length",
        label="Perspective",
        help="How far off things are seen in their own size: small is wide, large is long.",
        low=100,
        high=4000,
        limits=(1, 1e9),
        step=10,
    )


class LightLayer(BaseLayer):
    """Where the light comes from."""

    title: ClassVar[str] = "Light"
    does: ClassVar[str] = "A lamp at its position and depth that shades blocks and balls. The topmost one counts."
    formula: ClassVar[tuple[str, ...]] = (
        "l: from what is lit to the lamp; light = shade + (100 % − shade)·strength·max(0, n · l)",
    )
    idle: ClassVar[frozenset[str]] = frozenset({"rotation", "scale", "pivot", "tilt", "opacity", "blend"})
    drawn: ClassVar[bool] = False
    kind: Literal["light"] = "light"
    colour: Parameter = spec("#ffffff", "colour", label="Colour")
    strength: Parameter = spec(100.0, "percentage", label="Strength", low=0, high=200, step=1)
    shade: Parameter = spec(
        48.0, "percentage", label="Shade", help="How light what faces away from it is.", low=0, high=100, step=1
    )
