"""Rows of layers that a page is sent: those only that are others than it has."""

from dataclasses import dataclass
from functools import cache
from secrets import token_hex
from typing import Any

from markupsafe import Markup

from ..templating import templates
from .views import Row


@dataclass(frozen=True)
class SentRows:
    """The rows of a page: `fresh` are those that it is sent, `order` the ids of all, None where they stand as they
    stood."""

    token: str
    rows: dict[str, Row]
    fresh: tuple[Row, ...]
    only_new: bool = False
    order: tuple[str, ...] | None = None


def sent_rows(rows: list[Row], before: SentRows | None) -> SentRows:
    """What to send to a page that was sent `before`; rows that are the very same it has. All of them where nothing
    was."""
    table, token = {row.id: row for row in rows}, token_hex(8)
    if before is None:
        return SentRows(token, table, tuple(rows))
    fresh = tuple(row for row in rows if before.rows.get(row.id) is not row)
    return SentRows(token, table, fresh, True, None if list(before.rows) == list(table) else tuple(table))


def closed_row(row: Row) -> Markup:
    """A row that is not open, as it is sent; remembered on it, which never changes."""
    known: Markup | None = row.__dict__.get("_written")
    if known is None:
        known = row.__dict__["_written"] = Markup(_macros().closed(row))
    return known


@cache
def _macros() -> Any:
    return templates().get_template("panels/row.html").module
