"""The round: the queue through all drivers. It is on disk, so that it survives a crash."""

from typing import Literal

from imbrix.core.errors import InvalidError
from imbrix.core.system.layout import Group, Kind, Layout
from imbrix.core.value import Value
from imbrix.work.ground import documents
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace

_HARMLESS = (Kind.MID, Kind.MIDBASS, Kind.FULL, Kind.WOOFER, Kind.SUB, Kind.TWEETER)
"""Which kind comes first as a test: one that a mistake does not cost."""


class Turn(Value):
    """One driver's turn in the round."""

    channel: str
    state: Literal["waiting", "done", "skipped"] = "waiting"
    take_id: int | None = None


class Round(Value):
    """The queue and its method."""

    turns: tuple[Turn, ...]
    method: Literal["sweep", "moving"] = "sweep"


def fresh(layout: Layout) -> Round:
    """All drivers: a harmless one of the front first, then as the system names them, from low to high in each group."""
    first = min(layout.drivers, key=lambda driver: (driver.group == Group.REAR, _HARMLESS.index(driver.kind)))
    rest = [driver for driver in layout.drivers if driver.id != first.id]
    return Round(turns=tuple(Turn(channel=driver.id) for driver in (first, *rest)))


def _read(found: documents.Document | None) -> Round | None:
    return None if found is None else stored(Round, found, "the round of takes")


def current(space: Workspace, slug: str) -> Round:
    """The round as it stands, fitted to the drivers that there are."""
    layout = space.layout(slug)
    known = documents.made(space, f"round:{slug}", _read)
    if known is None:
        return fresh(layout)
    here = {driver.id for driver in layout.drivers}
    kept = [turn for turn in known.turns if turn.channel in here]
    missing = [driver.id for driver in layout.drivers if driver.id not in {turn.channel for turn in kept}]
    return known.model_copy(update={"turns": (*kept, *(Turn(channel=name) for name in missing))})


def waiting(now: Round) -> tuple[str, ...]:
    """The drivers that are recorded in a row: those that wait, or all but the skipped where no two do."""
    open_ones = [turn for turn in now.turns if turn.state == "waiting"]
    turns = open_ones if len(open_ones) > 1 else [turn for turn in now.turns if turn.state != "skipped"]
    return tuple(turn.channel for turn in turns)


def arrange(space: Workspace, slug: str, wanted: Round) -> Round:
    """Set order, states and method. Raises InvalidError where a driver is missing, doubled or unknown."""
    here = sorted(driver.id for driver in space.layout(slug).drivers)
    if sorted(turn.channel for turn in wanted.turns) != here:
        raise InvalidError("the round must hold every driver of the system once")
    documents.write(space, f"round:{slug}", wanted.model_dump(mode="json"))
    return wanted


def restart(space: Workspace, slug: str) -> Round:
    """All drivers waiting again, in the order that was chosen."""
    with space.lock:
        now = current(space, slug)
        again = tuple(Turn(channel=turn.channel) for turn in now.turns)
        return arrange(space, slug, now.model_copy(update={"turns": again}))


def made(space: Workspace, slug: str, channel: str, take_id: int) -> None:
    """A take of a driver was kept: its turn is done."""
    with space.lock:
        now = current(space, slug)
        turns = tuple(
            turn.model_copy(update={"state": "done", "take_id": take_id}) if turn.channel == channel else turn
            for turn in now.turns
        )
        documents.write(space, f"round:{slug}", now.model_copy(update={"turns": turns}).model_dump(mode="json"))
