"""Recording a take: set the processor, count down, play, listen, put the processor back, judge, keep."""

from collections.abc import Callable

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.evidence.evidence import agreement, gather, refuse
from imbrix.core.measure.marker import Marker
from imbrix.core.measure.reading import read_impulse
from imbrix.core.measure.recording import aligned, read_repeats
from imbrix.core.measure.schedule import Schedule
from imbrix.core.signal.measures import without_filters
from imbrix.core.signal.signal import FloatArray, Sided
from imbrix.core.system.layout import Kind
from imbrix.core.tune.tune import Tune, measuring, neutral
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import measuring_through
from imbrix.work.processor.link import read_back, write_tune
from imbrix.work.rig import choices, devices, readiness, rig
from imbrix.work.sound.recorder import Recorder, Stopped
from imbrix.work.takes import rounds
from imbrix.work.takes.asked import Asked, Kept, TakeJob, start_take
from imbrix.work.takes.bands import band
from imbrix.work.takes.forces import counts_at, forces
from imbrix.work.takes.reading import READINGS, mended, sick
from imbrix.work.takes.reading import bare as bare_of
from imbrix.work.takes.shelf import Details, Purpose, Take, keep, schedule_parts, takes
from imbrix.work.tune.revisions import head

WIDE_MARKER_HZ = (500.0, 5000.0)
MARKER_HZ: dict[Kind, tuple[float, float]] = {
    Kind.SUB: (40.0, 160.0),
    Kind.WOOFER: (100.0, 600.0),
    Kind.MIDBASS: (200.0, 1200.0),
    Kind.MID: (700.0, 4500.0),
    Kind.TWEETER: (2500.0, 10_000.0),
}
"""The band of the marker by the kind of the anchor; others get the wide one."""
MARKER_S = 0.17


def start_sweep(
    recorder: Recorder,
    slug: str,
    channels: tuple[str, ...],
    purpose: Purpose,
    note: str = "",
    angle: float | None = None,
) -> None:
    """Begin a sweep take as the rig is set, heard from `angle` degrees off the axis.

    Raises ConflictError, NotHereError, InvalidError.
    """
    start_take(recorder, slug, Asked(channels, purpose, note, angle), sweep_take)


def sweep_take(recorder: Recorder, slug: str, asked: Asked) -> TakeJob:
    """A sweep take, made ready to be recorded: as the rig is set now, whatever is changed until then.

    Raises as `start_sweep`.
    """
    space = recorder.space
    through = going_through(space, slug, asked.channels, asked.purpose)
    for name in asked.inverting:
        through = through.with_channel(name, inverted=not through.channels[name].inverted)
    parts = schedule(space, slug)
    # What is changed while it sounds is of the next take: the microphone may be asked elsewhere already.
    chosen, made_under = rig.rig(space), conditions(space, slug, asked.place)

    def take() -> Kept:
        recorded = (
            waited(recorder, slug, through, "Play the file through this driver and bring the recording back.")
            if chosen.device == choices.FILE
            else _played(recorder, slug, parts, through)
        )
        recorder.computing()
        return Kept(keep_sweep(space, slug, asked, parts, through, recorded, chosen, made_under))

    return take


def going_through(space: Workspace, slug: str, channels: tuple[str, ...], purpose: Purpose) -> Tune:
    """What a take goes through: only its channels audible, fragile ones behind their guard."""
    layout = space.layout(slug)
    for channel in channels:
        layout.driver(channel)
    if not channels:
        raise ConflictError("no channel is chosen: there is nothing to record")
    # A driver is taken bare: through nothing but its guard. A proof takes what the processor holds.
    now = neutral(layout) if purpose == "driver" else read_back(space, slug, head(space, slug).tune)
    return processors.playable(space, slug, measuring(now, layout, set(channels)))


def schedule(space: Workspace, slug: str) -> Schedule:
    """What a take plays, as the rig is set. Raises ConflictError where the marker has no anchor."""
    chosen = rig.rig(space)
    sweep = chosen.sweep_settings
    if chosen.timing != "marker":
        return Schedule(sweep, chosen.sweep.repeats)
    layout = space.layout(slug)
    if chosen.anchor not in {driver.id for driver in layout.drivers}:
        raise ConflictError("time is to be kept by a marker, but no anchor driver is chosen: choose one under Rig")
    low, high = MARKER_HZ.get(layout.driver(chosen.anchor).kind, WIDE_MARKER_HZ)
    return Schedule(
        sweep,
        chosen.sweep.repeats,
        marker=Marker(low, high, round(MARKER_S * sweep.rate), sweep.rate, sweep.level_db),
    )


def _played(recorder: Recorder, slug: str, parts: Schedule, through: Tune) -> FloatArray:
    """Play a schedule through the processor; for a marker it changes over to the anchor and back in the gaps."""
    space = recorder.space
    layout = space.layout(slug)
    if parts.changes is None:
        with measuring_through(space, slug, through):
            return recorder.play(parts.samples())
    chosen = rig.rig(space)
    if on_second_output(space):
        # Nothing changes over: the anchor hears the second output alone, the driver the first. Both are wired so.
        measured = {one.id for one in layout.drivers if through.audible(one.id)}
        both = processors.playable(space, slug, measuring(through, layout, measured | {chosen.anchor}))
        # The anchor itself hears both outputs while it is measured.
        samples = parts.samples() if chosen.anchor in measured else Sided(parts.apart(), parts.size)
        with measuring_through(space, slug, both):
            return recorder.play(samples)
    anchor = processors.playable(space, slug, measuring(neutral(layout), layout, {chosen.anchor}))
    first, last = parts.changes

    def to(tune: Tune) -> Callable[[], None]:
        return lambda: write_tune(space, slug, tune)

    with measuring_through(space, slug, anchor):
        return recorder.play(parts.samples(), changes={first: to(through), last: to(anchor)})


