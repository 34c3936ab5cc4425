"""Changing the tune: commit, undo, redo, revisions."""

import logging
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import func, select
from sqlalchemy.orm import Session

from imbrix.core.errors import ConflictError, InvalidError, NotHereError, StaleError
from imbrix.core.system.layout import Layout
from imbrix.core.tune.apply import apply
from imbrix.core.tune.changes import changes
from imbrix.core.tune.clash import clash
from imbrix.core.tune.edits import Edit, Replace
from imbrix.core.tune.routing import routed
from imbrix.core.tune.tune import Placement, Tune, neutral
from imbrix.store.models import ProjectRow, RevisionRow
from imbrix.work.ground import processors
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace, project_row

LOG = logging.getLogger("imbrix.tune")
HEADS: "Drawer[str, Head]" = Drawer("heads", 64)


@dataclass(frozen=True)
class Head:
    """A revision and its tune; `parent_id` is what undo goes to."""

    id: int
    number: int
    tune: Tune
    summary: str
    name: str | None
    created: datetime
    parent_id: int | None
    can_redo: bool

    @property
    def can_undo(self) -> bool:
        """Whether there is one before it."""
        return self.parent_id is not None


def _head_row(session: Session, project: ProjectRow) -> RevisionRow:
    row = session.get(RevisionRow, project.head_id)
    assert row is not None, "a project always has a revision"
    return row


def head(space: Workspace, slug: str) -> Head:
    """The present revision of a project."""

    def read() -> Head:
        with space.session() as session:
            project = project_row(session, slug)
            return _as_head(_head_row(session, project), stored(Layout, project.layout, "the system of the project"))

    return space.recall(HEADS, slug, (ProjectRow, RevisionRow), read)


def fitted(tune: Tune, layout: Layout) -> Tune:
    """The tune with a channel for every driver of the layout: what is missing is neutral, what is too much goes."""
    ids = [driver.id for driver in layout.drivers]
    if list(tune.channels) == ids:
        return tune
    fresh = neutral(layout).channels
    values: dict[str, object] = {"channels": {name: tune.channels.get(name, fresh[name]) for name in ids}}
    if tune.solo not in ids:
        values["solo"] = None
    if tune.routing:
        kept = {name: factors for name, factors in tune.routing.items() if name in ids}
        # Inputs that are set are told apart: who comes new hears the side that it stands on.
        values["routing"] = routed(tune, layout, 2).routing if tune.inputs else kept
    return tune.model_copy(update=values)


def _as_head(row: RevisionRow, layout: Layout) -> Head:
    return Head(
        id=row.id,
        number=row.number,
        tune=fitted(stored(Tune, row.tune, "a revision of the tune"), layout),
        summary=row.summary,
        name=row.name,
        created=row.created,
        parent_id=row.parent_id,
        can_redo=row.next_id is not None,
    )


def draft(space: Workspace, slug: str, tune: Tune, edits: Sequence[Edit]) -> Tune:
    """The tune after edits, settled to what the processor keeps. Nothing is stored."""
    return apply(tune, edits, space.layout(slug), processors.model(space, slug))


def commit(
    space: Workspace, slug: str, edits: Sequence[Edit], summary: str | None = None, on: int | None = None
) -> Head:
    """Make a new revision of the edits; on disk when this returns. No change makes no revision.

    `on` is the revision that they were made on, where that is known: what came since stays, and edits that would touch
    the same are refused. Raises NotHereError or InvalidError where an edit cannot be applied or the processor cannot
    do the result, StaleError where the edits come too late.
    """
    layout = space.layout(slug)
    with space.lock, space.session() as session:
        project = project_row(session, slug)
        now = _head_row(session, project)
        before = fitted(stored(Tune, now.tune, "a revision of the tune"), layout)
        if on is not None and on != now.id:
            old = fitted(stored(Tune, _revision_row(session, project, on).tune, "a revision of the tune"), layout)
            too_late = clash(old, before, edits, layout, processors.model(space, slug))
            if too_late:
                said = "; ".join(too_late[:3])
                raise StaleError(f"another window has changed this since ({said}): look, and try again", too_late)
        after = draft(space, slug, before, edits)
        if after == before:
            return _as_head(now, layout)
        # What did not fit before may stay until it is mended: one thing at a time.
        model = processors.model(space, slug)
        refused = [says for says in model.refusals(after, layout) if says not in model.refusals(before, layout)]
        if refused:
            raise InvalidError("; ".join(refused))
        row = _append(session, project, now, after, summary or describe(before, after, layout))
        LOG.info("%s: revision %d, %s", slug, row.number, row.summary)
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
            return _target_words(before.target, after.target)
        return "Ties changed"
    first = f"{rows[0].channel}: {rows[0].what} {rows[0].after}"
    return first if len(rows) == 1 else f"{first} and {len(rows) - 1} more"


