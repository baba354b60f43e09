"""A batch: one file for each row of a table, what follows the table set to it, all of them in one zip."""

import re
import shutil
import zipfile
from collections.abc import Callable
from pathlib import Path
from tempfile import TemporaryDirectory
from typing import IO, Any, ClassVar, Literal

from pydantic import Field

from jaunty_lever.core.document.progress import Stopped
from jaunty_lever.core.document.scene import Project
from jaunty_lever.core.document.tables import Table
from jaunty_lever.core.edits import Refused
from jaunty_lever.core.edits.base import free_name
from jaunty_lever.core.edits.tables import taken_on, with_table
from jaunty_lever.exporters import EXPORTERS, Drawn, Exporter, Options, Plan, Source, read_options
from jaunty_lever.exporters.drawn import scene_of

from .render import render
from .runners import Asked, Here, Runner, TooOften

MOST_ROWS = 2_000
"""In one batch."""
_FIELD = re.compile(r"\{([^{}:]+)(?::0?(\d{1,2}))?\}")
_NO_NAME = re.compile(r'[\x00-\x1f\x7f/\\:*?"<>|]+')
_REPORT = "what is missing.txt"


class BatchOptions(Options):
    """What a batch is told: which table and rows, how files are called, and what each of them is."""

    table: str
    rows: str = Field("", title="Rows", description="Such as 1-12, 15; all of them if nothing is told.")
    naming: str = Field(
        "{row:03}",
        title="File names",
        description="{row:03} is the row's number, {Name} what stands in the column Name.",
    )
    format: str
    given: dict[str, Any] = Field(default_factory=dict)


def rows_in(text: str, count: int) -> list[int]:
    """Rows, from 0, of words such as “1-3, 7”; all for none. Raises Refused."""
    if not text.strip():
        return list(range(count))
    found: dict[int, None] = {}
    for part in text.replace("–", "-").split(","):
        match = re.fullmatch(r"\s*(\d{1,7})\s*(?:-\s*(\d{1,7})\s*)?", part)
        if not match:
            raise Refused(f"“{part.strip()[:20]}” are no rows. Write them like 1-12, 15.", "rows")
        first, last = int(match[1]), int(match[2] or match[1])
        if not 1 <= first <= last <= count:
            raise Refused(f"Rows {part.strip()} are not there: the table has rows 1 to {count}.", "rows")
        found |= dict.fromkeys(range(first - 1, last))
    return list(found)


def table_in(source: Source, table: str) -> Table:
    """The table of a batch. Raises Refused."""
    found = source.project.table(table) if source.project else None
    if found is None:
        raise Refused("Choose a table. This one has been deleted.", "table")
    if not found.rows:
        raise Refused(f"{found.name} has no rows yet.", "table")
    return found


def stem(naming: str, table: Table, row: int) -> str:
    """What the file of a row is called, without its ending. Raises Refused for a column that is not there."""
    columns = {one.name.casefold(): k for k, one in enumerate(table.columns)}

    def said(match: re.Match[str]) -> str:
        name, wide = match[1].strip(), int(match[2] or 0)
        if name.casefold() in columns:
            return table.rows[row][columns[name.casefold()]].strip()[:80].zfill(wide)
        if name.casefold() == "row":
            return str(row + 1).zfill(wide)
        known = ", ".join(f"{{{one.name}}}" for one in table.columns[:8])
        raise Refused(
            f"The names of files tell {{{name}}}, and there is no such column. There are {{row}}, {known}.", "naming"
        )

    told = _NO_NAME.sub("_", _FIELD.sub(said, naming[:300])).strip(" .")[:120]
    return told or f"{row + 1:03}"


def names(naming: str, table: Table, rows: list[int]) -> list[str]:
    """The same for many rows, no two of them the same."""
    found: list[str] = []
    taken: set[str] = set()
    for row in rows:
        name = stem(naming, table, row)
        if name.casefold() in taken:
            name = free_name(f"{name} {row + 1}", taken)
        taken.add(name.casefold())
        found.append(name)
    return found


def at_row(source: Source, table: Table, row: int) -> Source:
    """A source with everything that follows the table set to a row. Raises Refused, naming the cell."""
    assert source.project is not None
    shown = table.changed(shown=row)
    project = taken_on(with_table(source.project, shown), shown)
    return Source(project, project.scene(scene_of(source).id))


