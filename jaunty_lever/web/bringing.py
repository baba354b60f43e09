"""Files that take a while to come in, and edits that last: how far they are, and whether they are still wanted."""

from collections import OrderedDict
from dataclasses import dataclass
from threading import Lock
from typing import Any

_MOST = 200


@dataclass
class Coming:
    """One of them."""

    share: float = 0.0
    what: str = ""
    stopped: bool = False
    came: dict[str, Any] | None = None
    """What came of it, told for a while after it has ended: what a page needs to know, or what was wrong."""

    def told(self, share: float) -> bool:
        """How far it is; whether it goes on."""
        self.share = share
        return not self.stopped


class Bringing:
    """All that are on their way, by a name that the page has given each."""

    def __init__(self) -> None:
        self._known: OrderedDict[str, Coming] = OrderedDict()
        self._lock = Lock()

    def begin(self, name: str) -> Coming:
        """One that comes in from now on; who has no name is not asked for."""
        made = Coming()
        if name:
            with self._lock:
                self._known[name[:80]] = made
                while len(self._known) > _MOST:
                    self._known.popitem(last=False)
        return made

    def find(self, name: str) -> Coming | None:
        """The one with that name."""
        return self._known.get(name[:80])

    def end(self, name: str) -> None:
        """It is in, or will never be."""
        with self._lock:
            self._known.pop(name[:80], None)
