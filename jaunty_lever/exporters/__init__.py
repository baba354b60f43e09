"""Ways of taking something out, one file each. A new one is added here, and nowhere else."""

from .csv_values import CsvValues
from .drawn import Drawn
from .exporter import Exporter, Options, Plan, Source, Use, read_options
from .json_values import JsonValues
from .lottie_file import Lottie
from .mov import Mov
from .moving_pictures import Apng, Gif, Webp
from .mp4 import Mp4
from .pdf_frame import PdfFrame
from .png_frames import PngFrames
from .project_file import ProjectFile
from .recipe_file import RecipeFile
from .sprite_sheet import SpriteSheet
from .svg_files import SvgFrame, SvgMoving
from .webm import WebM

EXPORTERS: dict[str, Exporter] = {
    one.name: one
    for one in (
        *(Mp4(), Mov(), WebM(), Gif(), Webp(), Apng(), PngFrames(), SpriteSheet()),
        *(SvgMoving(), Lottie(), SvgFrame(), PdfFrame()),
        *(CsvValues(), JsonValues(), ProjectFile(), RecipeFile()),
    )
}

__all__ = ["EXPORTERS", "Drawn", "Exporter", "Options", "Plan", "Source", "Use", "read_options"]
