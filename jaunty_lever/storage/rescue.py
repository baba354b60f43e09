"""Saving what can be read of a damaged database: every project and recipe as a file, the database set aside
untouched."""

from collections.abc import Iterator
from dataclasses import dataclass, field
from pathlib import Path

from jaunty_lever.core.document.scene import Project
from jaunty_lever.formats import project_file, recipe_file
from jaunty_lever.formats.open_json import BadFile

from .bodies import Unreadable, raw, unpack
from .opening import set_aside
from .pages import Pages, Place, Row


@dataclass
class Rescued:
    """What came of a rescue: files of projects and recipes, what was lost, and where the database lies now."""

    files: list[Path] = field(default_factory=list)
    lost: list[str] = field(default_factory=list)
    aside: Path | None = None


@dataclass
class _Revision:
    parent: int | None
    label: str
    made: str
    place: Place


@dataclass
class _Known:
    """A project as its rows tell of it."""

    name: str = ""
    head: int | None = None
    changed: str = ""
    deleted: bool = False
    revisions: dict[int, _Revision] = field(default_factory=dict)


@dataclass
class _Rows:
    """What the readable pages of a database hold."""

    pages: Pages
    projects: dict[str, _Known] = field(default_factory=dict)
    parts: dict[str, Place] = field(default_factory=dict)
    recipes: dict[str, tuple[str, bytes]] = field(default_factory=dict)

    def body(self, place: Place) -> bytes:
        """The bytes that stand in a row at a place."""
        return next(cell for cell in self.pages.row(place) or () if isinstance(cell, bytes))

    def part(self, name: str) -> bytes:
        """What lies beside the revisions, by its name. Raises Unreadable."""
        if name not in self.parts:
            raise Unreadable(f"What it keeps as {name} is missing.")
        return self.body(self.parts[name])

    def take(self, place: Place, row: Row) -> None:
        """A row of a table, which is told by its cells."""
        match row:
            case (str(id), str(name), int(head), int(), str(), str(changed), None | str() as deleted):
                known = self.projects.setdefault(id, _Known())
                # Pages that are free hold rows as they were.
                if changed >= known.changed:
                    known.name, known.head, known.changed, known.deleted = name, head, changed, deleted is not None
            # The last cell, the scene that was changed, is not there in what was kept before it was told.
            case (str(id), int(number), None | int() as parent, str(label), str(made), bytes(), *_):
                revision = _Revision(parent, label, made, place)
                known = self.projects.setdefault(id, _Known())
                if number not in known.revisions or made >= known.revisions[number].made:
                    known.revisions[number] = revision
            case (str(id), str(name), bytes(body), str()):
                self.recipes[id] = name, body
            case (str(id), bytes()):
                self.parts[id] = place
            case _:
                pass


def rescue(path: Path, into: Path) -> Rescued:
    """Write every project that can be read into a folder, and every recipe, then set the database aside.

    Its pages are read as they are, so that neither a lost beginning nor an end that is cut off costs more than what
    stood there. For a project whose newest revision is damaged, the newest one that can be read is taken, and that is
    told.
    """
    found = Rescued()
    into.mkdir(parents=True, exist_ok=True)
    pages = Pages(path)
    rows = _Rows(pages)
    for place, row in pages.rows():
        rows.take(place, row)
    if pages.missing:
        found.lost.append(f"The end of the database is cut off: {pages.missing:,} bytes are not there.")
    if not (rows.projects or rows.recipes):
        found.lost.append("Nothing in the database can be read.")
    for id, known in rows.projects.items():
        if not known.deleted:
            _saved(id, known, rows, into, found)
    for id, (name, body) in rows.recipes.items():
        try:
            recipe_file.read(body)
        except BadFile as error:
            found.lost.append(f"The recipe {name} ({id}): {error}")
        found.files.append(_put(into, name or id, id, recipe_file.ENDING, body))
    found.aside = set_aside(path)
    return found


def _saved(id: str, known: _Known, rows: _Rows, into: Path, found: Rescued) -> None:
    called, reason = known.name or id, "none of its revisions can be read"
    for number in _in_order(known):
        revision = known.revisions[number]
        try:
            project = unpack(rows.body(revision.place), rows.part)
        except Unreadable as error:
            if number == known.head or known.head is None:
                reason = str(error)
            continue
        found.files.append(_written(project, id, into))
        if known.head is None:
            found.lost.append(
                f"{called}: at which revision it stood cannot be read; it is saved as it was at number {number}."
            )
        elif number != known.head:
            why = reason if known.head in known.revisions else "its newest revision is not there."
            found.lost.append(
                f"{called}: {why} It is saved as it was before, at “{revision.label}” ({revision.made[:16]})."
            )
        return
    found.lost.append(f"{called}: {reason}")
    for number in _in_order(known):
        (into / f"{id}.raw.json").write_bytes(raw(rows.body(known.revisions[number].place)))
        break


def _in_order(known: _Known) -> Iterator[int]:
    """The revisions of a project that are there: where it stood, what led there, and the others, the newest first."""
    seen: set[int] = set()
    here = known.head
    while here is not None and here in known.revisions and here not in seen:
        seen.add(here)
        yield here
        here = known.revisions[here].parent
    yield from sorted(known.revisions.keys() - seen, reverse=True)


def _written(project: Project, id: str, into: Path) -> Path:
    return _put(into, project.name, id, project_file.ENDING, project_file.write(project).encode())


def _put(into: Path, name: str, id: str, ending: str, content: bytes) -> Path:
    name = "".join(letter if letter.isalnum() or letter in " -_" else "_" for letter in name).strip() or id
    target = into / f"{name}{ending}"
    if target.exists():
        target = into / f"{name} ({id}){ending}"
    target.write_bytes(content)
    return target
