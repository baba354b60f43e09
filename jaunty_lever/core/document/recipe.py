"""Recipes: ready rigs to put on one's own layers."""

from typing import Literal

from pydantic import Field

from .compositing import AnyFilter
from .ids import Id, OneLine
from .keys import Value
from .layers import Layer
from .lever import Lever
from .limits import MOST_FILTERS
from .line_style import LineStyle
from .model import Model
from .parameter import Parameter


class RecipeField(Model):
    """What a recipe does to one value of a part: a chain behind what is there, keys, or another resting value.

    Keys may be meant as they are, or be added to (or multiply) the value that the layer has.
    """

    parameter: Parameter = Field(default_factory=lambda: Parameter())
    keys_are: Literal["as they are", "added", "multiplied"] = "as they are"
    rest: Value | None = None


class RecipePart(Model):
    """A role that one of the artist's layers plays; `kinds` names the kinds of layer that can (none: any)."""

    id: Id
    name: OneLine = Field(min_length=1, max_length=80)
    kinds: tuple[str, ...] = ()
    fields: dict[str, RecipeField] = Field(default_factory=dict, max_length=60)
    filters: tuple[AnyFilter, ...] = Field(
        default=(), max_length=MOST_FILTERS, description="Put on behind those it has."
    )
    into: str = Field(
        default="", max_length=40, description="The group or array among the recipe's layers that takes it in."
    )
    fits: tuple[float, float] | None = Field(
        default=None, description="Width and height within which it is scaled to lie, px, about its own middle."
    )
    line: LineStyle | None = Field(default=None, description="How its line is drawn from then on, if it is a shape.")


class Recipe(Model):
    """Parts with their chains, levers that steer them, and layers that come with it.

    Inside, links lead to parts, levers and layers by the ids that these have here.
    """

    id: Id
    name: OneLine = Field(min_length=1, max_length=80)
    does: str = Field(default="", max_length=400)
    author: str = Field(default="", max_length=200)
    licence: str = Field(default="", max_length=200)
    parts: tuple[RecipePart, ...] = Field(default=(), max_length=12)
    levers: tuple[Lever, ...] = Field(default=(), max_length=40)
    layers: tuple[Layer, ...] = Field(default=(), max_length=200)
    motion_blur: bool = Field(default=False, description="Whether the scene has motion blur from then on.")
    perspective: float = Field(
        default=0.0, ge=0, le=100_000, description="The perspective that the scene is given where it has none, px."
    )
