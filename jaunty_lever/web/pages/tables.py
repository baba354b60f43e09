"""The page of tables: which there are, a sheet to look at and edit one, what follows it, and the row that is shown."""

import asyncio
from collections.abc import Iterator
from typing import Any, NamedTuple

from fastapi import APIRouter, Request
from starlette.responses import HTMLResponse, Response

from jaunty_lever.core.document.followed import PICTURE, followed
from jaunty_lever.core.document.layers import PictureLayer
from jaunty_lever.core.document.nodes import ParameterNode
from jaunty_lever.core.document.scene import Project, Scene
from jaunty_lever.core.document.specs import ParameterSpec
from jaunty_lever.core.document.tables import Column, Table, fits, picture_key
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.edits.base import place_of
from jaunty_lever.core.edits.whole_columns import counts_copies, has_cells, reads_column
from jaunty_lever.core.view.scene_view import scene_in
from jaunty_lever.exporters import Source
from jaunty_lever.rendering.batch import names, rows_in, table_in
from jaunty_lever.storage.store import NotThere

from ..site import site_of
from ..templating import page

router = APIRouter(prefix="/projects/{project}")

SHOWN_AT_ONCE = 100
"""Rows on the page."""
MOST_ON_SHEET = 60
"""Rows on a contact sheet at once."""


def _fitting(spec: ParameterSpec, kind: str) -> bool:
    """Whether a value can take on cells of a kind; a text takes on all of them, as they are written."""
    if spec.kind == "text":
        return True
    if kind in ("number", "date"):
        return spec.numeric
    return spec.kind == ("colour" if kind == "colour" else "choice")


def _offered(scene: Scene, kind: str) -> list[dict[str, Any]]:
    """What may follow a column of a kind: values that rest, levers first."""
    found: dict[str, list[dict[str, Any]]] = {}
    if kind == "picture":
        for layer in scene.index.layers.values():
            if isinstance(layer, PictureLayer):
                entry = {"id": f"{layer.id}.{PICTURE}", "title": "picture", "kind": "picture", "keyed": False}
                found.setdefault(layer.name, []).append(entry)
    nodes = [one for one in scene.index.parameters.values() if one.within is None and one.reads is None]
    for node in sorted(
        nodes, key=lambda one: (one.top not in scene.index.levers, kind == "text" and one.spec.kind != "text")
    ):
        if not node.spec.passage and _fitting(node.spec, kind):
            owner = "Levers" if node.top in scene.index.levers else node.trail[0][1]
            title = node.trail[0][1] if owner == "Levers" else " ".join(part for _, part in node.trail[1:])
            entry = {"id": node.id, "title": title or node.spec.label, "kind": node.spec.kind}
            found.setdefault(owner, []).append(entry | {"keyed": bool(node.parameter.keys)})
    return [*_whole_columns(scene, kind), *({"owner": owner, "values": values} for owner, values in found.items())]


def _each_its_row(scene: Scene, node: ParameterNode, kind: str) -> bool:
    """Whether each copy can have its own row of a column of this kind."""
    alone = node.reads is None and node.modifier is None
    return alone and has_cells(node, kind) and bool(scene.index.arrays_of(node))


def _whole_columns(scene: Scene, kind: str) -> list[dict[str, Any]]:
    """What may follow all rows at once: a gauge of a column, a text of copies, a number of copies."""
    values = []
    for node in scene.index.parameters.values():
        if node.within is not None:
            continue
        takes, said = "", ""
        if (reads_column(node) and kind in ("number", "date")) or _each_its_row(scene, node, kind):
            takes, said = "column", "each copy its row"
        elif counts_copies(node):
            takes, said = "rows", "as many as there are rows"
        if takes:
            entry = {"id": node.id, "title": node.title, "kind": said, "takes": takes}
            values.append(entry | {"keyed": takes == "rows" and bool(node.parameter.keys)})
    return [{"owner": "All rows at once", "values": values}] if values else []


def _followers(project: Project, table: Table) -> list[dict[str, Any]]:
    found = []
    for one in table.followers:
        there, scene, column = followed(project, one), project.scene(one.scene), table.column(one.column)
        if there is not None and scene is not None and column is not None:
            found.append(
                {
                    "parameter": one.parameter,
                    "scene": scene.id,
                    "scene_name": scene.name,
                    "title": there.title,
                    "column": column[1].id,
                    "column_name": column[1].name if one.takes != "rows" else "number of rows",
                    "takes": one.takes,
                }
            )
    return found


