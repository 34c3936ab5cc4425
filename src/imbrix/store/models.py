"""The tables. Big arrays stand in one of their own and are loaded only when asked for."""

from datetime import UTC, datetime
from typing import Any

from sqlalchemy import JSON, ForeignKey, LargeBinary
from sqlalchemy.orm import DeclarativeBase, Mapped, mapped_column


def now() -> datetime:
    return datetime.now(UTC).replace(tzinfo=None)


class Base(DeclarativeBase):
    type_annotation_map = {dict[str, Any]: JSON, list[str]: JSON, list[float]: JSON}  # noqa: RUF012


class ProjectRow(Base):
    __tablename__ = "project"

    id: Mapped[int] = mapped_column(primary_key=True)
    slug: Mapped[str] = mapped_column(unique=True)
    name: Mapped[str]
    layout: Mapped[dict[str, Any]]
    head_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id", use_alter=True, name="fk_head"))
    created: Mapped[datetime] = mapped_column(default=now)


class RevisionRow(Base):
    """One state of the tune. `parent_id` is what undo goes to, `next_id` what redo goes to."""

    __tablename__ = "revision"

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id"), index=True)
    number: Mapped[int]
    parent_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id"))
    next_id: Mapped[int | None] = mapped_column(ForeignKey("revision.id"))
    summary: Mapped[str]
    name: Mapped[str | None]
    tune: Mapped[dict[str, Any]]
    created: Mapped[datetime] = mapped_column(default=now)


class TakeRow(Base):
    """One measurement: of which channels, by which method, through which revision and settings."""

    __tablename__ = "take"

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id"), index=True)
    revision_id: Mapped[int] = mapped_column(ForeignKey("revision.id"))
    channels: Mapped[list[str]]
    purpose: Mapped[str]
    method: Mapped[str]
    rate: Mapped[int]
    timed: Mapped[bool]
    level_db: Mapped[float]
    through: Mapped[dict[str, Any]]
    details: Mapped[dict[str, Any]] = mapped_column(default=dict, server_default="{}")
    note: Mapped[str] = mapped_column(default="")
    discarded: Mapped[bool] = mapped_column(default=False)
    created: Mapped[datetime] = mapped_column(default=now)


class ArrayRow(Base):
    """A float32 array of a take, compressed: its recording, reference, impulse or curve."""

    __tablename__ = "array"

    id: Mapped[int] = mapped_column(primary_key=True)
    take_id: Mapped[int] = mapped_column(ForeignKey("take.id"), index=True)
    role: Mapped[str]
    data: Mapped[bytes] = mapped_column(LargeBinary)


class TargetRow(Base):
    """A target curve of the user's own."""

    __tablename__ = "target"

    id: Mapped[int] = mapped_column(primary_key=True)
    project_id: Mapped[int] = mapped_column(ForeignKey("project.id"), index=True)
    name: Mapped[str]
    frequencies: Mapped[list[float]]
    levels: Mapped[list[float]]


class CorrectionRow(Base):
    """What a microphone adds, pointing at the source or at the ceiling."""

    __tablename__ = "correction"

    id: Mapped[int] = mapped_column(primary_key=True)
    name: Mapped[str]
    pointing: Mapped[str]
    origin: Mapped[str]
    frequencies: Mapped[list[float]]
    levels: Mapped[list[float]]
    degrees: Mapped[list[float] | None]
    sensitivity: Mapped[str] = mapped_column(default="")
    created: Mapped[datetime] = mapped_column(default=now)


class DocumentRow(Base):
    """A small document by its key: the rig, a round, what a processor held before a take."""

    __tablename__ = "document"

    key: Mapped[str] = mapped_column(primary_key=True)
    value: Mapped[dict[str, Any]]
