"""The shelf of recipes, and the sheet that puts one on layers."""

from functools import lru_cache

import numpy as np
from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.layers import LAYER_KINDS, PictureLayer, shown_by_none
from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits.recipes import ApplyRecipe
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.recipes import ready

from ..api.recipes import damaged, every, recipe_in
from ..site import page, site_of

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/sheets")

FRAMES = 90


@lru_cache(maxsize=600)
def _curve(recipe_json: str) -> str:
    """An SVG polyline of what a recipe makes of the first value that it moves, over three seconds."""
    try:
        return _drawn(Recipe.model_validate_json(recipe_json))
    except Exception:  # whatever is wrong with one recipe, the shelf shows the others
        return _LEVEL


_LEVEL = "0,19 120,19"


def _drawn(recipe: Recipe) -> str:
    parts = [
        LAYER_KINDS[(part.kinds or ("ellipse",))[0]].model_validate(
            {"id": f"layer-{k}", "name": part.name, "position": (300, 300)}
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
    scene = edit.apply_to(Scene(id="shown", name="Shown", length=FRAMES, layers=tuple(parts)))
    samples = SampleTimes.frames(scene.fps, 0, FRAMES)
    for node in scene.index.parameters.values():
        if node.within is None and node.parameter.chain and node.top in scene.index.layers:
            values = Sampler(scene).track(node.id, samples)
            column = values[:, int(np.argmax(np.ptp(values, axis=0)))]
            low, span = float(column.min()), float(np.ptp(column))
            if span > 0:
                down = -1 if node.spec.kind == "vector" and node.field == "position" else 1
                return " ".join(
                    f"{k * 120 / (FRAMES - 1):.1f},{19 - down * ((v - low) / span - 0.5) * 28:.1f}"
                    for k, v in enumerate(column)
                )
    return _LEVEL


@router.get("/recipes")
def shelf(project: str, scene: str, request: Request) -> HTMLResponse:
    """All recipes, each with the curve it makes."""
    found = [
        (recipe, _curve(recipe.model_dump_json()), id in ready()) for id, recipe in every(site_of(request)).items()
    ]
    return page("sheets/recipes.html", recipes=found, damaged=damaged(site_of(request)))


@router.get("/recipe")
def recipe(project: str, scene: str, recipe: str, request: Request) -> HTMLResponse:
    """Which layers play which part; the chosen layers are taken first."""
    site = site_of(request)
    here = scene_in(site.store.state(project).project, scene)
    found = recipe_in(site, recipe)
    chosen = [layer for layer in request.query_params.getlist("layer") if layer in here.index.layers]
    fitting = {
        part.id: [layer for layer in reversed(here.index.layers.values()) if not part.kinds or layer.kind in part.kinds]
        for part in found.parts
    }
    taken: dict[str, list[str]] = {}
    left = list(chosen)
    for part in found.parts:
        able = [layer.id for layer in fitting[part.id]]
        mine = [layer for layer in left if layer in able]
        taken[part.id] = mine if len(found.parts) == 1 else mine[:1]
        left = [layer for layer in left if layer not in taken[part.id]]
        if not taken[part.id] and len(found.parts) > 1:
            others = {layer for layers in taken.values() for layer in layers}
            taken[part.id] = [layer for layer in able if layer not in others and layer not in chosen][:1]
    # What is taken already comes first, where it can be seen.
    fitting = {part: sorted(layers, key=lambda layer: layer.id not in taken[part]) for part, layers in fitting.items()}
    return page(
        "sheets/recipe.html",
        recipe=found,
        data=plain(found),
        fitting=fitting,
        taken=taken,
        pictures=any(isinstance(layer, PictureLayer) for layer in here.index.layers.values()),
    )
