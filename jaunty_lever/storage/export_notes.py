"""What is noted of exports, so that they outlive the program."""

from dataclasses import dataclass
from datetime import datetime
from typing import Any, Literal

import orjson
from sqlalchemy import delete, select

from .store import Store
from .tables import ExportRow, now

State = Literal["begun", "done", "failed"]


@dataclass(frozen=True)
class ExportNote:
    """An export as it is noted."""

    id: str
    project: str
    scene: str
    scene_name: str
    format: str
    name: str
    options: dict[str, Any]
    total: int
    state: State
    problem: str
    report: dict[str, Any]
    body: bytes | None
    made: datetime


class ExportNotes:
    """The exports of a store, the oldest first."""

    def __init__(self, store: Store) -> None:
        self._store = store

    def all(self) -> list[ExportNote]:
        """Every export that is noted. What cannot be read any more is left out."""
        with self._store.reading() as session:
            rows = session.scalars(select(ExportRow).order_by(ExportRow.made, ExportRow.id)).all()
            found = []
            for row in rows:
                try:
                    options, report = orjson.loads(row.options), orjson.loads(row.report)
                except ValueError:
                    continue
                if not (isinstance(options, dict) and isinstance(report, dict)):
                    continue
                state: State = "done" if row.state == "done" else "begun" if row.state == "begun" else "failed"
                found.append(
                    ExportNote(
                        *(row.id, row.project, row.scene, row.scene_name, row.format, row.name, options, row.total),
                        *(state, row.problem, report, row.body, row.made),
                    )
                )
            return found

    def begin(self, note: ExportNote) -> None:
        """Note an export that begins. Raises NotKept."""
        options, report = orjson.dumps(note.options).decode(), orjson.dumps(note.report).decode()
        with self._store.writing() as session:
            session.add(
                ExportRow(
                    id=note.id,
                    project=note.project,
                    scene=note.scene,
                    scene_name=note.scene_name,
                    format=note.format,
                    name=note.name,
                    options=options,
                    total=note.total,
                    state=note.state,
                    problem=note.problem,
                    report=report,
                    body=note.body,
                    made=note.made,
                )
            )

    def note(self, export: str, report: dict[str, Any]) -> None:
        """Note something of an export that is not done. Raises NotKept."""
        with self._store.writing() as session:
            row = session.get(ExportRow, export)
            if row is not None and row.state == "begun":
                row.report = orjson.dumps(report).decode()

    def end(self, export: str, state: State, problem: str, report: dict[str, Any]) -> None:
        """Note what came of an export; what it was made from goes. Raises NotKept."""
        with self._store.writing() as session:
            row = session.get(ExportRow, export)
            if row is not None:
                row.state, row.problem, row.body = state, problem[:2000], None
                row.report = orjson.dumps(report).decode()

    def forget(self, exports: list[str]) -> None:
        """Let go of some. Raises NotKept."""
        with self._store.writing() as session:
            session.execute(delete(ExportRow).where(ExportRow.id.in_(exports)))


__all__ = ["ExportNote", "ExportNotes", "State", "now"]
