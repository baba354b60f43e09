"""Times as the database keeps them: in UTC, without a zone."""

from datetime import UTC, datetime
from typing import Any

_BEGINNING = datetime(1970, 1, 1)


def now() -> datetime:
    """The time, without a zone, in UTC."""
    return datetime.now(UTC).replace(tzinfo=None)


def when(told: Any) -> datetime:
    """A time that is kept as text. One that cannot be read is the beginning of time: a bad row never takes others with
    it."""
    try:
        return datetime.fromisoformat(told).replace(tzinfo=None)
    except (TypeError, ValueError):
        return _BEGINNING
