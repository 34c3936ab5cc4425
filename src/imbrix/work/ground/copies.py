"""Copies of the database that lie beside it: those that are there, and one more."""

from datetime import UTC, datetime
from pathlib import Path

from pydantic import BaseModel

from imbrix.store import folder
from imbrix.work.ground.moments import Moment
from imbrix.work.ground.workspace import Workspace


class CopyState(BaseModel):
    """A copy: its name within the data folder, when it was made, and how large it is."""

    name: str
    made: Moment
    size_bytes: int


def copies(space: Workspace) -> list[CopyState]:
    """The newest first."""
    return [_told(space, one) for one in folder.copies(space.folder)]


def copy_now(space: Workspace) -> CopyState:
    """One more copy of everything that is kept, whatever happens meanwhile; the oldest beyond the limit go."""
    made = folder.copy(space.folder, datetime.now())
    folder.drop_oldest(space.folder)
    return _told(space, made)


def _told(space: Workspace, path: Path) -> CopyState:
    about = path.stat()
    made = datetime.fromtimestamp(about.st_mtime, UTC)
    return CopyState(name=str(path.relative_to(space.folder)), made=made, size_bytes=about.st_size)
