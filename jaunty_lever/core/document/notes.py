"""What a station tells about itself, and how a puzzle is put right."""

from dataclasses import dataclass
from typing import Any


@dataclass(frozen=True)
class Mend:
    """Something that puts a puzzle right with one press: edits of the scene, as plain data."""

    label: str
    edits: tuple[dict[str, Any], ...]


@dataclass(frozen=True)
class Note:
    """What a station says about itself: a figure worth knowing or, with `warn`, why it does nothing."""

    text: str
    warn: bool = False
    mends: tuple[Mend, ...] = ()