def on_second_output(space: Workspace) -> bool:
    """Whether the marker is played on the second output. Raises ConflictError where the device has none to play on."""
    chosen = rig.rig(space)
    if chosen.timing != "marker" or chosen.marker_output == "same" or chosen.device == choices.STANDIN:
        return False
    found = devices.device(space, chosen.device)
    if chosen.device != choices.FILE and (chosen.output is not None or found is None or found.outputs < 2):
        raise ConflictError(
            "the marker is to come on the second output: let the device play on all of its outputs (Rig, Device), or "
            "let the marker come as the sweep does (Rig, Takes)"
        )
    return True


def waited(recorder: Recorder, slug: str, through: Tune, asks: str) -> FloatArray:
    """With the file device: the processor is set, and the recording that it `asks` for is waited for."""
    recorder.brought = None
    recorder.arrived.clear()
    if recorder.stopping.is_set():
        raise Stopped
    with measuring_through(recorder.space, slug, through):
        recorder.say(stage="waiting", message=asks)
        recorder.arrived.wait()
        if recorder.stopping.is_set() or recorder.brought is None:
            raise Stopped
    recorder.say(message="")
    return recorder.brought


def bring(recorder: Recorder, samples: FloatArray) -> None:
    """Hand over the recording (n, 1 or 2) that a take with the file device waits for. Raises ConflictError."""
    if recorder.progress.stage != "waiting":
        raise ConflictError("no take waits for a recording: press Record first")
    second = samples[:, 1] if samples.shape[1] > 1 else np.zeros(samples.shape[0])
    with recorder.space.lock:
        if recorder.brought is not None:
            raise ConflictError("a recording was brought for this take already: it is being computed")
        recorder.brought = np.stack((samples[:, 0], second), axis=1)
    recorder.arrived.set()


def keep_sweep(
    space: Workspace,
    slug: str,
    asked: Asked,
    schedule: Schedule,
    through: Tune,
    recorded: FloatArray,
    chosen: choices.Rig,
    made_under: dict[str, object],
) -> int:
    """Judge a recording (n, 2) that was made with a rig, under conditions, and keep it as a take with its evidence.

    Raises UnusableError.
    """
    channels, purpose, angle = asked.channels, asked.purpose, asked.angle
    recorded = aligned(recorded, schedule)
    microphone, loopback = recorded[:, 0], recorded[:, 1]
    refuse(microphone, loopback, schedule)
    looped = bool(np.abs(loopback).max() > 1e-4) and chosen.timing == "loopback"
    repeats = read_repeats(microphone, loopback if looped else None, schedule)
    by_marker = repeats.timing is not None
    raw = read_impulse(repeats.mean, timed=looped or by_marker)
    details = Details(
        **schedule_parts(schedule),
        clock="loopback" if looped else f"marker:{chosen.anchor}@{made_under['position']}" if by_marker else "",
        angle=angle,
        **made_under,
    )
    shows = mended(space, details, "sweep", raw.timed, raw)
    agrees = None
    bare = shows.response
    if purpose == "driver":
        bare = without_filters(bare, processors.predictor(space, slug).through(through, channels[:1])[0])
        before = there_before(space, slug, channels[0], details.position)
        if before is not None and not angle:
            low, high = band(space, slug, before)
            same_clock = before.timed and before.clock == (details.clock or "loopback") and shows.timed
            agrees = agreement(bare_of(space, before), bare, space.grid, low, high, same_clock)
    driver = space.layout(slug).driver(channels[0]) if purpose == "driver" else None
    of_kind = (driver.kind, driver.passive_to) if driver else ()
    evidence = gather(microphone, loopback if looped else None, schedule, shows, repeats, space.grid, bare, *of_kind)
    details = details.model_copy(update={"evidence": evidence, "agrees": agrees})
    take_id = keep(
        space,
        slug,
        channels=channels,
        purpose=purpose,
        method="sweep",
        timed=shows.timed,
        through=through,
        rate=schedule.sweep.rate,
        arrays={"microphone": microphone, **({"reference": loopback} if looped else {})},
        details=details,
        note=asked.note,
        level_db=schedule.sweep.level_db,
    )
    space.memory.put(READINGS, take_id, shows)
    if purpose == "driver" and not angle:
        rounds.made(space, slug, channels[0], take_id)
    return take_id


def there_before(space: Workspace, slug: str, channel: str, place: str) -> Take | None:
    """The take in force of a driver, or the newest one of a place where that is of another."""
    force = forces(space, slug).get(channel)
    if force is None or force.take.details.position == place:
        return force.take if force else None
    there = (one for one in takes(space, slug) if one.channels == (channel,) and counts_at(one) == place)
    return next((one for one in there if not sick(space, one)), None)


def conditions(space: Workspace, slug: str, place: str = "") -> dict[str, object]:
    """Under which conditions of the rig a take is made now, at a `place` or where the rig says."""
    chosen = rig.rig(space)
    return {
        "device": chosen.device,
        "correction": chosen.correction,
        "pointing": chosen.pointing,
        "position": rig.held_at(space, slug, place).name,
        "full_scale_db_spl": rig.full_scale(space),
        "check": chosen.check.made if chosen.check and "check" not in readiness.stale(space) else None,
    }
