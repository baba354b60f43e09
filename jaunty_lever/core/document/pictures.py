"""Pictures that a project keeps for its picture layers."""

from typing import Literal

from pydantic import Field

from .ids import Id, OneLine
from .model import Model

MOST_SIDE = 8192

Media = Literal["image/png", "image/jpeg", "image/webp"]


class Picture(Model):
    """An encoded picture, without metadata. Its id is made from its content, so that none is kept twice."""

    id: Id
    name: OneLine = Field(default="", max_length=200)
    media: Media
    width: int = Field(ge=1, le=MOST_SIDE)
    height: int = Field(ge=1, le=MOST_SIDE)
    data: str = Field(description="The file's bytes in base64.")
