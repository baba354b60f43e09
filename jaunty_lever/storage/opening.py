"""Opening the folder that keeps the work: whose it is, whether it can be read, and what to say when it cannot."""

import contextlib
import fcntl
import os
import shutil
import sqlite3
from collections.abc import Iterator
from datetime import datetime
from importlib.resources import as_file, files
from pathlib import Path
from typing import IO, Any

from sqlalchemy import Connection, Engine, create_engine, event, text
from sqlalchemy.exc import DatabaseError

LONGEST_WAIT = 3.0
"""Seconds that a change waits while another program holds the database: as long as a person would."""


_LOOKED_THROUGH = 256 << 20
"""Bytes of the largest database that is looked through whole at the start."""


class CannotOpen(Exception):
    """The folder cannot be used; the message says what is the matter, where, and what to do, in one or two lines."""


class Holder:
    """A lock on a database, which dies with the process that holds it. Reading needs none."""

    def __init__(self, path: Path) -> None:
        """Raises CannotOpen when another process has it."""
        self._path = path.with_suffix(".lock")
        try:
            self._file: IO[str] | None = open(self._path, "a+", encoding="utf-8")  # noqa: SIM115
        except OSError as error:
            raise CannotOpen(
                f"{path.parent} cannot be written: {error.strerror}. Choose another folder with --data."
            ) from None
        try:
            fcntl.flock(self._file, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except OSError:
            self._file.seek(0)
            who = self._file.read(200).strip() or "another process"
            self._file.close()
            self._file = None
            raise CannotOpen(
                f"{path.parent.resolve()} is in use by {who}. Stop that one first, or choose another folder "
                "with --data (DATA= for make run)."
            ) from None
        self.say("")

    def say(self, more: str) -> None:
        """Leave word who holds it, for whoever comes next."""
        if self._file is None:
            return
        with contextlib.suppress(OSError):
            self._file.seek(0)
            self._file.truncate()
            self._file.write(f"process {os.getpid()}{more}")
            self._file.flush()

    def release(self) -> None:
        """Let go."""
        if self._file is not None:
            # On a full disk the word that was left may not fit; the lock goes all the same.
            with contextlib.suppress(OSError):
                self._file.close()
            self._file = None


_LEAST_ROOM = 256 << 10
"""Bytes that a database needs to be worked with at all, its log and the index of that included."""


def no_room(path: Path) -> bool:
    """Whether the file system that a database lies on has no room: then what it says of input and output is no
    damage."""
    try:
        found = os.statvfs(path.parent)
    except OSError:
        return False
    return found.f_bavail * found.f_frsize < _LEAST_ROOM


def _damaged(path: Path, why: str) -> CannotOpen:
    if no_room(path):
        return CannotOpen(
            f"{path} cannot be worked with: there is no room on the disk ({why}). Make room, then start again."
        )
    return CannotOpen(
        f"{path} cannot be read: {why}.\n"
        f"`jaunty-lever rescue {path.parent}` saves every project that can be read and sets the damaged file "
        "aside; then start again."
    )


def folder_for(path: Path) -> None:
    """Make the folder of a database. Raises CannotOpen when there can be none."""
    folder = path.parent
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except FileExistsError:
        raise CannotOpen(f"{folder} is a file, and a folder is needed. Choose another with --data.") from None
    except OSError as error:
        raise CannotOpen(f"The folder {folder} cannot be made: {error.strerror}. Choose another with --data.") from None


def looked_at(path: Path) -> list[str]:
    """The version of the database at a path, none when there is none yet.

    Raises CannotOpen when what stands there is no database of this program.
    """
    if path.is_dir():
        raise CannotOpen(
            f"{path} is a folder, and should be the database. Move it away, or choose another folder with --data."
        )
    if not path.exists():
        return []
    if not os.access(path, os.R_OK | os.W_OK) or not path.stat().st_mode & 0o222:
        raise CannotOpen(
            f"{path} may not be written. Change its permissions, or copy it to another folder and use that with --data."
        )
    if path.stat().st_size == 0:
        if _was_used(path):
            raise _damaged(path, "it is empty, but its folder has been used")
        return []
    with path.open("rb") as file:
        if not file.read(16).startswith(b"SQLite format 3"):
            raise _damaged(path, "it is no SQLite database, or its beginning is damaged")
    with closing_connection(path) as connection:
        try:
            tables = {row[0] for row in connection.execute("SELECT name FROM sqlite_master WHERE type = 'table'")}
            if not tables:
                return []
            if "alembic_version" not in tables or not {"projects", "revisions"} <= tables:
                raise CannotOpen(f"{path} is a database of another program. Choose another folder with --data.")
            versions = [row[0] for row in connection.execute("SELECT version_num FROM alembic_version")]
            small = path.stat().st_size <= _LOOKED_THROUGH
            problem = connection.execute("PRAGMA quick_check(1)").fetchone()[0] if small else "ok"
        except sqlite3.OperationalError as error:
            if "locked" in str(error):
                raise CannotOpen(f"{path} is held by another program. Let it finish, then start again.") from None
            raise _damaged(path, str(error)) from None
        except sqlite3.DatabaseError as error:
            raise _damaged(path, str(error)) from None
    newer = [one for one in versions if one not in known_versions()]
    if newer:
        raise CannotOpen(
            f"{path} was written by a newer Jaunty Lever (its form is {newer[0]}; this one knows forms up to "
            f"{known_versions()[-1]}). Start it with the newer program."
        )
    if problem != "ok":
        raise _damaged(path, problem.strip().splitlines()[-1])
    return versions


def _was_used(path: Path) -> bool:
    """Whether there is anything beside a database that is not there before it is used."""
    own = {path.name, f"{path.name}-shm", f"{path.name}-journal", path.with_suffix(".lock").name}
    return any(one.name not in own and (one.is_dir() or one.stat().st_size) for one in path.parent.iterdir())


@contextlib.contextmanager
def closing_connection(path: Path, more: str = "") -> Iterator[sqlite3.Connection]:
    """A connection by itself, closed at the end."""
    connection = sqlite3.connect(
        f"file:{path.resolve().as_posix().replace('%', '%25').replace('?', '%3f').replace('#', '%23')}?mode=rw{more}",
        uri=True,
        timeout=LONGEST_WAIT,
    )
    try:
        yield connection
    finally:
        connection.close()


def known_versions() -> list[str]:
    """The forms of the database that this program knows, the newest last: each migration's file begins with its own."""
    scripts = (files("jaunty_lever.storage") / "migrations/versions").iterdir()
    return sorted(script.name[:4] for script in scripts if script.name[:4].isdigit())


def _upgraded(connection: Connection) -> None:
    # Only here, as a database that is up to date needs none of it and starting should not wait for it.
    from alembic import command
    from alembic.config import Config
    from alembic.util import CommandError

    with as_file(files("jaunty_lever.storage") / "migrations") as scripts:
        config = Config()
        config.set_main_option("script_location", str(scripts))
        config.attributes["connection"] = connection
        try:
            command.upgrade(config, "head")
        except CommandError as error:
            raise _damaged(Path(connection.engine.url.database or ""), str(error)) from None


def opened(path: Path) -> Engine:
    """The database, in the newest form. Raises CannotOpen."""
    up_to_date = looked_at(path) == known_versions()[-1:]
    engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": LONGEST_WAIT})
    event.listen(engine, "connect", _set_up)
    try:
        with engine.begin() as connection:
            if not up_to_date:
                _upgraded(connection)
    except DatabaseError as error:
        engine.dispose()
        said = str(error.orig)
        if "full" in said or "disk I/O" in said:
            raise CannotOpen(
                f"{path} cannot be written: there is no room on the disk ({said}). Make room, then start again."
            ) from None
        if "locked" in said:
            raise CannotOpen(f"{path} is held by another program. Let it finish, then start again.") from None
        if "readonly" in said or "unable to open" in said:
            raise CannotOpen(
                f"{path} may not be written ({said}). Change its permissions, or choose another folder with --data."
            ) from None
        raise _damaged(path, said) from None
    except CannotOpen:
        engine.dispose()
        raise
    return engine


def _set_up(connection: Any, _: object) -> None:
    # The driver must not open transactions by itself: BEGIN IMMEDIATE does, before the first read.
    connection.isolation_level = None
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.close()


def closed(engine: Engine) -> None:
    """Let go of the database with everything in its main file, so that the file alone is a whole copy."""
    with contextlib.suppress(DatabaseError), engine.connect() as connection:
        connection.execute(text("PRAGMA wal_checkpoint(TRUNCATE)"))
    engine.dispose()


def set_aside(path: Path) -> Path:
    """The database under another name, with what belongs to it; its new path."""
    stamp = datetime.now().strftime("%Y-%m-%d-%H%M%S")
    target = path.with_name(f"{path.stem}.damaged-{stamp}{path.suffix}")
    for ending in ("", "-wal", "-shm"):
        old = path.with_name(path.name + ending)
        if old.exists():
            shutil.move(old, target.with_name(target.name + ending))
    return target
