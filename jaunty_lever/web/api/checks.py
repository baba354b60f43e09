"""What the program notices about a scene: the list behind the count in the head, and how a perfect loop is made."""

import time
from typing import Any

from fastapi import APIRouter, Request
from starlette.responses import Response

from jaunty_lever.core.checks.check import Check
from jaunty_lever.core.checks.run import run
from jaunty_lever.core.checks.seam import jumps, length_edit, perfect, rounding, told
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.evaluation.sampler import Sampler
from jaunty_lever.drawing.light import light

from ..site import site_of
from .evaluate import scene_in

router = APIRouter(prefix="/api/projects/{project}/scenes/{scene}")


def _plain(check: Check) -> dict[str, Any]:
    return {
        "kind": check.kind, "text": check.text, "at": check.at, "frame": check.frame,
        "mends": [[mend.label, list(mend.edits)] for mend in check.mends],
    }  # fmt: skip


class Overtaken(Refused):
    """The scene was changed while it was looked through: what would be found speaks of the past."""


@router.get("/checks", response_model=None)
def checks(project: str, scene: str, request: Request) -> list[dict[str, Any]] | Response:
    """Every check of the scene as it is stored now; 204 when it is changed meanwhile."""
    try:
        return noticed(project, scene, request)
    except Overtaken:
        return Response(status_code=204)


def noticed(project: str, scene: str, request: Request) -> list[dict[str, Any]]:
    """Every check of the scene as it is stored now. Raises Overtaken."""
    site = site_of(request)
    state = site.store.state(project)
    key = (project, scene, state.revision)
    # One at a time: several tabs that ask at once about one state wait for one answer.
    known = site.noticed
    with site.noticing:
        if key not in known:
            here = scene_in(state.project, scene)

            def between() -> None:
                # Whoever drags something meanwhile goes first; what has been changed since is not worth finishing.
                time.sleep(0.001)
                if site.store.state(project).revision != state.revision:
                    raise Overtaken("The scene has been changed meanwhile.", scene)

            found = run(Sampler(here, site.cache), lambda sampler: light(sampler, state.project.picture_table, between))
            known[key] = [_plain(check) for check in found]
            while len(known) > 40:
                del known[next(iter(known))]
        return known[key]


@router.get("/loop")
def loop(project: str, scene: str, request: Request) -> dict[str, Any]:
    """Whether the scene comes back to its start, when all that repeats does, and what would make it fit."""
    site = site_of(request)
    here = scene_in(site.store.state(project).project, scene)
    sampler = Sampler(here, site.cache)
    found, whole = list(jumps(sampler)), perfect(here)
    fitting = rounding(here)
    said = []
    for jump in found:
        said.append([jump.place.id, jump.place.label, told(jump).rstrip(",")])
    return {
        "jumps": said, "length": here.length, "frames": whole.frames, "periodic": whole.count, "loops": here.loops,
        # Keyed motion that ends as it began is back, though nothing makes it repeat.
        "never": [[place.id, place.label] for place in whole.never if place.id in {jump.place.id for jump in found}],
        "set": [length_edit(whole.frames)] if whole.frames and whole.frames != here.length else [],
        "round": list(fitting),
    }  # fmt: skip
