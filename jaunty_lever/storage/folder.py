"""A folder that keeps projects, opened: whose it is, its database, and what can be told of it before anything else is
loaded."""

import zlib
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from pathlib import Path
from typing import Any

import orjson

from .opening import Holder, closed, folder_for, opened
from .times import when

_AT_ONCE = 4 << 20
"""Bytes of the largest body whose scenes are told at once."""


@dataclass(frozen=True)
class Entry:
    """A project on the Shelf."""

    id: str
    name: str
    changed: datetime
    revision: int


@dataclass(frozen=True)
class Outline:
    """What can be said of a scene without reading what is in it: its name, size in pixels, frame rate and frames."""

    id: str
    name: str
    width: int = 1280
    height: int = 720
    fps: float = 30.0
    length: int = 300


class Folder:
    """The folder of a database, held by this process."""

    def __init__(self, path: Path) -> None:
        """Raises opening.CannotOpen."""
        self.path = path
        folder_for(path)
        self.holder = Holder(path)
        try:
            self.engine = opened(path)
        except BaseException:
            self.holder.release()
            raise
        self._identity = self._found()

    def close(self) -> None:
        """Let go of the file, with everything in it."""
        closed(self.engine)
        self.holder.release()

    def is_there(self) -> bool:
        """Whether the database is still the one that was opened, and may be written."""
        return self._found() == self._identity

    def _found(self) -> tuple[int, int] | None:
        try:
            found = self.path.stat()
        except OSError:
            return None
        return (found.st_dev, found.st_ino) if found.st_mode & 0o222 else None

    def entries(self) -> list[Entry]:
        """The projects that are not deleted, the latest changed first."""
        with self.engine.connect() as connection:
            rows = connection.exec_driver_sql(
                "SELECT id, name, changed, head FROM projects WHERE deleted IS NULL ORDER BY changed DESC, id"
            ).all()
        return [Entry(one, name, when(changed), head) for one, name, changed, head in rows]

    def has(self, project: str) -> bool:
        """Whether there is a project with this id, also a deleted one."""
        with self.engine.connect() as connection:
            return connection.exec_driver_sql("SELECT 1 FROM projects WHERE id = ?", (project,)).first() is not None

    def told_at_once(self) -> list[tuple[Entry, Sequence[Outline]]] | None:
        """The projects with their scenes, as far as both are plain: None where anything about them is not, such as what
        is damaged, or of a large project. Who can read it all has to tell."""
        told: list[tuple[Entry, Sequence[Outline]]] = []
        for entry in self.entries():
            with self.engine.connect() as connection:
                row = connection.exec_driver_sql(
                    "SELECT body FROM revisions WHERE project = ? AND number = ? AND length(body) < ?",
                    (entry.id, entry.revision, _AT_ONCE),
                ).first()
            try:
                if row is None:
                    return None
                whole = orjson.loads(zlib.decompressobj().decompress(row[0], 16 * _AT_ONCE))
                told.append((entry, [_outline(one) for one in whole["scenes"]]))
            except (zlib.error, ValueError, TypeError, LookupError):
                return None
        return told


def _outline(scene: dict[str, Any]) -> Outline:
    made = Outline(**{name: scene[name] for name in Outline.__dataclass_fields__ if name in scene})
    numbers = made.width, made.height, made.fps, made.length
    if not all(isinstance(one, str) for one in (made.id, made.name)) or not all(
        type(one) in (int, float) and one > 0 for one in numbers
    ):
        raise ValueError
    return made
