"""What the program notices in scenes: looked for in a process beside the server, once all is quiet, and told as
news."""

import logging
import os
import threading
import time
from collections import OrderedDict
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field
from multiprocessing.connection import Connection
from typing import Any

from jaunty_lever.core.checks.run import weighed
from jaunty_lever.core.document.scene import Project
from jaunty_lever.processes import Ended, Worker
from jaunty_lever.storage.bodies import Unreadable
from jaunty_lever.storage.parcels import parcels
from jaunty_lever.storage.store import NotThere, Store

from .looker import LEAVE
from .looker import __name__ as _PROCESS

log = logging.getLogger("jaunty_lever")

QUIET = 0.7
"""Seconds without an edit after which it is looked."""
_OFTEN = 0.03
"""Seconds between two looks at whether what is looked for is still wanted."""
_KEPT = 60
_RESTS = 180.0
"""Seconds without work after which the process goes."""
_LIVES = 2
"""Processes that may be lost over one state of a scene."""

Key = tuple[str, str, int]
"""A project, a scene of it, and the revision."""


@dataclass
class Looked:
    """What is known of one state of a scene."""

    total: int
    """Frames of the scene."""
    stages: dict[str, list[dict[str, Any]]] = field(default_factory=dict)
    done: int = 0
    """Frames that have been drawn."""
    lives: int = _LIVES
    finished: threading.Event = field(default_factory=threading.Event)

    @property
    def found(self) -> list[dict[str, Any]]:
        """All that was found so far, what weighs most first."""
        return weighed(self.stages)


class Looking(Worker):
    """Looks through scenes for whoever asks, the one that was asked for last first."""

    def __init__(self, store: Store, tell: Callable[[str, dict[str, Any]], None]) -> None:
        """`tell` sends news to whoever listens to a project."""
        super().__init__(_PROCESS, "looking")
        self._store, self._tell = store, tell
        self._known: OrderedDict[Key, Looked] = OrderedDict()
        self._wanted: OrderedDict[tuple[str, str], None] = OrderedDict()
        self._edited: dict[str, float] = {}
        self._now: Key | None = None
        # Whether it has begun with that, and whether it has been changed since.
        self._begun = self._stale = False
        self._sending = threading.Lock()
        self._there: tuple[str, Project] | None = None
        self._asked_at = 0.0
        #: How often it has begun to look through a scene.
        self.looks = 0

    def of(self, project: str, scene: str, frames: int, revision: int) -> Looked:
        """What is known of a scene as it is kept. What is not known is looked for, and told as news; nobody waits
        here."""
        with self._turn:
            key = project, scene, revision
            found = self._known.get(key)
            if found is None:
                found = self._known[key] = Looked(frames)
                while len(self._known) > _KEPT:
                    self._known.popitem(last=False)
            self._known.move_to_end(key)
            if not found.finished.is_set() and not self._closed:
                self._wanted[project, scene] = None
                self._wanted.move_to_end((project, scene))
                self._wake()
            return found

    def changed(self, project: str) -> None:
        """A project has been edited: what is looked for in it speaks of the past."""
        with self._turn:
            self._edited[project] = time.monotonic()
            if self._now is not None and self._now[0] == project:
                self._stale = True
                self._leave()
            self._turn.notify_all()

    def asked(self) -> None:
        """A page has asked for values: frames that are drawn for nobody wait."""
        now = time.monotonic()
        if self._begun and now - self._asked_at > _OFTEN:
            self._asked_at = now
            with self._sending, suppress(OSError):
                line = self.beside.line
                if line is not None:
                    line.send(("asked",))

    def _leave(self) -> None:
        """Called under the lock. Before it has begun it would not know the signal, and go."""
        process = self.beside.process
        if self._begun and process is not None and process.poll() is None:
            with suppress(OSError):
                os.kill(process.pid, LEAVE)

    def _work(self) -> None:
        while True:
            with self._turn:
                wanted = self._turn.wait_for(lambda: self._wanted or self._closed, _RESTS)
                if self._closed:
                    return
                if not wanted:
                    self.beside.let_go()
                    self._there = None
                    continue
                (project, scene), _ = self._wanted.popitem()
                wait = self._edited.get(project, 0.0) + QUIET - time.monotonic()
                if wait > 0:
                    self._wanted[project, scene] = None
                    self._turn.wait(min(wait, QUIET))
                    continue
            try:
                self._looked(project, scene)
            except (NotThere, Unreadable):
                pass
            except Exception:  # it looks on for all others
                log.exception("a scene could not be looked through")

    def _looked(self, project: str, scene: str) -> None:
        state = self._store.state(project)
        key = project, scene, state.revision
        with self._turn:
            known = self._known.get(key)
            if known is None or known.finished.is_set():
                # It was asked for at a revision that is past: whoever shows the scene asks again.
                return
            self._now, self._begun, self._stale = key, False, False
        self.looks += 1
        try:
            line = self.beside.begin()
            with self._sending:
                self._brought(line, project, state.revision, state.project)
                line.send(("look", scene))
            ended = self._heard(line, key, known)
        except (EOFError, OSError):
            self.beside.let_go()
            self._there, ended = None, "lost"
        except Ended:
            return
        finally:
            with self._turn:
                self._now, self._begun = None, False
        if ended == "lost":
            known.lives -= 1
            if known.lives > 0:
                self.of(project, scene, known.total, state.revision)
                return
            ended = "it took more memory than there is, or was ended from outside"
        if ended == "left":
            # Whoever shows the scene as it is now asks for that.
            with self._turn:
                self._known.pop(key, None)
            return
        if ended != "whole":
            log.error("scene %s of %s could not be looked through: %s", scene, project, ended)
        known.done = known.total
        known.finished.set()
        self._news(key)

    def _brought(self, line: Connection, project: str, revision: int, now: Project) -> None:
        """Let the process have a project as it is: what has changed of the one that it has, or all of it."""
        there, self._there = self._there, None
        if there is not None and there[0] == project and self.beside.process is not None:
            if there[1] is not now:
                line.send(("parcels", project, list(parcels(there[1], now))))
        else:
            line.send(("read", str(self._store.path), project, revision))
        self._there = project, now

    def _heard(self, line: Connection, key: Key, known: Looked) -> str:
        """What the process says, until it has ended: whole, left, or what went wrong."""
        while True:
            if not line.poll(_OFTEN):
                process = self.beside.process
                if process is None or process.poll() is not None:
                    raise EOFError
                continue
            kind, *told = line.recv()
            if kind == "ended":
                return str(told[0])
            if kind == "begun":
                with self._turn:
                    self._begun = True
                    if self._stale:
                        self._leave()
            elif self._stale:
                continue
            elif kind == "found":
                stage, found = told
                known.stages[stage] = found
                if found:
                    self._news(key)
            else:
                known.done = told[0]
                self._news(key)

    def _news(self, key: Key) -> None:
        self._tell(key[0], {"looked": True, "scene": key[1], "revision": key[2]})
