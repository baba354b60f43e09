"""The shelf of recipes, and the sheet that puts one on layers."""

import logging
from functools import lru_cache
from typing import Any

import numpy as np
from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse, Response

from jaunty_lever.core.display.display_list import display_list
from jaunty_lever.core.document.layers import LAYER_KINDS, PictureLayer, shown_by_none
from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.document.scene import Scene
from jaunty_lever.core.edits.recipes import ApplyRecipe
from jaunty_lever.core.evaluation.sample_times import SampleTimes
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.drawing.strip import draw_strip, sign
from jaunty_lever.recipes import ready

from ..api.recipes import damaged, every, recipe_in
from ..kept import Kept
from ..site import site_of
from ..templating import page

router = APIRouter(prefix="/projects/{project}/scenes/{scene}/sheets")

FRAMES = 90
STILLS, STILL_WIDTH = 16, 224
"""How many stills tell of a recipe, and how wide each is: twice what it is shown at. The styles know both."""
_PAPER = "#e6dfcf"
_SWAYS = "shown-sways-"
_strips: Kept[str] = Kept(200)
log = logging.getLogger(__name__)


@lru_cache(maxsize=600)
def _curve(recipe_json: str) -> str:
    """An SVG polyline of what a recipe makes of the first value that it moves, over three seconds."""
    try:
        recipe = Recipe.model_validate_json(recipe_json)
        # What changes a motion, or listens to one, shows nothing on what rests.
        return _line(_shown(recipe)) or _line(_shown(recipe, _SWAYING)) or _LEVEL
    except Exception:  # whatever is wrong with one recipe, the shelf shows the others
        return _LEVEL


_LEVEL = "0,19 120,19"
_SWAYING = {"kind": "wave", "amplitude": [0, 160], "frequency": 0.5}


def _shown(recipe: Recipe, motion: dict[str, Any] | None = None) -> Scene:
    """A scene in which a recipe plays on layers that are made for it, which rest or have a motion."""
    parts = [
        LAYER_KINDS[(part.kinds or ("ellipse",))[0]].model_validate(
            {
                "id": f"layer-{k}",
                "name": part.name,
                "position": {"rest": (300, 300), "chain": [{**motion, "id": f"{_SWAYS}{k}"}] if motion else []},
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


def _line(scene: Scene) -> str:
    """The polyline of the first value that the recipe moves; "": of none."""
    samples = SampleTimes.frames(scene.fps, 0, FRAMES)
    for node in scene.index.parameters.values():
        chain = [modifier for modifier in node.parameter.chain if not modifier.id.startswith(_SWAYS)]
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
    """Whether what it does is rather seen than told by a curve: it brings layers with it, or changes how lines are drawn."""
    return bool(recipe.layers) or any(part.line is not None for part in recipe.parts)


@router.get("/recipes/{recipe}/strip.png")
def strip(project: str, scene: str, recipe: str, request: Request) -> Response:
    """Small stills of a recipe side by side, from three seconds."""
    found = recipe_in(site_of(request), recipe)

    def drawn() -> bytes:
        try:
            here = _shown(found)
            table = display_list(Sampler(here), SampleTimes.frames(here.fps, 0, FRAMES, FRAMES / STILLS))
            return draw_strip(table, STILLS, STILL_WIDTH)
        except Exception:  # whatever is wrong with one recipe, the shelf shows the others
            log.exception("no stills of the recipe %s", recipe)
            return sign(STILL_WIDTH, STILL_WIDTH * 9 // 16)

    content = _strips.get(found.model_dump_json(), drawn)
    return Response(content, media_type="image/png", headers={"cache-control": "private, max-age=3600"})


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
