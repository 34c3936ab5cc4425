"""Changing the tune: commit, undo, redo, revisions."""

from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from imbrix.core.changes import changes
from imbrix.core.edits import Edit, Replace, apply
from imbrix.core.layout import Layout
from imbrix.core.tune import Tune, neutral
from imbrix.store.models import ProjectRow, RevisionRow
from imbrix.work.desk import ConflictError, Desk, NotHereError, project_row


@dataclass(frozen=True)
class Head:
    """The present revision and its tune."""

    id: int
    number: int
    tune: Tune
    summary: str
    name: str | None
    created: datetime
    can_undo: bool
    can_redo: bool


def _head_row(session: Session, project: ProjectRow) -> RevisionRow:
    row = session.get(RevisionRow, project.head_id)
    assert row is not None, "a project always has a revision"
    return row


def head(desk: Desk, slug: str) -> Head:
    """The present revision of a project."""
    with desk.session() as session:
        project = project_row(session, slug)
        return _as_head(_head_row(session, project), desk.layout(slug))


def fitted(tune: Tune, layout: Layout) -> Tune:
    """The tune with a channel for every driver of the layout: what is missing is neutral, what is too much goes."""
    ids = [driver.id for driver in layout.drivers]
    if list(tune.channels) == ids:
        return tune
    fresh = neutral(layout).channels
    values: dict[str, object] = {"channels": {name: tune.channels.get(name, fresh[name]) for name in ids}}
    if tune.solo not in ids:
        values["solo"] = None
    return tune.model_copy(update=values)


def _as_head(row: RevisionRow, layout: Layout) -> Head:
    return Head(
        id=row.id,
        number=row.number,
        tune=fitted(Tune.model_validate(row.tune), layout),
        summary=row.summary,
        name=row.name,
        created=row.created,
        can_undo=row.parent_id is not None,
        can_redo=row.next_id is not None,
    )


def create_project(desk: Desk, slug: str, name: str, layout: Layout, tune: Tune | None = None) -> None:
    """A new project with its first revision: a neutral tune where no other is given."""
    with desk.lock, desk.session() as session:
        project = ProjectRow(slug=slug, name=name, layout=layout.model_dump(mode="json"))
        session.add(project)
        session.flush()
        first = RevisionRow(
            project_id=project.id,
            number=1,
            summary="New project",
            tune=(tune or neutral(layout)).model_dump(mode="json"),
        )
        session.add(first)
        session.flush()
        project.head_id = first.id


def draft(desk: Desk, slug: str, tune: Tune, edits: list[Edit]) -> Tune:
    """The tune after edits, settled to what the processor keeps. Nothing is stored."""
    return apply(tune, edits, desk.layout(slug), desk.processor.limits)


def commit(desk: Desk, slug: str, edits: list[Edit], summary: str | None = None) -> Head:
    """Make a new revision of the edits; on disk when this returns. No change makes no revision.

    Raises KeyError or ValueError where an edit cannot be applied or the processor cannot do the result.
    """
    layout = desk.layout(slug)
    with desk.lock, desk.session() as session:
        project = project_row(session, slug)
        now = _head_row(session, project)
        before = fitted(Tune.model_validate(now.tune), layout)
        after = draft(desk, slug, before, edits)
        if after == before:
            return _as_head(now, layout)
        refused = desk.processor.limits.refusals(after, layout)
        if refused:
            raise ValueError("; ".join(refused))
        row = _append(session, project, now, after, summary or describe(before, after, layout))
        return _as_head(row, layout)


def _append(session: Session, project: ProjectRow, now: RevisionRow, tune: Tune, summary: str) -> RevisionRow:
    last = session.scalar(select(func.max(RevisionRow.number)).where(RevisionRow.project_id == project.id)) or 0
    row = RevisionRow(
        project_id=project.id,
        number=last + 1,
        parent_id=now.id,
        summary=summary,
        tune=tune.model_dump(mode="json"),
    )
    session.add(row)
    session.flush()
    project.head_id = row.id
    return row


def describe(before: Tune, after: Tune, layout: Layout) -> str:
    """What a revision did, in a line."""
    rows = changes(before, after, layout)
    if not rows:
        if before.target != after.target:
            return f"Target at {after.target.level_db:.1f} dB"
        return "Ties changed"
    first = f"{rows[0].channel}: {rows[0].what} {rows[0].after}"
    return first if len(rows) == 1 else f"{first} and {len(rows) - 1} more"


def undo(desk: Desk, slug: str) -> Head:
    """Go to the revision before. Raises ConflictError where there is none."""
    return _move(desk, slug, "parent_id", "there is nothing to undo: this is the first revision")


def redo(desk: Desk, slug: str) -> Head:
    """Go to the revision that was last undone. Raises ConflictError where there is none."""
    return _move(desk, slug, "next_id", "there is nothing to redo")


def _move(desk: Desk, slug: str, field: str, nothing: str) -> Head:
    with desk.lock, desk.session() as session:
        project = project_row(session, slug)
        now = _head_row(session, project)
        other = session.get(RevisionRow, getattr(now, field)) if getattr(now, field) else None
        if other is None:
            raise ConflictError(nothing)
        if field == "parent_id":
            other.next_id = now.id
        project.head_id = other.id
        return _as_head(other, desk.layout(slug))


def revisions(desk: Desk, slug: str) -> list[Head]:
    """All revisions, newest first, those of undone branches included."""
    with desk.session() as session:
        project = project_row(session, slug)
        rows = session.scalars(
            select(RevisionRow).where(RevisionRow.project_id == project.id).order_by(RevisionRow.number.desc())
        )
        return [_as_head(row, desk.layout(slug)) for row in rows]


def revision(desk: Desk, slug: str, revision_id: int) -> Head:
    """One revision. Raises NotHereError."""
    with desk.session() as session:
        return _as_head(_revision_row(session, project_row(session, slug), revision_id), desk.layout(slug))


def _revision_row(session: Session, project: ProjectRow, revision_id: int) -> RevisionRow:
    row = session.get(RevisionRow, revision_id)
    if row is None or row.project_id != project.id:
        raise NotHereError(f"there is no revision {revision_id} in this project")
    return row


def name_revision(desk: Desk, slug: str, revision_id: int, name: str) -> None:
    """Give a revision a name, or take it away with an empty one."""
    with desk.lock, desk.session() as session:
        _revision_row(session, project_row(session, slug), revision_id).name = name.strip() or None


def restore(desk: Desk, slug: str, revision_id: int) -> Head:
    """Go back to a revision: its tune becomes a new revision, so that going back can be undone."""
    old = revision(desk, slug, revision_id)
    return commit(desk, slug, [Replace(tune=old.tune)], f"Back to revision {old.number}")
