"""Pictures of a project: brought in by file or drop, and served to the pages that show them."""

import base64
import json
from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from starlette.responses import Response

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.edits import Batch, Edit, Refused
from jaunty_lever.core.edits.pictures import AddPicture, ChangePicture
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.formats import lottie, svg
from jaunty_lever.formats.lottie import LottieDrawing
from jaunty_lever.formats.open_json import BadFile
from jaunty_lever.formats.pictures import MOST_BYTES, BadPicture, take_in
from jaunty_lever.formats.svg import SvgDrawing
from jaunty_lever.importers import IMPORTERS
from jaunty_lever.importers.drawings import added, stem
from jaunty_lever.storage.store import NotThere

from ..site import site_of
from .changes import told

router = APIRouter(prefix="/api/projects/{project}")

MOST_AT_ONCE = 40


def _drawing(content: bytes, name: str, fps: float) -> SvgDrawing | LottieDrawing | None:
    """A drawing or an animation, its keys at the scene's rate; None for what is neither. Raises BadFile."""
    if IMPORTERS["svg"].recognises(content):
        return svg.read(content, name)
    return lottie.read(content, name, fps) if IMPORTERS["lottie"].recognises(content) else None


@router.post("/scenes/{scene}/pictures")
def bring_in(
    project: str,
    scene: str,
    request: Request,
    files: Annotated[list[UploadFile], File()],
    by: Annotated[str, Form()] = "",
    at: Annotated[str, Form()] = "",
    layer: Annotated[str, Form()] = "",
) -> dict[str, Any]:
    """Pictures, drawings (SVG) and animations (Lottie) as new layers, all of them one step; or another picture for a layer that is there.

    A file that cannot be taken in is told by name and stops none of the others.
    """
    site = site_of(request)
    here = scene_in(site.store.state(project).project, scene)
    edits: list[Edit] = []
    layers: list[str] = []
    problems: list[str] = []
    remarks: list[str] = []
    position = _position(at)
    for number, file in enumerate(files[:MOST_AT_ONCE]):
        content, named = file.file.read(MOST_BYTES + 1), file.filename or "Picture"
        try:
            drawing = None if layer else _drawing(content, stem(named), here.fps)
            if drawing is not None:
                drawn = added(drawing, scene, position)
                edits.append(drawn)
                layers.append(drawn.id)
                if drawing.remarks:
                    remarks.append(f"{named} is in. Not read: {'; '.join(drawing.remarks)}.")
                continue
            picture = take_in(content, named)
        except (BadPicture, BadFile) as error:
            problems.append(f"{named}: {error}")
            continue
        if layer:
            edits = [ChangePicture(scene=scene, layer=layer, picture=picture)]
            continue
        layers.append(new_id("layer"))
        placed = (position[0] + 24 * number, position[1] + 24 * number) if position else None
        edits.append(AddPicture(scene=scene, picture=picture, id=layers[-1], position=placed))
    if not edits:
        raise Refused(" ".join(problems) or "No picture was given.", layer)
    step = edits[0] if len(edits) == 1 else Batch(edits=tuple(edits), named=f"{len(edits)} files brought in")
    state, label = site.store.edit(project, step)
    site.announce(project, state, label, by)
    return told(state, label) | {"layers": layers, "problems": problems, "remarks": remarks}


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
