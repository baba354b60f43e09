"""Taking a project or its values out as files."""

import re
from urllib.parse import quote

from fastapi import APIRouter, Request
from starlette.responses import Response

from jaunty_lever.exporters import EXPORTERS, Exporter, Source

from ..site import site_of

router = APIRouter(prefix="/api/projects/{project}")


def attachment(name: str) -> dict[str, str]:
    """Headers with which a browser keeps the answer as a file of this name."""
    # No folder, no line end, no hidden file: whatever a name holds, the file lies where it is put.
    name = re.sub(r"[\x00-\x1f\x7f/\\\\:]+", "_", name)
    name = re.sub(r"\.{2,}", "_", name).lstrip(". ") or "file"
    plain = re.sub(r"[^A-Za-z0-9._ -]", "_", name)
    return {"content-disposition": f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name)}"}


def whole_file(exporter: Exporter, source: Source) -> Response:
    """A source as a file of a format that needs no options."""
    options = exporter.options()
    plan = exporter.plan(source, options)
    content = b"".join(exporter.pieces(source, options))
    return Response(content, media_type=exporter.media_type, headers=attachment(plan.file_name))


@router.get("/file")
def project_as_file(project: str, request: Request) -> Response:
    """The project file."""
    return whole_file(EXPORTERS["project"], Source(site_of(request).store.state(project).project))


@router.get("/raw")
def raw_contents(project: str, request: Request) -> Response:
    """What is stored of a project as it is: for one that cannot be read."""
    content = site_of(request).store.raw(project)
    return Response(content, media_type="application/octet-stream", headers=attachment(f"{project}.raw.json"))