def _asked(project: str, scene: str, request: Request) -> dict[str, Any]:
    state = site_of(request).store.state(project)
    whole = state.project
    here = scene_in(whole, scene)
    wanted = request.query_params.get("table", "")
    table = whole.table(wanted) or (whole.tables[0] if whole.tables else None)
    values: dict[str, Any] = {"state": state, "project": whole, "scene": here, "table": table}
    if table is None:
        return values
    count = len(table.rows)
    try:
        first = int(request.query_params.get("from", ""))
    except ValueError:
        first = table.shown // SHOWN_AT_ONCE * SHOWN_AT_ONCE
    first = max(0, min(first, max(count - 1, 0)) // SHOWN_AT_ONCE * SHOWN_AT_ONCE)
    kept = {picture_key(one.name): one.id for one in whole.pictures}
    known = kept.keys()
    rows = [
        (k, [(cell, fits(cell, column, known)) for cell, column in zip(table.rows[k], table.columns, strict=True)])
        for k in range(first, min(first + SHOWN_AT_ONCE, count))
    ]
    odd = [sum(not fits(row[k], one, known) for row in table.rows[:2000]) for k, one in enumerate(table.columns)]
    return values | {
        "rows": rows,
        "first": first,
        "count": count,
        "at_once": SHOWN_AT_ONCE,
        "odd": odd,
        "followers": _followers(whole, table),
        "kept": kept,
        "key": picture_key,
    }


@router.get("/scenes/{scene}/tables")
def tables(project: str, scene: str, request: Request) -> HTMLResponse:
    """The page."""
    return page("tables.html", **_asked(project, scene, request))


@router.get("/scenes/{scene}/tables/sheet")
def sheet(project: str, scene: str, request: Request) -> HTMLResponse:
    """All of the page below its head."""
    return page("tables_sheet.html", **_asked(project, scene, request))


@router.get("/scenes/{scene}/tables/offered")
def offered(project: str, scene: str, request: Request) -> HTMLResponse:
    """What may follow a column, to choose from."""
    whole = site_of(request).store.state(project).project
    here = scene_in(whole, scene)
    return page(
        "sheets/follow_column.html", scene=here, offered=_offered(here, request.query_params.get("kind", "text"))
    )


class _Choice(NamedTuple):
    """A column that a value may follow: how, in words, and why not."""

    column: Column
    takes: str
    words: str
    why: str


@router.get("/scenes/{scene}/sheets/column-of")
def column_of(project: str, scene: str, parameter: str, request: Request) -> HTMLResponse:
    """The columns that a value may follow: each copy its row where it stands in an array, or the row that is shown."""
    whole = site_of(request).store.state(project).project
    here = scene_in(whole, scene)
    node = place_of(here, parameter)
    found = [(table, list(_choices(here, node, table))) for table in whole.tables]
    tables = [(table, choices) for table, choices in found if choices]
    return page("sheets/column_of.html", project=whole, scene=here, node=node, tables=tables, some=bool(whole.tables))


def _choices(scene: Scene, node: ParameterNode, table: Table) -> Iterator[_Choice]:
    for column in table.columns:
        kind = column.kind
        if _each_its_row(scene, node, kind):
            yield _Choice(column, "column", f"{kind} · each copy its row", "")
        if node.reads is None and not node.spec.passage and _fitting(node.spec, kind):
            why = "It has keys. A table sets what rests: remove the keys first." if node.parameter.keys else ""
            yield _Choice(column, "cell", "has keys" if why else f"{kind} · the row that is shown", why)


@router.get("/scenes/{scene}/tables/{table}/rows/{row}.png")
async def picture(project: str, scene: str, table: str, row: int, request: Request) -> Response:
    """A frame with what follows the table set to a row, small. Raises Refused for a row that cannot be taken on."""
    site = site_of(request)
    state = await asyncio.to_thread(site.store.state, project)
    here = scene_in(state.project, scene)
    found = table_in(Source(state.project, here), table)
    if not 0 <= row < len(found.rows):
        raise NotThere("This row has been deleted.")
    try:
        frame = min(max(int(request.query_params.get("frame", "0")), 0), here.length - 1)
        wide = min(max(int(request.query_params.get("wide", "240")), 40), 640)
    except ValueError:
        raise Refused("Frames and widths are whole numbers.", "frame") from None
    place = str(site.store.path), project, state.revision
    asked = scene, table, row, frame, wide
    content = await site.drawn.picture(f"{place} {asked}", "row", place, *asked)
    return Response(content, media_type="image/png", headers={"cache-control": "private, max-age=3600"})


@router.get("/scenes/{scene}/contact")
def contact(project: str, scene: str, request: Request) -> HTMLResponse:
    """A contact sheet: a small picture of every file that a batch would make, with its name. Raises Refused."""
    state = site_of(request).store.state(project)
    here = scene_in(state.project, scene)
    given = request.query_params
    if not given.get("each"):
        return HTMLResponse("")
    found = table_in(Source(state.project, here), given["each"])
    rows = rows_in(given.get("rows", ""), len(found.rows))
    try:
        first = min(max(int(given.get("first", "0")), 0), max(len(rows) - 1, 0))
        frame = min(max(int(given.get("at", str(here.length // 2))), 0), here.length - 1)
    except ValueError:
        first, frame = 0, 0
    told = names(given.get("naming", "{row:03}"), found, rows[first : first + MOST_ON_SHEET])
    return page(
        "contact_sheet.html",
        project=state.project,
        scene=here,
        table=found,
        revision=state.revision,
        frame=frame,
        entries=list(zip(rows[first : first + MOST_ON_SHEET], told, strict=True)),
        count=len(rows),
        first=first,
        at_once=MOST_ON_SHEET,
    )
