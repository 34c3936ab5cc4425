"""Takes as the rig says that they are played: by the interface, straight into the processor, or by the source itself.

Played by the source, the one driver hears the left side of the track alone and the anchor the right one, so that time
is kept from take to take; the anchor's level tells by how much the volume was turned since.
"""

from dataclasses import dataclass, replace

import numpy as np

from imbrix.core.errors import ConflictError, UnusableError
from imbrix.core.evidence.evidence import agreement, gather
from imbrix.core.measure.reading import Reading
from imbrix.core.signal.measures import without_filters
from imbrix.core.signal.signal import ComplexArray, FloatArray, Impulse, Looped, ratio
from imbrix.core.source.heard import Heard, read_heard
from imbrix.core.source.track import MARKER_HZ
from imbrix.core.system.layout import Group, Kind, Seam
from imbrix.core.tune.routing import Sources
from imbrix.core.tune.tune import Tune, measuring, neutral
from imbrix.store.arrays import as_kept
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import measuring_through
from imbrix.work.processor.link import read_back
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.source import proof
from imbrix.work.source.colour import scaled
from imbrix.work.source.feeds import Feed, feeds
from imbrix.work.source.live import pink
from imbrix.work.source.recording import at_the_microphone, played
from imbrix.work.takes import moving as walks
from imbrix.work.takes import recording, rounds
from imbrix.work.takes.asked import Asked, Kept, TakeJob, start_take
from imbrix.work.takes.bands import band
from imbrix.work.takes.reading import READINGS, bare, mended
from imbrix.work.takes.recording import conditions, there_before
from imbrix.work.takes.shelf import Details, keep, schedule_parts
from imbrix.work.tune.revisions import head

NO_MARKER = (Kind.SUB, Kind.WOOFER)
"""Kinds that are too low for the track's marker to be heard by."""
BY_SOURCE = "played by the source"
STEADY_DB = 6.0
"""Noise heard while a microphone moves differs by some 2 dB from one average to the next; a track comes and goes."""


def by_source(space: Workspace) -> bool:
    """Whether the rig says that the source plays what takes are made of."""
    return rig.rig(space).plays == "source"


def take(recorder: Recorder, slug: str, asked: Asked) -> TakeJob:
    """A take made ready to be recorded, played as the rig says. Raises ConflictError, NotHereError, InvalidError."""
    if not by_source(recorder.space):
        return recording.sweep_take(recorder, slug, asked)
    return (_driver_take if asked.purpose == "driver" else proof.whole_take)(recorder, slug, asked)


def moving(recorder: Recorder, slug: str, asked: Asked) -> TakeJob:
    """A moving-microphone take made ready to be recorded, its noise played as the rig says. Raises as `take`."""
    return (_moving_take if by_source(recorder.space) else walks.moving_take)(recorder, slug, asked)


def start(recorder: Recorder, slug: str, asked: Asked) -> None:
    """Begin one take, played as the rig says. Raises as `take`, and ConflictError."""
    start_take(recorder, slug, asked, take)


def start_moving(recorder: Recorder, slug: str, asked: Asked) -> None:
    """Begin one by a moving microphone. Raises as `take`, and ConflictError."""
    start_take(recorder, slug, asked, moving, "moving")


def start_null(recorder: Recorder, slug: str, seam: Seam) -> None:
    """Begin a take of a seam with its upper way inverted, which is put back: where both add up it shows a null."""
    start(recorder, slug, Asked((*seam.lowers, *seam.uppers), "null", inverting=seam.uppers))


@dataclass(frozen=True)
class _Through:
    """How the track reaches a driver and its anchor: what the processor is set to, and by side what source and input
    do together (n,)."""

    tune: Tune
    left: ComplexArray
    right: ComplexArray | None


def _driver_take(recorder: Recorder, slug: str, asked: Asked) -> TakeJob:
    space = recorder.space
    if len(asked.channels) != 1:
        raise ConflictError("one driver at a time: choose the one that is to be recorded")
    chosen, made_under = rig.rig(space), conditions(space, slug, asked.place)
    anchor = _anchor(space, slug, chosen)
    through = _through(space, slug, asked.channels[0], anchor)
    rate = space.interface.rate

    def record() -> Kept:
        recorded = at_the_microphone(recorder, slug, through.tune)
        recorder.computing()
        heard = read_heard(as_kept(recorded), rate, through.left, through.right, anchor in asked.channels)
        return Kept(_keep(space, slug, asked, anchor, through, heard, rate, made_under))

    return record


