"""The recipe file."""

from collections.abc import Callable
from typing import IO, ClassVar, Literal

from jaunty_lever.formats import recipe_file

from .exporter import Exporter, Options, Plan, Source


class RecipeFile(Exporter):
    """A ready rig, to be handed on."""

    name: ClassVar[str] = "recipe"
    title: ClassVar[str] = "Recipe file"
    does: ClassVar[str] = "A ready rig as JSON, for other projects and other people."
    verb: ClassVar[str] = "Save recipe file"
    takes: ClassVar[Literal["scene", "project", "recipe"]] = "recipe"
    media_type: ClassVar[str] = "application/json"
    ending: ClassVar[str] = recipe_file.ENDING

    def plan(self, source: Source, options: Options) -> Plan:
        return Plan(source.name + self.ending)

    def write(self, source: Source, options: Options, target: IO[bytes], done: Callable[[int], None]) -> None:
        assert source.recipe is not None
        target.write(recipe_file.write(source.recipe).encode())
