"""Tables from files: values separated by commas, semicolons or tabs, and JSON; and back to CSV."""

import csv
import io
from collections import Counter
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from typing import Any

import orjson

from jaunty_lever.core.document.ids import new_id, one_line
from jaunty_lever.core.document.tables import (
    MOST_CELL_LETTERS,
    MOST_CELLS,
    MOST_COLUMNS,
    MOST_ROWS,
    Column,
    Kind,
    Rows,
    Table,
    colour_in,
    date_in,
    number_in,
    packed_rows,
)

from .open_json import BadFile, load

MOST_BYTES = 64 << 20
_LOOKED_AT = 500
"""Rows that tell what a column is; of many more, as many from all over."""
_SEPARATORS = {",": "commas", ";": "semicolons", "\t": "tabs"}


@dataclass
class TableRead:
    """What a file held: columns, rows, and what was guessed about it, a sentence each."""

    columns: tuple[Column, ...]
    rows: Rows
    remarks: list[str] = field(default_factory=list)

    @property
    def data(self) -> str:
        """The rows as a table keeps them."""
        return packed_rows(self.rows)


def read(content: bytes) -> TableRead:
    """A table in a CSV or JSON file. Raises BadFile."""
    if len(content) > MOST_BYTES:
        raise BadFile(f"The file has {len(content) / 1e6:.0f} MB; a table of up to {MOST_BYTES >> 20} MB comes in.")
    start = content[:400].lstrip(b"\xef\xbb\xbf \r\n\t")
    if not content.strip():
        raise BadFile("The file is empty.")
    if start.startswith((b"[", b"{")):
        return _finished(*_from_json(content), [])
    remarks: list[str] = []
    text = _text(content, remarks)
    separator = _separator(text)
    if separator != ",":
        remarks.append(f"Its values are separated by {_SEPARATORS[separator]}")
    rows = _csv(text, separator)
    if not rows:
        raise BadFile("The file holds no row.")
    head, *others = rows
    if all(_a_value(cell) for cell in head if cell.strip()) and any(cell.strip() for cell in head):
        remarks.append("It has no line of names: its columns are numbered")
        head, others = [f"Column {k + 1}" for k in range(len(head))], rows
    return _finished(head, others, remarks)


def _text(content: bytes, remarks: list[str]) -> str:
    if content.startswith((b"\xff\xfe", b"\xfe\xff")):
        coding = "utf-16"
    elif b"\0" in content[:100_000]:
        raise BadFile("This is no table: it holds what is no text. Save it as CSV (comma-separated values).")
    else:
        coding = "utf-8-sig"
    try:
        return content.decode(coding)
    except UnicodeDecodeError:
        remarks.append("Its letters are read as Latin-1, since they are no UTF-8")
        return content.decode("cp1252", errors="replace")


def _separator(text: str) -> str:
    """The sign that splits the first lines into most columns, and all of them into as many."""
    lines = io.StringIO(text[:200_000], newline="")
    sample = [line for line, _ in zip(lines, range(60), strict=False)]
    best, most = ",", 0.0
    for sign in _SEPARATORS:
        try:
            widths = Counter(len(row) for row in csv.reader(sample, delimiter=sign) if row)
        except csv.Error:
            continue
        wide, count = max(widths.items(), key=lambda one: (one[1], one[0]), default=(1, 0))
        score = (wide > 1) * (count / max(sum(widths.values()), 1)) * (1 + wide / 1000)
        if score > most:
            best, most = sign, score
    return best


def _csv(text: str, separator: str) -> Rows:
    rows: Rows = []
    cells = 0
    try:
        for row in csv.reader(io.StringIO(text, newline=""), delimiter=separator):
            if not row:
                continue
            rows.append(row)
            cells += len(row)
            if cells > MOST_CELLS or len(rows) > MOST_ROWS + 1:
                raise BadFile(_too_many())
    except csv.Error:
        raise BadFile(
            f"Row {len(rows) + 1} cannot be read: a cell in it is too long, or a quotation mark in it is never closed."
        ) from None
    return rows


def _too_many() -> str:
    return f"A table has at most {MOST_ROWS:,} rows and {MOST_CELLS:,} cells; the file holds more."


def _from_json(content: bytes) -> tuple[list[str], Rows]:
    data = load(content, MOST_BYTES)
    names: list[str] = []
    if isinstance(data, dict) and isinstance(data.get("rows"), list):
        names = [str(name) for name in data.get("columns") or ()]
        data = data["rows"]
    if not isinstance(data, list) or not data:
        raise BadFile("A table as JSON is a list of rows, each a list or an object: [{“name”: “Mira”}, …].")
    if len(data) > MOST_ROWS:
        raise BadFile(_too_many())
    if all(isinstance(row, dict) for row in data):
        known = dict.fromkeys([*names, *(key for row in data for key in row)])
        if len(known) > MOST_COLUMNS:
            raise BadFile(f"A table has at most {MOST_COLUMNS} columns; the file holds {len(known):,}.")
        return list(known), [[_cell(row.get(key)) for key in known] for row in data]
    if all(isinstance(row, list) for row in data):
        rows = [[_cell(cell) for cell in row] for row in data]
        if names:
            return names, rows
        if all(isinstance(cell, str) for cell in data[0]):
            return rows[0], rows[1:]
        return [f"Column {k + 1}" for k in range(max(map(len, rows)))], rows
    raise BadFile("The rows of a table as JSON are all lists, or all objects.")


