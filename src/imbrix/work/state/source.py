"""The source as the page knows it: what each input is for, what its feed does, and what is left when straightened."""

from typing import Literal

import numpy as np
from pydantic import BaseModel

from imbrix.core.signal.signal import ComplexArray
from imbrix.core.source import track
from imbrix.core.source.straighten import summing
from imbrix.core.system.layout import Group, Side
from imbrix.core.tune.routing import Sources, input_of, level_words, sources
from imbrix.work.ground import processors
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.source import ends, feeds, loud, routes, switching, undo
from imbrix.work.source.feeds import Feed, Leads
from imbrix.work.source.recording import can_read
from imbrix.work.takes.shelf import takes
from imbrix.work.tune.revisions import head

STATES: Drawer[tuple[object, ...], "SourceState"] = Drawer("sources", 16)
LOUD = {"clean_db", "over_db", "hertz"}
SUM_DB, ALIGNED_DB, STRAIGHT_DB, LOW_HZ = 6.02, 0.5, 0.5, 30.0
"""Sums within so much of 6 dB are aligned, feeds within so much of flat are straight; above this the bass is lost."""


class Turn(BaseModel):
    """An all-pass of a feed."""

    order: int
    frequency_hz: float
    q: float


class FeedState(BaseModel):
    """A feed that was recorded: what its wire does, and how far from flat it is before and after its input.

    `level_db` is over the loudest feed; `delay_ms` against the earliest; none where the feed was not recorded together
    with the reference.
    """

    take_id: int
    carries: Literal["left", "right", "both"]
    level_db: float
    peak_dbfs: float
    inverted: bool | None
    delay_ms: float | None
    passes: list[Turn]
    low_hz: float
    high_hz: float
    off_db: float
    left_db: float
    straight: bool
    right_side: bool


class InputState(BaseModel):
    """An input of the processor: what it is for, its feed where that was recorded, whether it straightens."""

    number: int
    name: str
    group: Group
    side: Side
    feed: FeedState | None
    straightens: bool


class SumState(BaseModel):
    """How two feeds sum: the least and the most over their common band, in dB over the mean of both, 6 where aligned;
    as they come, and with their inputs. `apart` says why straightening does not bring them together, where it does not.
    """

    first: int
    second: int
    names: str
    before_db: tuple[float, float]
    after_db: tuple[float, float]
    aligned: bool
    verdict: str
    apart: str


class HearsState(BaseModel):
    """What a channel hears: its inputs (from 1), and that in words."""

    channel: str
    name: str
    inputs: list[int]
    says: str


class LoudState(BaseModel):
    """How loud a feed gets: its highest clean level in dBFS, the lowest that distorted, and of which tone."""

    number: int
    name: str
    clean_db: float
    over_db: float | None
    hertz: float
    gain_db: float


class SecondState(BaseModel):
    """The second source: how the change-over went, and by how much it is louder than the wires as it is set now; None
    where that is not known, or not worth a word."""

    says: list[str]
    louder_db: float | None


class SourceState(BaseModel):
    """Everything about the source that is not a curve; a processor that `reads` its inputs tells of all at once."""

    inputs: list[InputState]
    sums: list[SumState]
    hears: list[HearsState]
    routes: dict[str, str]
    leads: Leads
    track_s: float
    says: list[str]
    route_says: list[str]
    exchanged: tuple[int, int] | None
    input_bands: int
    loud: list[LoudState]
    loud_says: list[str]
    ends_say: list[str]
    second: SecondState
    reads: bool


def source_state(space: Workspace, slug: str) -> SourceState:
    """The source as it is known now."""
    now = head(space, slug)
    there = feeds.feeds(space, slug)
    names = feeds.meant(space, slug)
    key = (
        slug,
        now.id,
        tuple((n, one.take.id, one.meant) for n, one in there.items()),
        tuple(one.id for one in takes(space, slug) if one.purpose == "feed" and not one.discarded),
        str(names),
        feeds.leads(space, slug),
        str(loud.known(space, slug)),
        str(ends.known(space, slug)),
        str(switching.tried(space, slug)),
        can_read(space, slug),
        processors.key_of(space, slug),
    )
    return space.memory.of(STATES, key, lambda: _state(space, slug, there))


