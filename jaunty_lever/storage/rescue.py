"""Saving what can be read of a damaged database: every project as a file, the database set aside untouched."""

import sqlite3
from dataclasses import dataclass, field
from pathlib import Path

from jaunty_lever.core.document.scene import Project
from jaunty_lever.formats import project_file

from .bodies import Unreadable, raw, unpack
from .opening import closing_connection, set_aside


@dataclass
class Rescued:
    """What came of a rescue: files of projects, what was lost, and where the database lies now."""

    files: list[Path] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)
    aside: Path | None = None


def rescue(path: Path, into: Path) -> Rescued:
    """Write every project that can be read into a folder, then set the database aside.

    For a project whose newest revision is damaged, the newest one that can be read is taken.
    """
    found = Rescued()
    into.mkdir(parents=True, exist_ok=True)
    try:
        with closing_connection(path) as connection:
            connection.text_factory = lambda raw: raw.decode("utf-8", "replace")
            for project in _projects(connection):
                _saved(connection, project, into, found)
    except sqlite3.Error as error:
        found.lost.append(f"The database cannot be opened at all: {error}.")
    found.aside = set_aside(path)
    return found


def _projects(connection: sqlite3.Connection) -> list[str]:
    """Ids of all projects that any readable page of the database names."""
    known: dict[str, None] = {}
    for question in ("SELECT id FROM projects WHERE deleted IS NULL", "SELECT DISTINCT project FROM revisions"):
        try:
            for row in connection.execute(question):
                known[str(row[0])] = None
        except sqlite3.Error:
            continue
    return list(known)


def _saved(connection: sqlite3.Connection, project: str, into: Path, found: Rescued) -> None:
    reason, newest = "none of its revisions can be read", b""
    for number in _numbers(connection, project):
        try:
            (body,) = connection.execute(
                "SELECT body FROM revisions WHERE project = ? AND number = ?", (project, number)
            ).fetchone()
            newest = newest or body
            made = unpack(body, lambda picture: _picture(connection, picture))
        except (sqlite3.Error, TypeError, Unreadable) as error:
            reason = str(error)
            continue
        found.files.append(_written(made, project, into))
        return
    found.lost.append(f"{project}: {reason}")
    if newest:
        (into / f"{project}.raw.json").write_bytes(raw(newest))


def _numbers(connection: sqlite3.Connection, project: str) -> list[int]:
    numbers: list[int] = []
    try:
        head = connection.execute("SELECT head FROM projects WHERE id = ?", (project,)).fetchone()
        numbers += [head[0]] if head else []
    except sqlite3.Error:
        pass
    try:
        rows = connection.execute("SELECT number FROM revisions WHERE project = ? ORDER BY number DESC", (project,))
        numbers += [row[0] for row in rows if row[0] not in numbers]
    except sqlite3.Error:
        pass
    return numbers


def _picture(connection: sqlite3.Connection, picture: str) -> bytes:
    row = connection.execute("SELECT body FROM pictures WHERE id = ?", (picture,)).fetchone()
    if row is None:
        raise Unreadable(f"What it keeps as {picture} is missing.")
    body: bytes = row[0]
    return body


def _written(project: Project, id: str, into: Path) -> Path:
    name = "".join(letter if letter.isalnum() or letter in " -_" else "_" for letter in project.name).strip() or id
    target = into / f"{name}{project_file.ENDING}"
    if target.exists():
        target = into / f"{name} ({id}){project_file.ENDING}"
    target.write_text(project_file.write(project), encoding="utf-8")
    return target
