"""The project file."""

from collections.abc import Callable
from typing import IO, ClassVar, Literal

from jaunty_lever.formats import project_file

from .exporter import Exporter, Options, Plan, Source, Use


class ProjectFile(Exporter):
    """Everything of a project."""

    name: ClassVar[str] = "project"
    title: ClassVar[str] = "Project file"
    does: ClassVar[str] = "Everything, as JSON that reads well and can be brought in again."
    verb: ClassVar[str] = "Save project file"
    takes: ClassVar[Literal["scene", "project", "recipe"]] = "project"
    media_type: ClassVar[str] = "application/json"
    ending: ClassVar[str] = project_file.ENDING
    uses: ClassVar[tuple[Use, ...]] = (Use("To keep, or to hand on"),)

    def plan(self, source: Source, options: Options) -> Plan:
        return Plan(source.name + self.ending)

    def write(self, source: Source, options: Options, target: IO[bytes], done: Callable[[int], None]) -> None:
        assert source.project is not None
        target.write(project_file.write(source.project).encode())
