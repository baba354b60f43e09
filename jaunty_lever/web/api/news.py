"""News of projects, as server-sent events: changes, and what is noticed."""

import asyncio
from collections.abc import AsyncIterator
from typing import Annotated, Any

import orjson
from fastapi import APIRouter, Query, Request
from starlette.responses import StreamingResponse

from jaunty_lever.storage.bodies import Unreadable
from jaunty_lever.storage.store import NotThere

from ..site import Site, site_of

router = APIRouter(prefix="/api")
MOST_PROJECTS = 100
"""On one connection."""
_PATIENCE = 15.0
"""Seconds of silence after which somebody who is no longer there is found out."""


@router.get("/projects/{project}/events")
async def events(project: str, request: Request) -> StreamingResponse:
    """Server-sent events: one for every `change` of the project, and `looked` for what is noticed in its scenes."""
    site = site_of(request)
    await asyncio.to_thread(site.store.state, project)
    return _stream(site, [project])


@router.get("/news")
async def news(request: Request, project: Annotated[list[str], Query(max_length=MOST_PROJECTS)]) -> StreamingResponse:
    """The same for many projects at once; those that are not there are silent."""
    return _stream(site_of(request), list(dict.fromkeys(project)))


def _stream(site: Site, projects: list[str]) -> StreamingResponse:
    # First the ear, then the look: what happens between the two must not be missed.
    queue = site.listeners.join(projects)

    async def stream() -> AsyncIterator[bytes]:
        try:
            for project in projects:
                try:
                    state = await asyncio.to_thread(site.store.state, project)
                except (NotThere, Unreadable):
                    continue
                stands = {"revision": state.revision, "change": state.change, "label": "", "by": "", "project": project}
                yield _event(stands)
            while True:
                try:
                    news = await asyncio.wait_for(queue.get(), _PATIENCE)
                except TimeoutError:
                    yield b": still here\n\n"
                    continue
                if news is None:
                    return
                yield _event(news)
        finally:
            site.listeners.leave(projects, queue)

    return StreamingResponse(stream(), media_type="text/event-stream", headers={"cache-control": "no-store"})


def _event(news: dict[str, Any]) -> bytes:
    name = b"looked" if "looked" in news else b"change"
    return b"event: " + name + b"\ndata: " + orjson.dumps(news) + b"\n\n"