def _state(space: Workspace, slug: str, there: dict[int, Feed]) -> SourceState:
    tune = head(space, slug).tune
    names = feeds.meant(space, slug)
    turned = undo.passes(there.values())
    after = {number: undo.after(space, slug, one, tune) for number, one in there.items()}
    earliest = min((one.against.delay_s for one in there.values() if one.against), default=0.0)
    loudest = max((one.level_db for one in there.values()), default=0.0)
    inputs = []
    for number, meant in names.items():
        one = there.get(number)
        found = None
        if one is not None:
            against = one.against
            found = FeedState(
                take_id=one.take.id,
                carries=one.wire.side,
                level_db=one.level_db - loudest,
                peak_dbfs=one.wire.peak_dbfs,
                inverted=against.inverted if against else None,
                delay_ms=(against.delay_s - earliest) * 1e3 if against else None,
                passes=[
                    Turn(order=p.order, frequency_hz=p.frequency_hz, q=p.q) for p in turned.by_input.get(number, ())
                ],
                low_hz=one.tone.low_hz,
                high_hz=one.tone.high_hz,
                off_db=undo.left_db(one.response, one),
                left_db=undo.left_db(after[number], one),
                straight=undo.left_db(after[number], one) <= STRAIGHT_DB,
                right_side=meant.side in ("both", one.wire.side),
            )
        straightens = number <= len(tune.inputs) and tune.inputs[number - 1].straightens
        inputs.append(
            InputState(
                number=number, name=meant.name, group=meant.group, side=meant.side, feed=found, straightens=straightens
            )
        )
    model = processors.model(space, slug)
    heard_inputs = undo.heard(space, slug)
    return SourceState(
        inputs=inputs,
        sums=[_sum(one, other, there, after, heard_inputs) for one, other in feeds.pairs(there)],
        hears=[
            HearsState(
                channel=driver.id,
                name=driver.name,
                inputs=[n for n, factor in enumerate(heard, 1) if factor],
                says=_hears(heard, names),
            )
            for driver in space.layout(slug).drivers
            for heard in (sources(tune, driver, model.inputs),)
        ],
        routes={key: words for key, words in routes.SAYS.items()},
        leads=feeds.leads(space, slug),
        track_s=track.schedule(48_000).size / 48_000,
        says=[
            *_says(there),
            *_unheard(there, heard_inputs),
            *_moving(feeds.moves(space, slug), there),
        ],
        route_says=routes.troubles(space, slug, tune),
        exchanged=undo.exchanged(space, slug),
        input_bands=model.input_bands,
        loud=[
            LoudState(
                number=number,
                name=names[number].name,
                gain_db=input_of(tune, number).gain_db,
                **one.model_dump(include=LOUD),
            )
            for number, one in loud.known(space, slug).items()
            if number in names
        ],
        loud_says=loud.says(space, slug),
        ends_say=ends.says(space, slug),
        second=SecondState(says=switching.says(space, slug), louder_db=switching.apart_db(space, slug)),
        reads=can_read(space, slug),
    )


def _sum(one: int, other: int, there: dict[int, Feed], after: dict[int, ComplexArray], heard: set[int]) -> SumState:
    low = max(there[one].tone.low_hz, there[other].tone.low_hz)
    high = min(there[one].tone.high_hz, there[other].tone.high_hz)
    inside = (low <= feeds.GRID) & (high >= feeds.GRID)

    def ends(first: ComplexArray, second: ComplexArray) -> tuple[float, float]:
        curve = summing(first, second)[inside]
        curve = curve[np.isfinite(curve)]
        return (round(float(curve.min()), 2), round(float(curve.max()), 2)) if curve.size else (0.0, 0.0)

    before, now = ends(there[one].response, there[other].response), ends(after[one], after[other])
    apart = [there[n].meant.name.lower() for n in (one, other) if n not in heard]
    return SumState(
        first=one,
        second=other,
        names=feeds.named(there[one], there[other]),
        before_db=before,
        after_db=now,
        aligned=now[0] > SUM_DB - ALIGNED_DB,
        verdict=_verdict(there[one], there[other], before[0]),
        apart=f"straightening leaves them apart: no channel hears {apart[0]}" if len(apart) == 1 else "",
    )


