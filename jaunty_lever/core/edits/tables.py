"""Edits of tables, of their cells, and of what follows them."""

import csv
from collections.abc import Iterable
from typing import Any, ClassVar, Literal

from pydantic import Field

from ..document.followed import Followed, followed
from ..document.ids import Id, OneLine, new_id
from ..document.limits import MOST_PICTURES
from ..document.pictures import Picture
from ..document.scene import Project
from ..document.tables import (
    MOST_CELL_LETTERS,
    Column,
    Follower,
    Kind,
    Rows,
    Table,
    Takes,
    colour_in,
    date_in,
    number_in,
    packed_rows,
    picture_key,
)
from .base import Edit, Gone, Refused, free_name, pruned
from .pictures import ChangePicture, keep
from .values import SetValue
from .whole_columns import ready_for_all, taken_whole

_NAMES = {"number": "number", "colour": "colour", "date": "date"}


def table_of(project: Project, table: str) -> Table:
    """A table, or Gone."""
    found = project.table(table)
    if found is None:
        raise Gone("This table has been deleted.", table)
    return found


def column_of(table: Table, column: str) -> tuple[int, Column]:
    """Where a column stands, and the column, or Gone."""
    found = table.column(column)
    if found is None:
        raise Gone("This column has been deleted.", column)
    return found


def with_table(project: Project, table: Table) -> Project:
    """The project with the table of the same id replaced."""
    return project.changed(tables=tuple(table if old.id == table.id else old for old in project.tables))


def taken_on(project: Project, table: Table, columns: Iterable[str] | None = None) -> Project:
    """The project with everything that follows the table (or some of its columns) set to the row that is shown.

    An empty cell sets nothing. Raises Refused for a cell that its follower cannot take on.
    """
    wanted = None if columns is None else set(columns)
    for one in table.followers:
        if one.takes != "cell":
            project = taken_whole(project, table, one)
        elif table.rows and (wanted is None or one.column in wanted):
            project = _set(project, table, one)
    return project


def _set(project: Project, table: Table, follower: Follower) -> Project:
    place, column = column_of(table, follower.column)
    cell = table.cell(table.shown, place)
    there = followed(project, follower)
    if there is None or not cell.strip():
        return project
    where = f"{table.name}, row {table.shown + 1}, {column.name}: “{cell[:40]}”"
    node = there.node
    if node is None:
        return _shown(project, follower, there, cell, where, table.id)
    if node.parameter.keys:
        # Where keys have been set since, they have the say.
        return project
    value: Any = cell
    if node.spec.kind == "colour":
        value = colour_in(cell)
    elif node.spec.kind == "choice":
        value = next((one for one in node.spec.options if one.casefold() == cell.strip().casefold()), None)
    elif node.spec.kind != "text":
        number = date_in(cell) if column.kind == "date" else number_in(cell, column.comma)
        value = (number,) * node.spec.components if node.spec.components > 1 and number is not None else number
        if node.spec.kind == "switch" and number is not None:
            value = number != 0
    if value is None:
        kind = node.spec.kind if node.spec.kind in ("colour", "choice") else _NAMES.get(column.kind, "number")
        raise Refused(f"{where} is no {kind}, which {node.title} follows.", table.id)
    try:
        return SetValue(scene=follower.scene, parameter=follower.parameter, value=value).made_of(project)
    except Refused as error:
        raise Refused(f"{where}: {error.message}", table.id) from None


def _shown(project: Project, follower: Follower, there: Followed, cell: str, where: str, table: str) -> Project:
    assert there.layer is not None
    found = picture_called(project, cell)
    if found is None:
        raise Refused(f"{where}: there is no picture of that name in the project. Bring it in at the column.", table)
    return ChangePicture(scene=follower.scene, layer=there.layer.id, picture=found).made_of(project)


def picture_called(project: Project, name: str) -> Picture | None:
    """The picture that a cell names: by its name or its file's, whatever the capitals."""
    key = picture_key(name)
    return next((one for one in project.pictures if picture_key(one.name) == key), None)


class TableEdit(Edit):
    """An edit of one table."""

    table: str

    def made_of(self, project: Project) -> Project:
        table = table_of(project, self.table)
        made = self.apply_to(table)
        project = with_table(project, made)
        changed = self.touches(table, made)
        # Pictures that no cell names any more go with it.
        return pruned(taken_on(project, made, changed))

    def apply_to(self, table: Table) -> Table:
        """The table after the edit."""
        raise NotImplementedError

    def touches(self, before: Table, after: Table) -> set[str] | None:
        """The columns whose followers take on their cells anew; None for all of them."""
        return set()

    def label(self, project: Project) -> str:
        return self.label_in(table_of(project, self.table))

    def label_in(self, table: Table) -> str:
        """What the edit does to this table."""
        return self.title


