"""The ready recipes, kept as ordinary recipe files."""

from functools import cache
from importlib.resources import files

from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.formats.recipe_file import ENDING, read

ORDER = (
    "flicker",
    "drift",
    "drop-and-bounce",
    "arrive-with-overshoot",
    "spin",
    "there-and-back",
    "on-twos",
    "orbit",
    "gear-pair",
    "screw-drive",
    "opposite-pull",
    "brightness-follows",
    "hand-held",
    "pulse-through-a-row",
    "wave-over-a-grid",
    "ring-of-petals",
    "falling-out-of-step",
    "flock-pushed-by-a-layer",
    "scatter-from-noise",
    "fade-in-from-the-middle",
    "sparks",
    "flame",
    "falling-leaves",
    "bar-chart",
    "count-up",
    "letters-in",
    "typewriter",
    "write-on",
    "running-dashes",
    "progress-bar",
    "two-circles",
    "shake-with-blur",
    "fog",
    "duotone",
    "wall-of-one-clip",
    "flop-in-turn",
    "carousel",
    "town",
    "hand-held-camera",
)


@cache
def ready() -> dict[str, Recipe]:
    """Every ready recipe by id, in the order in which they are shown."""
    folder = files(__name__)
    return {name: read((folder / f"{name}{ENDING}").read_bytes()) for name in ORDER}
