"""The process in which files are made, with an encoder that breaks down at a size: real ones do so now and then, and
leave the memory of their process in any state."""

import os
from collections.abc import Iterator
from multiprocessing.connection import Connection
from typing import Any
from unittest.mock import patch

from jaunty_lever.exporters import Source
from jaunty_lever.exporters.drawn import scene_of
from jaunty_lever.exporters.film import Film
from jaunty_lever.rendering import apart

BREAKS_AT = 34
"""Pixels across at which H.265 breaks down."""


def serve(line: Connection) -> None:
    """As the process does, but for that size."""
    whole = Film.items

    def items(film: Film, source: Source, options: Any, first: int, end: int) -> Iterator[Any]:
        if getattr(options, "codec", "") == "H.265" and scene_of(source).width == BREAKS_AT:
            os.abort()
        return whole(film, source, options, first, end)

    with patch.object(Film, "items", items):
        apart.serve(line)
