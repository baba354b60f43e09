"""Recipes: the shelf of ready and saved ones, saving, bringing in and handing out."""

from typing import Annotated, Any

from fastapi import APIRouter, Request, UploadFile
from pydantic import BaseModel, ConfigDict, Field
from starlette.responses import Response

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.edits.recipes import recipe_of
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.exporters import EXPORTERS, Source
from jaunty_lever.formats import recipe_file
from jaunty_lever.formats.open_json import BadFile
from jaunty_lever.importers import IMPORTERS
from jaunty_lever.recipes import ready
from jaunty_lever.storage.store import NotThere

from ..site import Site, site_of
from .files import whole_file

router = APIRouter()

MOST_SAVED = 500


def every(site: Site) -> dict[str, Recipe]:
    """Ready recipes, then saved ones, the newest first."""
    return ready() | {id: recipe for id, recipe in _saved(site).items() if isinstance(recipe, Recipe)}


def damaged(site: Site) -> dict[str, str]:
    """Saved recipes that cannot be read any more, with the reason."""
    return {id: said for id, said in _saved(site).items() if isinstance(said, str)}


def _saved(site: Site) -> dict[str, Recipe | str]:
    found: dict[str, Recipe | str] = {}
    for id, body in site.store.recipes():
        try:
            found[id] = recipe_file.read(body)
        except BadFile as error:
            found[id] = error.problems[0] if error.problems else str(error)
    return found


def recipe_in(site: Site, recipe: str) -> Recipe:
    """A recipe by id. Raises NotThere."""
    found = ready().get(recipe)
    if found is None:
        body = site.store.recipe(recipe)
        if body is None:
            raise NotThere("This recipe is not on the shelf any more.")
        found = recipe_file.read(body)
    return found


def kept_recipe(site: Site, recipe: Recipe) -> Recipe:
    """A recipe onto the shelf; as it lies there. Raises Refused."""
    if len(site.store.recipes()) >= MOST_SAVED:
        raise Refused(f"The shelf holds at most {MOST_SAVED} saved recipes: delete one first.")
    # Not only read back, but looked through like one that comes from outside.
    kept = recipe_file.read(recipe_file.write(recipe).encode())
    site.store.keep_recipe(kept.id, kept.name, recipe_file.write(kept).encode())
    return kept


class Saved(BaseModel):
    """What becomes a recipe: the chain of a parameter, or layers."""

    model_config = ConfigDict(
        json_schema_extra={
            "examples": [{"name": "Lantern flicker", "does": "Burns low.", "parameter": "lantern3.opacity"}]
        }
    )

    name: Annotated[str, Field(max_length=200)]
    does: Annotated[str, Field(max_length=400)] = ""
    parameter: str | None = None
    layers: tuple[str, ...] = Field(default=(), max_length=200)


@router.post("/api/projects/{project}/scenes/{scene}/recipes")
def save(project: str, scene: str, saved: Saved, request: Request) -> dict[str, Any]:
    """A chain, or layers with all that is on them, onto the shelf of recipes."""
    site = site_of(request)
    name = saved.name.strip()
    if not 0 < len(name) <= 80:
        raise Refused("A recipe needs a name of at most 80 letters.", "name")
    state = site.store.state(project)
    here = scene_in(state.project, scene)
    made = recipe_of(here, name, saved.does.strip(), saved.parameter, saved.layers)
    made = made.changed(author=state.project.author, licence=state.project.licence)
    return {"id": kept_recipe(site, made).id, "name": name}


@router.post("/api/recipes")
def bring_in(request: Request, file: UploadFile) -> dict[str, Any]:
    """A recipe file onto the shelf. Raises BadFile with everything that is wrong with it."""
    site = site_of(request)
    importer = IMPORTERS["recipe"]
    recipe = importer.read(file.file.read(importer.most_bytes + 1)).thing
    assert isinstance(recipe, Recipe)
    return {"id": kept_recipe(site, recipe.changed(id=new_id("recipe"))).id, "name": recipe.name}


@router.get("/api/recipes/{recipe}/file")
def hand_out(recipe: str, request: Request) -> Response:
    """A recipe as a file."""
    return whole_file(EXPORTERS["recipe"], Source(recipe=recipe_in(site_of(request), recipe)))


@router.post("/api/recipes/{recipe}/delete")
def delete(recipe: str, request: Request) -> dict[str, Any]:
    """Take a saved recipe off the shelf; what was made with it stays."""
    if recipe in ready():
        raise Refused("The ready recipes stay on the shelf.")
    site_of(request).store.forget_recipe(recipe)
    return {"deleted": recipe}