class AddTable(Edit):
    """A new table; without cells given, one with two columns and three rows to begin with."""

    kind: Literal["add table"] = "add table"
    id: Id = Field(default_factory=lambda: new_id("table"))
    name: OneLine = Field(default="Table", min_length=1, max_length=120)
    columns: tuple[Column, ...] = ()
    data: str | None = None

    def made_of(self, project: Project) -> Project:
        if project.table(self.id) is not None:
            raise Refused(f"The id “{self.id}” is taken already; every id must be its own.", self.id)
        name = free_name(self.name, [table.name for table in project.tables])
        columns = self.columns or (Column(id="name", name="Name"), Column(id="value", name="Value", kind="number"))
        data = self.data if self.data is not None else packed_rows([[""] * len(columns)] * 3)
        return project.changed(tables=(*project.tables, Table(id=self.id, name=name, columns=columns, data=data)))

    def label(self, project: Project) -> str:
        return f"Table {self.name} added"


class RemoveTable(TableEdit):
    """Delete a table. What followed it keeps the values that it has."""

    kind: Literal["remove table"] = "remove table"

    def made_of(self, project: Project) -> Project:
        gone = table_of(project, self.table)
        return pruned(project.changed(tables=tuple(table for table in project.tables if table is not gone)))

    def label_in(self, table: Table) -> str:
        return f"Table {table.name} deleted"


class RenameTable(TableEdit):
    """A table's name."""

    kind: Literal["rename table"] = "rename table"
    name: OneLine = Field(min_length=1, max_length=120)

    def apply_to(self, table: Table) -> Table:
        return table.changed(name=self.name)

    def label_in(self, table: Table) -> str:
        return f"Table {table.name} renamed {self.name}"


class ReplaceTable(TableEdit):
    """Other rows for a table. Columns are found again by their names: what follows them, and what they are read as,
    stays."""

    kind: Literal["replace table"] = "replace table"
    columns: tuple[Column, ...] = Field(min_length=1)
    data: str

    def apply_to(self, table: Table) -> Table:
        known = {one.name.casefold(): one for one in table.columns}
        taken = {one.id for one in table.columns}
        columns = []
        for one in self.columns:
            old = known.get(one.name.casefold())
            fresh = one if one.id not in taken else one.changed(id=new_id("column"))
            columns.append(old.changed(name=one.name, comma=one.comma) if old else fresh)
        there = {one.id for one in columns}
        followers = tuple(one for one in table.followers if one.column in there)
        made = table.changed(columns=tuple(columns), data=self.data, followers=followers)
        try:
            made.rows  # noqa: B018
        except csv.Error as error:
            raise Refused(f"Its cells cannot be read: {error}.", self.table) from None
        return made.changed(shown=min(table.shown, max(len(made.rows) - 1, 0)))

    def touches(self, before: Table, after: Table) -> set[str] | None:
        return None

    def label_in(self, table: Table) -> str:
        return f"Table {table.name} replaced"


class SetCells(TableEdit):
    """A block of cells, its first at a row (from 0) and a column. Rows that are not there yet are added."""

    kind: Literal["set cells"] = "set cells"
    row: int = Field(ge=0)
    column: str
    cells: tuple[tuple[str, ...], ...] = Field(min_length=1)

    def apply_to(self, table: Table) -> Table:
        place, _ = column_of(table, self.column)
        rows = [list(row) for row in table.rows]
        if self.row > len(rows):
            raise Refused(f"The table has {len(rows)} rows.", self.table)
        if any(len(cell) > MOST_CELL_LETTERS for row in self.cells for cell in row):
            raise Refused(f"A cell has at most {MOST_CELL_LETTERS:,} letters.", self.table)
        wide = len(table.columns)
        if any(place + len(row) > wide for row in self.cells):
            raise Refused(f"These are more columns than the table has: it has {wide}.", self.table)
        for k, given in enumerate(self.cells):
            while self.row + k >= len(rows):
                rows.append([""] * wide)
            rows[self.row + k][place : place + len(given)] = given
        return table.changed(data=packed_rows(rows))

    def touches(self, before: Table, after: Table) -> set[str] | None:
        if not self.row <= after.shown < self.row + len(self.cells):
            return set()
        place, _ = column_of(after, self.column)
        return {one.id for one in after.columns[place : place + len(self.cells[after.shown - self.row])]}

    def label_in(self, table: Table) -> str:
        count = sum(len(row) for row in self.cells)
        if count > 1:
            return f"{table.name}: {count} cells"
        return f"{table.name}: row {self.row + 1} {self.cells[0][0][:24] if self.cells[0] else ''}".rstrip()