class Batch(Exporter):
    """One file for each row of a table."""

    name: ClassVar[str] = "batch"
    title: ClassVar[str] = "Batch"
    does: ClassVar[str] = "One file for each row of a table, all of them in a zip."
    verb: ClassVar[str] = "Draw them all"
    takes: ClassVar[Literal["scene", "project", "recipe"]] = "scene"
    media_type: ClassVar[str] = "application/zip"
    ending: ClassVar[str] = ".zip"
    draws: ClassVar[bool] = True
    options: ClassVar[type[Options]] = BatchOptions

    def inner(self, options: BatchOptions) -> tuple[Exporter, Options]:
        """What each file is. Raises Refused."""
        exporter = EXPORTERS.get(options.format)
        if exporter is None or exporter.takes != "scene":
            raise Refused(f"A batch cannot be made of “{options.format[:40]}”.", "format")
        return exporter, read_options(exporter, options.given)

    def plan(self, source: Source, options: Any) -> Plan:
        table = table_in(source, options.table)
        rows = rows_in(options.rows, len(table.rows))
        if len(rows) > MOST_ROWS:
            raise Refused(
                f"A batch has at most {MOST_ROWS:,} rows; these are {len(rows):,}. Tell which, such as 1-500.", "rows"
            )
        if not any(one.scene == scene_of(source).id and one.takes == "cell" for one in table.followers):
            raise Refused(
                f"Nothing in {source.name} follows {table.name} yet: every file would be the same. Let a text, "
                "a lever or another value follow one of its columns, on the page Tables.",
                "table",
            )
        names(options.naming, table, rows)
        exporter, given = self.inner(options)
        one = exporter.plan(source, given)
        return Plan(f"{source.name} × {len(rows)}{self.ending}", one.steps * len(rows), tuple(one.left_out))

    def write(self, source: Source, options: Any, target: IO[bytes], done: Callable[[int], None]) -> None:
        with TemporaryDirectory() as folder:
            make(self, source, options, target, Path(folder), Here(), lambda count, sight: done(count))


BATCH = Batch()


def asked(project: Project, table: str, rows: str, naming: str, format: str, given: dict[str, Any]) -> dict[str, Any]:
    """What a batch is told, the table by its name. Raises Refused."""
    known = {one.name: one.id for one in project.tables}
    if table not in known:
        raise Refused(f"There is no table “{table}”. There are: {', '.join(known) or 'none'}.", "table")
    return {"table": known[table], "rows": rows, "naming": naming, "format": format, "given": given}


def make(
    exporter: Exporter,
    source: Source,
    options: Options,
    target: IO[bytes],
    folder: Path,
    runner: Runner,
    done: Callable[[int, bytes], None] = lambda count, sight: None,
    stop: Asked = lambda: False,
) -> dict[str, Any]:
    """Make a file of any format into `target`; what came of it that is worth telling, by name.

    What takes long keeps what is finished in `folder`, and takes it up from there. `done` is told how many steps are
    behind it, first of all how many were when it began, and how the last of them look. Raises Stopped, TooOften,
    NoCluster, OSError, Refused, or what the format raises.
    """
    if isinstance(exporter, Batch):
        assert isinstance(options, BatchOptions)
        return _make_batch(exporter, source, options, target, folder, runner, done, stop)
    if isinstance(exporter, Drawn):
        return render(exporter, source, options, target, folder, runner, done, stop).plain()

    def counted(count: int) -> None:
        done(count, b"")
        if stop():
            raise Stopped

    done(0, b"")
    exporter.write(source, options, target, counted)
    return {}


def _make_batch(
    batch: Batch,
    source: Source,
    options: BatchOptions,
    target: IO[bytes],
    folder: Path,
    runner: Runner,
    done: Callable[[int, bytes], None],
    stop: Asked,
) -> dict[str, Any]:
    """All files of a batch in a zip. Files are kept in `folder` until all are there: those that are there already are
    not made again. A row that fails is told in the report and stops none of the others, unless all of them do."""
    table = table_in(source, options.table)
    rows = rows_in(options.rows, len(table.rows))
    exporter, given = batch.inner(options)
    each = exporter.plan(source, given).steps
    folder.mkdir(parents=True, exist_ok=True)
    failed: list[str] = []
    there: list[tuple[str, Path]] = []
    for k, (row, name) in enumerate(zip(rows, names(options.naming, table, rows), strict=True)):
        if stop():
            raise Stopped
        whole = folder / f"row-{row:06d}.file"
        if not whole.exists():
            try:
                _one(exporter, at_row(source, table, row), given, whole, runner, _further(done, k * each), stop)
            except (Refused, TooOften) as error:
                failed.append(f"Row {row + 1} ({name}): {error}")
        if whole.exists():
            there.append((f"{name}{exporter.ending}", whole))
        done((k + 1) * each, b"")
    if not there:
        raise Refused(failed[0] if failed else "There was no row.")
    with zipfile.ZipFile(target, "w", zipfile.ZIP_STORED) as archive:
        for name, path in there:
            archive.write(path, name)
        if failed:
            archive.writestr(_REPORT, "\n".join(failed) + "\n")
    return {"files": len(there), "failed": failed}


def _further(done: Callable[[int, bytes], None], before: int) -> Callable[[int, bytes], None]:
    return lambda count, sight: done(before + count, sight)


def _one(
    exporter: Exporter,
    source: Source,
    given: Options,
    whole: Path,
    runner: Runner,
    done: Callable[[int, bytes], None],
    stop: Asked,
) -> None:
    """One file; only a whole one gets its name."""
    part, pieces = whole.with_suffix(".part"), whole.with_suffix(".pieces")
    with part.open("wb") as target:
        make(exporter, source, given, target, pieces, runner, done, stop)
    part.replace(whole)
    shutil.rmtree(pieces, ignore_errors=True)


__all__ = ["BATCH", "Batch", "BatchOptions", "asked", "at_row", "make", "names", "rows_in", "table_in"]
