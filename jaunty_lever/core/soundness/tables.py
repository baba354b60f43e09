"""What must hold of tables: not too large, every row as wide as the others, followers that are there."""

import csv
from collections import Counter
from collections.abc import Iterator, Sequence

from ..document.followed import followed
from ..document.scene import Project
from ..document.tables import (
    MOST_CELL_LETTERS,
    MOST_CELLS,
    MOST_COLUMNS,
    MOST_FOLLOWERS,
    MOST_ROWS,
    MOST_TABLES,
    Table,
)
from .problem import Problem


def table_problems(project: Project, fresh: Sequence[Table], known: set[str]) -> Iterator[Problem]:
    """What is wrong with the tables of a project. Of those that are `fresh` all is looked at, and of cells that are not
    `known`."""
    if len(project.tables) > MOST_TABLES:
        yield Problem(f"A project has at most {MOST_TABLES} tables.", project.id)
    for name, count in Counter(table.id for table in project.tables).items():
        if count > 1:
            yield Problem(f"The table “{name}” stands {count} times.", name)
    for table in fresh:
        yield from _table(table, table.data in known)
    for table in project.tables:
        yield from _followers(project, table)


def _table(table: Table, seen: bool) -> Iterator[Problem]:
    name = table.name
    if not 0 < len(table.columns) <= MOST_COLUMNS:
        yield Problem(
            f"{name}: a table has 1 to {MOST_COLUMNS} columns; this would have {len(table.columns)}.", table.id
        )
        return
    for what, values in (
        ("id", [one.id for one in table.columns]),
        ("name", [one.name.casefold() for one in table.columns]),
    ):
        twice = next((value for value, count in Counter(values).items() if count > 1), None)
        if twice is not None:
            yield Problem(f"{name}: two columns have the {what} “{twice}”.", table.id)
    try:
        table.data.encode()
        rows = table.rows
    except UnicodeEncodeError:
        yield Problem(f"{name}: a cell holds what is no text (half of a letter).", table.id)
        return
    except csv.Error as error:
        yield Problem(f"{name}: its cells cannot be read: {error}.", table.id)
        return
    if len(rows) > MOST_ROWS or len(rows) * len(table.columns) > MOST_CELLS:
        yield Problem(f"{name}: a table has at most {MOST_ROWS:,} rows and {MOST_CELLS:,} cells.", table.id)
        return
    if table.shown and table.shown >= len(rows):
        yield Problem(f"{name}: row {table.shown + 1} is to be shown, and there are {len(rows)}.", table.id)
    wide = len(table.columns)
    odd = next((k for k, row in enumerate(rows) if len(row) != wide), None)
    if odd is not None:
        yield Problem(f"{name}: row {odd + 1} has {len(rows[odd])} cells, and there are {wide} columns.", table.id)
    elif not seen and any(len(cell) > MOST_CELL_LETTERS for row in rows for cell in row):
        yield Problem(f"{name}: a cell has at most {MOST_CELL_LETTERS:,} letters.", table.id)


def _followers(project: Project, table: Table) -> Iterator[Problem]:
    if len(table.followers) > MOST_FOLLOWERS:
        yield Problem(f"{table.name}: at most {MOST_FOLLOWERS} values follow a table.", table.id)
    columns = {one.id for one in table.columns}
    for one in table.followers:
        if one.column not in columns:
            yield Problem(f"{table.name}: {one.parameter} follows a column that is not there.", table.id)
        elif followed(project, one) is None:
            yield Problem(f"{table.name}: what follows it, {one.parameter}, is not there.", table.id)
    for (scene_id, parameter), count in Counter((one.scene, one.parameter) for one in table.followers).items():
        if count > 1:
            yield Problem(f"{table.name}: {parameter} of {scene_id} follows {count} columns at once.", table.id)
