"""Levers: the artist's own controls."""

import math
from functools import cached_property
from itertools import cycle
from typing import Literal

from pydantic import Field, model_validator

from .ids import Id, OneLine
from .keys import Finite
from .model import Model
from .parameter import Parameter
from .specs import Kind, ParameterSpec
from .units import SYMBOLS

LeverKind = Literal["number", "angle", "percentage", "length", "time", "frequency", "switch", "choice", "colour"]


class Lever(Model):
    """A named control that can be keyed, has a chain of its own, and drives any number of parameters."""

    id: Id
    name: OneLine = Field(min_length=1, max_length=80)
    kind: LeverKind = "number"
    group: str = Field(default="", max_length=80)
    help: str = Field(default="", max_length=400)
    low: Finite = 0.0
    high: Finite = 100.0
    soft: bool = Field(default=False, description="Whether whoever it is handed to may type values beyond its ends.")
    options: tuple[str, ...] = ()
    value: Parameter = Parameter.model_construct()

    @model_validator(mode="after")
    def _sound(self) -> "Lever":
        if self.high <= self.low:
            raise ValueError("a lever's range must end above its start")
        if self.kind == "choice" and not self.options:
            raise ValueError("a choice lever needs at least one option")
        return self

    @cached_property
    def spec(self) -> ParameterSpec:
        """What the lever's value is."""
        kind: Kind = self.kind
        return ParameterSpec(
            kind=kind,
            default=default_value(kind, self.options),
            label=self.name,
            unit=SYMBOLS.get(kind, ""),
            components=4 if kind == "colour" else 1,
            low=self.low,
            high=self.high,
            options=self.options,
            step=lever_step(self.high - self.low),
            help=self.help,
        )


def default_value(kind: str, options: tuple[str, ...]) -> bool | float | str:
    """Where a new lever of this kind rests."""
    if kind == "switch":
        return True
    if kind == "choice":
        return options[0] if options else ""
    return "#e0b050" if kind == "colour" else 0.0


def lever_step(span: float) -> float:
    """The power of ten, or half of it, that divides a range into some hundred steps."""
    step, factors = 1e-4, cycle((5, 2))
    while step * 200 < span:
        step *= next(factors)
    return float(f"{step:.3g}")


def _round_up(number: float) -> float:
    """The next short number that is at most a third larger: 1, 1.2, 1.6, 2, 2.4, 3 … and these times ten."""
    power = 10.0 ** math.floor(math.log10(number))
    short = (power * step for step in (1, 1.2, 1.6, 2, 2.4, 3, 4, 5, 6, 8, 10))
    return next(float(f"{one:.3g}") for one in short if one >= number * (1 - 1e-9))


def sensible_range(value: float, spec: ParameterSpec) -> tuple[float, float]:
    """A range for a lever made from a number: its spec's useful range, else a round one around it."""
    low, high = spec.low, spec.high
    if spec.owner in ("step", "span", "rate", "acceleration"):
        # A difference, such as an amplitude, is no place in the range of what it belongs to: it stands in the middle.
        reach = _round_up(abs(value) * 2 or 10.0)
        return (-reach if value < 0 else 0.0), reach
    if low is not None and high is not None and low <= value <= high:
        return low, high
    if spec.kind == "percentage":
        return min(0.0, value), max(100.0, value * 2)
    if spec.kind == "angle" and abs(value) <= 180:
        return (0.0 if low == 0 else -180.0), 180.0
    reach, factors = 1.0, cycle((2, 2.5, 2))
    while reach < abs(value) * 2:
        reach *= next(factors)
    reach = max(reach, 10.0 if not spec.step or spec.step >= 0.1 else 1.0)
    if value < 0 or (low is None and spec.kind == "length"):
        return -reach, reach
    return (low if low is not None and low <= value else 0.0), reach
