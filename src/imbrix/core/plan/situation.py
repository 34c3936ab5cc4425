"""What the next step depends on: how far a job is, told in facts."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from imbrix.core.evidence.verdict import Trouble
from imbrix.core.system.layout import Layout, Side
from imbrix.core.tune.edits import Edit
from imbrix.core.tune.tune import Tune


@dataclass(frozen=True)
class RigPart:
    """A part of the rig: set, stale or missing, and what is said of it."""

    key: str
    name: str
    state: str
    says: str


@dataclass(frozen=True)
class InForce:
    """The take in force of a driver, what may be wrong with it, and whether a moving microphone has heard it too.

    `known` are the kinds of trouble that an earlier take of the driver had as well: recording again does not help.
    """

    id: int
    troubles: tuple[Trouble, ...] = ()
    moving: bool = False
    known: frozenset[str] = frozenset()


@dataclass(frozen=True)
class Spot:
    """A further position of the microphone, and the drivers that were not recorded there yet."""

    name: str
    missing: tuple[str, ...]


@dataclass(frozen=True)
class Remedy:
    """Something found about a driver, with the edits that put it right."""

    about: str
    says: str
    evidence: str
    action: str
    edits: tuple[Edit, ...]


@dataclass(frozen=True)
class Source:
    """What is known of the source: inputs of the processor (from 1) by name, and which of them were recorded.

    `straightens` are the edits that would straighten the feeds, empty where they are straight or unknown; `far_db` is
    by how much the worst feed strays from flat as it comes; where the processor `reads` its inputs, no wires need to be
    recorded.
    """

    names: Mapping[int, str] = field(default_factory=dict)
    recorded: frozenset[int] = frozenset()
    exchanged: tuple[int, int] | None = None
    straightens: tuple[Edit, ...] = ()
    far_db: float = 0.0
    reads: bool = False


@dataclass(frozen=True)
class Placing:
    """The target as it stands against the far side's mid.

    `off_db` is by how much it stands over the level at which that driver needs no gain; `edits` place it there,
    `highest_db` and `lowest_db` are the price then: how far the highest peak is over it and the lowest dip under it.
    """

    channel: str
    off_db: float
    highest_db: float
    lowest_db: float
    edits: tuple[Edit, ...]


@dataclass(frozen=True)
class Proof:
    """The newest recording of the whole.

    `current` says that it was made of this very tune, by these takes; `plus_minus_db` is about the target,
    `apart_db` the rms of measured against predicted, `apart_says` what that looks like, `repeated` whether the same
    tune was recorded before; `better_db` is what would be left of plus/minus after a fit of the common correction to
    it, None where a moving microphone did not record it or it was fitted so twice.
    """

    current: bool
    plus_minus_db: float
    apart_db: float
    apart_says: str = ""
    repeated: bool = False
    better_db: float | None = None


@dataclass(frozen=True)
class BothSides:
    """Left and right of the main group, each heard by a moving microphone.

    `channels` are those of each side, `recorded` which sides were recorded as they are set now, `rounds` how often each
    was since the alignment; `apart_db` is the rms of their difference, `after_db` what bands on both would leave of it,
    None where not both are known or nothing can be done.
    """

    channels: Mapping[Side, tuple[str, ...]]
    recorded: frozenset[Side] = frozenset()
    rounds: Mapping[Side, int] = field(default_factory=dict)
    apart_db: float | None = None
    after_db: float | None = None


@dataclass(frozen=True)
class Image:
    """Where sounds stand between the sides: how many bands are to be heard, how many were, and how many have to be
    heard again; `next_hz` is the first of those that are left, `mends` brings what was heard to the centre, None where
    nothing has to be brought there."""

    bands: int
    heard: int
    again: int = 0
    next_hz: float = 1000.0
    mends: Remedy | None = None


@dataclass(frozen=True)
class Refused:
    """Why the last recording came to nothing."""

    cause: str
    says: str


@dataclass(frozen=True)
class Situation:
    """All facts that the plan is made of.

    `harmless` is the driver that a mistake costs least, `switches` whether drivers can be recorded one after another
    without a hand, `by_source` whether the source plays what takes are made of,
    `moves` whether the microphone can be moved at all, `asks` whether it is a window's own, which a
    person has to open there; `places` at how many of them every driver was recorded where it did not move, `spots`
    those that are worth recording too. `crossed` and `timed` say whether all ways that meet are crossed over, and
    whether delays were set at all; `beside` are the edits that bring rear and centre where they belong to the
    front; `turned` is what turns one side where both take each other away; `whole_db` is the predicted plus/minus
    of the whole about the target, None where it is not known; `over_db` by how much some output goes over full
    scale, or a gain over nought, and `over_says` which; `unsent` counts what the processor does not do yet,
    `by_hand` where a person types it in; `image` is None where there is none to be heard, `sides` where there is
    nothing to bring together; `stored` is the slot that holds what it does, `free` the one to store it in and
    `free_holds` the name of what that would replace; `room` counts the bands that are free for what is common to
    all.
    """

    layout: Layout
    tune: Tune
    order: tuple[str, ...]
    rig: tuple[RigPart, ...]
    corrections: Mapping[int, str]
    pointing: Literal["source", "ceiling"]
    harmless: str
    source: Source
    takes: Mapping[str, InForce]
    queue: tuple[str, ...]
    switches: bool = False
    by_source: bool = False
    moves: bool = True
    asks: bool = False
    places: int = 0
    spots: tuple[Spot, ...] = ()
    remedies: tuple[Remedy, ...] = ()
    crossed: bool = False
    timed: bool = False
    beside: tuple[Edit, ...] = ()
    beside_says: str = ""
    placing: Placing | None = None
    turned: Remedy | None = None
    whole_db: float | None = None
    over_db: float = 0.0
    over_says: str = ""
    unsent: int = 0
    by_hand: bool = False
    proof: Proof | None = None
    image: Image | None = None
    sides: BothSides | None = None
    stored: int | None = None
    free: int = 1
    free_holds: str = ""
    room: int = 1
    refused: Refused | None = None
    skipped: frozenset[str] = frozenset()
