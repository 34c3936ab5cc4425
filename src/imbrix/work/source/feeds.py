"""The feeds of a project: what each input of the processor is for, and what its newest recording shows of it."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
from pydantic import Field

from imbrix.core.errors import ConflictError
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import ComplexArray
from imbrix.core.source.between import Between, between
from imbrix.core.source.straighten import Tone, tone
from imbrix.core.source.wires import Wire, Wires, read_wires
from imbrix.core.system.layout import Group, Side
from imbrix.core.value import Value
from imbrix.work.ground import documents, processors
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.stored import stored
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.shelf import Take, arrays, takes

GRID = log_grid()
OTHER_VOLUME_DB, MOVES_DB = 3.0, 1.0
"""Recordings so far apart in level were made at different volumes; a tone that changes by more moves with it."""
WIRES: Drawer[int, Wires] = Drawer("wires", 16, by_take=True)
TONES: Drawer[tuple[int, int], Tone] = Drawer("tones", 64)
BETWEEN: Drawer[tuple[int, int], Between | None] = Drawer("between feeds", 64)
GROUPS: tuple[tuple[Group, Side], ...] = (
    (Group.FRONT, "left"),
    (Group.FRONT, "right"),
    (Group.REAR, "left"),
    (Group.REAR, "right"),
    (Group.CENTRE, "both"),
    (Group.SUB, "both"),
)
"""What inputs are for, in their order, where nobody says otherwise."""


class Meant(Value):
    """What an input is for."""

    group: Group
    side: Side

    @property
    def name(self) -> str:
        return str(self.group).capitalize() + ("" if self.side == "both" else f" {self.side}")


class Leads(Value):
    """The two inputs of the interface (from 0) whose leads are clipped to the source's wires."""

    first: int = Field(default=2, ge=0, le=255)
    second: int = Field(default=3, ge=0, le=255)


@dataclass(frozen=True)
class Feed:
    """An input (from 1) with its newest recording: the wire, and how it differs from the reference feed.

    `level_db` is over that of the wire that stayed, at the same volume; `against` is None where that was not the
    reference.
    """

    input: int
    meant: Meant
    take: Take
    wire: Wire
    tone: Tone
    level_db: float
    against: Between | None

    @property
    def response(self) -> ComplexArray:
        return self.wire.response


def raised_db(one: Feed, among: Iterable[Feed]) -> float:
    """By how much a feed's response is raised where it is drawn: the middle of the loudest one lies at nought."""
    return one.level_db - one.tone.plateau_db - max(each.level_db for each in among)


def meant(space: Workspace, slug: str) -> dict[int, Meant]:
    """What each input of the processor is for."""
    said = documents.read(space, _key(slug)) or {}
    found = {}
    for number in range(1, processors.model(space, slug).inputs + 1):
        group, side = GROUPS[number - 1] if number <= len(GROUPS) else (Group.FRONT, "both")
        found[number] = stored(
            Meant, said.get("meant", {}).get(str(number), {"group": group, "side": side}), "what is said of the source"
        )
    return found


def say_meant(space: Workspace, slug: str, number: int, what: Meant) -> None:
    """Say what an input is for. Raises ConflictError where the processor has no such input."""
    if number not in meant(space, slug):
        raise ConflictError(f"the processor has no input {number}")
    documents.change(
        space,
        _key(slug),
        lambda said: {**said, "meant": {**said.get("meant", {}), str(number): what.model_dump(mode="json")}},
    )


def leads(space: Workspace, slug: str) -> Leads:
    """Where the leads are."""
    return stored(Leads, (documents.read(space, _key(slug)) or {}).get("leads", {}), "what is said of the source")


def say_leads(space: Workspace, slug: str, where: Leads) -> None:
    """Say at which inputs of the interface the leads are. Raises ConflictError for one input twice."""
    if where.first == where.second:
        raise ConflictError("the two leads need an input each")
    documents.change(space, _key(slug), lambda said: {**said, "leads": where.model_dump(mode="json")})


