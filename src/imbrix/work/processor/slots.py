"""The processor's slots: tunes that outlive its power."""

from collections.abc import Iterator
from contextlib import contextmanager

from imbrix.core.errors import ConflictError, RefusedError
from imbrix.core.tune.changes import settings
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import documents, processors
from imbrix.work.ground.documents import Document
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import deeds, typed
from imbrix.work.processor.link import mirror, read_back
from imbrix.work.tune.revisions import head


def store(space: Workspace, slug: str, slot: int, name: str) -> None:
    """Keep what the processor runs in one of its slots. Raises ConflictError."""
    with _still(space, "a take is being recorded: store a slot when it has ended"):
        mirror(space, slug)
        processors.processor(space, slug).store(slot, name)
        held = {"name": name, "tune": read_back(space, slug, head(space, slug).tune).model_dump(mode="json")}
        documents.change(space, _key(slug), lambda now: {**now, str(slot): held})
        deeds.note(space, slug, "slot", f"Stored in slot {slot}{_called(name)}")


def known(space: Workspace, slug: str) -> list[tuple[int, str, Tune]]:
    """Slots whose content is known: their number, name and tune. What was stored elsewhere cannot be looked into."""
    there = processors.processor(space, slug).slot_names()
    held = documents.made(space, _key(slug), _held)
    return [(n, name, held[n][1]) for n, name in sorted(there.items()) if n in held and held[n][0] == name]


def _held(found: Document | None) -> dict[int, tuple[str, Tune]]:
    return {
        int(n): (one["name"], stored(Tune, one["tune"], "what was stored in slots")) for n, one in (found or {}).items()
    }


def _key(slug: str) -> str:
    return f"slots:{slug}"


def recall(space: Workspace, slug: str, slot: int) -> None:
    """Let the processor load a slot; what was typed by hand is what that holds. Raises ConflictError."""
    with _still(space, "a take is being recorded: load a slot when it has ended"):
        processors.processor(space, slug).recall(slot)
        deeds.note(space, slug, "slot", f"Slot {slot} loaded")
        for number, _name, tune in known(space, slug):
            if number == slot and typed.rows(space, slug) is not None:
                typed.begin(space, slug, settings(tune, space.layout(slug)))


def _called(name: str) -> str:
    return f" as {name}" if name else ""


@contextmanager
def _still(space: Workspace, says: str) -> Iterator[None]:
    """While nothing is recorded: a take holds the processor muted and guarded, which belongs in no slot."""
    with space.idle(says):
        try:
            yield
        except RefusedError as error:
            raise ConflictError(f"the processor refuses: {error}") from None
        finally:
            space.changed()
