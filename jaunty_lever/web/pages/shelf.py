"""The Shelf: projects and scenes."""

import asyncio
from typing import Annotated, Any

from fastapi import APIRouter, Depends, Form, Request, UploadFile
from starlette.responses import HTMLResponse, RedirectResponse, Response

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.document.plain import packed
from jaunty_lever.core.document.recipe import Recipe
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.edits.scenes import AddScene, ChangeScene, DuplicateScene, RemoveScene, RenameProject
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.formats.open_json import BadFile
from jaunty_lever.importers import MOST_BYTES, importer_for
from jaunty_lever.storage.bodies import Unreadable

from ..api.recipes import kept_recipe
from ..drawn import strip_of
from ..shelf_page import STILL_WIDTH, OnShelf, listing, shelf_page
from ..site import Site, site_of
from ..templating import page

router = APIRouter()


def _shelf(site: Site) -> list[OnShelf]:
    shelf = []
    for entry in site.store.entries():
        try:
            shelf.append(OnShelf(entry, site.store.scenes(entry.id)))
        except Unreadable as error:
            shelf.append(OnShelf(entry, (), str(error)))
    return shelf


def _listing(site: Site, toast: str = "", undo: str = "") -> HTMLResponse:
    return listing(_shelf(site), toast, undo)


@router.get("/")
def shelf(request: Request) -> HTMLResponse:
    """All projects with their scenes."""
    return shelf_page(_shelf(site_of(request)))


@router.get("/shelf")
def shelf_list(request: Request) -> HTMLResponse:
    """The projects alone."""
    return _listing(site_of(request))


def _whole(text: str, name: str) -> int:
    try:
        return int(text.strip())
    except ValueError:
        raise Refused(f"The {name} must be a whole number, such as 300; “{text[:20]}” is not.", name) from None


def _scene_edit(form: dict[str, str], number: int) -> AddScene:
    width, _, height = form.get("size", "").partition("x")
    if form.get("size") == "own":
        width, height = form.get("width", ""), form.get("height", "")
    rate = form.get("fps", "30").strip().replace(",", ".")
    try:
        fps = float(rate)
        length = form.get("length", "300").strip()
        frames = round(float(length[:-1]) * fps) if length.endswith("s") else _whole(length, "length")
        return AddScene(
            name=form.get("name", "").strip() or f"Scene {number}",
            width=_whole(width, "width"),
            height=_whole(height, "height"),
            fps=fps,
            length=frames,
        )
    except (ValueError, OverflowError):
        raise Refused("The frame rate and the length must be numbers, such as 30 and 300, or 10s.", "fps") from None


async def _typed(request: Request) -> dict[str, str]:
    return {key: str(value) for key, value in (await request.form()).items()}


Typed = Annotated[dict[str, str], Depends(_typed)]


@router.post("/projects")
def new_project(request: Request, form: Typed) -> Response:
    """A new project with a first scene; leads to its Bench."""
    name = form.get("project", "").strip() or "Untitled"
    if len(name) > 120:
        raise Refused("A project's name has at most 120 letters.", "project")
    project = Project(id=new_id("project"), name=name)
    edit = _scene_edit(form, 1)
    project = edit.apply(project)
    site_of(request).store.create(project)
    return Response(status_code=204, headers={"hx-redirect": f"/projects/{project.id}/scenes/{edit.id}/bench"})


@router.post("/projects/{project}/scenes")
def new_scene(project: str, request: Request, form: Typed) -> Response:
    """A new scene in a project; leads to its Bench."""
    site = site_of(request)
    edit = _scene_edit(form, len(site.store.state(project).project.scenes) + 1)
    state, label = site.store.edit(project, edit)
    site.announce(project, state, label, "")
    return Response(status_code=204, headers={"hx-redirect": f"/projects/{project}/scenes/{edit.id}/bench"})


@router.post("/projects/{project}/rename")
def rename(project: str, request: Request, name: Annotated[str, Form()] = "") -> HTMLResponse:
    """Another name for a project."""
    return _edited(request, project, RenameProject(name=name))