def _target_words(before: Placement, after: Placement) -> str:
    if after.bends != before.bends:
        return f"Target bent at {len(after.bends)} points" if after.bends else "Target bent no more"
    if (after.bass_db, after.bass_hz) != (before.bass_db, before.bass_hz):
        return f"Target: bass {after.bass_db:+.1f} dB, half of it at {after.bass_hz:.0f} Hz"
    if after.tilt_db != before.tilt_db:
        return f"Target tilted by {after.tilt_db:+.2f} dB an octave"
    return f"Target at {after.level_db:.1f} dB"


def undo(space: Workspace, slug: str, on: int | None = None) -> Head:
    """Go to the revision before. Raises ConflictError where there is none, StaleError where `on` is not present."""
    return _move(space, slug, "parent_id", "there is nothing to undo: this is the first revision", on)


def redo(space: Workspace, slug: str, on: int | None = None) -> Head:
    """Go to the revision that was last undone. Raises as `undo` does."""
    return _move(space, slug, "next_id", "there is nothing to redo", on)


def _move(space: Workspace, slug: str, field: str, nothing: str, on: int | None) -> Head:
    with space.lock, space.session() as session:
        project = project_row(session, slug)
        now = _head_row(session, project)
        if on is not None and on != now.id:
            raise StaleError(
                f"another window has made revision {now.number} since ({now.summary}): look, and undo again",
                (now.summary,),
            )
        other = session.get(RevisionRow, getattr(now, field)) if getattr(now, field) else None
        if other is None:
            raise ConflictError(nothing)
        if field == "parent_id":
            other.next_id = now.id
        project.head_id = other.id
        return _as_head(other, space.layout(slug))


def revisions(space: Workspace, slug: str) -> list[Head]:
    """All revisions, newest first, those of undone branches included."""
    with space.session() as session:
        project = project_row(session, slug)
        rows = session.scalars(
            select(RevisionRow).where(RevisionRow.project_id == project.id).order_by(RevisionRow.number.desc())
        )
        return [_as_head(row, space.layout(slug)) for row in rows]


def revision(space: Workspace, slug: str, revision_id: int) -> Head:
    """One revision. Raises NotHereError."""
    with space.session() as session:
        return _as_head(_revision_row(session, project_row(session, slug), revision_id), space.layout(slug))


def _revision_row(session: Session, project: ProjectRow, revision_id: int) -> RevisionRow:
    row = session.get(RevisionRow, revision_id)
    if row is None or row.project_id != project.id:
        raise NotHereError(f"there is no revision {revision_id} in this project")
    return row


def name_revision(space: Workspace, slug: str, revision_id: int, name: str) -> None:
    """Give a revision a name, or take it away with an empty one."""
    with space.lock, space.session() as session:
        _revision_row(session, project_row(session, slug), revision_id).name = name.strip() or None


def restore(space: Workspace, slug: str, revision_id: int) -> Head:
    """Go back to a revision: its tune becomes a new revision, so that going back can be undone."""
    old = revision(space, slug, revision_id)
    return commit(space, slug, [Replace(tune=old.tune)], f"Back to revision {old.number}")
