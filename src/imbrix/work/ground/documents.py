"""Small documents kept by key: written whole, on disk when a call returns, changed by one at a time."""

from collections.abc import Callable
from typing import Any, TypeVar

from sqlalchemy.orm import Session

from imbrix.store.models import DocumentRow
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace

Document = dict[str, Any]
"""A document as JSON holds it. What `read` gives is shared: it is changed by `change` only, never in place."""
T = TypeVar("T")
READ: Drawer[str, Document | None] = Drawer("documents", 256)
MADE: Drawer[tuple[str, str], Any] = Drawer("made of documents", 256)


def read(space: Workspace, key: str) -> Document | None:
    """The document, or None."""

    def load() -> Document | None:
        with space.session() as session:
            row = session.get(DocumentRow, key)
            return row.value if row else None

    return space.recall(READ, key, ((DocumentRow, key),), load)


def made(space: Workspace, key: str, make: Callable[[Document | None], T]) -> T:
    """What a function makes of a document, remembered until that is written again."""
    name = f"{make.__module__}.{make.__qualname__}"
    found: T = space.recall(MADE, (key, name), ((DocumentRow, key),), lambda: make(read(space, key)))
    return found


def write(space: Workspace, key: str, value: Document) -> None:
    """Keep a document under a key, in the place of the one before."""
    change(space, key, lambda _before: value)


def change(space: Workspace, key: str, do: Callable[[Document], Document]) -> Document:
    """Read a document, change it and write it, all under one lock: what `do` is given is what is replaced.

    `do` gets a document that it may change in place, empty where there was none. Nothing is written where it raises.
    """
    with space.lock, space.session() as session:
        return change_within(session, key, do)


def change_within(session: Session, key: str, do: Callable[[Document], Document]) -> Document:
    """The same within a transaction that is open, of a thread that holds the workspace's lock."""
    row = session.get(DocumentRow, key)
    after = do(dict(row.value) if row else {})
    session.merge(DocumentRow(key=key, value=after))
    return after


def remove(space: Workspace, key: str) -> None:
    """Forget a document; one that is not there is no matter."""
    with space.lock, space.session() as session:
        row = session.get(DocumentRow, key)
        if row:
            session.delete(row)