def _moving_take(recorder: Recorder, slug: str, asked: Asked) -> TakeJob:
    """The source plays pink noise; the quiet before it is heard with all outputs muted."""
    space = recorder.space
    chosen, made_under = rig.rig(space), {**conditions(space, slug, asked.place), "check": None}
    if chosen.device == choices.FILE:
        raise ConflictError("a moving-microphone take needs a sound card; with files, bring a sweep or a curve")
    settings, told = chosen.moving_settings, replace(asked, note=asked.note or BY_SOURCE)
    if asked.purpose == "driver":
        through = _through(space, slug, asked.channels[0], "")
        tune, colour = through.tune, np.abs(through.left)
    else:
        tune, colour = proof.going_through_source(space, slug, asked.channels, ()), np.ones(space.grid.size)
    muted = measuring(tune, space.layout(slug), set()).model_copy(update={"inputs": tune.inputs})

    def bare_of(values: FloatArray) -> FloatArray:
        return _lying_where(space, slug, asked, tune, values / colour, made_under)

    def record() -> Kept:
        walk = walks.Walk(recorder, settings, asked.channels)
        with played(space, pink):
            with measuring_through(space, slug, muted):
                walk.listen_to_the_quiet()
            with measuring_through(space, slug, tune):
                walk.go(Looped(np.zeros(4096), settings.samples + settings.size))
        heard = walk.ended_with(), walk.noise
        if np.median(heard[0].spread_db) > STEADY_DB:
            raise UnusableError(
                "what was heard comes and goes: let the source play the pink noise written under Source, not the track",
                "muted",
            )
        take_id = walks.keep_moving(space, slug, told, tune, *heard, settings, made_under, bare_of)
        return Kept(take_id, walk.ended)

    return record


def _lying_where(
    space: Workspace,
    slug: str,
    asked: Asked,
    tune: Tune,
    values: FloatArray,
    made_under: dict[str, object],
) -> FloatArray:
    """Magnitudes (n,) as loud as what is known of these channels already: the volume of the source decides nothing."""
    shown = mended(space, Details(**made_under), "moving", False, _as_reading(space, values)).response
    if asked.purpose == "driver":
        before = there_before(space, slug, asked.channels[0], str(made_under["position"]))
        if before is None:
            return values
        alone = without_filters(shown, processors.predictor(space, slug).through(tune, asked.channels)[0])
        found = agreement(np.abs(bare(space, before)), alone, space.grid, *band(space, slug, before), False)
        return values if found is None else values * ratio(-found.level_db)
    return values * proof.matching(space, slug, asked.channels, tune, shown)


def _as_reading(space: Workspace, values: FloatArray) -> Reading:
    silent = Impulse(np.zeros(2), space.interface.rate)
    return Reading(values.astype(complex), np.full(values.size, 120.0), 0.0, False, silent)


def _anchor(space: Workspace, slug: str, chosen: choices.Rig) -> str:
    """The driver that keeps the time, empty where none does. Raises ConflictError where it cannot."""
    known = {driver.id: driver for driver in space.layout(slug).drivers}
    if chosen.timing == "none":
        return ""
    if chosen.anchor not in known:
        raise ConflictError(
            "the source is to play and time to be kept, but no anchor driver is chosen: choose one (Rig, Takes), or "
            "say there that no time is kept"
        )
    if known[chosen.anchor].kind in NO_MARKER:
        raise ConflictError(
            f"{known[chosen.anchor].name} is too low to be heard by the track's marker: choose a midbass, a mid or a "
            "tweeter as the anchor (Rig, Takes)"
        )
    return chosen.anchor


def _through(space: Workspace, slug: str, channel: str, anchor: str) -> _Through:
    """Raises ConflictError where it is not known what the source does to a side."""
    layout = space.layout(slug)
    layout.driver(channel)
    now = read_back(space, slug, head(space, slug).tune)
    there = feeds(space, slug)
    left = _feed_of(there, "left") or (None if anchor else _feed_of(there, "both"))
    beside = anchor not in ("", channel)  # the anchor itself plays alone, and is its own clock
    right = _feed_of(there, "right") if beside else None
    if left is None or (beside and right is None):
        which = "no wire" if not there else "no wire of the left and of the right side each"
        raise ConflictError(
            f"the source is to play, but {which} of it was recorded: record its wires under Source first, or let the "
            "interface play (Rig, Takes)"
        )
    alone = measuring(neutral(layout), layout, {channel, anchor} - {""})
    tune = processors.playable(space, slug, alone.model_copy(update={"inputs": now.inputs}))
    # What it was given to play through is what it is asked for again: the processor may keep less of it.
    does = scaled(space, slug, there, now)
    routing: dict[str, Sources] = {channel: _hears(left.input)}
    other = None
    if right is not None:
        # The marker is on both sides: of two that move against each other it could cancel out at the microphone.
        sign = -1.0 if _against(does[left.input], does[right.input], space.grid) else 1.0
        routing[anchor], other = _hears(right.input, sign), sign * does[right.input]
    tune = tune.model_copy(update={"routing": {**tune.routing, **routing}})
    return _Through(tune, does[left.input], other)


