"""Tables for programs: brought in from files, and taken out as CSV."""

from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from starlette.responses import Response

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.edits import Edit
from jaunty_lever.core.edits.tables import AddTable, ReplaceTable
from jaunty_lever.formats import table_file
from jaunty_lever.importers.drawings import stem
from jaunty_lever.storage.store import NotThere

from ..site import site_of
from .files import attachment

router = APIRouter(prefix="/api/projects/{project}")


@router.post("/tables")
def bring_in(
    project: str, request: Request, file: Annotated[UploadFile, File()], table: Annotated[str, Form()] = "",
    by: Annotated[str, Form()] = "",
) -> dict[str, Any]:  # fmt: skip
    """A table from a CSV or JSON file; `table`: one whose rows it replaces. Raises BadFile, Refused."""
    site = site_of(request)
    read = table_file.read(file.file.read(table_file.MOST_BYTES + 1))
    told = list(read.remarks)
    step: Edit
    if table:
        old = site.store.state(project).project.table(table)
        if old is None:
            raise NotThere("This table has been deleted.")
        told = table_file.replaced(old, read) + told
        step = ReplaceTable(table=table, columns=read.columns, data=read.data)
    else:
        name = stem(file.filename or "Table")[:120] or "Table"
        step = AddTable(id=new_id("table"), name=name, columns=read.columns, data=read.data)
    state, label = site.store.edit(project, step)
    site.announce(project, state, label, by)
    made = table or getattr(step, "id", "")
    return {"table": made, "label": label, "rows": len(read.rows), "remarks": told, "revision": state.revision}


@router.get("/tables/{table}/file")
def file_of(project: str, table: str, request: Request) -> Response:
    """A table as CSV."""
    found = site_of(request).store.state(project).project.table(table)
    if found is None:
        raise NotThere("This table has been deleted.")
    return Response(table_file.write_csv(found), media_type="text/csv", headers=attachment(f"{found.name}.csv"))
