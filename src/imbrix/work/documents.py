"""Small documents kept by key: written whole, on disk when `write` returns."""

from typing import Any

from sqlalchemy.orm import Session

from imbrix.store.models import DocumentRow
from imbrix.work.desk import Desk


def read(desk: Desk, key: str) -> dict[str, Any] | None:
    """The document, or None."""
    with desk.session() as session:
        row = session.get(DocumentRow, key)
        return row.value if row else None


def write(desk: Desk, key: str, value: dict[str, Any]) -> None:
    """Keep a document under a key, in the place of the one before."""
    with desk.lock, desk.session() as session:
        put(session, key, value)


def put(session: Session, key: str, value: dict[str, Any]) -> None:
    """The same within a transaction that is open."""
    session.merge(DocumentRow(key=key, value=value))


def remove(desk: Desk, key: str) -> None:
    """Forget a document; one that is not there is no matter."""
    with desk.lock, desk.session() as session:
        row = session.get(DocumentRow, key)
        if row:
            session.delete(row)
