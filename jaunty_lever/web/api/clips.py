"""Frames of clips for the pages that show them, how many are kept on disk, and how far a clip is that comes in."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request
from pydantic import BaseModel, Field
from starlette.responses import Response

from jaunty_lever.core.edits import Refused
from jaunty_lever.drawing.footage import MOST_LEVEL
from jaunty_lever.storage.store import NotThere

from ..kept_frames import LEAST, MOST
from ..site import site_of
from ..templating import in_bytes

router = APIRouter(prefix="/api")
_FOR_GOOD = {"cache-control": "private, max-age=31536000, immutable", "x-content-type-options": "nosniff"}


@router.get("/projects/{project}/clips/{clip}/frames/{number}")
def frame(
    project: str, clip: str, number: int, request: Request, level: Annotated[int, Query(ge=0, le=MOST_LEVEL)] = 0
) -> Response:
    """A frame of a clip as WebP, its sides halved `level` times. Ids are made from content, so browsers may keep it for
    good."""
    site = site_of(request)
    found = site.store.state(project).project.clip(clip)
    if found is None:
        raise NotThere("This clip is not in the project any more.")
    made = site.frames.frame(found, number, level)
    if made is None:
        raise NotThere("The clip has no such frame, or it cannot be read.")
    return Response(made, media_type="image/webp", headers=_FOR_GOOD)


@router.get("/bringing/{name}")
def how_far(name: str, request: Request) -> dict[str, Any]:
    """How far something is that comes in, 0..1."""
    found = site_of(request).bringing.find(name)
    came = found.came if found else None
    return {
        "share": found.share if found and came is None else 1.0,
        "what": found.what if found else "",
        "came": came,
    }


@router.delete("/bringing/{name}")
def not_wanted(name: str, request: Request) -> dict[str, Any]:
    """Whatever comes in under that name is not wanted any more."""
    found = site_of(request).bringing.find(name)
    if found is not None:
        found.stopped = True
    return {"stopped": found is not None}


class Room(BaseModel):
    """How much of the disk the frames of clips may take."""

    megabytes: float = Field(ge=LEAST / 1e6, le=MOST / 1e6)


@router.get("/clip-frames")
def kept(request: Request) -> dict[str, Any]:
    """Bytes that the kept frames of clips take, and may take."""
    frames = site_of(request).frames
    return {
        "taken": frames.taken(),
        "most": frames.most,
        "told": f"{in_bytes(frames.taken())} of {in_bytes(frames.most)}",
    }


@router.put("/clip-frames")
def bound(room: Room, request: Request) -> dict[str, Any]:
    """Let the kept frames of clips take so much of the disk at the most; those longest unused go at once. Raises
    Refused."""
    try:
        site_of(request).frames.bound(int(room.megabytes * 1e6))
    except OSError as error:
        raise Refused(f"That could not be written: {error.strerror or error}.") from None
    return kept(request)


@router.delete("/clip-frames")
def cleared(request: Request) -> dict[str, Any]:
    """Forget the kept frames of clips. They are made again when they are shown."""
    site_of(request).frames.clear()
    return kept(request)
