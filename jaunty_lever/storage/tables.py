"""The database's tables."""

from collections.abc import Callable
from datetime import datetime
from typing import Any, ClassVar

from sqlalchemy import ForeignKey, ForeignKeyConstraint, Index, LargeBinary, String, TypeDecorator
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column

from .times import now as now
from .times import when


class When(TypeDecorator[datetime]):
    """A time in UTC, kept as text."""

    impl = String
    cache_ok = True

    def process_bind_param(self, value: datetime | None, dialect: Any) -> str | None:
        return None if value is None else value.strftime("%Y-%m-%d %H:%M:%S.%f")

    def process_result_value(self, value: Any, dialect: Any) -> datetime | None:
        return None if value is None else when(value)


class Body(TypeDecorator[bytes]):
    """Bytes. What is none is nothing, which those who read it then find damaged."""

    impl = LargeBinary
    cache_ok = True

    def result_processor(self, dialect: Any, coltype: object) -> Callable[[Any], bytes | None]:
        return lambda value: None if value is None else value if isinstance(value, bytes) else b""


class Base(DeclarativeBase):
    """The base of all tables."""

    type_annotation_map: ClassVar[dict[Any, Any]] = {datetime: When, bytes: Body}


class ProjectRow(Base):
    """A project: its name for the Shelf, and which revision it stands at."""

    __tablename__ = "projects"

    id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    head: Mapped[int]
    last: Mapped[int]
    """The highest revision number given so far."""
    created: Mapped[datetime] = mapped_column(default=now)
    changed: Mapped[datetime] = mapped_column(default=now)
    deleted: Mapped[datetime | None]


class PictureRow(Base):
    """The bytes of a picture, or the cells of a table, once for all revisions and projects that have it."""

    __tablename__ = "pictures"

    id: Mapped[str] = mapped_column(primary_key=True)
    body: Mapped[bytes]


class RecipeRow(Base):
    """A recipe that somebody saved or brought in."""

    __tablename__ = "recipes"

    id: Mapped[str] = mapped_column(primary_key=True)
    name: Mapped[str]
    body: Mapped[bytes]
    made: Mapped[datetime] = mapped_column(default=now)


class ExportRow(Base):
    """An export that takes a while: what it is made from until it is done, and what came of it."""

    __tablename__ = "exports"

    id: Mapped[str] = mapped_column(primary_key=True)
    project: Mapped[str]
    scene: Mapped[str]
    scene_name: Mapped[str]
    format: Mapped[str]
    name: Mapped[str]
    options: Mapped[str]
    """JSON."""
    total: Mapped[int]
    state: Mapped[str]
    """begun, done, or failed."""
    problem: Mapped[str] = mapped_column(default="")
    report: Mapped[str] = mapped_column(default="{}")
    """JSON."""
    body: Mapped[bytes | None]
    """The project with the scene alone, compressed JSON; only as long as it is needed."""
    made: Mapped[datetime] = mapped_column(default=now)


class RevisionRow(Base):
    """One state of a project, compressed, and what led to it."""

    __tablename__ = "revisions"

    project: Mapped[str] = mapped_column(ForeignKey("projects.id", ondelete="CASCADE"), primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    parent: Mapped[int | None]
    label: Mapped[str]
    made: Mapped[datetime] = mapped_column(default=now)
    body: Mapped[bytes]
    scene: Mapped[str | None] = mapped_column(default=None)
    """The one scene that is another than before, by id; None for several, none, and what was kept before this was
    told."""

    __table_args__ = (Index("revisions_by_parent", "project", "parent"),)


class ShownRow(Base):
    """That a revision has a picture, or the cells of a table."""

    __tablename__ = "shown"

    project: Mapped[str] = mapped_column(primary_key=True)
    number: Mapped[int] = mapped_column(primary_key=True)
    picture: Mapped[str] = mapped_column(primary_key=True)

    __table_args__ = (
        ForeignKeyConstraint(["project", "number"], ["revisions.project", "revisions.number"], ondelete="CASCADE"),
        Index("shown_by_picture", "picture"),
    )
