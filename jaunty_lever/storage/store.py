"""The store: projects with their whole history, kept in one SQLite file.

One process writes. Every change is one transaction, made on the newest state; what it returned from is
on the disk (write-ahead log, synchronous FULL).
"""

import base64
import zlib
from collections import OrderedDict
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass
from datetime import datetime
from importlib.resources import as_file, files
from pathlib import Path
from threading import RLock
from typing import Any

import orjson
from alembic import command
from alembic.config import Config
from sqlalchemy import create_engine, delete, event, select, text
from sqlalchemy.exc import OperationalError
from sqlalchemy.orm import Session

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.document.plain import plain
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.edits import Edit
from jaunty_lever.core.edits.base import free_name
from jaunty_lever.core.edits.renumber import renumbered

from .tables import PictureRow, ProjectRow, RecipeRow, RevisionRow, now

KEPT_REVISIONS = 1000


class NotThere(LookupError):
    """A project that does not exist or has been deleted."""


class NoRoom(Exception):
    """The disk is full, or the database cannot be written."""


@dataclass(frozen=True)
class State:
    """A project as it stands: its revision, and what undo and redo would do."""

    project: Project
    revision: int
    change: int
    undo: str | None
    redo: str | None


@dataclass(frozen=True)
class Entry:
    """A project on the Shelf."""

    id: str
    name: str
    changed: datetime
    revision: int


def _packed(session: Session, project: Project) -> bytes:
    """A revision's body; pictures go into a table of their own, so that each is stored once."""
    for picture in project.pictures:
        if session.get(PictureRow, picture.id) is None:
            session.add(PictureRow(id=picture.id, body=base64.b64decode(picture.data)))
    bare = project.changed(pictures=tuple(picture.changed(data="") for picture in project.pictures))
    return zlib.compress(orjson.dumps(plain(bare)), 1)


def _unpacked(session: Session, body: bytes) -> Project:
    data = orjson.loads(zlib.decompress(body))
    for picture in data.get("pictures", ()):
        picture["data"] = base64.b64encode(session.get_one(PictureRow, picture["id"]).body).decode()
    return Project.model_validate(data)