def _key(slug: str) -> str:
    return f"source:{slug}"


def wires(space: Workspace, one: Take) -> Wires:
    """What a recording of wires shows, read once."""

    def read() -> Wires:
        data, rate = arrays(space, one.id)
        return read_wires(np.asarray(data["wires"], dtype=float).T, rate)

    return space.memory.of(WIRES, one.id, read)


def feeds(space: Workspace, slug: str) -> dict[int, Feed]:
    """By input its newest recording. The reference is the first wire of the recording of the lowest input."""
    newest: dict[int, tuple[Take, int]] = {}
    for one in takes(space, slug):
        if one.purpose == "feed" and not one.discarded:
            for at, number in enumerate(one.details.feeds):
                newest.setdefault(number, (one, at))
    there = meant(space, slug)
    newest = {number: newest[number] for number in sorted(newest) if number in there}
    if not newest:
        return {}
    first = next(iter(newest.values()))[0].details.feeds[0]
    reference = next(one for one, _ in newest.values() if one.details.feeds[0] == first)
    return {number: _feed(space, number, there[number], *found, reference) for number, found in newest.items()}


@dataclass(frozen=True)
class Moves:
    """How the tone of a feed differs between two recordings at volumes `apart_db` apart: most, in dB, and where."""

    most_db: float
    hertz: float
    apart_db: float


def moves(space: Workspace, slug: str) -> dict[int, Moves]:
    """By input how its tone moves with the volume, for those recorded at two volumes at least."""
    found: dict[int, Moves] = {}
    newest: dict[int, Tone] = {}
    for one in takes(space, slug):
        if one.purpose != "feed" or one.discarded:
            continue
        for at, number in enumerate(one.details.feeds):
            shown = _tone(space, one, at)
            now = newest.setdefault(number, shown)
            apart = now.plateau_db - shown.plateau_db
            if number not in found and abs(apart) >= OTHER_VOLUME_DB:
                found[number] = _moves(now, shown, apart)
    return found


def _tone(space: Workspace, one: Take, at: int) -> Tone:
    return space.memory.of(TONES, (one.id, at), lambda: tone(wires(space, one).wires[at].response))


def _moves(now: Tone, before: Tone, apart_db: float) -> Moves:
    inside = (max(now.low_hz, before.low_hz) <= GRID) & (min(now.high_hz, before.high_hz) >= GRID)
    change = np.where(inside, now.levels - before.levels, np.nan)
    change = change - np.nanmedian(change)
    at = int(np.nanargmax(np.abs(change)))
    return Moves(float(change[at]), float(GRID[at]), apart_db)


def _feed(space: Workspace, number: int, what: Meant, one: Take, at: int, reference: Take) -> Feed:
    read = wires(space, one)
    wire = read.wires[at]
    shown = _tone(space, one, at)
    # Recorded beside the reference it is compared at the same volume; else the volume is taken to be the same.
    beside = one.details.feeds[0] == reference.details.feeds[0]
    level = shown.plateau_db - _tone(space, one if beside else reference, 0).plateau_db
    against = None
    if beside:
        other = read.wires[0]
        against = space.memory.of(BETWEEN, (one.id, at), lambda: between(other.response, wire.response))
    return Feed(number, what, one, wire, shown, level, against)


def pairs(there: dict[int, Feed]) -> list[tuple[int, int]]:
    """The feeds that should sum: left and right of a group, front and rear of a side."""
    found = []
    for one, feed in there.items():
        for other, partner in there.items():
            same_group, same_side = feed.meant.group == partner.meant.group, feed.meant.side == partner.meant.side
            if one < other and feed.against and partner.against and same_group != same_side:
                found.append((one, other))
    return found


def named(first: Feed, second: Feed) -> str:
    """`Front left + front right`."""
    return f"{first.meant.name} + {second.meant.name.lower()}"
