"""The store: projects with their whole history, kept in one SQLite file.

One process writes. Every change is one transaction, made on the newest state; what it returned from is on the disk
(write-ahead log, synchronous FULL). What is held in memory follows the disk and never runs ahead of it. Reading waits
for nobody; a change is worked out before anything is locked.
"""

from collections import OrderedDict
from collections.abc import Callable, Iterator, Sequence
from contextlib import contextmanager, suppress
from dataclasses import dataclass, replace
from datetime import datetime
from pathlib import Path
from threading import Lock, RLock

from sqlalchemy import delete, select, text
from sqlalchemy.exc import DatabaseError
from sqlalchemy.orm import Session

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.document.scene import Project, SceneOutline
from jaunty_lever.core.edits import Edit, Refused
from jaunty_lever.core.edits.base import free_name
from jaunty_lever.core.edits.renumber import renumbered
from jaunty_lever.formats.kept_parts import refuse_unsound

from .bodies import Unreadable, beside, outlines, pack, raw, unpack
from .folder import Entry, Folder
from .opening import no_room
from .tables import PictureRow, ProjectRow, RecipeRow, RevisionRow, ShownRow, now

KEPT_REVISIONS = 1000
CLEANED_EVERY = 100
_TRIES = 3


class NotThere(LookupError):
    """A project that does not exist or has been deleted."""


class NotKept(Exception):
    """A change that could not be written; the message says why and what to do. Nothing was changed."""


class NoRoom(NotKept):
    """The disk is full."""


class Busy(NotKept):
    """Another program holds the database."""


class _Moved(Exception):
    """A project does not stand any more where an edit was worked out."""


class Lost(NotKept):
    """The database is not where it was, or may not be written any more."""


def _not_kept(error: DatabaseError, path: Path) -> NotKept:
    said = str(error.orig)
    if "full" in said or no_room(path):
        return NoRoom("This could not be saved: the disk is full. Nothing was changed. Make room, then do it again.")
    if "locked" in said or "busy" in said:
        return Busy(
            "This could not be saved: another program holds the database (a copy or a repair of it, perhaps). "
            "Nothing was changed. Let it finish, then do it again."
        )
    if "readonly" in said:
        return Lost("This could not be saved: the database may not be written any more. Nothing was changed.")
    return NotKept(f"This could not be saved: the database says “{said}”. Nothing was changed.")


@dataclass(frozen=True)
class State:
    """A project as it stands: its revision, and what undo and redo would do."""

    project: Project
    revision: int
    change: int
    undo: str | None
    redo: str | None
    undo_in: str | None = None
    redo_in: str | None = None
    """The scenes, by id, that undo and redo would change, where that is one."""

    def undo_from(self, scene: str) -> str:
        """What undo would take back, and in which other scene than the one that is looked at."""
        return _placed(self.project, self.undo, self.undo_in, scene)

    def redo_from(self, scene: str) -> str:
        """The same of redo."""
        return _placed(self.project, self.redo, self.redo_in, scene)


def _placed(project: Project, label: str | None, where: str | None, here: str) -> str:
    if not label or where is None or where == here:
        return label or ""
    found = project.scene(where)
    return f"{label}, in {found.name}" if found is not None else f"{label}, in a scene that is not there now"


def _changed_scene(before: Project, after: Project) -> str | None:
    """The one scene that is another object now, or came, or went."""
    old, new = ({one.id: one for one in project.scenes} for project in (before, after))
    others = [name for name in old.keys() | new.keys() if old.get(name) is not new.get(name)]
    return others[0] if len(others) == 1 else None


def _unpacked(session: Session, body: bytes) -> Project:
    def part(name: str) -> bytes:
        found = session.get(PictureRow, name)
        if found is None:
            raise Unreadable(f"What it keeps as {name} is missing.")
        return found.body

    return unpack(body, part)


WorkedOut = Callable[[State, Edit], tuple[Project, str, bytes]]
"""Works an edit out: the project after it, its label, and the body of the new revision."""