def _against(one: ComplexArray, other: ComplexArray, grid: FloatArray) -> bool:
    """Whether what is done to both sides (n,) moves against each other, over the marker's band."""
    inside = (grid >= MARKER_HZ[0]) & (grid <= MARKER_HZ[1])
    return bool(np.nansum((one * np.conj(other)).real[inside]) < 0)


def _feed_of(there: dict[int, Feed], side: str) -> Feed | None:
    """The feed that carries a side of the track alone; of several one of the front."""
    mine = [one for one in there.values() if one.wire.side == side]
    return min(mine, key=lambda one: one.meant.group != Group.FRONT, default=None)


def _hears(number: int, factor: float = 1.0) -> Sources:
    return (*(0.0 for _ in range(number - 1)), factor)


def _keep(
    space: Workspace,
    slug: str,
    asked: Asked,
    anchor: str,
    through: _Through,
    heard: Heard,
    rate: int,
    made_under: dict[str, object],
) -> int:
    """Judge what was heard, and keep it as a take with its evidence."""
    channel, angle = asked.channels[0], asked.angle
    # What the interface's inputs do is in the recording of the wires too, and goes out with the source.
    details = Details(
        **schedule_parts(heard.parts),
        clock=f"source:{anchor}@{made_under['position']}" if anchor else "",
        angle=angle,
        **{**made_under, "check": None},
    )
    details = details.model_copy(update={"matched_db": _turned_db(space, slug, anchor, details, through, heard)})
    shows = mended(space, details, "source", heard.driver.timed, heard.driver)
    filters = processors.predictor(space, slug).through(through.tune, (channel,))[0]
    alone = without_filters(shows.response, filters)
    agrees = None
    before = None if angle else there_before(space, slug, channel, details.position)
    if before is not None:
        same_clock = bool(before.timed and shows.timed and before.clock == details.clock)
        agrees = agreement(bare(space, before), alone, space.grid, *band(space, slug, before), same_clock)
    driver = space.layout(slug).driver(channel)
    evidence = gather(
        heard.microphone, None, heard.parts, shows, heard.repeats, space.grid, alone, driver.kind, driver.passive_to
    )
    details = details.model_copy(update={"evidence": evidence, "agrees": agrees})
    take_id = keep(
        space,
        slug,
        channels=asked.channels,
        purpose="driver",
        method="source",
        timed=shows.timed,
        through=through.tune,
        rate=rate,
        arrays=_arrays(heard, through),
        details=details,
        note=asked.note,
    )
    space.memory.put(READINGS, take_id, shows)
    if not angle:
        rounds.made(space, slug, channel, take_id)
    return take_id


def _arrays(heard: Heard, through: _Through) -> dict[str, FloatArray]:
    sides = [through.left] + ([] if through.right is None else [through.right])
    rows = [part for one in sides for part in (one.real, one.imag)]
    return {"microphone": heard.recorded, "source": np.stack(rows)}


def _turned_db(space: Workspace, slug: str, anchor: str, details: Details, through: _Through, heard: Heard) -> float:
    """What brings the anchor to the level that it had in the take of it that counts; zero where there is none yet."""
    before = there_before(space, slug, anchor, details.position) if anchor and heard.anchor else None
    if before is None or heard.anchor is None:
        return 0.0
    now = without_filters(
        _level_of(space, details, heard.anchor), processors.predictor(space, slug).through(through.tune, (anchor,))[0]
    )
    found = agreement(bare(space, before), now, space.grid, *band(space, slug, before), False)
    return 0.0 if found is None else -found.level_db


def _level_of(space: Workspace, details: Details, shows: Reading) -> ComplexArray:
    return mended(space, details, "source", shows.timed, shows).response
