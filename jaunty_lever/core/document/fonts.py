"""Fonts that a project keeps for its texts."""

import base64
import binascii
from hashlib import blake2b
from typing import Any
from weakref import WeakValueDictionary

from pydantic import Field

from .ids import Id, OneLine
from .model import Model

MOST_FONTS = 40


class FontBytes:
    """The bytes of a font file, held once however many projects keep it."""

    def __init__(self, content: bytes) -> None:
        self.content = content


_held: "WeakValueDictionary[str, FontBytes]" = WeakValueDictionary()


def font_id(content: bytes) -> str:
    """The id of a font, made from its file's bytes, so that none is kept twice."""
    return f"font-{blake2b(content, digest_size=10).hexdigest()}"


def bytes_of(font: str) -> bytes | None:
    """The bytes of a font's file by its id, as long as any project that is open keeps it."""
    found = _held.get(font)
    return found.content if found is not None else None


class Font(Model):
    """A font file as it came: TrueType, OpenType or WOFF2.

    Texts name fonts by id, and outlines are worked out from a scene alone; so whoever holds a font holds its bytes in a
    table by their own digest, which no false id can get into.
    """

    id: Id
    name: OneLine = Field(min_length=1, max_length=120)
    data: str = Field(description="The file's bytes in base64.")

    def model_post_init(self, context: Any) -> None:
        """Make the bytes known."""
        try:
            content = base64.b64decode(self.data, validate=True)
        except (binascii.Error, ValueError):
            return
        name = font_id(content)
        self.__dict__["_bytes"] = _held.setdefault(name, FontBytes(content)) if content else None
