"""What a recipe is shown on: layers that are made for it."""

from typing import Any

from jaunty_lever.core.document.layers import LAYER_KINDS, shown_by_none
from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits.recipes import ApplyRecipe

FRAMES = 90
"""How long it plays."""
RECIPE_STILLS, RECIPE_WIDTH = 16, 224
"""How many stills tell of a recipe, and how wide each is: twice what it is shown at. The styles know both."""
SWAYS = "shown-sways-"
"""What the ids of motions begin with that are no part of a recipe."""
_PAPER = "#e6dfcf"


def scene_of(recipe: Recipe, motion: dict[str, Any] | None = None) -> Scene:
    """A scene in which a recipe plays on layers that are made for it, which rest or have a motion."""
    parts = [
        LAYER_KINDS[(part.kinds or ("ellipse",))[0]].model_validate(
            {
                "id": f"layer-{k}",
                "name": part.name,
                "position": {"rest": (300, 300), "chain": [{**motion, "id": f"{SWAYS}{k}"}] if motion else []},
            }
            | shown_by_none(LAYER_KINDS[(part.kinds or ("ellipse",))[0]])
        )
        for k, part in enumerate(recipe.parts)
    ]
    edit = ApplyRecipe(
        scene="shown",
        recipe=recipe,
        parts={part.id: (f"layer-{k}",) for k, part in enumerate(recipe.parts)},
        salt="shown",
    )
    return edit.apply_to(Scene(id="shown", name="Shown", length=FRAMES, layers=tuple(parts), background=_PAPER))
