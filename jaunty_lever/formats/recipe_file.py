"""The recipe file: a ready rig as JSON, to be handed on."""

from typing import Any

from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.document.versions import VERSION
from jaunty_lever.core.formula.older import rewritten
from jaunty_lever.core.older import changes_of_today
from jaunty_lever.core.soundness import recipe_problems, stand_ins

from .open_json import BadFile, load, schema_of, validated, written

FORMAT = "jaunty-lever recipe"
MOST_BYTES = 8 << 20
ENDING = ".recipe.json"


def write(recipe: Recipe) -> str:
    """The file's text."""
    return written({"format": FORMAT, "version": VERSION, **plain(recipe)}, "") + "\n"


def read(content: bytes) -> Recipe:
    """The recipe in a file's content. Raises BadFile, with every problem in the artist's words."""
    return from_data(load(content, MOST_BYTES))


def from_data(data: Any) -> Recipe:
    """The recipe in plain data. Raises BadFile."""
    recipe = validated(data, Recipe, "recipe", FORMAT, VERSION)
    if data["version"] < VERSION:
        made, wrong = stand_ins(recipe)
        if made is not None and not wrong:
            recipe = rewritten(recipe, changes_of_today(made, data["version"]))
    found = list(recipe_problems(recipe))
    if found:
        raise BadFile(*found)
    return recipe


def schema() -> dict[str, Any]:
    """The JSON Schema of the file."""
    return schema_of(Recipe, "recipe", FORMAT, VERSION)
