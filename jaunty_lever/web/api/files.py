"""Taking a project or its values out as files."""

import re
from typing import Annotated
from urllib.parse import quote

from fastapi import APIRouter, Query, Request
from starlette.responses import Response, StreamingResponse

from jaunty_lever.core.edits import Refused
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.formats import csv_values, project_file

from ..site import site_of

router = APIRouter(prefix="/api/projects/{project}")


def attachment(name: str) -> dict[str, str]:
    """Headers with which a browser keeps the answer as a file of this name."""
    # No folder, no line end, no hidden file: whatever a name holds, the file lies where it is put.
    name = re.sub(r"[\x00-\x1f\x7f/\\\\:]+", "_", name)
    name = re.sub(r"\.{2,}", "_", name).lstrip(". ") or "file"
    plain = re.sub(r"[^A-Za-z0-9._ -]", "_", name)
    return {"content-disposition": f"attachment; filename=\"{plain}\"; filename*=UTF-8''{quote(name)}"}


@router.get("/file")
def project_as_file(project: str, request: Request) -> Response:
    """The project file."""
    state = site_of(request).store.state(project)
    text = project_file.write(state.project)
    return Response(text, media_type="application/json", headers=attachment(state.project.name + project_file.ENDING))


@router.get("/raw")
def raw_contents(project: str, request: Request) -> Response:
    """What is stored of a project as it is: for one that cannot be read."""
    content = site_of(request).store.raw(project)
    return Response(content, media_type="application/octet-stream", headers=attachment(f"{project}.raw.json"))


def checked_range(start: int, stop: int, length: int) -> tuple[int, int]:
    """First and last frame, both included, as a range; Refused when it makes no sense."""
    if not 0 <= start <= stop < length:
        raise Refused(f"Frames {start} to {stop} are not in the scene, which has frames 0 to {length - 1}.", "start")
    return start, stop + 1


@router.get("/scenes/{scene}/values.csv")
def values(
    project: str, scene: str, request: Request, parameter: Annotated[list[str], Query(max_length=2000)] = [],
    start: int = 0, stop: int | None = None, step: float = 1.0,
) -> StreamingResponse:  # fmt: skip
    """Parameters by frame, as CSV."""
    here = scene_in(site_of(request).store.state(project).project, scene)
    if not parameter:
        raise Refused("Tick at least one parameter to write.", "parameter")
    for one in parameter:
        if one not in here.index.parameters:
            raise Refused("One of these parameters is no longer there.", one)
    first, last = checked_range(start, here.length - 1 if stop is None else stop, here.length)
    if not 0.01 <= step <= 1000:
        raise Refused("The step lies between 0.01 and 1,000 frames.", "step")
    lines = csv_values.write(here, [(one, None) for one in parameter], first, last, step)
    return StreamingResponse(lines, media_type="text/csv; charset=utf-8", headers=attachment(f"{here.name}.csv"))
