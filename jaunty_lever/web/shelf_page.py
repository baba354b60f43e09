"""The page of the Shelf. It knows nothing of the job, so that it is there before that is loaded."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime
from typing import Protocol

from starlette.responses import HTMLResponse

from jaunty_lever.storage.folder import Entry
from jaunty_lever.storage.times import now

from .templating import page

STILL_WIDTH = 400
"""Pixels across of the stills on a card."""
SIZES = (
    ("Wide 1280 × 720", 1280, 720),
    ("Wide 1920 × 1080", 1920, 1080),
    ("Square 1080 × 1080", 1080, 1080),
    ("Tall 1080 × 1920", 1080, 1920),
    ("Banner 970 × 250", 970, 250),
)
RATES = (24, 25, 30, 50, 60)


def _ago(then: datetime) -> str:
    seconds = int((now() - then).total_seconds())
    for span, name in ((86_400, "day"), (3600, "hour"), (60, "minute")):
        if seconds >= span:
            count = seconds // span
            return f"{count} {name}{'s' if count > 1 else ''} ago"
    return "just now"


class Told(Protocol):
    """What a card tells of a scene."""

    @property
    def id(self) -> str: ...
    @property
    def name(self) -> str: ...
    @property
    def width(self) -> int: ...
    @property
    def height(self) -> int: ...
    @property
    def fps(self) -> float: ...
    @property
    def length(self) -> int: ...


@dataclass(frozen=True)
class OnShelf:
    """A project as it stands on the Shelf."""

    entry: Entry
    scenes: Sequence[Told]
    damage: str = ""
    """Why it cannot be read, if it cannot."""

    @property
    def ago(self) -> str:
        """How long ago it was changed, in words."""
        return _ago(self.entry.changed)


def listing(shelf: Sequence[OnShelf], toast: str = "", undo: str = "") -> HTMLResponse:
    """The projects alone, with what has just been done and how it is undone."""
    return page("shelf_list.html", shelf=shelf, still_width=STILL_WIDTH, toast=toast, undo=undo)


def shelf_page(shelf: Sequence[OnShelf], coming: str = "") -> HTMLResponse:
    """The whole page; `coming`: what else will stand there as soon as all is loaded."""
    return page(
        "shelf.html", shelf=shelf, sizes=SIZES, rates=RATES, still_width=STILL_WIDTH, toast="", undo="", coming=coming
    )
