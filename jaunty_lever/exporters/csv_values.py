"""CSV: parameters by frame."""

import csv
import io
from collections.abc import Iterator
from typing import ClassVar

from jaunty_lever.core.document.scene import Scene

from .exporter import Use
from .value_tables import Asked, ValueExporter, ValueOptions, value_table

AT_ONCE = 4096
_FORMULA_SIGNS = ("=", "+", "-", "@", "\t", "\r")


class CsvValues(ValueExporter):
    """A table of values, one line a frame."""

    name: ClassVar[str] = "csv"
    title: ClassVar[str] = "CSV"
    does: ClassVar[str] = "One line a frame, a column for each value."
    note: ClassVar[str] = (
        "Names and texts that begin with = + - or @ get an apostrophe (') in front, so that a spreadsheet takes them as "
        "text and not as a formula."
    )
    verb: ClassVar[str] = "Save CSV"
    media_type: ClassVar[str] = "text/csv; charset=utf-8"
    ending: ClassVar[str] = ".csv"
    uses: ClassVar[tuple[Use, ...]] = (Use("The numbers, for a table"),)

    def written(self, scene: Scene, columns: Asked, options: ValueOptions, first: int, end: int) -> Iterator[str]:
        return write(scene, columns, first, end, options.step, options.copies)


def write(
    scene: Scene, columns: Asked, start: float, stop: float, step: float = 1.0, copies: str = "all"
) -> Iterator[str]:
    """CSV in pieces of many lines: frame, seconds, then every asked component. See `value_table`."""
    table = value_table(scene, columns, start, stop, step, copies)
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow([as_text(cell) for cell in table.head])
    for first in range(0, max(table.lines, 1), AT_ONCE):
        cells = table.part(first, first + AT_ONCE)
        plain = [[as_text(cell) for cell in one] if one and isinstance(one[0], str) else one for one in cells]
        writer.writerows(zip(*plain, strict=True))
        yield out.getvalue()
        out.seek(0)
        out.truncate()


def as_text(cell: object) -> str:
    """A text that a spreadsheet takes for a text: one that begins like a formula gets an apostrophe before it."""
    text = str(cell)
    return f"'{text}" if text[:1] in _FORMULA_SIGNS else text
