"""Keys and eases."""

from typing import Annotated, Any, Literal

from pydantic import AfterValidator, Field, field_validator

from .limits import MOST_NUMBER
from .model import Model

Finite = Annotated[float, Field(allow_inf_nan=False)]
Frame = Annotated[float, Field(allow_inf_nan=False, ge=-MOST_NUMBER, le=MOST_NUMBER)]
"""A frame's number; it may lie between frames, and outside the scene, but not out of the world."""
Value = bool | Finite | str | tuple[Finite, ...]
"""A resting or keyed value: a number, a switch, a text (also a choice or a `#colour`), or components."""

NamedEase = Literal["hold", "linear", "ease", "ease-in", "ease-out", "ease-in-out"]


def _curve(points: tuple[float, float, float, float]) -> tuple[float, float, float, float]:
    if not (0 <= points[0] <= 1 and 0 <= points[2] <= 1):
        raise ValueError("an ease's x1 and x2 must lie between 0 and 1")
    return points


Bezier = Annotated[tuple[Finite, Finite, Finite, Finite], AfterValidator(_curve)]
Ease = NamedEase | Bezier

#: CSS Easing Functions Level 1, section 2.2: the control points of the named curves.
NAMED: dict[str, tuple[float, float, float, float]] = {
    "ease": (0.25, 0.1, 0.25, 1.0),
    "ease-in": (0.42, 0.0, 1.0, 1.0),
    "ease-out": (0.0, 0.0, 0.58, 1.0),
    "ease-in-out": (0.42, 0.0, 0.58, 1.0),
}


#: The same, and the straight way as a curve: what handles stand at.
EASES: dict[str, tuple[float, float, float, float]] = {"linear": (1 / 3, 1 / 3, 2 / 3, 2 / 3), **NAMED}


class Key(Model):
    """A value set at a frame, which may lie between frames; `ease` leads to the next key."""

    frame: Finite
    value: Value
    ease: Ease = "ease-in-out"

    @field_validator("value", mode="before")
    @classmethod
    def _no_empty(cls, value: Any) -> Any:
        if isinstance(value, list | tuple) and not value:
            raise ValueError("a value needs at least one component")
        return value


def control_points(ease: Ease) -> tuple[float, float, float, float] | None:
    """x1, y1, x2, y2 of an ease, or None for hold and linear."""
    return NAMED.get(ease) if isinstance(ease, str) else ease
