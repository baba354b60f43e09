"""Files brought into an open project by choosing or drop, and its pictures for the pages that show them."""

import base64
import json
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from starlette.responses import Response

from jaunty_lever.core.document.gauge import MOST_GRID
from jaunty_lever.core.edits import Batch, Refused
from jaunty_lever.core.edits.gauges import SetGaugePicture
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.formats.clips import Cancelled, numbered
from jaunty_lever.formats.open_json import BadFile
from jaunty_lever.formats.pictures import BadPicture, brightness, take_in
from jaunty_lever.importers.into import MOST_BYTES, Taken, Where, taken_in, taken_in_numbered, taken_instead
from jaunty_lever.storage.store import NotThere

from ..bringing import Coming
from ..lasting import told
from ..site import Site, site_of

router = APIRouter(prefix="/api/projects/{project}")

MOST_AT_ONCE = 40


@router.post("/scenes/{scene}/pictures")
def bring_in(
    project: str,
    scene: str,
    request: Request,
    files: Annotated[list[UploadFile], File()],
    by: Annotated[str, Form()] = "",
    at: Annotated[str, Form()] = "",
    layer: Annotated[str, Form()] = "",
    chosen: Annotated[list[str] | None, Form()] = None,
    coming: Annotated[str, Form()] = "",
) -> dict[str, Any]:
    """Files of any kind that comes into an open project, all of them one step; or another picture or clip for a `layer`
    that is there. A font is what `chosen` texts are set in. Numbered pictures become one clip. How far it is can be
    asked for under the name `coming`.

    A file that cannot be taken in is told by name and stops none of the others.
    """
    site = site_of(request)
    way = site.bringing.begin(coming)
    try:
        return _brought_in(site, project, scene, files, by, at, layer, chosen or [], way)
    except Cancelled:
        raise Refused("Nothing was brought in.") from None
    finally:
        site.bringing.end(coming)


def _brought_in(
    site: Site,
    project: str,
    scene: str,
    files: list[UploadFile],
    by: str,
    at: str,
    layer: str,
    chosen: list[str],
    way: Coming,
) -> dict[str, Any]:
    whole = site.store.state(project).project
    scene_in(whole, scene)
    taken: list[Taken] = []
    problems: list[str] = []
    position = _position(at)
    row = numbered([file.filename or "" for file in files]) if not layer else None
    if row is not None:
        way.what = f"{len(row)} numbered pictures"
        by_name = {file.filename: file for file in files}
        sequence = [(name, by_name[name].file.read(MOST_BYTES + 1)) for name in row]
        try:
            taken.append(taken_in_numbered(sequence, Where(whole, scene, position, (), way.told)))
        except BadFile as error:
            problems.append(str(error))
        files = []
    elif len(files) > MOST_AT_ONCE:
        problems.append(f"{len(files) - MOST_AT_ONCE} files were left out: {MOST_AT_ONCE} come in at once.")
    for number, file in enumerate(files[:MOST_AT_ONCE]):
        content, named = file.file.read(MOST_BYTES + 1), file.filename or "Picture"
        placed = (position[0] + 24 * number, position[1] + 24 * number) if position else None
        way.what = named
        where = Where(whole, scene, placed, tuple(chosen), way.told)
        try:
            if layer:
                taken = [taken_instead(content, named, layer, where)]
            else:
                taken.append(taken_in(content, named, where))
        except BadFile as error:
            problems.append(f"{named}: {error}")
    if not taken:
        raise Refused(" ".join(problems) or "No file was given.", layer)
    edits = tuple(one.edit for one in taken)
    step = edits[0] if len(edits) == 1 else Batch(edits=edits, named=f"{len(edits)} files brought in")
    state, label = site.store.edit(project, step)
    site.announce(project, state, label, by)
    layers = [one for made in taken for one in made.layers]
    remarks = [one for made in taken for one in made.remarks]
    return told(state, label) | {"layers": layers, "problems": problems, "remarks": remarks}


@router.post("/scenes/{scene}/gauges/{gauge}/picture")
def of_gauge(
    project: str,
    scene: str,
    gauge: str,
    request: Request,
    file: Annotated[UploadFile | None, File()] = None,
    picture: Annotated[str, Form()] = "",
    by: Annotated[str, Form()] = "",
) -> dict[str, Any]:
    """The picture whose brightness a gauge reads: a file, or one that the project keeps by its id. Raises Refused."""
    site = site_of(request)
    try:
        found = take_in(file.file.read(MOST_BYTES + 1), file.filename or "Picture") if file is not None else None
    except BadPicture as error:
        raise Refused(str(error), gauge) from None
    found = found or site.store.state(project).project.picture_table.get(picture)
    if found is None:
        raise NotThere("This picture is not in the project any more.")
    wide, high, data = brightness(found, MOST_GRID)
    step = SetGaugePicture(scene=scene, gauge=gauge, source=found.name, wide=wide, high=high, data=data)
    state, label = site.store.edit(project, step)
    site.announce(project, state, label, by)
    return told(state, label)


def _position(text: str) -> tuple[float, float] | None:
    try:
        x, y = (float(part) for part in json.loads(text))
    except (ValueError, TypeError):
        return None
    return (x, y) if abs(x) < 1e6 and abs(y) < 1e6 else None


@router.get("/pictures/{picture}")
def picture(project: str, picture: str, request: Request) -> Response:
    """The bytes of one picture. Its id is made from its content, so browsers may keep it for good."""
    found = site_of(request).store.state(project).project.picture_table.get(picture)
    if found is None:
        raise NotThere("This picture is not in the project any more.")
    headers = {"cache-control": "private, max-age=31536000, immutable", "x-content-type-options": "nosniff"}
    return Response(base64.b64decode(found.data), media_type=found.media, headers=headers)