class FillPictures(TableEdit):
    """Pictures for a column. Those that a cell names already are kept for it; the names of others go into empty cells,
    from the top, and into new rows."""

    kind: Literal["fill pictures"] = "fill pictures"
    column: str
    pictures: tuple[Picture, ...] = Field(min_length=1, max_length=MOST_PICTURES)

    def made_of(self, project: Project) -> Project:
        table = table_of(project, self.table)
        place, column = column_of(table, self.column)
        if column.kind != "picture":
            raise Refused(
                f"The column {column.name} is read as {column.kind}. Let it be read as pictures first.", table.id
            )
        rows = [list(row) for row in table.rows]
        cells = {picture_key(row[place]) for row in rows if row[place].strip()}
        wide = len(table.columns)
        for picture in self.pictures:
            there = next((one for one in project.pictures if one.id == picture.id), None)
            one = there or picture
            if there is None:
                taken = {picture_key(other.name): other.name for other in project.pictures}
                name = picture.name or "Picture"
                if picture_key(name) in taken:
                    name = free_name(name, taken.values(), 200)
                one = picture.changed(name=name)
                project = keep(project, one)
            if picture_key(one.name) in cells:
                continue
            free = next((row for row in rows if not row[place].strip()), None)
            if free is None:
                free = [""] * wide
                rows.append(free)
            free[place] = one.name
            cells.add(picture_key(one.name))
        made = table.changed(data=packed_rows(rows))
        return pruned(taken_on(with_table(project, made), made, {self.column}))

    def label_in(self, table: Table) -> str:
        many = len(self.pictures)
        return f"{table.name}: {f'{many} pictures' if many != 1 else f'picture {self.pictures[0].name}'} brought in"


class AddRow(TableEdit):
    """An empty row before another, or at the end."""

    kind: Literal["add row"] = "add row"
    before: int | None = Field(default=None, ge=0)

    def apply_to(self, table: Table) -> Table:
        rows = list(table.rows)
        at = len(rows) if self.before is None else min(self.before, len(rows))
        rows.insert(at, [""] * len(table.columns))
        shown = table.shown + (at <= table.shown and len(rows) > 1)
        return table.changed(data=packed_rows(rows), shown=shown)

    def label_in(self, table: Table) -> str:
        return f"{table.name}: row added"


class RemoveRows(TableEdit):
    """Delete rows."""

    kind: Literal["remove rows"] = "remove rows"
    rows: tuple[int, ...] = Field(min_length=1)

    def apply_to(self, table: Table) -> Table:
        gone = set(self.rows)
        if not all(0 <= row < len(table.rows) for row in gone):
            raise Gone("This row has been deleted.", self.table)
        kept: Rows = [row for k, row in enumerate(table.rows) if k not in gone]
        shown = table.shown - sum(row < table.shown for row in gone)
        return table.changed(data=packed_rows(kept), shown=max(0, min(shown, len(kept) - 1)))

    def touches(self, before: Table, after: Table) -> set[str] | None:
        return None if before.shown in self.rows else set()

    def label_in(self, table: Table) -> str:
        return f"{table.name}: {'row' if len(self.rows) == 1 else f'{len(self.rows)} rows'} deleted"


class AddColumn(TableEdit):
    """An empty column at the end."""

    kind: Literal["add column"] = "add column"
    id: Id = Field(default_factory=lambda: new_id("column"))
    name: OneLine = Field(default="Column", min_length=1, max_length=120)
    reads: Kind = "text"

    def apply_to(self, table: Table) -> Table:
        name = free_name(self.name, [one.name for one in table.columns])
        column = Column(id=self.id, name=name, kind=self.reads)
        return table.changed(columns=(*table.columns, column), data=packed_rows([*row, ""] for row in table.rows))

    def label_in(self, table: Table) -> str:
        return f"{table.name}: column {self.name} added"


