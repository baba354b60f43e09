"""Taking something out, for programs: which formats there are, files at once, and long work with its progress."""

import contextlib
from typing import Any

from fastapi import APIRouter, Request
from pydantic import BaseModel, ConfigDict, Field
from starlette.datastructures import FormData, QueryParams
from starlette.responses import FileResponse, Response, StreamingResponse

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import AnyEdit, Refused
from jaunty_lever.core.view.scene_view import scene_in, tried
from jaunty_lever.exporters import EXPORTERS, Exporter, Source, read_options
from jaunty_lever.importers.into import kinds
from jaunty_lever.storage.store import NotThere

from ..exporting import Exports, Job
from ..site import site_of
from .files import attachment

router = APIRouter(prefix="/api")


def exports_of(request: Request) -> Exports:
    """The exports of the application that is asked."""
    made: Exports = request.app.state.exports
    return made


def exporter_named(name: str) -> Exporter:
    """Raises NotThere."""
    if name not in EXPORTERS:
        raise NotThere(f"There is no format “{name}”. There are: {', '.join(EXPORTERS)}.")
    return EXPORTERS[name]


def from_query(exporter: Exporter, given: QueryParams | FormData) -> dict[str, Any]:
    """Options out of a query or a form, where all is text and a list is the same name again."""
    found: dict[str, Any] = {}
    for name in given:
        field = exporter.options.model_fields.get(name)
        many = field is not None and getattr(field.annotation, "__origin__", None) is list
        found[name] = given.getlist(name) if many else given[name]
    return found


def begin(request: Request, exporter: Exporter, project: Project, scene: str, given: dict[str, Any]) -> Job:
    """Start long work. Raises Refused."""
    options = read_options(exporter, given)
    source = Source(project, scene_in(project, scene))
    return exports_of(request).start(exporter, source, options, exporter.plan(source, options))


@router.get("/formats")
def formats() -> dict[str, Any]:
    """Which formats go out and come in, with the options of each as a JSON Schema."""
    out = [
        {
            "name": one.name,
            "title": one.title,
            "does": one.does,
            "takes": one.takes,
            "ending": one.ending,
            "draws": one.draws,
            "options": one.options.model_json_schema(),
        }
        for one in EXPORTERS.values()
    ]
    return {"exporters": out, "importers": [one._asdict() for one in kinds()]}


@router.get("/projects/{project}/scenes/{scene}/export/{name}")
def at_once(project: str, scene: str, name: str, request: Request) -> StreamingResponse:
    """A file that takes no time; options stand in the query."""
    exporter = exporter_named(name)
    if exporter.draws:
        raise Refused(f"{exporter.title} take a while: POST starts them, and tells where they will be.", "format")
    whole = site_of(request).store.state(project).project
    options = read_options(exporter, from_query(exporter, request.query_params))
    source = Source(whole, scene_in(whole, scene))
    plan = exporter.plan(source, options)
    return StreamingResponse(
        exporter.pieces(source, options), media_type=exporter.media_type, headers=attachment(plan.file_name)
    )


class Wish(BaseModel):
    """Long work: its options, and edits that are tried on top of what is kept."""

    model_config = ConfigDict(json_schema_extra={"examples": [{"options": {"frames": "0:3", "size": 0.1}}]})

    options: dict[str, Any] = Field(default_factory=dict)
    edits: list[AnyEdit] = Field(default_factory=list, max_length=2000)


@router.post("/projects/{project}/scenes/{scene}/export/{name}")
def start(project: str, scene: str, name: str, wish: Wish, request: Request) -> dict[str, Any]:
    """Begin long work; its progress is asked for by its id."""
    whole = tried(site_of(request).store.state(project).project, wish.edits)
    return told(begin(request, exporter_named(name), whole, scene, wish.options))


def told(job: Job) -> dict[str, Any]:
    """How far an export is, as plain data."""
    return {
        "id": job.id,
        "name": job.name,
        "format": job.exporter.name,
        "done": job.done,
        "total": job.total,
        "state": job.state,
        "left": job.left,
        "finished": job.finished,
        "problem": job.problem,
        "report": job.report,
        "file": f"/api/exports/{job.id}/file",
    }


@router.get("/exports/{job}")
def progress(job: str, request: Request) -> dict[str, Any]:
    """How far an export is."""
    return told(exports_of(request).job(job))


@router.get("/projects/{project}/exports")
def of_project(project: str, request: Request) -> list[dict[str, Any]]:
    """A project's exports that are kept, the newest first."""
    return [told(job) for job in exports_of(request).of_project(project)]


@router.get("/exports/{job}/sight")
def sight(job: str, request: Request) -> Response:
    """The frame that was drawn last, small, as PNG."""
    seen = exports_of(request).job(job).sight
    if not seen:
        raise NotThere("Nothing has been drawn yet.")
    return Response(seen, media_type="image/png", headers={"cache-control": "no-store"})


@router.post("/exports/{job}/remove")
def remove(job: str, request: Request) -> dict[str, str]:
    """Let go of a finished export and its file."""
    exports_of(request).remove(job)
    return {"id": job}


@router.post("/exports/{job}/stop")
def stop(job: str, request: Request) -> dict[str, Any]:
    """Stop an export."""
    return told(exports_of(request).stop(job))


@router.get("/exports/{job}/file")
def result(job: str, request: Request) -> Response:
    """The finished file."""
    found = exports_of(request).job(job)
    if not found.finished or found.problem:
        raise NotThere("This export is not finished.")
    with contextlib.suppress(OSError):
        # It is kept for a day from now on.
        found.path.touch()
    return FileResponse(found.path, media_type=found.exporter.media_type, headers=attachment(found.name))
