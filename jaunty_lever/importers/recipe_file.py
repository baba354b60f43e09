"""The recipe file."""

from typing import ClassVar

from jaunty_lever.formats import recipe_file

from .importer import Brought, Importer


class RecipeFile(Importer):
    """Comes onto the shelf of recipes."""

    name: ClassVar[str] = "recipe"
    title: ClassVar[str] = "Recipe file"
    does: ClassVar[str] = "Comes onto the shelf of recipes."
    endings: ClassVar[tuple[str, ...]] = (recipe_file.ENDING, ".json")
    most_bytes: ClassVar[int] = recipe_file.MOST_BYTES

    def recognises(self, content: bytes) -> bool:
        return recipe_file.FORMAT.encode() in content[:400]

    def read(self, content: bytes, name: str = "") -> Brought:
        return Brought(recipe_file.read(content))