def _verdict(one: Feed, other: Feed, least_db: float) -> str:
    """What two feeds are to each other, as they come."""
    assert one.against is not None
    assert other.against is not None
    if least_db > SUM_DB - ALIGNED_DB:
        return "aligned"
    said = []
    if one.against.inverted != other.against.inverted:
        said.append("one is inverted")
    late = other.against.delay_s - one.against.delay_s
    if abs(late) > 10e-6:
        said.append(f"{(other if late > 0 else one).meant.name.lower()} comes {abs(late) * 1e3:.2f} ms late")
    if {(p.order, round(p.frequency_hz)) for p in one.against.passes} != {
        (p.order, round(p.frequency_hz)) for p in other.against.passes
    }:
        said.append("an all-pass turns one of them")
    return ", ".join(said) or "their tones differ in phase"


def _hears(factors: Sources, names: dict[int, feeds.Meant]) -> str:
    """`front left`, `front left + front right, -6.0 dB each`, `nothing`."""
    heard = [(names[n].name.lower(), factor) for n, factor in enumerate(factors, 1) if factor and n in names]
    if not heard:
        return "nothing"
    if len({factor for _, factor in heard}) > 1:
        return " + ".join(f"{name}{f' at{level}' if (level := level_words(factor)) else ''}" for name, factor in heard)
    each = level_words(heard[0][1])
    return " + ".join(name for name, _ in heard) + (f",{each} each" if each else "")


def _unheard(there: dict[int, Feed], heard: set[int]) -> list[str]:
    silent = [one.meant.name for number, one in there.items() if number not in heard]
    if not silent or len(silent) == len(there):
        return []
    return [
        f"no channel hears {' or '.join(silent).lower()}: what is heard is not delayed or turned down for that; "
        "straighten again when a route lets it be heard"
    ]


def _moving(found: dict[int, feeds.Moves], there: dict[int, Feed]) -> list[str]:
    """Whether the tone moves with the volume: no fixed setting of an input straightens one that does."""
    moving = {number: one for number, one in found.items() if abs(one.most_db) > feeds.MOVES_DB}
    if moving:
        most = max(moving.values(), key=lambda one: abs(one.most_db))
        names = ", ".join(there[n].meant.name.lower() for n in moving if n in there)
        way = "louder" if most.apart_db > 0 else "softer"
        return [
            f"the tone moves with the volume ({names}): {most.most_db:+.1f} dB at {most.hertz:.0f} Hz when played "
            f"{abs(most.apart_db):.0f} dB {way}; straighten at the volume that is used most, or use another source"
        ]
    if there and not found:
        return ["record a wire once more at another volume: many sources change their tone with it"]
    return []


def _leaves_alone(feed: Feed) -> bool:
    """Whether a feed differs from the reference, and from flat, by nothing that could be heard."""
    lies = feed.against
    right_side = feed.wire.side == feed.meant.side
    same = lies is not None and not lies.inverted and not lies.passes and abs(lies.delay_s) < 10e-6
    return right_side and same and feed.tone.flat and abs(feed.level_db) < 0.5


def _says(there: dict[int, Feed]) -> list[str]:
    said = []
    if there and all(_leaves_alone(one) for one in there.values()):
        return ["this source leaves the signal as it is: there is nothing to straighten"]
    for one in there.values():
        if one.meant.side != "both" and one.wire.side == "both":
            said.append(f"input {one.input} carries both sides mixed: the source is set to mono, or this wire is a sum")
        elif one.meant.side != "both" and one.wire.side != one.meant.side:
            said.append(
                f"input {one.input} is meant to be {one.meant.name.lower()}, but carries the {one.wire.side} side"
            )
        if one.against is None:
            said.append(f"input {one.input} was not recorded together with the first: its delay is not known")
    short = {f"{one.meant.group} at {one.tone.low_hz:.0f} Hz" for one in there.values() if one.tone.low_hz > LOW_HZ}
    if short:
        said.append(
            f"the factory cuts the bass ({', '.join(sorted(short))}): that is not lifted back, it would cost headroom "
            "and excursion"
        )
    return said
