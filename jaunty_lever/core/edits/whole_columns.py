"""What follows a table as a whole: a gauge that has a row for each copy, texts of copies, and how many copies there
are."""

from typing import Any

from ..document.colours import parse_colour
from ..document.followed import Followed, followed
from ..document.gauge import ColumnGauge
from ..document.layers import ArrayLayer
from ..document.limits import MOST_COPIES
from ..document.nodes import ParameterNode
from ..document.scene import Project
from ..document.tables import Column, Follower, Table, colour_in, date_in, number_in, switch_in
from ..motion import Cells, Labels
from ..motion.fits import offered
from .base import Refused, with_node, with_parameter
from .values import SetValue

_COUNTS = ("count", "columns", "rows")
_LETTERS = 200
"""Of a cell, when each copy shows one."""


def counts_copies(node: ParameterNode) -> bool:
    """Whether a value says how many copies an array has."""
    owner, _, field = node.id.rpartition(".")
    return field in _COUNTS and owner.endswith(".arrangement")


def reads_column(node: ParameterNode) -> bool:
    """Whether a value is that of a gauge which reads a column."""
    return node.reads is not None and isinstance(node.reads.what, ColumnGauge)


def ready_for_all(project: Project, table: Table, column: Column, one: Follower, there: Followed, new: str) -> Project:
    """The project with whatever takes on a whole column made ready for it. Raises Refused for what cannot."""
    node = there.node
    if one.takes == "rows":
        if node is None or not counts_copies(node):
            raise Refused(
                f"{there.title} is no number of copies: it cannot follow how many rows there are.", one.parameter
            )
        if node.parameter.keys:
            raise Refused(f"{there.title} has keys, and a table sets what rests. Remove its keys first.", one.parameter)
        return project
    if node is not None and reads_column(node):
        if column.kind not in ("number", "date"):
            raise Refused(f"{column.name} is read as {column.kind}; {there.title} needs a column of numbers.", table.id)
        return project
    if node is None or not has_cells(node, column.kind):
        wanted = {"colour": "a colour", "number": "a number", "date": "a number"}.get(column.kind, "a text or a switch")
        raise Refused(
            f"{there.title} cannot take on {column.name}, which is read as {column.kind}: that needs "
            f"{wanted} of what stands in an array.",
            one.parameter,
        )
    if _taking(node) is not None:
        return project
    scene = project.scene(one.scene)
    assert scene is not None
    driver = "element.i" if scene.index.arrays_of(node) else None
    if driver is None:
        raise Refused(f"{there.title} stands in no array: it has no copies to show a row each.", one.parameter)
    # What acts on it already goes on acting on what each copy has now.
    own = node.parameter.chain
    text = node.spec.kind == "text"
    chain = (*own, Labels(id=new, driver=driver)) if text else (Cells(id=new, driver=driver), *own)
    return project.with_scene(with_parameter(scene, node.id, chain=chain))


def has_cells(node: ParameterNode, kind: str) -> bool:
    """Whether a value can have a cell of a column of this kind for each copy."""
    if node.spec.kind == "text":
        return True
    if not offered(Cells, node.spec) or node.spec.passage:
        return False
    if node.spec.kind in ("colour", "switch"):
        return kind == "colour" if node.spec.kind == "colour" else kind in ("text", "number")
    return kind in ("number", "date") and node.spec.numeric


def _taking(node: ParameterNode) -> Labels | Cells | None:
    return next((one for one in node.parameter.chain if isinstance(one, Labels | Cells)), None)


def _cell(text: str, column: Column, node: ParameterNode) -> tuple[float, ...] | None:
    """A cell as a value has it; None for one that is empty or none of its kind."""
    if node.spec.kind == "colour":
        found = colour_in(text)
        return None if found is None else parse_colour(found)
    if node.spec.kind == "switch":
        read = switch_in(text)
    else:
        read = date_in(text) if column.kind == "date" else number_in(text, column.comma)
    return None if read is None else (read,)


def taken_whole(project: Project, table: Table, one: Follower) -> Project:
    """The project with what follows a whole column, or the number of rows, brought up to it."""
    there, scene = followed(project, one), project.scene(one.scene)
    node = there.node if there else None
    if node is None or scene is None:
        return project
    if one.takes == "rows":
        return _counted(project, table, node, one)
    found = table.column(one.column)
    if found is None:
        return project
    place, column = found
    source = f"{table.name}, {column.name}"[:300]
    column_cells = [table.cell(row, place) for row in range(min(len(table.rows), MOST_COPIES))]
    if reads_column(node):
        gauge: Any = node.reads.what if node.reads else None
        read = date_in if column.kind == "date" else lambda cell: number_in(cell, column.comma)
        cells = tuple(read(cell) or 0.0 for cell in column_cells)
        if cells == gauge.cells and source == gauge.source:
            return project
        layer = scene.index.layers[node.top]
        assert isinstance(layer, ArrayLayer)
        changed = gauge.changed(cells=cells, source=source)
        gauges: Any = tuple(changed if kept is gauge else kept for kept in layer.gauges)
        return project.with_scene(with_node(scene, layer.id, layer.changed(gauges=gauges)))
    taking = _taking(node)
    if taking is None:
        return project
    given: Any
    if isinstance(taking, Labels):
        given = {"texts": tuple(cell[:_LETTERS] for cell in column_cells)}
    else:
        given = {"cells": tuple(_cell(cell, column, node) for cell in column_cells)}
    new = taking.changed(**given, source=source)
    if new == taking:
        return project
    chain = tuple(new if kept is taking else kept for kept in node.parameter.chain)
    return project.with_scene(with_parameter(scene, node.id, chain=chain))


def _counted(project: Project, table: Table, node: ParameterNode, one: Follower) -> Project:
    count = min(len(table.rows), MOST_COPIES)
    if node.parameter.keys or node.parameter.rest == count:
        return project
    try:
        return SetValue(scene=one.scene, parameter=node.id, value=count).made_of(project)
    except Refused as error:
        raise Refused(f"{table.name} has {len(table.rows):,} rows: {error.message}", table.id) from None
