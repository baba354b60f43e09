"""What all pages share: the store, the cache of values, and who listens for changes."""

import asyncio
from collections import OrderedDict
from collections.abc import Callable, Iterable
from pathlib import Path
from threading import Lock
from typing import Any, Generic, Protocol, TypeVar

from fastapi import Request

from jaunty_lever.core.document.colours import hex_colour
from jaunty_lever.core.document.keys import EASES
from jaunty_lever.core.document.specs import components
from jaunty_lever.core.evaluation.cache import Cache
from jaunty_lever.core.view.sending import Told
from jaunty_lever.storage.store import State, Store

from .aside import Aside
from .bringing import Bringing
from .drawn import Drawn
from .foreseen import Foreseen
from .kept_frames import KeptFrames
from .looking import Looking
from .pages.sent_rows import SentRows
from .templating import templates


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


class Answer(Protocol):
    """What an answer held, under the token that came with it."""

    @property
    def token(self) -> str:
        """Whoever holds it has got that answer."""
        ...


Held = TypeVar("Held", bound=Answer)


class Sent(Generic[Held]):
    """What each answer held, so that the next one sends only what is new."""

    def __init__(self, most: int = 256) -> None:
        self._most = most
        self._told: OrderedDict[str, Held] = OrderedDict()
        self._lock = Lock()

    def told(self, token: str | None) -> Held | None:
        """What came with a token; None when it is unknown or forgotten."""
        with self._lock:
            return self._told.get(token or "")

    def remember(self, told: Held) -> None:
        """Note what the holder of a token has."""
        with self._lock:
            self._told[told.token] = told
            while len(self._told) > self._most:
                self._told.popitem(last=False)


class Site:
    """One running application."""

    def __init__(self, store: Store, scratch: Path) -> None:
        self.store = store
        self.scratch = scratch
        self.cache = Cache()
        self.listeners = Listeners()
        #: Where scenes are looked through for what is to be noticed.
        self.looking = Looking(store, self.listeners.tell)
        self.foreseen = Foreseen(self.cache)
        self.sent: Sent[Told] = Sent()
        #: Which rows of layers pages have got.
        self.sent_rows: Sent[SentRows] = Sent(64)
        self.bringing = Bringing()
        self.frames = KeptFrames(scratch / "frames")
        #: Where small pictures are drawn.
        self.drawn = Drawn(scratch / "stills")
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


templates().filters["hex"] = hex_colour
templates().globals.update(components=components, eases=EASES)
