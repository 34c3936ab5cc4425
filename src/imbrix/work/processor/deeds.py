"""What was done to the processor, noted with its time: sent, stored, loaded. The tune's own changes are revisions."""

from datetime import UTC, datetime
from typing import Literal

from imbrix.core.value import Value
from imbrix.work.ground import documents
from imbrix.work.ground.documents import Document
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.tune.revisions import head

MOST = 2000
Deed = Literal["sent", "slot"]


class Done(Value):
    """What was done in words, when, and at which revision by its number."""

    kind: Deed
    says: str
    at: datetime
    revision: int


def note(space: Workspace, slug: str, kind: Deed, says: str) -> None:
    """Note that something was done just now; of very many the first are forgotten."""
    done = Done(kind=kind, says=says, at=datetime.now(UTC).replace(tzinfo=None), revision=head(space, slug).number)

    def change(now: Document) -> Document:
        return {"done": [*now.get("done", []), done.model_dump(mode="json")][-MOST:]}

    documents.change(space, _key(slug), change)


def deeds(space: Workspace, slug: str) -> tuple[Done, ...]:
    """All of it, the first first."""
    return documents.made(space, _key(slug), _deeds)


def _deeds(found: Document | None) -> tuple[Done, ...]:
    return tuple(stored(Done, one, "what was done to the processor") for one in (found or {}).get("done", []))


def _key(slug: str) -> str:
    return f"deeds:{slug}"
