"""Taking something out, for people: the sheet made from the formats, and how far long work is."""

from typing import Annotated, Any, get_args

from fastapi import APIRouter, Depends, Request
from pydantic import TypeAdapter, ValidationError
from starlette.datastructures import FormData
from starlette.responses import HTMLResponse

from jaunty_lever.core.edits import AnyEdit, Refused
from jaunty_lever.core.view.scene_view import scene_in, tried
from jaunty_lever.exporters import EXPORTERS, Exporter

from ..api.exports import begin, exporter_named, exports_of, from_query
from ..site import page, site_of

router = APIRouter()

_EDITS: TypeAdapter[list[AnyEdit]] = TypeAdapter(list[AnyEdit])
_MOST_EDITS = 200_000


async def _typed(request: Request) -> FormData:
    return await request.form()


Typed = Annotated[FormData, Depends(_typed)]


def fields_of(exporter: Exporter) -> list[dict[str, Any]]:
    """The fields of an exporter's form, made from its options."""
    found: list[dict[str, Any]] = []
    for name, field in exporter.options.model_fields.items():
        extra = field.json_schema_extra if isinstance(field.json_schema_extra, dict) else {}
        kind = extra.get("field") or (
            "switch" if field.annotation is bool else "choice" if get_args(field.annotation) else "number"
        )
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
                "default": field.get_default(call_default_factory=True),
                "unit": extra.get("unit", ""),
                "choices": extra.get("choices") or get_args(field.annotation),
            }
        )
    return found


@router.get("/projects/{project}/scenes/{scene}/sheets/export")
def sheet(project: str, scene: str, request: Request) -> HTMLResponse:
    """What can be taken out, and how."""
    state = site_of(request).store.state(project)
    here = scene_in(state.project, scene)
    chosen = request.query_params.get("parameter")
    moving: dict[str, list[tuple[str, str, bool]]] = {}
    for node in here.index.parameters.values():
        if node.within is None and (node.parameter.moves or node.id == chosen):
            name = " ".join(n for _, n in node.trail[1:]) or "value"
            moving.setdefault(node.trail[0][1], []).append((node.id, name, node.id == chosen))
    formats = [(one, fields_of(one)) for one in EXPORTERS.values() if one.takes in ("scene", "project")]
    return page("sheets/export.html", project=state.project, scene=here, moving=moving, formats=formats)


@router.post("/projects/{project}/scenes/{scene}/sheets/export/{name}")
def start(project: str, scene: str, name: str, request: Request, form: Typed) -> HTMLResponse:
    """Begin long work; the answer is a piece of page that shows the progress.

    `edits` (JSON) are tried on top of what is kept: a visitor's own copy.
    """
    exporter = exporter_named(name)
    given = from_query(exporter, form)
    edits = str(given.pop("edits", "[]"))
    whole = site_of(request).store.state(project).project
    try:
        if len(edits) > _MOST_EDITS:
            raise Refused(
                "This copy holds more changes than can be sent. Put everything back, then try again.", "edits"
            )
        whole = tried(whole, _EDITS.validate_json(edits))
    except ValidationError:
        raise Refused("The levers of this copy cannot be read. Put everything back, then try again.", "edits") from None
    return page("export_job.html", job=begin(request, exporter, whole, scene, given))


@router.get("/exports/{job}")
def progress(job: str, request: Request) -> HTMLResponse:
    """How far an export is."""
    return page("export_job.html", job=exports_of(request).job(job))


@router.post("/exports/{job}/stop")
def stop(job: str, request: Request) -> HTMLResponse:
    """Stop an export."""
    return page("export_job.html", job=exports_of(request).stop(job))
