"""Tables: rows and columns of texts, numbers, colours and dates, which values of scenes follow."""

import csv
import io
import re
from collections.abc import Iterable, Set
from datetime import UTC, datetime
from functools import cached_property
from hashlib import blake2b
from typing import Literal

from pydantic import Field

from .colours import hex_colour, parse_colour
from .ids import Id, OneLine
from .model import Model

MOST_TABLES = 50
MOST_ROWS = 200_000
# How long a cell may be is said in the artist's words, below; what reads them has a limit of its own.
csv.field_size_limit(1 << 30)
MOST_COLUMNS = 256
MOST_CELLS = 2_000_000
MOST_CELL_LETTERS = 20_000
MOST_FOLLOWERS = 500

Kind = Literal["text", "number", "colour", "date", "picture"]
Takes = Literal["cell", "column", "rows"]
Rows = list[list[str]]

_PLAIN = re.compile(r"[-+−]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?")
_COMMA = re.compile(r"[-+−]?(?:\d{1,3}(?:\.\d{3})+|\d*)(?:,\d*)?(?:[eE][-+]?\d+)?")
_DATES = ("%Y-%m-%d", "%Y-%m-%dT%H:%M:%S", "%Y-%m-%d %H:%M:%S", "%Y-%m-%d %H:%M", "%d.%m.%Y", "%Y/%m/%d", "%d/%m/%Y")


class Column(Model):
    """A column: its name, and what its cells are read as."""

    id: Id
    name: OneLine = Field(min_length=1, max_length=120)
    kind: Kind = "text"
    comma: bool = Field(default=False, description="Whether a comma stands before the decimals of its numbers.")


class Follower(Model):
    """A value of a scene that takes on what stands in a column, in the row that is shown; or all of the column, or how
    many rows there are."""

    column: Id
    scene: Id
    parameter: str = Field(min_length=1, max_length=300)
    takes: Takes = "cell"


class Table(Model):
    """Rows of cells, kept as they were written; what follows them; which row is shown."""

    id: Id
    name: OneLine = Field(min_length=1, max_length=120)
    columns: tuple[Column, ...] = ()
    followers: tuple[Follower, ...] = ()
    shown: int = Field(default=0, ge=0, description="The row whose cells the followers have taken on, from 0.")
    data: str = Field(default="", description="The rows as comma-separated values (RFC 4180), without a line of names.")

    @cached_property
    def rows(self) -> Rows:
        """All cells, row by row; every row has a cell for every column."""
        return list(csv.reader(io.StringIO(self.data, newline="")))

    def cell(self, row: int, place: int) -> str:
        """A cell; nothing where a row is too short, which is refused elsewhere."""
        cells = self.rows[row] if row < len(self.rows) else []
        return cells[place] if place < len(cells) else ""

    @cached_property
    def pictures(self) -> frozenset[str]:
        """What its cells call pictures, as `picture_key` has it."""
        places = [k for k, one in enumerate(self.columns) if one.kind == "picture"]
        if not places:
            return frozenset()
        cells = (self.cell(row, k) for row in range(len(self.rows)) for k in places)
        return frozenset(picture_key(cell) for cell in cells if cell.strip())

    @cached_property
    def digest(self) -> str:
        """The name under which the cells are kept beside the rest, made from what they are."""
        return f"cells-{blake2b(self.data.encode(), digest_size=10).hexdigest()}"

    def column(self, column: str) -> tuple[int, Column] | None:
        """Where a column stands, and the column."""
        return next(((k, one) for k, one in enumerate(self.columns) if one.id == column), None)


def packed_rows(rows: Iterable[Iterable[str]]) -> str:
    """Rows as the text that a table keeps."""
    out = io.StringIO(newline="")
    # The writer puts quotes around what holds a sign of its line ends, whichever of the two.
    csv.writer(out, lineterminator="\r\n").writerows(rows)
    return out.getvalue()


def number_in(cell: str, comma: bool) -> float | None:
    """The number in a cell, with or without a sign of percent or spaces between thousands; None for what is none."""
    plain = cell.strip().removesuffix("%").replace("\u00a0", "").replace("\u202f", "").replace(" ", "").replace("'", "")
    if comma:
        if not _COMMA.fullmatch(plain):
            return None
        plain = plain.replace(".", "").replace(",", ".")
    elif re.fullmatch(r"[-+−]?\d{1,3}(,\d{3})+(\.\d*)?", plain):
        plain = plain.replace(",", "")
    if not _PLAIN.fullmatch(plain):
        return None
    value = float(plain.replace("−", "-"))
    return value if abs(value) <= 1e9 else None


_YES, _NO = ("yes", "y", "true", "on", "1", "x", "✓"), ("no", "n", "false", "off", "0", "-", "")


def switch_in(cell: str) -> float | None:
    """1 for a cell that says yes, 0 for one that says no or nothing; None for what is neither."""
    plain = cell.strip().casefold()
    return 1.0 if plain in _YES else 0.0 if plain in _NO else None


def date_in(cell: str) -> float | None:
    """The day in a cell, counted from 1 January 1970, with the hour as its share; None for what is none."""
    plain = cell.strip().removesuffix("Z")
    for form in _DATES:
        try:
            return datetime.strptime(plain, form).replace(tzinfo=UTC).timestamp() / 86_400
        except ValueError:
            continue
    return None


def colour_in(cell: str) -> str | None:
    """The colour in a cell as #rrggbb or #rrggbbaa; None for what is none."""
    try:
        return hex_colour(parse_colour(cell.strip()))
    except ValueError:
        return None


_PICTURE_ENDING = re.compile(r"\.(?:png|jpe?g|webp)$", re.IGNORECASE)


def picture_key(name: str) -> str:
    """What a picture is found by, of its name or its file's: without folders, ending and capitals."""
    return _PICTURE_ENDING.sub("", name.strip().replace("\\", "/").rpartition("/")[2]).casefold()


def fits(cell: str, column: Column, pictures: Set[str] = frozenset()) -> bool:
    """Whether a cell is what its column says; an empty one always is. `pictures` are those there are, by their keys."""
    if not cell.strip() or column.kind == "text":
        return True
    if column.kind == "number":
        return number_in(cell, column.comma) is not None
    if column.kind == "picture":
        return picture_key(cell) in pictures
    return (date_in(cell) if column.kind == "date" else colour_in(cell)) is not None
