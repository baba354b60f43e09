"""Recipes: ready rigs to put on one's own layers."""

from typing import Literal

from pydantic import Field

from .ids import Id, OneLine
from .keys import Value
from .layers import Layer
from .lever import Lever
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
