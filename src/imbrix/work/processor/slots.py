"""The processor's slots: tunes that outlive its power."""

from collections.abc import Iterator
from contextlib import contextmanager

from imbrix.core.errors import ConflictError, RefusedError
from imbrix.core.tune.changes import Change, changes, settings
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import documents, processors
from imbrix.work.ground.documents import Document
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import deeds, typed
from imbrix.work.processor.link import mirror, read_back
from imbrix.work.tune.revisions import head


def store(space: Workspace, slug: str, slot: int, name: str) -> None:
    """Keep what the processor runs in one of its slots, read back and compared. Raises ConflictError."""
    with _still(space, "a take is being recorded: store a slot when it has ended"):
        _open(space, slug, slot)
        mirror(space, slug)
        processor = processors.processor(space, slug)
        processor.store(slot, name)
        if processor.stored_in() != slot:
            raise ConflictError(f"slot {slot} does not hold what was stored: store it again, or use another slot")
        held = {"name": name, "tune": read_back(space, slug, head(space, slug).tune).model_dump(mode="json")}
        documents.change(space, _key(slug), lambda now: {**now, str(slot): held})
        deeds.note(space, slug, "slot", f"Stored in slot {slot}{_called(name)}")


def copy(space: Workspace, slug: str, slot: int, to: int) -> None:
    """Let another slot hold what one holds; what runs goes on. Raises ConflictError."""
    with _still(space, "a take is being recorded: copy a slot when it has ended"):
        _open(space, slug, to)
        if slot == to:
            raise ConflictError("a slot is not copied to itself")
        processors.processor(space, slug).copy(slot, to)

        def change(now: Document) -> Document:
            return {**now, str(to): now[str(slot)]} if str(slot) in now else _without(now, to)

        documents.change(space, _key(slug), change)
        deeds.note(space, slug, "slot", f"Slot {slot} copied to slot {to}")


def name(space: Workspace, slug: str, slot: int, called: str) -> None:
    """Call a slot otherwise. Raises ConflictError."""
    with _still(space, "a take is being recorded: name a slot when it has ended"):
        _open(space, slug, slot)
        processors.processor(space, slug).name(slot, called)

        def change(now: Document) -> Document:
            return {**now, str(slot): {**now[str(slot)], "name": called}} if str(slot) in now else now

        documents.change(space, _key(slug), change)
        deeds.note(space, slug, "slot", f"Slot {slot} named {called}")


def lock(space: Workspace, slug: str, slot: int, locked: bool) -> None:
    """Let nothing be stored in a slot from here, or let it again. Raises ConflictError where there is no such slot."""
    most = processors.processor(space, slug).limits.slots
    if slot > most:
        raise ConflictError(f"there is no slot {slot}: the processor has {most}")

    def change(now: Document) -> Document:
        kept = [one for one in now.get("slots", []) if one != slot]
        return {"slots": sorted([*kept, slot]) if locked else kept}

    documents.change(space, _locks(slug), change)
    deeds.note(space, slug, "slot", f"Slot {slot} {'locked' if locked else 'unlocked'}")


def locked(space: Workspace, slug: str) -> frozenset[int]:
    """The slots in which nothing is to be stored."""
    return frozenset((documents.read(space, _locks(slug)) or {}).get("slots", []))


def compare(space: Workspace, slug: str, slot: int) -> list[Change]:
    """What the present tune would change of what a slot holds. Raises ConflictError where nobody knows that."""
    for number, _name, tune in known(space, slug):
        if number == slot:
            return changes(tune, _playing(space, slug), space.layout(slug))
    there = processors.processor(space, slug).slot_names()
    what = "holds what was not stored from here: load it to see it" if slot in there else "is empty"
    raise ConflictError(f"slot {slot} {what}")


def _playing(space: Workspace, slug: str) -> Tune:
    """The present tune as a slot would hold it: what another's solo silences is muted."""
    tune = head(space, slug).tune
    channels = {one: each.model_copy(update={"muted": not tune.audible(one)}) for one, each in tune.channels.items()}
    return tune.model_copy(update={"channels": channels, "solo": None})


def _open(space: Workspace, slug: str, slot: int) -> None:
    """Raises ConflictError where a slot is locked."""
    if slot in locked(space, slug):
        raise ConflictError(f"slot {slot} is locked: unlock it first, or use another")


def _without(now: Document, slot: int) -> Document:
    return {key: value for key, value in now.items() if key != str(slot)}


def _locks(slug: str) -> str:
    return f"locked-slots:{slug}"


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