@router.post("/projects/{project}/duplicate")
def duplicate(project: str, request: Request) -> HTMLResponse:
    """A copy of a project."""
    site = site_of(request)
    state = site.store.duplicate(project)
    return _listing(site, f"{state.project.name} made")


@router.post("/projects/{project}/delete")
def delete(project: str, request: Request) -> HTMLResponse:
    """Off the Shelf, with a way back."""
    site = site_of(request)
    name = site.store.delete(project)
    return _listing(site, f"{name} deleted", f"/projects/{project}/restore")


@router.post("/projects/{project}/restore")
def restore(project: str, request: Request) -> HTMLResponse:
    """Back on the Shelf."""
    site = site_of(request)
    return _listing(site, f"{site.store.restore(project)} is back")


@router.post("/projects/{project}/undo")
def undo(project: str, request: Request) -> HTMLResponse:
    """Take back the last change of a project, from the Shelf."""
    site = site_of(request)
    done = site.store.undo(project)
    if done:
        site.announce(project, done[0], f"Undone: {done[1]}", "")
    return _listing(site, f"Undone: {done[1]}" if done else "Nothing to undo")


@router.post("/projects/{project}/scenes/{scene}/rename")
def rename_scene(project: str, scene: str, request: Request, name: Annotated[str, Form()] = "") -> HTMLResponse:
    """Another name for a scene."""
    return _edited(request, project, ChangeScene(scene=scene, name=name))


@router.post("/projects/{project}/scenes/{scene}/duplicate")
def duplicate_scene(project: str, scene: str, request: Request) -> HTMLResponse:
    """A copy of a scene."""
    return _edited(request, project, DuplicateScene(scene=scene))


@router.post("/projects/{project}/scenes/{scene}/delete")
def delete_scene(project: str, scene: str, request: Request) -> HTMLResponse:
    """A scene deleted, with a way back."""
    return _edited(request, project, RemoveScene(scene=scene))


def _edited(request: Request, project: str, edit: Any) -> HTMLResponse:
    site = site_of(request)
    state, label = site.store.edit(project, edit)
    site.announce(project, state, label, "")
    return _listing(site, label, f"/projects/{project}/undo")


@router.post("/import")
def bring_in(request: Request, file: UploadFile) -> HTMLResponse:
    """A file of any format that is known: a project onto the Shelf, a recipe onto the shelf of recipes."""
    site = site_of(request)
    content = file.file.read(MOST_BYTES + 1)
    try:
        brought = importer_for(content).read(content, file.filename or "")
        found = brought.thing
        if isinstance(found, Recipe):
            kept_recipe(site, found.changed(id=new_id("recipe")))
            return _listing(site, f"{found.name} is among the recipes now: a Bench's Recipes puts it to use")
        state = site.store.create(found, f"Brought in from {file.filename or 'a file'}")
    except BadFile as error:
        return page(
            "import_problems.html",
            422,
            {"hx-retarget": "#problems"},
            problems=error.problems,
            name=file.filename or "The file",
        )
    said = f" Not read: {'; '.join(brought.remarks)}." if brought.remarks else ""
    if state.project.id != found.id:
        said = f" It was here already: this is a second one, and the first stays as it is.{said}"
    return _listing(site, f"{state.project.name} brought in.{said}" if said else f"{state.project.name} brought in")


@router.get("/projects/{project}/scenes/{scene}/strip.png")
async def strip(project: str, scene: str, request: Request) -> Response:
    """Small stills side by side, from the scene's whole length: what a card shows, and plays when pointed at."""
    site = site_of(request)
    state = await asyncio.to_thread(site.store.state, project)
    here = scene_in(state.project, scene)
    content = (await asyncio.to_thread(packed, here)).decode()
    place = str(site.store.path), project, state.revision
    high = max(1, round(STILL_WIDTH * here.height / here.width))
    return await strip_of(STILL_WIDTH, high, 86400, site.drawn.picture(content, "scene", place, scene))


@router.get("/favicon.ico")
def icon() -> Response:
    """The program's mark."""
    return RedirectResponse("/static/mark.svg")
