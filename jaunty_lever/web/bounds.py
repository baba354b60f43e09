"""How much a request may bring, and how long it may take to bring it: so that no one of them stops the others."""

import asyncio
from typing import Any

from starlette.datastructures import Headers
from starlette.responses import JSONResponse
from starlette.types import ASGIApp, Message, Receive, Scope, Send
from uvicorn.protocols.http.h11_impl import H11Protocol

from jaunty_lever.formats.sizes import MOST_PROJECT

MOST_PLAIN = 4 << 20
"""Bytes of edits, questions and forms."""
MOST_FILES = 1 << 30
"""Bytes of all files that are brought in at once; each has a bound of its own, told by what reads it."""
_AROUND = 1 << 20
"""Bytes that a form has around its files."""
PATIENCE = 30.0
"""Seconds that the next part of a request is waited for."""


def most_of(path: str, kind: str) -> int:
    """Bytes that a request to a path may bring."""
    if not kind.startswith("multipart/"):
        return MOST_PLAIN
    return _AROUND + (MOST_PROJECT if path == "/import" else MOST_FILES)


class Bounded:
    """Refuses bodies that are too large, by what they say and by what they bring, and those that do not go on."""

    def __init__(self, app: ASGIApp, patience: float = PATIENCE) -> None:
        self.app, self.patience = app, patience

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http" or scope["method"] in ("GET", "HEAD", "OPTIONS"):
            await self.app(scope, receive, send)
            return
        headers = Headers(scope=scope)
        most = most_of(scope["path"], headers.get("content-type", ""))
        too_much = f"That is more than {most >> 20} MB, the most that comes in at once here. Nothing was changed."
        told = headers.get("content-length", "")
        if told.isdecimal() and int(told) > most:
            await JSONResponse({"message": too_much}, 413)(scope, receive, send)
            return
        refused: list[tuple[int, str]] = []
        came, whole = 0, False

        async def receiving() -> Message:
            nonlocal came, whole
            if whole:
                # The whole request is there: what comes now is that nobody waits for the answer any more.
                return await receive()
            try:
                message = await asyncio.wait_for(receive(), self.patience)
            except TimeoutError:
                refused.append((408, "The rest of this did not come. Nothing was changed; send it again."))
                return {"type": "http.disconnect"}
            came += len(message.get("body", b""))
            whole = not message.get("more_body", False)
            if came > most:
                refused.append((413, too_much))
                return {"type": "http.disconnect"}
            return message

        async def sending(message: Message) -> None:
            if not refused:
                await send(message)
            elif message["type"] == "http.response.start":
                status, said = refused[0]
                await JSONResponse({"message": said}, status)(scope, receive, send)

        await self.app(scope, receiving, sending)


class Patient(H11Protocol):
    """HTTP whose connections are not held open by who never finishes to ask."""

    patience = PATIENCE

    def __init__(self, *given: Any, **named: Any) -> None:
        super().__init__(*given, **named)
        self._late: asyncio.TimerHandle | None = None

    def connection_made(self, transport: asyncio.Transport) -> None:  # type: ignore[override]
        """Somebody is there."""
        super().connection_made(transport)
        self._wait()

    def data_received(self, data: bytes) -> None:
        """A part of what is asked: its head is to be there in time."""
        super().data_received(data)
        if self.cycle is None or self.cycle.response_complete:
            self._wait()
        else:
            self._waited()

    def connection_lost(self, exc: Exception | None) -> None:
        """Nobody is there any more."""
        self._waited()
        super().connection_lost(exc)

    def _wait(self) -> None:
        if self._late is None:
            self._late = self.loop.call_later(self.patience, self.transport.close)

    def _waited(self) -> None:
        if self._late is not None:
            self._late.cancel()
            self._late = None
