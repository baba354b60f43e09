"""Ways of bringing something in, one file each. A new one is added here, and nowhere else."""

from .importer import Importer
from .project_file import ProjectFile
from .recipe_file import RecipeFile

IMPORTERS: dict[str, Importer] = {one.name: one for one in (ProjectFile(), RecipeFile())}

MOST_BYTES = max(one.most_bytes for one in IMPORTERS.values())


def importer_for(content: bytes) -> Importer:
    """The one that recognises a file's content; the project file's when none does: it says best what is missing."""
    return next((one for one in IMPORTERS.values() if one.recognises(content)), IMPORTERS["project"])


__all__ = ["IMPORTERS", "MOST_BYTES", "Importer", "importer_for"]
