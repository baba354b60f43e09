"""Values for the browser: what a page sees of a scene, also with edits tried but not kept."""

from typing import Any

import msgpack
from fastapi import APIRouter, Request
from starlette.responses import Response

from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.view.question import Question
from jaunty_lever.core.view.scene_view import scene_view

from ..site import Site, site_of

router = APIRouter(prefix="/api/projects/{project}/scenes/{scene}")


def answer(site: Site, project: Project, revision: int, question: Question, scene: str) -> dict[str, Any]:
    """Everything asked for, as plain data with binary channels."""
    body, told = scene_view(project, scene, question, site.cache, site.sent.told(question.token))
    site.sent.remember(told)
    return {"revision": revision, **body}


@router.post("/evaluate")
def evaluate(project: str, scene: str, question: Question, request: Request) -> Response:
    """Display list, curves and faults, in MessagePack."""
    site = site_of(request)
    site.looking.asked()
    state = site.store.state(project)
    site.foreseen.wait((project, scene, state.revision))
    body = answer(site, state.project, state.revision, question, scene)
    return Response(msgpack.packb(body), media_type="application/vnd.msgpack")
