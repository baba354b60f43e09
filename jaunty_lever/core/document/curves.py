"""Curves over a passage that a project keeps by name, to be put on any value that plays one."""

from typing import Annotated

from pydantic import AfterValidator, Field

from .ids import Id, OneLine
from .keys import Key
from .model import Model

MOST_CURVES = 100
MOST_POINTS = 500


def _over_a_passage(points: tuple[Key, ...]) -> tuple[Key, ...]:
    for before, point in zip((None, *points), points, strict=False):
        if isinstance(point.value, bool | str | tuple):
            raise ValueError(f"the point at {point.frame:g} % has no number as its value")
        if not 0 <= point.frame <= 100:
            raise ValueError(f"a point stands at {point.frame:g} %; a passage goes from 0 to 100 %")
        if before is not None and point.frame - before.frame < 1e-6:
            raise ValueError(f"two points stand at {point.frame:g} %, or one stands before another that comes first")
    return points


Points = Annotated[tuple[Key, ...], Field(min_length=1, max_length=MOST_POINTS), AfterValidator(_over_a_passage)]
"""Points of a curve from left to right: `frame` is a percent of the passage."""


class Curve(Model):
    """Points over 0 to 100 % of a passage."""

    id: Id
    name: OneLine = Field(min_length=1, max_length=120)
    points: Points


def _points(*points: tuple[float, float, str]) -> tuple[Key, ...]:
    return tuple(Key.model_validate({"frame": at, "value": value, "ease": ease}) for at, value, ease in points)


READY = (
    Curve(id="rise", name="Rise", points=_points((0, 0, "ease-in-out"), (100, 1, "ease-in-out"))),
    Curve(id="fall", name="Fall", points=_points((0, 1, "ease-in-out"), (100, 0, "ease-in-out"))),
    Curve(id="hump", name="Hump", points=_points((0, 0, "ease-out"), (50, 1, "ease-in"), (100, 0, "linear"))),
    Curve(
        id="plateau",
        name="Plateau",
        points=_points((0, 0, "ease-out"), (15, 1, "linear"), (85, 1, "ease-in"), (100, 0, "linear")),
    ),
    Curve(
        id="overshoot",
        name="Overshoot",
        points=_points((0, 0, "ease-out"), (60, 1.25, "ease-in-out"), (80, 0.92, "ease-in-out"), (100, 1, "linear")),
    ),
)
"""What there is to begin with."""