class RemoveColumn(TableEdit):
    """Delete a column. What followed it keeps the values that it has."""

    kind: Literal["remove column"] = "remove column"
    column: str

    def apply_to(self, table: Table) -> Table:
        place, gone = column_of(table, self.column)
        if len(table.columns) == 1:
            raise Refused("A table has at least one column. Delete the table instead.", self.table)
        return table.changed(
            columns=tuple(one for one in table.columns if one is not gone),
            followers=tuple(one for one in table.followers if one.column != gone.id),
            data=packed_rows([*row[:place], *row[place + 1 :]] for row in table.rows),
        )

    def label_in(self, table: Table) -> str:
        _, gone = column_of(table, self.column)
        free = sum(one.column == gone.id for one in table.followers)
        more = f", {free} value{'s' if free != 1 else ''} let go" if free else ""
        return f"{table.name}: column {gone.name} deleted{more}"


class ChangeColumn(TableEdit):
    """A column's name, what its cells are read as, and which sign stands before the decimals."""

    kind: Literal["change column"] = "change column"
    column: str
    name: OneLine | None = Field(default=None, min_length=1, max_length=120)
    reads: Kind | None = None
    comma: bool | None = None

    def apply_to(self, table: Table) -> Table:
        _, old = column_of(table, self.column)
        given = {"name": self.name, "kind": self.reads, "comma": self.comma}
        new = old.changed(**{name: value for name, value in given.items() if value is not None})
        return table.changed(columns=tuple(new if one is old else one for one in table.columns))

    def touches(self, before: Table, after: Table) -> set[str] | None:
        return {self.column} if self.reads is not None or self.comma is not None else set()

    def label_in(self, table: Table) -> str:
        _, old = column_of(table, self.column)
        return f"{table.name}: column {old.name} {f'renamed {self.name}' if self.name else 'read otherwise'}"


class FollowColumn(TableEdit):
    """Let a value of a scene follow a column: it takes on the cell of the row that is shown, now and from now on."""

    title: ClassVar[str] = "Follows a table"
    kind: Literal["follow column"] = "follow column"
    column: str
    scene: str
    parameter: str
    takes: Takes = "cell"
    id: Id = Field(default_factory=lambda: new_id("m"))

    def made_of(self, project: Project) -> Project:
        table = table_of(project, self.table)
        _, column = column_of(table, self.column)
        one = Follower(column=self.column, scene=self.scene, parameter=self.parameter, takes=self.takes)
        there = followed(project, one)
        if there is None:
            raise Gone("This value is no longer there: what it belonged to has been deleted.", self.parameter)
        node = there.node
        if self.takes != "cell":
            return self._joined(ready_for_all(project, table, column, one, there, self.id), one)
        if node is None:
            return self._joined(project, one)
        if node.reads is not None:
            raise Refused(f"{node.title} is read off an array and cannot be set.", self.parameter)
        if node.parameter.keys:
            said = f"{node.title} has keys, and a table sets what rests. Remove its keys first."
            raise Refused(said, self.parameter)
        return self._joined(project, one)

    def _joined(self, project: Project, one: Follower) -> Project:
        elsewhere = [
            other.changed(followers=tuple(f for f in other.followers if not _same(f, one))) for other in project.tables
        ]
        project = project.changed(tables=tuple(elsewhere))
        made = table_of(project, self.table)
        made = made.changed(followers=(*made.followers, one))
        return taken_on(with_table(project, made), made, {self.column})

    def label(self, project: Project) -> str:
        table = table_of(project, self.table)
        there = followed(project, Follower(column=self.column, scene=self.scene, parameter=self.parameter))
        what = "its number of rows" if self.takes == "rows" else column_of(table, self.column)[1].name
        return f"{there.title if there else 'A value'} follows {table.name}, {what}"


def _same(one: Follower, other: Follower) -> bool:
    return (one.scene, one.parameter) == (other.scene, other.parameter)


class LetGoOfColumn(TableEdit):
    """Let a value follow no more. It keeps what it has."""

    kind: Literal["let go of column"] = "let go of column"
    scene: str
    parameter: str

    def apply_to(self, table: Table) -> Table:
        kept = tuple(one for one in table.followers if (one.scene, one.parameter) != (self.scene, self.parameter))
        return table.changed(followers=kept)

    def label_in(self, table: Table) -> str:
        return f"A value follows {table.name} no more"


class ShowRow(TableEdit):
    """Show a row: everything that follows the table takes on its cells."""

    kind: Literal["show row"] = "show row"
    row: int = Field(ge=0)

    def apply_to(self, table: Table) -> Table:
        if self.row >= len(table.rows):
            raise Gone("This row has been deleted.", self.table)
        return table.changed(shown=self.row)

    def touches(self, before: Table, after: Table) -> set[str] | None:
        return None

    def label_in(self, table: Table) -> str:
        return f"{table.name}: row {self.row + 1} shown"
