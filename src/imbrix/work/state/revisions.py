"""Revisions as the page knows them, without their tunes."""

from pydantic import BaseModel

from imbrix.work.ground.moments import Moment
from imbrix.work.ground.workspace import Workspace
from imbrix.work.tune.revisions import Head, revisions


class RevisionState(BaseModel):
    """One revision in a list."""

    id: int
    number: int
    summary: str
    name: str | None
    created: Moment


class HeadState(BaseModel):
    """The present revision, and whether one can go back and forth from it."""

    id: int
    number: int
    summary: str
    name: str | None
    can_undo: bool
    can_redo: bool


def revision_list(space: Workspace, slug: str) -> list[RevisionState]:
    """All revisions, newest first."""
    return [
        RevisionState(id=one.id, number=one.number, summary=one.summary, name=one.name, created=one.created)
        for one in revisions(space, slug)
    ]


def head_state(now: Head) -> HeadState:
    """The present revision without its tune."""
    return HeadState(
        id=now.id,
        number=now.number,
        summary=now.summary,
        name=now.name,
        can_undo=now.can_undo,
        can_redo=now.can_redo,
    )
