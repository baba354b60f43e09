"""A process beside the server's, in which edits are worked out that last: nobody else waits for them, and they can be
stopped."""

import os
import threading
import time
import traceback
from collections.abc import Callable
from multiprocessing.connection import Connection
from pathlib import Path
from typing import Any

from jaunty_lever.core.document.progress import Stopped, heard
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import EDIT, Edit, Gone, Refused
from jaunty_lever.formats.kept_parts import refuse_unsound
from jaunty_lever.processes import Beside, Ended, hold_to
from jaunty_lever.storage.bodies import Unreadable, pack, unpack
from jaunty_lever.storage.opening import closing_connection
from jaunty_lever.storage.parcels import Opened, parcels

MOST_MEMORY = 6 << 30
"""Bytes of address space, most of which compiled kernels and threads' stacks take up without using it."""
_GENTLE = 10
"""How much less pressing its work is than that of the server."""
_OFTEN = 0.05
"""Seconds between two looks at whether what it does is still wanted."""

MOST_WAITING = 8
"""Edits that wait for one another, or are worked out: each may hold a thread of the server."""

_LAST = ("refused", "broken", "done")
"""What it says at the end of each piece of work."""

Told = Callable[[float], bool]
"""Takes how far the work is, 0..1; whether it goes on."""


class Aside:
    """The process: begun when it is needed, one piece of work after the other."""

    def __init__(self, path: Path) -> None:
        """`path`: the database that the projects are kept in."""
        self._path = path
        self._turn, self._room = threading.Lock(), threading.BoundedSemaphore(MOST_WAITING)
        self.beside = Beside(__name__)

    def begin(self) -> None:
        """Begin the process, if it is not there: it takes some seconds, in which nobody need wait."""
        self.beside.begin()

    def close(self) -> None:
        """No more work: what is being done is left."""
        self.beside.close()

    def work_out(
        self, project: str, revision: int, before: Project, edit: Edit, told: Told
    ) -> tuple[Project, str, bytes]:
        """What an edit makes of a revision that is kept: the project, the edit's label, and the new revision's body.

        `before` is the project at that revision: what stays of it is the same in what comes out. Raises Refused, Gone
        or Stopped.
        """
        if not self._room.acquire(blocking=False):
            raise Refused(f"{MOST_WAITING} other edits that last are waiting already. Do it again when they are done.")
        try:
            while not self._turn.acquire(timeout=_OFTEN):
                if not told(0.0):
                    raise Stopped
            try:
                return self._asked(project, revision, before, edit, told)
            finally:
                self._turn.release()
        finally:
            self._room.release()

    def _asked(
        self, project: str, revision: int, before: Project, edit: Edit, told: Told
    ) -> tuple[Project, str, bytes]:
        opened, share, ended = Opened(before), 0.0, False
        try:
            line = self.beside.begin()
            line.send((str(self._path), project, revision, EDIT.dump_json(edit)))
            while True:
                if not told(share):
                    raise Stopped
                if not line.poll(_OFTEN):
                    continue
                kind, content = line.recv()
                ended = kind in _LAST
                if kind == "share":
                    share = content
                elif kind == "parcel":
                    opened.take(content)
                    # Others of this process have their turn.
                    time.sleep(0)
                elif kind == "refused":
                    raise (Gone if content[0] else Refused)(*content[1:])
                elif kind == "done":
                    return opened.last, *content
                else:
                    raise RuntimeError(content)
        except Ended:
            raise Stopped from None
        except (EOFError, OSError):
            raise Refused(
                "What works this out has ended before it was done: it takes more memory than there is, or was "
                "stopped from "
                "outside. Nothing was changed. Do it for less at once."
            ) from None
        finally:
            if not ended:
                # It may still have something to say, which nobody is to take for an answer to something else.
                self.beside.let_go()


def serve(line: Connection) -> None:
    """In the process: work that comes in."""
    os.nice(_GENTLE)
    hold_to(MOST_MEMORY)
    while True:
        path, project, revision, edit = line.recv()
        try:
            _work(line, Path(path), project, revision, EDIT.validate_json(edit))
        except Refused as error:
            line.send(("refused", (isinstance(error, Gone), error.message, error.at)))
        except Unreadable as error:
            line.send(("refused", (False, str(error), "")))
        except MemoryError:
            return
        except Exception:
            line.send(("broken", traceback.format_exc()))


def _work(line: Connection, path: Path, project: str, revision: int, edit: Edit) -> None:
    told = [0.0]

    def tell(share: float) -> None:
        if share >= told[0] + 0.01:
            told[0] = share
            line.send(("share", share))

    before = kept(path, project, revision)
    with heard(tell):
        after = edit.apply(before)
    refuse_unsound(before, after)
    content: Any = edit.label(before)[:300], pack(after)
    for parcel in parcels(before, after):
        line.send(("parcel", parcel))
    line.send(("done", content))


def kept(path: Path, project: str, revision: int) -> Project:
    """A revision as it is kept in a database that another process writes to. Raises Refused, or Unreadable."""
    with closing_connection(path) as database:
        found = database.execute("SELECT body FROM revisions WHERE project = ? AND number = ?", (project, revision))
        row = found.fetchone()
        if row is None:
            raise Gone("This project does not stand as it did: it has been deleted meanwhile.", project)

        def part(name: str) -> bytes:
            (body,) = database.execute("SELECT body FROM pictures WHERE id = ?", (name,)).fetchone()
            return bytes(body)

        return unpack(row[0], part)
