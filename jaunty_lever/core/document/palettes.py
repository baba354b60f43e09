"""Palettes: named colours that a project keeps at hand."""

from pydantic import Field, field_validator

from .colours import parse_colour
from .ids import Id, OneLine
from .model import Model

MOST_PALETTES = 50
MOST_COLOURS = 1_024


class Swatch(Model):
    """A colour, with a name or without."""

    colour: str
    name: OneLine = Field(default="", max_length=120)

    @field_validator("colour")
    @classmethod
    def _colour(cls, value: str) -> str:
        parse_colour(value)
        return value


class Palette(Model):
    """Colours in an order."""

    id: Id
    name: OneLine = Field(min_length=1, max_length=120)
    colours: tuple[Swatch, ...] = Field(min_length=1, max_length=MOST_COLOURS)
