"""Ways of bringing something in, one file each. A new one is added here, and nowhere else."""

from jaunty_lever.formats.open_json import BadFile

from .importer import Brought, Importer
from .lottie_file import LottieFile
from .project_file import ProjectFile
from .recipe_file import RecipeFile
from .svg_file import SvgFile

IMPORTERS: dict[str, Importer] = {one.name: one for one in (ProjectFile(), RecipeFile(), SvgFile(), LottieFile())}

MOST_BYTES = max(one.most_bytes for one in IMPORTERS.values())


def importer_for(content: bytes) -> Importer:
    """The one that recognises a file's content.

    Any other JSON is read as a project, which says best what is missing. Raises BadFile for what is of no kind here.
    """
    for one in IMPORTERS.values():
        if one.recognises(content):
            return one
    start = content[:400].lstrip(b"\xef\xbb\xbf \r\n\t")
    if not start:
        raise BadFile("The file is empty.")
    if start.startswith((b"{", b"[")):
        return IMPORTERS["project"]
    kinds = ", ".join(f"{one.title} ({', '.join(one.endings)})" for one in IMPORTERS.values())
    raise BadFile(f"This file is of no kind that is read here. What comes in: {kinds}; pictures on a Bench.")


__all__ = ["IMPORTERS", "MOST_BYTES", "Brought", "Importer", "importer_for"]
