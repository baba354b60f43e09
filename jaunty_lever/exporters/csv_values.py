"""CSV: parameters by frame."""

from collections.abc import Iterator
from typing import ClassVar

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.formats.values import Asked, csv_of

from .exporter import Use
from .value_tables import ValueExporter, ValueOptions


class CsvValues(ValueExporter):
    """A table of values, one line a frame."""

    name: ClassVar[str] = "csv"
    title: ClassVar[str] = "CSV"
    does: ClassVar[str] = "One line a frame, a column for each value."
    note: ClassVar[str] = (
        "Names and texts that begin with = + - or @ get an apostrophe (') in front, so that a spreadsheet takes "
        "them as "
        "text and not as a formula."
    )
    verb: ClassVar[str] = "Save CSV"
    media_type: ClassVar[str] = "text/csv; charset=utf-8"
    ending: ClassVar[str] = ".csv"
    uses: ClassVar[tuple[Use, ...]] = (Use("The numbers, for a table"),)

    def written(self, scene: Scene, columns: Asked, options: ValueOptions, first: int, end: int) -> Iterator[str]:
        return csv_of(scene, columns, first, end, options.step, options.copies)
