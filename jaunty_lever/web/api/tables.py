"""Tables for programs: brought in from files, and taken out as CSV."""

from typing import Annotated, Any

from fastapi import APIRouter, File, Form, Request, UploadFile
from starlette.responses import Response

from jaunty_lever.core.document.ids import new_id
from jaunty_lever.core.document.limits import MOST_PICTURES
from jaunty_lever.core.document.pictures import Picture
from jaunty_lever.core.edits import Edit, Refused
from jaunty_lever.core.edits.tables import AddTable, FillPictures, ReplaceTable
from jaunty_lever.formats import table_file
from jaunty_lever.formats.pictures import MOST_BYTES, BadPicture, take_in
from jaunty_lever.importers.drawings import stem
from jaunty_lever.storage.store import NotThere

from ..lasting import told
from ..site import site_of
from .files import attachment

router = APIRouter(prefix="/api/projects/{project}")


@router.post("/tables")
def bring_in(
    project: str,
    request: Request,
    file: Annotated[UploadFile, File()],
    table: Annotated[str, Form()] = "",
    by: Annotated[str, Form()] = "",
) -> dict[str, Any]:
    """A table from a CSV or JSON file; `table`: one whose rows it replaces. Raises BadFile, Refused."""
    site = site_of(request)
    read = table_file.read(file.file.read(table_file.MOST_BYTES + 1))
    said = list(read.remarks)
    step: Edit
    if table:
        old = site.store.state(project).project.table(table)
        if old is None:
            raise NotThere("This table has been deleted.")
        said = table_file.replaced(old, read) + said
        step = ReplaceTable(table=table, columns=read.columns, data=read.data)
    else:
        name = stem(file.filename or "Table")[:120] or "Table"
        step = AddTable(id=new_id("table"), name=name, columns=read.columns, data=read.data)
    state, label = site.store.edit(project, step)
    site.announce(project, state, label, by)
    made = table or getattr(step, "id", "")
    return {"table": made, "label": label, "rows": len(read.rows), "remarks": said, "revision": state.revision}


@router.post("/tables/{table}/columns/{column}/pictures")
def bring_in_pictures(
    project: str,
    table: str,
    column: str,
    request: Request,
    files: Annotated[list[UploadFile], File()],
    by: Annotated[str, Form()] = "",
) -> dict[str, Any]:
    """Pictures for a column: those that its cells name, and others for cells that are empty. Raises Refused.

    A file that cannot be taken in is told by name and stops none of the others.
    """
    site = site_of(request)
    found: list[Picture] = []
    problems: list[str] = []
    for file in files[:MOST_PICTURES]:
        try:
            found.append(take_in(file.file.read(MOST_BYTES + 1), file.filename or "Picture"))
        except BadPicture as error:
            problems.append(f"{file.filename or 'Picture'}: {error}")
    if not found:
        raise Refused(" ".join(problems) or "No file was given.", table)
    state, label = site.store.edit(project, FillPictures(table=table, column=column, pictures=tuple(found)))
    site.announce(project, state, label, by)
    return told(state, label) | {"problems": problems}


@router.get("/tables/{table}/file")
def file_of(project: str, table: str, request: Request) -> Response:
    """A table as CSV."""
    found = site_of(request).store.state(project).project.table(table)
    if found is None:
        raise NotThere("This table has been deleted.")
    return Response(table_file.write_csv(found), media_type="text/csv", headers=attachment(f"{found.name}.csv"))
