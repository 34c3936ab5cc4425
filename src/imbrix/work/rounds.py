"""The round: the queue through all drivers. It is on disk, so that it survives a crash."""

from typing import Literal

from imbrix.core.layout import Kind, Layout, Value
from imbrix.work import documents
from imbrix.work.desk import Desk

_HARMLESS = (Kind.MID, Kind.MIDBASS, Kind.FULL, Kind.CENTRE, Kind.REAR, Kind.SUB, Kind.TWEETER)
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
    """All drivers: a harmless one first, then from low to high."""
    first = min(layout.drivers, key=lambda driver: _HARMLESS.index(driver.kind))
    rest = [driver for driver in layout.drivers if driver.id != first.id]
    return Round(turns=tuple(Turn(channel=driver.id) for driver in (first, *rest)))


def current(desk: Desk, slug: str) -> Round:
    """The round as it stands, fitted to the drivers that there are."""
    layout = desk.layout(slug)
    found = documents.read(desk, f"round:{slug}")
    if found is None:
        return fresh(layout)
    known = Round.model_validate(found)
    here = {driver.id for driver in layout.drivers}
    kept = [turn for turn in known.turns if turn.channel in here]
    missing = [driver.id for driver in layout.drivers if driver.id not in {turn.channel for turn in kept}]
    return known.model_copy(update={"turns": (*kept, *(Turn(channel=name) for name in missing))})


def arrange(desk: Desk, slug: str, wanted: Round) -> Round:
    """Set order, states and method. Raises ValueError where a driver is missing, doubled or unknown."""
    here = sorted(driver.id for driver in desk.layout(slug).drivers)
    if sorted(turn.channel for turn in wanted.turns) != here:
        raise ValueError("the round must hold every driver of the system once")
    documents.write(desk, f"round:{slug}", wanted.model_dump(mode="json"))
    return wanted


def restart(desk: Desk, slug: str) -> Round:
    """All drivers waiting again, in the order that was chosen."""
    now = current(desk, slug)
    again = tuple(Turn(channel=turn.channel) for turn in now.turns)
    return arrange(desk, slug, now.model_copy(update={"turns": again}))


def made(desk: Desk, slug: str, channel: str, take_id: int) -> None:
    """A take of a driver was kept: its turn is done."""
    now = current(desk, slug)
    turns = tuple(
        turn.model_copy(update={"state": "done", "take_id": take_id}) if turn.channel == channel else turn
        for turn in now.turns
    )
    documents.write(desk, f"round:{slug}", now.model_copy(update={"turns": turns}).model_dump(mode="json"))
