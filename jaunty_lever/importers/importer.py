"""What every way of bringing something in has to tell. One file each."""

from abc import ABC, abstractmethod
from dataclasses import dataclass
from typing import ClassVar

from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.document.scene import Project


@dataclass(frozen=True)
class Brought:
    """What a file held, and what of it was not read, a sentence for each kind."""

    thing: Project | Recipe
    remarks: tuple[str, ...] = ()


class Importer(ABC):
    """A format that comes in."""

    name: ClassVar[str]
    title: ClassVar[str]
    does: ClassVar[str]
    endings: ClassVar[tuple[str, ...]]
    most_bytes: ClassVar[int]

    @abstractmethod
    def recognises(self, content: bytes) -> bool:
        """Whether a file's content looks like this format, from its beginning."""

    @abstractmethod
    def read(self, content: bytes, name: str = "") -> Brought:
        """What is in a file of that name. Raises BadFile, with every problem in the artist's words."""