class Store:
    """All projects in one database file."""

    def __init__(self, place: Path | Folder) -> None:
        """In a database, or in a folder that has been opened. Raises opening.CannotOpen."""
        self.folder = place if isinstance(place, Folder) else Folder(place)
        self.path, self.holder, self._engine = self.folder.path, self.folder.holder, self.folder.engine
        # Changes of one project come one after the other; those of others, and reading, do not wait for them.
        self._turns: dict[str, RLock] = {}
        self._writing_lock = Lock()
        self._heads_lock = Lock()
        self._heads: OrderedDict[str, State] = OrderedDict()
        self._damage: dict[tuple[str, int], str] = {}
        self._written = 0
        self._changes = 0

    def close(self) -> None:
        """Let go of the file, with everything in it."""
        self.folder.close()

    @contextmanager
    def writing(self) -> Iterator[Session]:
        """One transaction. What it raises when nothing was written: NotKept."""
        if not self.folder.is_there():
            gone = not self.path.exists()
            what = "has been removed" if gone else "has been replaced, or may not be written any more"
            raise Lost(
                f"This could not be saved: {self.path} {what} while the program runs. Nothing was changed. "
                "Take out what is on the page as a file, put the database back, and start the program again."
            )
        try:
            with self._writing_lock, Session(self._engine) as session:
                session.execute(text("BEGIN IMMEDIATE"))
                try:
                    yield session
                    session.commit()
                except BaseException:
                    session.rollback()
                    raise
        except DatabaseError as error:
            raise _not_kept(error, self.path) from error

    def reading(self) -> Session:
        """A look at the database, to be closed."""
        return Session(self._engine)

    def entries(self) -> list[Entry]:
        """The projects that are not deleted, the latest changed first."""
        return self.folder.entries()

    def state(self, project: str) -> State:
        """The project as it stands. Raises NotThere, or Unreadable."""
        while True:
            with self._heads_lock:
                known, written = self._heads.get(project), self._written
                if known is not None:
                    self._heads.move_to_end(project)
                    return known
            with Session(self._engine) as session:
                row = self._row(session, project)
                try:
                    state = self._read(session, row, None)
                except Unreadable as error:
                    self._damage[project, row.head] = str(error)
                    raise
            with self._heads_lock:
                # What was written meanwhile may be newer than what was read.
                if self._written == written:
                    return self._held(project, state)

    def scenes(self, project: str) -> Sequence[SceneOutline]:
        """A project's scenes by name and size; unlike `state` it does not read what is in them.

        Raises NotThere, or Unreadable, also for damage that reading the whole has shown before.
        """
        with self._heads_lock:
            known = self._heads.get(project)
        if known is not None:
            return known.project.scenes
        with Session(self._engine) as session:
            row = self._row(session, project)
            head = session.get(RevisionRow, (project, row.head))
            damage = self._damage.get((project, row.head)) if head else "Its newest revision is missing."
            if head is None or damage:
                raise Unreadable(damage)
            return outlines(head.body)

    def _row(self, session: Session, project: str) -> ProjectRow:
        row = session.get(ProjectRow, project)
        if row is None or row.deleted is not None:
            raise NotThere("This project does not exist, or has been deleted.")
        return row

    def _read(self, session: Session, row: ProjectRow, project: Project | None) -> State:
        head = session.get(RevisionRow, (row.id, row.head))
        if head is None:
            raise Unreadable("Its newest revision is missing.")
        forward = session.execute(
            select(RevisionRow.label, RevisionRow.scene)
            .where(RevisionRow.project == row.id, RevisionRow.parent == row.head)
            .order_by(RevisionRow.number.desc())
            .limit(1)
        ).first()
        has_parent = head.parent is not None and session.get(RevisionRow, (row.id, head.parent)) is not None
        back = (head.label, head.scene) if has_parent else (None, None)
        on = (forward.label, forward.scene) if forward is not None else (None, None)
        return State(project or _unpacked(session, head.body), row.head, 0, back[0], on[0], back[1], on[1])

    def _held(self, project: str, state: State) -> State:
        """Remember a state that is on the disk; called under the heads' lock."""
        self._changes += 1
        state = replace(state, change=self._changes)
        self._heads[project] = state
        self._heads.move_to_end(project)
        while len(self._heads) > 32:
            self._heads.popitem(last=False)
        return state

    def _published(self, project: str, state: State) -> State:
        """A state that has just been written."""
        with self._heads_lock:
            self._written += 1
            return self._held(project, state)

    def _forget(self, project: str) -> None:
        with self._heads_lock:
            self._written += 1
            self._heads.pop(project, None)

    def create(self, project: Project, label: str = "Made") -> State:
        """Take in a new project; when one with its id is there, the new one gets an id of its own."""
        refuse_unsound(None, project)
        body = pack(project)
        with self.writing() as session:
            if session.get(ProjectRow, project.id) is not None:
                project = project.changed(id=new_id("project"))
                body = pack(project)
            row = ProjectRow(id=project.id, name=project.name, head=1, last=1)
            session.add(row)
            session.flush()
            self._add_revision(session, row, None, label, project, body)
            state = self._read(session, row, project)
        return self._published(project.id, state)

    def _add_revision(
        self,
        session: Session,
        row: ProjectRow,
        parent: int | None,
        label: str,
        project: Project,
        body: bytes,
        scene: str | None = None,
    ) -> None:
        parts = beside(project)
        # Asked by their names alone: nobody needs the bytes of what is there.
        known = set(session.scalars(select(PictureRow.id).where(PictureRow.id.in_(list(parts)))))
        session.add_all(PictureRow(id=part, body=content()) for part, content in parts.items() if part not in known)
        made = RevisionRow(project=row.id, number=row.last, parent=parent, label=label, body=body, scene=scene)
        session.add(made)
        session.flush()
        session.add_all(ShownRow(project=row.id, number=row.last, picture=one) for one in parts)
        session.flush()

    def edit(self, project: str, edit: Edit, elsewhere: WorkedOut | None = None) -> tuple[State, str]:
        """Apply an edit to the newest state; the new state and the edit's label.

        Raises NotThere, edits.Refused, or NotKept; then nothing has changed. The edit is worked out without holding
        anybody up; when the project has changed meanwhile it is worked out anew, the last time while others wait.
        `elsewhere`: what works it out instead, for which nobody ever waits.
        """
        for _ in range(_TRIES):
            before = self.state(project)
            worked_out = (elsewhere or self._worked_out)(before, edit)
            with self._turn(project):
                if self.state(project).change == before.change:
                    with suppress(_Moved):
                        return self._kept(project, before, *worked_out)
        if elsewhere is not None:
            raise Refused(
                "The project was changed again and again while this was worked out. Nothing was done; do it "
                "again, and leave the "
                "project alone until it is there."
            )
        with self._turn(project):
            for _ in range(_TRIES):
                before = self.state(project)
                with suppress(_Moved):
                    return self._kept(project, before, *self._worked_out(before, edit))
        raise Busy(
            "This could not be saved: another program changes the project all the time. Nothing was changed. Do "
            "it again."
        )

    def _turn(self, project: str) -> RLock:
        """The lock under which a project is changed: one for each, whoever asks first."""
        return self._turns.setdefault(project, RLock())

    def _worked_out(self, before: State, edit: Edit) -> tuple[Project, str, bytes]:
        after = edit.apply(before.project)
        refuse_unsound(before.project, after)
        return after, edit.label(before.project)[:300], pack(after)

    def _kept(self, project: str, before: State, after: Project, label: str, body: bytes) -> tuple[State, str]:
        """Write what was worked out on a state. Raises _Moved when the project, in the very transaction, stands
        elsewhere."""
        with self.writing() as session:
            row = self._row(session, project)
            if row.head != before.revision:
                self._forget(project)
                raise _Moved
            row.last += 1
            where = _changed_scene(before.project, after)
            self._add_revision(session, row, row.head, label, after, body, where)
            row.head, row.name, row.changed = row.last, after.name, now()
            if row.last % CLEANED_EVERY == 0:
                self._clean(session, row)
            session.flush()
            state = self._read(session, row, after)
        return self._published(project, state), label

    def _clean(self, session: Session, row: ProjectRow) -> None:
        """Let go of old revisions, and of the pictures that only they showed."""
        session.execute(
            delete(RevisionRow).where(RevisionRow.project == row.id, RevisionRow.number <= row.last - KEPT_REVISIONS)
        )
        session.execute(delete(PictureRow).where(PictureRow.id.not_in(select(ShownRow.picture))))

    def undo(self, project: str) -> tuple[State, str] | None:
        """Back to the state before the last edit; the state and what was undone, or None."""
        return self._step(project, back=True)

    def redo(self, project: str) -> tuple[State, str] | None:
        """Forward again along the latest branch; the state and what was redone, or None."""
        return self._step(project, back=False)

    def _step(self, project: str, back: bool) -> tuple[State, str] | None:
        with self._turn(project):
            with self.writing() as session:
                row = self._row(session, project)
                here = session.get_one(RevisionRow, (project, row.head))
                if back:
                    target = session.get(RevisionRow, (project, here.parent)) if here.parent is not None else None
                    label = here.label
                else:
                    target = session.scalar(
                        select(RevisionRow)
                        .where(RevisionRow.project == project, RevisionRow.parent == row.head)
                        .order_by(RevisionRow.number.desc())
                        .limit(1)
                    )
                    label = target.label if target else ""
                if target is None:
                    return None
                restored = _unpacked(session, target.body)
                row.head, row.name, row.changed = target.number, restored.name, now()
                session.flush()
                state = self._read(session, row, restored)
            return self._published(project, state), label

    def raw(self, project: str) -> bytes:
        """The stored form of a project as it is, for one that cannot be read. Raises NotThere."""
        with Session(self._engine) as session:
            row = self._row(session, project)
            head = session.get(RevisionRow, (row.id, row.head))
            return raw(head.body) if head else b""

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
        with self.writing() as session:
            row = session.get(ProjectRow, project)
            if row is None or (gone and row.deleted is not None):
                raise NotThere("This project does not exist, or has been deleted.")
            row.deleted = now() if gone else None
            name = row.name
        self._forget(project)
        return name

    def recipes(self) -> list[tuple[str, bytes]]:
        """Id and file of every saved recipe, the newest first."""
        with self.reading() as session:
            rows = session.scalars(select(RecipeRow).order_by(RecipeRow.made.desc(), RecipeRow.id))
            return [(row.id, row.body) for row in rows]

    def recipe(self, recipe: str) -> bytes | None:
        """A saved recipe's file."""
        with Session(self._engine) as session:
            row = session.get(RecipeRow, recipe)
            return row.body if row else None

    def keep_recipe(self, recipe: str, name: str, body: bytes) -> None:
        """Save a recipe's file."""
        with self.writing() as session:
            session.merge(RecipeRow(id=recipe, name=name, body=body, made=now()))

    def forget_recipe(self, recipe: str) -> None:
        """Delete a saved recipe."""
        with self.writing() as session:
            session.execute(delete(RecipeRow).where(RecipeRow.id == recipe))

    def has(self, project: str) -> bool:
        """Whether a project of that id was ever taken in, deleted ones included."""
        return self.folder.has(project)
