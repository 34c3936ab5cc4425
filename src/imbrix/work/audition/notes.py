"""What a person noted while listening: with time, revision and what played."""

from datetime import UTC, datetime

from imbrix.core.errors import InvalidError, NotHereError
from imbrix.core.value import Value
from imbrix.work.ground import documents
from imbrix.work.ground.documents import Document
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.tune.revisions import head

MOST_NOTES, MOST_LETTERS = 500, 1000


class Note(Value):
    """A note by its number, when it was made, at which revision, and what of."""

    id: int
    text: str
    made: datetime
    revision: int
    heard: str = ""


def notes(space: Workspace, slug: str) -> tuple[Note, ...]:
    """All notes, newest first. Raises NotHereError."""
    space.layout(slug)
    return documents.made(space, _key(slug), _notes)


def note(space: Workspace, slug: str, text: str, heard: str) -> Note:
    """Note something. Raises InvalidError where there is nothing to note, or too much."""
    plain = text.strip()
    if not plain or len(plain) > MOST_LETTERS:
        raise InvalidError(f"a note has 1 to {MOST_LETTERS} letters")
    number = head(space, slug).number
    made: list[Note] = []

    def change(now: Document) -> Document:
        last = int(now.get("last", 0)) + 1
        made.append(Note(id=last, text=plain, made=datetime.now(UTC), revision=number, heard=heard))
        return {"last": last, "notes": [*now.get("notes", []), made[-1].model_dump(mode="json")][-MOST_NOTES:]}

    documents.change(space, _key(slug), change)
    return made[-1]


def take_away(space: Workspace, slug: str, number: int) -> None:
    """Take a note away. Raises NotHereError."""
    if number not in {one.id for one in notes(space, slug)}:
        raise NotHereError(f"there is no note {number}")
    documents.change(
        space,
        _key(slug),
        lambda now: {**now, "notes": [one for one in now.get("notes", []) if one["id"] != number]},
    )


def _notes(found: Document | None) -> tuple[Note, ...]:
    return tuple(stored(Note, one, "the notes") for one in reversed((found or {}).get("notes", [])))


def _key(slug: str) -> str:
    return f"notes:{slug}"