def _cell(value: Any) -> str:
    if value is None:
        return ""
    if isinstance(value, str):
        return value
    if isinstance(value, bool):
        return "1" if value else "0"
    return orjson.dumps(value).decode()


def _finished(head: Sequence[str], rows: Rows, remarks: list[str]) -> TableRead:
    """Columns named and known, rows all as wide."""
    wide = max(len(head), max(map(len, rows), default=0))
    if wide > MOST_COLUMNS:
        raise BadFile(f"A table has at most {MOST_COLUMNS} columns; the file holds {wide:,}.")
    if wide * len(rows) > MOST_CELLS:
        raise BadFile(_too_many())
    odd = [k for k, row in enumerate(rows) if len(row) != wide]
    if odd:
        remarks.append(
            f"Row {odd[0] + 1} has {len(rows[odd[0]])} cells of {wide}"
            + (f", and {len(odd) - 1:,} more are as ragged" if len(odd) > 1 else "")
            + ": what is missing is empty"
        )
        rows = [row if len(row) == wide else [*row, *[""] * (wide - len(row))] for row in rows]
    if any(len(cell) > MOST_CELL_LETTERS for row in rows for cell in row):
        raise BadFile(f"A cell has at most {MOST_CELL_LETTERS:,} letters, and one of the file has more.")
    step = max(1, len(rows) // _LOOKED_AT)
    seen = rows[::step]
    formulas = sum(cell.startswith("=") for row in seen for cell in row)
    if formulas:
        remarks.append("Cells that begin with = are texts: nothing is worked out")
    columns: list[Column] = []
    taken: set[str] = set()
    for k in range(wide):
        name = one_line(head[k] if k < len(head) else "").strip()[:100] or f"Column {k + 1}"
        stem, number = name, 1
        while name.casefold() in taken:
            number += 1
            name = f"{stem} {number}"
        taken.add(name.casefold())
        kind, comma = _kind([row[k] for row in seen if row[k].strip()])
        columns.append(Column(id=new_id("column"), name=name, kind=kind, comma=comma))
    if any(one.comma for one in columns):
        remarks.append("A comma stands before the decimals of its numbers")
    return TableRead(tuple(columns), rows, remarks)


def _kind(cells: list[str]) -> tuple[Kind, bool]:
    """What nearly all cells of a column are, and whether a comma stands before their decimals."""
    if not cells:
        return "text", False
    tests: tuple[tuple[Kind, bool, Callable[[str], object]], ...] = (
        ("number", False, lambda cell: number_in(cell, False)),
        ("number", True, lambda cell: number_in(cell, True)),
        ("colour", False, lambda cell: colour_in(cell) if "#" in cell else None),
        ("date", False, date_in),
    )
    for kind, comma, test in tests:
        missed, most = 0, len(cells) // 5
        for cell in cells:
            missed += test(cell) is None
            if missed > most:
                break
        else:
            return kind, comma
    return "text", False


def _a_value(cell: str) -> bool:
    return number_in(cell, False) is not None or number_in(cell, True) is not None or date_in(cell) is not None


def write_csv(table: Table) -> bytes:
    """A table as CSV: a line of names, commas, UTF-8."""
    return (packed_rows([[one.name for one in table.columns]]) + table.data).encode()


def replaced(old: Table, new: TableRead) -> list[str]:
    """What putting other rows into a table changes, a sentence each."""
    before = {one.name.casefold(): one for one in old.columns}
    after = {one.name.casefold(): one for one in new.columns}
    told = [f"{len(old.rows):,} rows become {len(new.rows):,}"] if len(old.rows) != len(new.rows) else []
    gone = [one for name, one in before.items() if name not in after]
    more = [one.name for name, one in after.items() if name not in before]
    if gone:
        told.append(f"gone: {', '.join(one.name for one in gone[:6])}")
    free = sum(one.column in {column.id for column in gone} for one in old.followers)
    if free:
        told.append(f"{free} value{'s' if free != 1 else ''} let go, since the column is gone")
    if more:
        told.append(f"new: {', '.join(more[:6])}")
    if not gone and not more:
        places = [[one.name.casefold() for one in new.columns].index(one.name.casefold()) for one in old.columns]
        pairs = zip(old.rows, new.rows, strict=False)
        other = sum(row[k] != fresh[place] for row, fresh in pairs for k, place in enumerate(places))
        told.append(f"{other:,} cell{'s' if other != 1 else ''} changed" if other else "no cell that was there changed")
    return told