class Store:
    """All projects in one database file."""

    def __init__(self, path: Path) -> None:
        path.parent.mkdir(parents=True, exist_ok=True)
        self._engine = create_engine(f"sqlite:///{path}", connect_args={"timeout": 10})
        event.listen(self._engine, "connect", _set_up)
        # Work on a project is short; one lock for all keeps "newest state" simple and true.
        self._lock = RLock()
        self._heads: OrderedDict[str, State] = OrderedDict()
        self._changes = 0
        with self._engine.begin() as connection, as_file(files("jaunty_lever.storage") / "migrations") as scripts:
            config = Config()
            config.set_main_option("script_location", str(scripts))
            config.attributes["connection"] = connection
            command.upgrade(config, "head")

    def close(self) -> None:
        """Let go of the file."""
        self._engine.dispose()

    @contextmanager
    def _writing(self) -> Iterator[Session]:
        try:
            with Session(self._engine) as session, session.begin():
                session.execute(text("BEGIN IMMEDIATE"))
                yield session
        except OperationalError as error:
            raise NoRoom(str(error.orig)) from error

    def entries(self) -> list[Entry]:
        """The projects that are not deleted, the latest changed first."""
        with Session(self._engine) as session:
            rows = session.scalars(
                select(ProjectRow)
                .where(ProjectRow.deleted.is_(None))
                .order_by(ProjectRow.changed.desc(), ProjectRow.id)
            )
            return [Entry(row.id, row.name, row.changed, row.head) for row in rows]

    def state(self, project: str) -> State:
        """The project as it stands. Raises NotThere."""
        with self._lock:
            known = self._heads.get(project)
            if known is not None:
                self._heads.move_to_end(project)
                return known
            with Session(self._engine) as session:
                row = self._row(session, project)
                return self._remember(session, row, None)

    def _row(self, session: Session, project: str) -> ProjectRow:
        row = session.get(ProjectRow, project)
        if row is None or row.deleted is not None:
            raise NotThere("This project does not exist, or has been deleted.")
        return row

    def _remember(self, session: Session, row: ProjectRow, project: Project | None) -> State:
        head = session.get_one(RevisionRow, (row.id, row.head))
        forward = session.scalar(
            select(RevisionRow.label).where(RevisionRow.project == row.id, RevisionRow.parent == row.head)
            .order_by(RevisionRow.number.desc()).limit(1)
        )  # fmt: skip
        has_parent = head.parent is not None and session.get(RevisionRow, (row.id, head.parent)) is not None
        self._changes += 1
        state = State(
            project or _unpacked(session, head.body),
            row.head,
            self._changes,
            head.label if has_parent else None,
            forward,
        )
        self._heads[row.id] = state
        while len(self._heads) > 32:
            self._heads.popitem(last=False)
        return state

    def create(self, project: Project, label: str = "Made") -> State:
        """Take in a new project; when one with its id is there, the new one gets an id of its own."""
        with self._lock, self._writing() as session:
            if session.get(ProjectRow, project.id) is not None:
                project = project.changed(id=new_id("project"))
            row = ProjectRow(id=project.id, name=project.name, head=1, last=1)
            session.add(row)
            session.flush()
            session.add(RevisionRow(project=row.id, number=1, parent=None, label=label, body=_packed(session, project)))
            session.flush()
            return self._remember(session, row, project)

    def edit(self, project: str, edit: Edit) -> tuple[State, str]:
        """Apply an edit to the newest state; the new state and the edit's label.

        Raises NotThere, edits.Refused, or NoRoom; then nothing has changed.
        """
        with self._lock:
            before = self.state(project)
            after = edit.apply(before.project)
            label = edit.label(before.project)[:300]
            with self._writing() as session:
                row = self._row(session, project)
                row.last += 1
                session.add(
                    RevisionRow(
                        project=project, number=row.last, parent=row.head, label=label, body=_packed(session, after)
                    )
                )
                row.head, row.name, row.changed = row.last, after.name, now()
                if row.last % 100 == 0:
                    session.execute(
                        delete(RevisionRow)
                        .where(RevisionRow.project == project, RevisionRow.number <= row.last - KEPT_REVISIONS)
                    )  # fmt: skip
                session.flush()
                state = self._remember(session, row, after)
            return state, label

    def undo(self, project: str) -> tuple[State, str] | None:
        """Back to the state before the last edit; the state and what was undone, or None."""
        return self._step(project, back=True)

    def redo(self, project: str) -> tuple[State, str] | None:
        """Forward again along the latest branch; the state and what was redone, or None."""
        return self._step(project, back=False)

    def _step(self, project: str, back: bool) -> tuple[State, str] | None:
        with self._lock, self._writing() as session:
            row = self._row(session, project)
            here = session.get_one(RevisionRow, (project, row.head))
            if back:
                target = session.get(RevisionRow, (project, here.parent)) if here.parent is not None else None
                label = here.label
            else:
                target = session.scalar(
                    select(RevisionRow).where(RevisionRow.project == project, RevisionRow.parent == row.head)
                    .order_by(RevisionRow.number.desc()).limit(1)
                )  # fmt: skip
                label = target.label if target else ""
            if target is None:
                return None
            restored = _unpacked(session, target.body)
            row.head, row.name, row.changed = target.number, restored.name, now()
            session.flush()
            return self._remember(session, row, restored), label

    def history(self, project: str, most: int = 50) -> list[tuple[int, str, datetime]]:
        """Number, label and time of the newest revisions on the way to the present one."""
        with Session(self._engine) as session:
            number: int | None = self._row(session, project).head
            found: list[tuple[int, str, datetime]] = []
            while number is not None and len(found) < most:
                row = session.get(RevisionRow, (project, number))
                if row is None:
                    break
                found.append((row.number, row.label, row.made))
                number = row.parent
            return found

    def duplicate(self, project: str) -> State:
        """A copy of a project with a fresh history."""
        original = self.state(project).project
        name = free_name(original.name, [entry.name for entry in self.entries()])
        copy = renumbered(original, new_id("copy"), new_seeds=False).changed(id=new_id("project"), name=name)
        return self.create(copy, f"Copied from {original.name}")

    def delete(self, project: str) -> str:
        """Take a project off the Shelf; `restore` brings it back. The project's name."""
        return self._mark(project, gone=True)

    def restore(self, project: str) -> str:
        """Bring a deleted project back. The project's name."""
        return self._mark(project, gone=False)

    def _mark(self, project: str, gone: bool) -> str:
        with self._lock, self._writing() as session:
            row = session.get(ProjectRow, project)
            if row is None or (gone and row.deleted is not None):
                raise NotThere("This project does not exist, or has been deleted.")
            row.deleted = now() if gone else None
            self._heads.pop(project, None)
            return row.name

    def recipes(self) -> list[tuple[str, bytes]]:
        """Id and file of every saved recipe, the newest first."""
        with Session(self._engine) as session:
            rows = session.scalars(select(RecipeRow).order_by(RecipeRow.made.desc(), RecipeRow.id))
            return [(row.id, row.body) for row in rows]

    def recipe(self, recipe: str) -> bytes | None:
        """A saved recipe's file."""
        with Session(self._engine) as session:
            row = session.get(RecipeRow, recipe)
            return row.body if row else None

    def keep_recipe(self, recipe: str, name: str, body: bytes) -> None:
        """Save a recipe's file."""
        with self._lock, self._writing() as session:
            session.merge(RecipeRow(id=recipe, name=name, body=body, made=now()))

    def forget_recipe(self, recipe: str) -> None:
        """Delete a saved recipe."""
        with self._lock, self._writing() as session:
            session.execute(delete(RecipeRow).where(RecipeRow.id == recipe))

    def has(self, project: str) -> bool:
        """Whether a project of that id was ever taken in, deleted ones included."""
        with Session(self._engine) as session:
            return session.get(ProjectRow, project) is not None


def _set_up(connection: Any, _: object) -> None:
    # The driver must not open transactions by itself: BEGIN IMMEDIATE does, before the first read.
    connection.isolation_level = None
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode=WAL")
    cursor.execute("PRAGMA synchronous=FULL")
    cursor.execute("PRAGMA foreign_keys=ON")
    cursor.close()
