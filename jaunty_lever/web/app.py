"""The application: its parts put together, and what happens when something is wrong."""

import logging
import warnings
from collections.abc import AsyncIterator
from contextlib import asynccontextmanager
from pathlib import Path
from typing import Any

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from pydantic.warnings import UnsupportedFieldAttributeWarning
from starlette.exceptions import HTTPException
from starlette.responses import JSONResponse, Response

from jaunty_lever import __version__
from jaunty_lever.core.edits import Gone, Refused
from jaunty_lever.core.edits.base import misfit_of
from jaunty_lever.formats.project_file import BadFile
from jaunty_lever.rendering import Runner
from jaunty_lever.storage.bodies import Unreadable
from jaunty_lever.storage.export_notes import ExportNotes
from jaunty_lever.storage.store import Busy, NotKept, NotThere, Store

from .api import changes, checks, clips, evaluate, exports, formulas, levers, news, pictures, recipes, tables
from .api import files as project_files
from .bounds import Bounded
from .drawn import NotDrawn
from .exporting import Exports
from .guard import Guard
from .pages import (
    bench,
    curves,
    figure_sheets,
    finding,
    handover,
    help,
    help_api,
    help_arrays,
    help_index,
    kept_sheets,
    linkage,
    linking,
    sheets,
    shelf,
    steering_sheet,
    swinging_sheet,
)
from .pages import exports as export_sheets
from .pages import recipes as recipe_sheets
from .pages import tables as table_pages
from .site import Site
from .static import MOUNT
from .templating import BROKEN, page, said_of, walks
from .warm import warm_up

log = logging.getLogger("jaunty_lever")

# FastAPI silences this about its own path parameters, but not while the first start compiles kernels beside it.
warnings.filterwarnings("ignore", category=UnsupportedFieldAttributeWarning)


def create_app(
    store: Store, scratch: Path, hosts: frozenset[str], runner: Runner | None = None, token: str = ""
) -> FastAPI:
    """The application over a store; `scratch` takes finished exports, `hosts` are its own addresses.

    `runner` draws exports; this process, if there is none. `token`: asked of everybody, if there is one.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncIterator[None]:
        warm_up()
        yield
        app.state.site.aside.close()
        app.state.site.looking.close()
        app.state.site.drawn.close()
        app.state.exports.shutdown()
        # Here and not behind the server: a signal ends the process before anything behind it is reached.
        store.close()

    app = FastAPI(
        title="Jaunty Lever",
        version=__version__,
        docs_url=None,
        redoc_url=None,
        openapi_url="/api/openapi.json",
        lifespan=lifespan,
    )
    app.state.site = Site(store, scratch)
    app.state.exports = Exports(scratch, ExportNotes(store), runner)
    app.router.routes.append(MOUNT)
    for part in (
        shelf,
        bench,
        curves,
        help,
        help_arrays,
        help_index,
        sheets,
        figure_sheets,
        finding,
        handover,
        linkage,
        linking,
        steering_sheet,
        swinging_sheet,
        recipe_sheets,
        export_sheets,
        kept_sheets,
        table_pages,
        recipes,
        pictures,
        clips,
        checks,
        changes,
        news,
        evaluate,
        formulas,
        exports,
        levers,
        project_files,
        tables,
        help_api,
    ):
        app.include_router(part.router)

    @app.get("/health")
    def health() -> dict[str, str]:
        return {"status": "ok", "version": __version__}

    app.add_exception_handler(Gone, _said(409))
    app.add_exception_handler(Refused, _said(422))
    app.add_exception_handler(BadFile, _said(422))
    app.add_exception_handler(NotThere, _said(404))
    app.add_exception_handler(Unreadable, _said(422))
    app.add_exception_handler(NotKept, _not_kept)
    app.add_exception_handler(NotDrawn, _not_drawn)
    app.add_exception_handler(RequestValidationError, _misfit)
    app.add_exception_handler(HTTPException, _http)
    app.add_exception_handler(Exception, _broken)
    app.add_middleware(Bounded)
    app.add_middleware(Guard, hosts=hosts, token=token)
    return app


def _answer(request: Request, status: int, said: dict[str, Any]) -> Response:
    """A page for people who walk, JSON for programs and for the pages' own requests."""
    if walks(request.method, request.headers):
        return page("error.html", status, message=said["message"])
    return JSONResponse({"at": "", "problems": []} | said, status)


def _said(status: int):  # type: ignore[no-untyped-def]
    async def handler(request: Request, error: Exception) -> Response:
        return _answer(request, status, said_of(error))

    return handler


async def _not_kept(request: Request, error: Exception) -> Response:
    log.error("the database could not be written: %s", getattr(error.__cause__, "orig", error))
    return _answer(request, 503 if isinstance(error, Busy) else 507, said_of(error))


async def _not_drawn(request: Request, error: Exception) -> Response:
    return _answer(request, 500, {"message": "This picture could not be drawn; the program's log says why."})


async def _misfit(request: Request, error: Exception) -> Response:
    assert isinstance(error, RequestValidationError)
    refused = misfit_of(error.errors(), "The request")
    return _answer(request, 422, said_of(refused))


async def _http(request: Request, error: Exception) -> Response:
    assert isinstance(error, HTTPException)
    message = "There is no such page here." if error.status_code == 404 else str(error.detail)
    return _answer(request, error.status_code, {"message": message})


async def _broken(request: Request, error: Exception) -> Response:
    return _answer(request, 500, {"message": BROKEN})
