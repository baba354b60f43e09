"""The shelf of recipes, and the sheet that puts one on layers."""

import asyncio
from functools import lru_cache

import numpy as np
from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse, Response

from jaunty_lever.core.document.layers import PictureLayer
from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.recipes import ready

from ..api.recipes import damaged, every, recipe_in
from ..drawn import strip_of
from ..shown_recipe import FRAMES, RECIPE_WIDTH, SWAYS, scene_of
from ..site import site_of
from ..templating import page

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/sheets")


@lru_cache(maxsize=600)
def _curve(recipe_json: str) -> str:
    """An SVG polyline of what a recipe makes of the first value that it moves, over three seconds."""
    try:
        recipe = Recipe.model_validate_json(recipe_json)
        # What changes a motion, or listens to one, shows nothing on what rests.
        return _line(scene_of(recipe)) or _line(scene_of(recipe, _SWAYING)) or _LEVEL
    except Exception:  # whatever is wrong with one recipe, the shelf shows the others
        return _LEVEL


_LEVEL = "0,19 120,19"
_SWAYING = {"kind": "wave", "amplitude": [0, 160], "frequency": 0.5}


def _line(scene: Scene) -> str:
    """The polyline of the first value that the recipe moves; "": of none."""
    samples = SampleTimes.frames(scene.fps, 0, FRAMES)
    for node in scene.index.parameters.values():
        chain = [modifier for modifier in node.parameter.chain if not modifier.id.startswith(SWAYS)]
        if node.within is None and chain and node.top in scene.index.layers:
            values = Sampler(scene).track(node.id, samples)
            column = values[:, int(np.argmax(np.ptp(values, axis=0)))]
            low, span = float(column.min()), float(np.ptp(column))
            if span > 0:
                down = -1 if node.spec.kind == "vector" and node.field == "position" else 1
                return " ".join(
                    f"{k * 120 / (FRAMES - 1):.1f},{19 - down * ((v - low) / span - 0.5) * 28:.1f}"
                    for k, v in enumerate(column)
                )
    return ""


@router.get("/recipes")
def shelf(project: str, scene: str, request: Request) -> HTMLResponse:
    """All recipes, each with the curve it makes, or some stills of it."""
    found = [
        (recipe, None if _is_seen(recipe) else _curve(recipe.model_dump_json()), id in ready())
        for id, recipe in every(site_of(request)).items()
    ]
    return page(
        "sheets/recipes.html",
        recipes=found,
        sheets=f"/projects/{project}/scenes/{scene}/sheets",
        damaged=damaged(site_of(request)),
    )


def _is_seen(recipe: Recipe) -> bool:
    """Whether what it does is rather seen than told by a curve: it brings layers with it, or changes how lines are
    drawn."""
    return bool(recipe.layers) or any(part.line is not None for part in recipe.parts)


@router.get("/recipes/{recipe}/strip.png")
async def strip(project: str, scene: str, recipe: str, request: Request) -> Response:
    """Small stills of a recipe side by side, from three seconds."""
    site = site_of(request)
    told = (await asyncio.to_thread(recipe_in, site, recipe)).model_dump_json()
    return await strip_of(RECIPE_WIDTH, RECIPE_WIDTH * 9 // 16, 3600, site.drawn.picture(told, "recipe", told))


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
