"""The edge of a shape: its outline moved point by point, and the shells that stand inside it."""

from typing import ClassVar

from pydantic import Field

from .fills import Stop
from .limits import MOST_SHELLS
from .model import Model
from .parameter import Parameter, spec


class Edge(Model):
    """An outline cut into points, each of which has a value of its own by which it moves outwards.

    Of themselves points know their number and share of the length, where they lie in the layer, and how high up.
    """

    title: ClassVar[str] = "Edge"
    does: ClassVar[str] = "The outline moves point by point: flames, cogs, torn paper, a coast that breathes."
    formula: ClassVar[tuple[str, ...]] = (
        "P(i) + edge(i) · N(i), N the unit normal that points outwards",
        "shell k of m: about + s · (P(i) − about) + a · edge(i) · N(i), with s and a led from 100 % to those of "
        "the innermost",
    )

    out: Parameter = spec(
        0.0,
        "length",
        label="Edge",
        help="How far each point of the outline moves outwards.",
        low=-100,
        high=100,
        step=1,
        each=True,
    )
    detail: Parameter = spec(
        6.0,
        "length",
        label="Detail",
        help="How far the points lie apart along the outline.",
        low=1,
        high=40,
        limits=(0.001, 100_000),
        step=0.5,
    )
    corners: Parameter = spec(
        "kept",
        "choice",
        label="Corners",
        help="Corners stay corners, or are rounded off.",
        options=("kept", "smoothed"),
    )
    shells: Parameter = spec(
        0.0,
        label="Shells",
        help="How many more outlines stand inside this one.",
        low=0,
        high=12,
        limits=(0, MOST_SHELLS),
        step=1,
        whole=True,
    )
    innermost: Parameter = spec(
        40.0, "percentage", label="Innermost size", help="Of the smallest shell.", low=0, high=100, step=1
    )
    share: Parameter = spec(
        40.0,
        "percentage",
        label="Innermost edge",
        help="How much of the edge the smallest shell has.",
        low=0,
        high=100,
        step=1,
    )
    about: Parameter = spec(
        (0.0, 0.0), "vector", unit="px", label="Drawn to", help="The point towards which the shells shrink.", step=1
    )
    stops: tuple[Stop, ...] = Field(
        default=(), max_length=16, description="The colours of the shells, from the outermost to the innermost."
    )
