"""The project file."""

from typing import ClassVar

from jaunty_lever.formats import bounded, project_file
from jaunty_lever.formats.sizes import MOST_PROJECT

from .importer import Brought, Importer


class ProjectFile(Importer):
    """Becomes a project on the Shelf."""

    name: ClassVar[str] = "project"
    title: ClassVar[str] = "Project file"
    does: ClassVar[str] = "Becomes a project on the Shelf."
    endings: ClassVar[tuple[str, ...]] = (project_file.ENDING, ".json")
    most_bytes: ClassVar[int] = MOST_PROJECT

    def recognises(self, content: bytes) -> bool:
        return project_file.FORMAT.encode() in content[:400]

    def read(self, content: bytes, name: str = "") -> Brought:
        return Brought(bounded.read(content))
