"""Small pictures for pages, drawn by a process beside the server, what was asked for last first, and kept on disk."""

import asyncio
import contextlib
import logging
import time
from collections.abc import Awaitable, Callable
from concurrent.futures import Future
from hashlib import blake2b
from pathlib import Path
from typing import Any

from starlette.responses import Response

from jaunty_lever.core.document.refused import Gone, Refused
from jaunty_lever.drawing.strip import sign
from jaunty_lever.processes import Ended, Worker

from .kept_files import KeptFiles

log = logging.getLogger("jaunty_lever")

_PROCESS = "jaunty_lever.web.still"
_MOST = 64_000_000
"""Bytes that are kept on disk."""
_RESTS = 60.0
"""Seconds without work after which the process goes."""
_LONGEST = 40.0
"""Seconds that one picture may take, reading and all; what draws knows of a shorter time by itself."""
_OFTEN = 0.05


class NotDrawn(Exception):
    """Nothing can be drawn of it; the log says why."""


class Drawn(Worker):
    """What is drawn, by what it is made of."""

    def __init__(self, folder: Path) -> None:
        """`folder`: what has been drawn is kept there."""
        super().__init__(_PROCESS, "drawn")
        self._kept = KeptFiles(folder, "*/*.png", lambda: _MOST)
        self._asked: dict[Path, tuple[str, tuple[Any, ...], Future[bytes]]] = {}

    async def picture(self, content: str, what: str, *given: Any) -> bytes:
        """PNG of what `still` draws under a name, of these things; `content` tells all that decides how it looks.
        Nobody else waits. Raises Refused, or NotDrawn."""
        name = blake2b(f"{what} {content}".encode(), digest_size=16).hexdigest()
        path = Path(name[:2]) / f"{name[2:]}.png"
        made = await asyncio.to_thread(self._kept.get, path)
        if made is not None:
            return made
        # Who goes away does not take along what others wait for.
        return await asyncio.shield(asyncio.wrap_future(self._wanted(path, what, given)))

    def _wanted(self, path: Path, what: str, given: tuple[Any, ...]) -> "Future[bytes]":
        with self._turn:
            # Asked for again it is drawn next; whoever asked before gets the same.
            _, _, future = self._asked.pop(path, (what, given, Future[bytes]()))
            if self._closed:
                future.set_exception(NotDrawn("the program stops"))
                return future
            self._asked[path] = what, given, future
            self._wake()
            return future

    def _work(self) -> None:
        while True:
            with self._turn:
                wanted = self._turn.wait_for(lambda: self._asked or self._closed, _RESTS)
                if self._closed:
                    for *_, future in self._asked.values():
                        future.set_exception(NotDrawn("the program stops"))
                    return
                if not wanted:
                    self.beside.let_go()
                    continue
                path, (what, given, future) = next(reversed(self._asked.items()))
            try:
                made = self._made(what, given)
            except (Refused, NotDrawn) as error:
                self._done(path, future.set_exception, error)
            except Exception as error:  # others are drawn all the same
                log.exception("nothing could be drawn of %s", what)
                self._done(path, future.set_exception, NotDrawn(str(error)))
            else:
                self._kept.keep(path, made)
                self._done(path, future.set_result, made)

    def _done(self, path: Path, tell: Callable[[Any], None], told: Any) -> None:
        with self._turn:
            self._asked.pop(path, None)
        tell(told)

    def _made(self, what: str, given: tuple[Any, ...]) -> bytes:
        """What the process draws; a second one is tried where the first is lost."""
        for _ in range(2):
            with contextlib.suppress(EOFError, OSError):
                line = self._begun()
                line.send((what, given))
                until = time.monotonic() + _LONGEST
                while not line.poll(_OFTEN):
                    if time.monotonic() > until:
                        self.beside.let_go()
                        raise NotDrawn(f"{what} took too long")
                kind, told = line.recv()
                if kind == "drawn":
                    return bytes(told)
                if kind == "refused":
                    raise (Gone if told[0] else Refused)(*told[1:])
                log.error("nothing could be drawn of %s: %s", what, told)
                raise NotDrawn(what)
            self.beside.let_go()
        raise NotDrawn(f"{what} ended what draws, twice")

    def _begun(self) -> Any:
        try:
            return self.beside.begin()
        except Ended:
            raise NotDrawn("the program stops") from None


async def strip_of(width: int, height: int, seconds: int, drawn: Awaitable[bytes]) -> Response:
    """Stills as an answer that is kept for so many seconds; a plain sign of a size where nothing can be drawn."""
    kept = f"private, max-age={seconds}"
    try:
        made = await drawn
    except (NotDrawn, Refused):
        # Another time it may be drawn.
        made, kept = await asyncio.to_thread(sign, width, height), "no-store"
    return Response(made, media_type="image/png", headers={"cache-control": kept})
