"""Taking something out, for people: the page made from the formats, and how far long work is."""

from collections.abc import Iterator
from typing import Annotated, Any, get_args

from fastapi import APIRouter, Depends, Request
from pydantic import TypeAdapter, ValidationError
from starlette.datastructures import FormData
from starlette.responses import HTMLResponse

from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.edits import AnyEdit, Refused
from jaunty_lever.core.view.scene_view import scene_in, tried
from jaunty_lever.exporters import EXPORTERS, Exporter, Source, Use, read_options
from jaunty_lever.rendering.batch import BATCH

from ..api.exports import begin, exporter_named, exports_of, from_query
from ..exporting import Job
from ..site import site_of
from ..templating import page

router = APIRouter()

_EDITS: TypeAdapter[list[AnyEdit]] = TypeAdapter(list[AnyEdit])
_MOST_EDITS = 200_000


async def _typed(request: Request) -> FormData:
    return await request.form()


Typed = Annotated[FormData, Depends(_typed)]


def fields_of(exporter: Exporter, use: Use | None = None) -> list[dict[str, Any]]:
    """The fields of an exporter's form, made from its options, filled in for a use."""
    found: list[dict[str, Any]] = []
    given = use.options if use else {}
    for name, field in exporter.options.model_fields.items():
        extra = field.json_schema_extra if isinstance(field.json_schema_extra, dict) else {}
        kind = extra.get("field") or (
            "switch" if field.annotation is bool else "choice" if get_args(field.annotation) else "number"
        )
        if kind == "written":
            # The same as the first and the last frame, for programs.
            continue
        if kind == "frame":
            # The first and the last stand on one line.
            if any(known["kind"] == "frames" for known in found):
                continue
            kind = "frames"
        found.append(
            {
                "name": name,
                "kind": kind,
                "title": field.title or name,
                "help": field.description or "",
                "default": given.get(name, field.get_default(call_default_factory=True)),
                "unit": extra.get("unit", ""),
                "choices": extra.get("choices") or get_args(field.annotation),
            }
        )
    return found


def uses() -> Iterator[tuple[str, Exporter, Use]]:
    """What people may want, each with a name for addresses: every use of every format of scenes and projects."""
    for exporter in EXPORTERS.values():
        if exporter.takes != "recipe":
            for number, use in enumerate(exporter.uses or (Use(exporter.title),)):
                yield f"{exporter.name}.{number}", exporter, use


def asked_here(scene: Scene, project: Project, request: Request) -> dict[str, Any]:
    """What the middle of the page shows."""
    wanted, known = request.query_params.get("for", ""), {name: (one, use) for name, one, use in uses()}
    name = wanted if wanted in known else next(iter(known))
    exporter, use = known[name]
    fields = fields_of(exporter, use)
    moving: dict[str, list[tuple[str, str, bool]]] = {}
    if any(field["kind"] == "parameters" for field in fields):
        chosen = request.query_params.get("parameter")
        for node in scene.index.parameters.values():
            if node.within is None and (node.parameter.moves or node.reads is not None or node.id == chosen):
                title = " ".join(n for _, n in node.trail[1:]) or "value"
                moving.setdefault(node.trail[0][1], []).append((node.id, title, node.id == chosen))
    return {
        "project": project,
        "scene": scene,
        "own": request.query_params.get("own") == "yes",
        "chosen": name,
        "format": exporter,
        "use": use,
        "fields": fields,
        "moving": moving,
        "kept": request.query_params,
    }


@router.get("/projects/{project}/scenes/{scene}/export")
def export(project: str, scene: str, request: Request) -> HTMLResponse:
    """The page: what for, how, and what is being made."""
    state = site_of(request).store.state(project)
    here = scene_in(state.project, scene)
    values = asked_here(here, state.project, request)
    exports = exports_of(request)
    jobs, by = exports.of_project(project), exports.drawn_by
    # What is about to be asked for takes some seconds to begin.
    exports.begin()
    return page("export.html", state=state, uses=list(uses()), jobs=jobs, drawn_by=by, **values)


@router.get("/projects/{project}/scenes/{scene}/export/settings")
def settings(project: str, scene: str, request: Request) -> HTMLResponse:
    """The middle of the page, for another use."""
    whole = site_of(request).store.state(project).project
    return page("export_settings.html", **asked_here(scene_in(whole, scene), whole, request))


_OF_BATCH = {"each": "table", "rows": "rows", "naming": "naming"}


def asked_for(name: str, form: FormData) -> tuple[Exporter, dict[str, Any]]:
    """The format, or a batch of it, and what it is told. Raises NotThere."""
    exporter = exporter_named(name)
    given = from_query(exporter, form)
    given.pop("edits", None)
    batch = {to: str(given.pop(one)) for one, to in _OF_BATCH.items() if one in given}
    if not batch.get("table"):
        return exporter, given
    return BATCH, batch | {"format": name, "given": given}


@router.post("/projects/{project}/scenes/{scene}/export/{name}/plan")
def plan(project: str, scene: str, name: str, request: Request, form: Typed) -> HTMLResponse:
    """What an export will be, and what it will not carry. Raises Refused."""
    whole = site_of(request).store.state(project).project
    exporter, given = asked_for(name, form)
    made = exporter.plan(Source(whole, scene_in(whole, scene)), read_options(exporter, given))
    return page("export_plan.html", plan=made, format=exporter)


@router.post("/projects/{project}/scenes/{scene}/export/{name}")
def start(project: str, scene: str, name: str, request: Request, form: Typed) -> HTMLResponse:
    """Begin long work; the answer is a piece of page that shows the progress.

    `edits` (JSON) are tried on top of what is kept: a visitor's own copy.
    """
    edits = str(form.get("edits", "[]"))
    exporter, given = asked_for(name, form)
    whole = site_of(request).store.state(project).project
    try:
        if len(edits) > _MOST_EDITS:
            raise Refused(
                "This copy holds more changes than can be sent. Put everything back, then try again.", "edits"
            )
        whole = tried(whole, _EDITS.validate_json(edits))
    except ValidationError:
        raise Refused("The levers of this copy cannot be read. Put everything back, then try again.", "edits") from None
    return _card(begin(request, exporter, whole, scene, given))


@router.get("/exports/{job}")
def progress(job: str, request: Request) -> HTMLResponse:
    """How far an export is."""
    return _card(exports_of(request).job(job))


@router.post("/exports/{job}/stop")
def stop(job: str, request: Request) -> HTMLResponse:
    """Stop an export."""
    return _card(exports_of(request).stop(job))


@router.post("/exports/{job}/remove")
def remove(job: str, request: Request) -> HTMLResponse:
    """Let go of a finished export; nothing of it is left on the page."""
    exports_of(request).remove(job)
    return HTMLResponse("")


def _card(job: Job) -> HTMLResponse:
    return page("export_job.html", job=job)
