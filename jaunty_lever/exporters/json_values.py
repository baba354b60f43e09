"""JSON: parameters by frame."""

import json
from collections.abc import Iterator
from typing import ClassVar

from jaunty_lever.core.document.scene import Scene
from jaunty_lever.formats.values import Asked, value_table

from .exporter import Use
from .value_tables import ValueExporter, ValueOptions


class JsonValues(ValueExporter):
    """Values as arrays of numbers, by name."""

    name: ClassVar[str] = "json"
    title: ClassVar[str] = "JSON"
    does: ClassVar[str] = "An array of numbers or texts for each value, by its name."
    verb: ClassVar[str] = "Save JSON"
    media_type: ClassVar[str] = "application/json"
    ending: ClassVar[str] = ".json"
    uses: ClassVar[tuple[Use, ...]] = (Use("The numbers, for a program"),)

    def written(self, scene: Scene, columns: Asked, options: ValueOptions, first: int, end: int) -> Iterator[str]:
        table = value_table(scene, columns, first, end, options.step, options.copies)
        told = {"scene": scene.name, "width": scene.width, "height": scene.height, "fps": scene.fps}
        yield json.dumps(told, ensure_ascii=False)[:-1]
        for count, (name, column) in enumerate(zip(table.head, table.part(0, table.lines), strict=True)):
            # The frames and the seconds stand by themselves, whatever values are called.
            before = "" if count < 2 else '"values": {' if count == 2 else ""
            yield f",\n {before}" if count <= 2 else ",\n  "
            yield f"{json.dumps(name, ensure_ascii=False)}: {json.dumps(column, ensure_ascii=False)}"
        yield "}}\n"
