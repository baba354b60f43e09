"""Ways of taking something out, one file each. A new one is added here, and nowhere else."""

from .csv_values import CsvValues
from .exporter import Exporter, Options, Plan, Source, read_options
from .png_frames import PngFrames
from .project_file import ProjectFile
from .recipe_file import RecipeFile

EXPORTERS: dict[str, Exporter] = {one.name: one for one in (PngFrames(), CsvValues(), ProjectFile(), RecipeFile())}

__all__ = ["EXPORTERS", "Exporter", "Options", "Plan", "Source", "read_options"]
