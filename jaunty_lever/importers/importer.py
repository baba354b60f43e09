"""What every way of bringing something in has to tell. One file each."""

from abc import ABC, abstractmethod
from typing import ClassVar

from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.document.scene import Project


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
    def read(self, content: bytes) -> Project | Recipe:
        """What is in a file. Raises BadFile, with every problem in the artist's words."""
