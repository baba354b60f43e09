"""What all pages share: the store, the cache of values, who listens for changes, and templates."""

import asyncio
import hashlib
from collections import OrderedDict
from collections.abc import Callable, Iterable
from functools import cache
from importlib.resources import as_file, files
from pathlib import Path
from threading import Lock
from typing import Any

from fastapi import Request
from jinja2 import Environment, PackageLoader, select_autoescape
from starlette.datastructures import Headers
from starlette.responses import HTMLResponse

from jaunty_lever import __version__
from jaunty_lever.core.document.colours import hex_colour
from jaunty_lever.core.document.keys import EASES
from jaunty_lever.core.document.quantity import plain_number
from jaunty_lever.core.document.specs import components
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.storage.store import State, Store

from .aside import Aside
from .bringing import Bringing
from .kept_frames import KeptFrames
from .looking import Looking

BROKEN = "Something broke inside the program; nothing was changed. Its log says what."


def said_of(error: Exception) -> dict[str, Any]:
    """What is said of something that could not be done: in words, where, and with everything that was wrong."""
    message, problems = getattr(error, "message", "") or str(error), getattr(error, "problems", ())
    return {"message": message, "at": getattr(error, "at", ""), "problems": list(problems)}


def walks(method: str, headers: Headers) -> bool:
    """Whether it is a person who goes from page to page that asks, and no program or page for its own needs."""
    return method == "GET" and "text/html" in headers.get("accept", "") and "hx-request" not in headers


class Listeners:
    """Browsers that want to hear of changes, by project."""

    def __init__(self) -> None:
        self._queues: dict[str, set[asyncio.Queue[dict[str, Any] | None]]] = {}
        self._loop: asyncio.AbstractEventLoop | None = None

    def join(self, projects: Iterable[str]) -> asyncio.Queue[dict[str, Any] | None]:
        """A queue of the changes of some projects from now on, None at the end of all. Called on the event loop."""
        self._loop = asyncio.get_running_loop()
        queue: asyncio.Queue[dict[str, Any] | None] = asyncio.Queue(maxsize=1000)
        for project in projects:
            self._queues.setdefault(project, set()).add(queue)
        return queue

    def leave(self, projects: Iterable[str], queue: asyncio.Queue[dict[str, Any] | None]) -> None:
        """No more changes for this queue."""
        for project in projects:
            self._queues.get(project, set()).discard(queue)
            if not self._queues.get(project, True):
                del self._queues[project]

    def tell(self, project: str, news: dict[str, Any]) -> None:
        """Send news to everyone who listens; may be called from any thread."""
        self._put({**news, "project": project}, lambda: self._queues.get(project, set()))

    def close(self) -> None:
        """Let everyone go: the server stops, and would wait for those who listen."""
        self._put(None, lambda: set().union(*self._queues.values()))

    def _put(
        self, news: dict[str, Any] | None, queues: Callable[[], set[asyncio.Queue[dict[str, Any] | None]]]
    ) -> None:
        if self._loop is None or self._loop.is_closed():
            return

        def put() -> None:
            for queue in queues():
                # Whoever is too slow to hear all of it hears the newest: that is what its page has to catch up with.
                if queue.full():
                    queue.get_nowait()
                queue.put_nowait(news)

        self._loop.call_soon_threadsafe(put)


class Sent:
    """Which channels each answer held, so that the next one sends only what is new."""

    def __init__(self, most: int = 512) -> None:
        self._most = most
        self._known: OrderedDict[str, frozenset[str]] = OrderedDict()
        self._lock = Lock()

    def known(self, token: str | None) -> frozenset[str]:
        """The channels that came with a token; none when it is unknown or forgotten."""
        with self._lock:
            return self._known.get(token or "", frozenset())

    def remember(self, token: str, channels: frozenset[str]) -> None:
        """Note what the holder of a token has."""
        with self._lock:
            self._known[token] = channels
            self._known.move_to_end(token)
            while len(self._known) > self._most:
                self._known.popitem(last=False)


class Site:
    """One running application."""

    def __init__(self, store: Store, scratch: Path) -> None:
        self.store = store
        self.scratch = scratch
        self.cache = Cache()
        self.listeners = Listeners()
        #: Where scenes are looked through for what is to be noticed.
        self.looking = Looking(store, self.listeners.tell)
        self.sent = Sent()
        self.bringing = Bringing()
        self.frames = KeptFrames(scratch / "frames")
        #: Where edits are worked out that last.
        self.aside = Aside(store.path)

    def announce(self, project: str, state: State, label: str, by: str) -> None:
        """Tell all tabs that a project has changed; `by` is the tab that did it."""
        self.looking.changed(project)
        news = {"revision": state.revision, "change": state.change, "label": label, "by": by}
        self.listeners.tell(project, news)


def site_of(request: Request) -> Site:
    """The running application behind a request."""
    site: Site = request.app.state.site
    return site


@cache
def _stamp() -> str:
    """A hash of all static files, so that browsers fetch them anew after an update."""
    whole = hashlib.blake2b(__version__.encode(), digest_size=5)
    with as_file(files("jaunty_lever") / "web/static") as static:
        for path in sorted(path for path in static.rglob("*") if path.suffix in (".css", ".js", ".svg")):
            whole.update(path.read_bytes())
    return whole.hexdigest()


def lasting(seconds: float) -> str:
    """A time that something takes, as people say it: 4 s, 1 min 20 s, 2 h 5 min."""
    whole = max(1, round(seconds))
    if whole < 60:
        return f"{whole} s"
    if whole < 3600:
        return f"{whole // 60} min {whole % 60} s" if whole % 60 else f"{whole // 60} min"
    return f"{whole // 3600} h {whole % 3600 // 60} min"


def in_bytes(count: int) -> str:
    """How much room a file takes: 640 kB, 3.2 MB."""
    if count < 1_000_000:
        return f"{max(1, round(count / 1000))} kB"
    return f"{count / 1e6:.1f} MB" if count < 1e9 else f"{count / 1e9:.2f} GB"


@cache
def templates() -> Environment:
    """The Jinja templates, with the few helpers they use."""
    made = Environment(
        loader=PackageLoader("jaunty_lever.web"),
        autoescape=select_autoescape(["html"]),
        trim_blocks=True,
        lstrip_blocks=True,
    )
    made.filters["figure"] = plain_number
    made.filters["hex"] = hex_colour
    made.filters["lasting"] = lasting
    made.filters["bytes"] = in_bytes
    made.globals.update(
        static=lambda name: f"/static/{_stamp()}/{name}", version=__version__, components=components, eases=EASES
    )
    return made


def page(template: str, /, status: int = 200, headers: dict[str, str] | None = None, **values: Any) -> HTMLResponse:
    """A rendered template."""
    return HTMLResponse(templates().get_template(template).render(**values), status, headers)
