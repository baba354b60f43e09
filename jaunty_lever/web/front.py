"""What is served from the first moment on: the Shelf, which needs nothing of the job, while that is loaded beside
it."""

import asyncio
from collections.abc import Callable
from contextlib import AsyncExitStack
from typing import Any

from starlette.datastructures import Headers
from starlette.responses import Response
from starlette.types import ASGIApp, Receive, Scope, Send

from jaunty_lever.storage.folder import Folder

from .guard import Guard
from .shelf_page import OnShelf, shelf_page
from .static import STATIC
from .templating import walks


class Front:
    """The application from its first moment on: what can be answered at once is, all else waits until it is there."""

    def __init__(
        self, folder: Folder, load: Callable[[], Any], hosts: frozenset[str], token: str, coming: str = ""
    ) -> None:
        """`load` makes the whole application, which takes a while; it is called on a thread. `coming`: what is said of
        a project that it still has to put on the Shelf."""
        self._folder, self._load, self._coming = folder, load, coming
        self._early = Guard(self._answer, hosts=hosts, token=token)
        self._whole: asyncio.Future[ASGIApp] | None = None
        #: Why it could not be loaded.
        self.failed: BaseException | None = None
        #: Called when it could not be.
        self.give_up: Callable[[], None] = lambda: None

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "lifespan":
            await self._live(receive, send)
            return
        whole = self._whole
        if whole is not None and whole.done():
            await whole.result()(scope, receive, send)
        elif scope["type"] == "http":
            await self._early(scope, receive, send)

    async def _answer(self, scope: Scope, receive: Receive, send: Send) -> None:
        assert self._whole is not None
        answer: ASGIApp | None = None
        path = scope["path"]
        if path.startswith("/static/"):
            answer = STATIC
        elif path == "/" and walks(scope["method"], Headers(scope=scope)):
            answer = await asyncio.to_thread(self._shelf)
        # Whoever leaves does not take along what others wait for.
        if answer is None:
            answer = await asyncio.shield(self._whole)
        await answer(scope, receive, send)

    def _shelf(self) -> Response | None:
        told = self._folder.told_at_once()
        if told is None:
            return None
        return shelf_page([OnShelf(*one) for one in told], self._coming)

    async def _live(self, receive: Receive, send: Send) -> None:
        await receive()
        self._whole = asyncio.get_running_loop().create_future()
        await send({"type": "lifespan.startup.complete"})
        leaving = asyncio.ensure_future(receive())
        async with AsyncExitStack() as stack:
            loading = asyncio.ensure_future(asyncio.to_thread(self._load))
            try:
                whole = await asyncio.shield(loading)
                await stack.enter_async_context(whole.router.lifespan_context(whole))
                self._whole.set_result(whole)
            except Exception as error:
                self.failed = error
                self._folder.close()
                self.give_up()
            await leaving
        await send({"type": "lifespan.shutdown.complete"})
