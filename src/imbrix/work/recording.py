"""Recording a take: set the processor, count down, play, listen, put the processor back, judge, keep."""

from collections.abc import Callable
from functools import partial

import numpy as np

from imbrix.core.evidence import agreement, gather, refuse
from imbrix.core.layout import Kind
from imbrix.core.marker import Marker
from imbrix.core.measures import usable_band, without_filters
from imbrix.core.moving import MovingAverage, Running, window_power
from imbrix.core.reading import UnusableError, read_impulse
from imbrix.core.recording import aligned, read_repeats
from imbrix.core.schedule import Schedule
from imbrix.core.signal import FloatArray, Looped
from imbrix.core.smoothing import smooth
from imbrix.core.stimuli import shaped_noise
from imbrix.core.tune import Tune, measuring, neutral
from imbrix.core.verdict import verdict
from imbrix.work import readiness, rig, rounds
from imbrix.work.desk import ConflictError, Desk
from imbrix.work.forces import forces
from imbrix.work.growing import running
from imbrix.work.link import read_back, registers, write_all
from imbrix.work.player import LiveCurve, Recorder, Stopped, measuring_through
from imbrix.work.takes import Details, Purpose, Take, keep, mended, schedule_parts, takes
from imbrix.work.takes import bare as bare_of
from imbrix.work.tuning import head

WIDE_MARKER_HZ = (500.0, 5000.0)
MARKER_HZ: dict[Kind, tuple[float, float]] = {
    Kind.SUB: (40.0, 160.0),
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

    Raises ConflictError, NotHereError, KeyError, ValueError.
    """
    desk = recorder.desk
    through = _through(desk, slug, channels, purpose)
    parts = schedule(desk, slug)
    chosen = rig.rig(desk)

    def job() -> None:
        recorder.countdown(chosen.sweep.countdown_s)
        recorded = (
            _waited(recorder, slug, through) if chosen.device == rig.FILE else _played(recorder, slug, parts, through)
        )
        recorder.computing()
        take_id = keep_sweep(desk, slug, channels, purpose, parts, through, recorded, note, angle)
        doubt = any(one["weight"] == "doubt" for one in troubles_of(desk, slug).get(take_id, []))
        recorder.say(stage="kept", take_id=take_id, result={"doubt": doubt})

    recorder.start("take", job, channels=channels, purpose=purpose)


def _through(desk: Desk, slug: str, channels: tuple[str, ...], purpose: Purpose) -> Tune:
    """What a take goes through: only its channels audible, fragile ones behind their guard."""
    layout = desk.layout(slug)
    for channel in channels:
        layout.driver(channel)
    if not channels:
        raise ConflictError("no channel is chosen: there is nothing to record")
    # A driver is taken bare: through nothing but its guard. A proof takes what the processor holds.
    now = neutral(layout) if purpose == "driver" else read_back(desk, layout, head(desk, slug).tune)
    return measuring(now, layout, set(channels))


def schedule(desk: Desk, slug: str) -> Schedule:
    """What a take plays, as the rig is set. Raises ConflictError where the marker has no anchor."""
    chosen = rig.rig(desk)
    sweep = chosen.sweep_settings
    if chosen.timing != "marker":
        return Schedule(sweep, chosen.sweep.repeats)
    layout = desk.layout(slug)
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
    desk = recorder.desk
    layout = desk.layout(slug)
    if parts.changes is None:
        with measuring_through(desk, layout, through):
            return recorder.play(parts.samples())
    anchor = measuring(neutral(layout), layout, {rig.rig(desk).anchor})
    first, last = parts.changes

    def to(tune: Tune) -> Callable[[], None]:
        return lambda: write_all(desk, registers(tune, layout))

    with measuring_through(desk, layout, anchor):
        return recorder.play(parts.samples(), changes={first: to(through), last: to(anchor)})


def _waited(recorder: Recorder, slug: str, through: Tune) -> FloatArray:
    """With the file device: the processor is set, and the recording is waited for."""
    recorder.brought = None
    with measuring_through(recorder.desk, recorder.desk.layout(slug), through):
        recorder.say(stage="waiting", message="Play the file through this driver and bring the recording back.")
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
    recorder.brought = np.stack((samples[:, 0], second), axis=1)
    recorder.arrived.set()


def keep_sweep(
    desk: Desk,
    slug: str,
    channels: tuple[str, ...],
    purpose: Purpose,
    schedule: Schedule,
    through: Tune,
    recorded: FloatArray,
    note: str = "",
    angle: float | None = None,
) -> int:
    """Judge a recording (n, 2) and keep it as a take with its evidence. Raises UnusableError."""
    chosen = rig.rig(desk)
    recorded = aligned(recorded, schedule)
    microphone, loopback = recorded[:, 0], recorded[:, 1]
    refuse(microphone, loopback, schedule)
    looped = bool(np.abs(loopback).max() > 1e-4) and chosen.timing == "loopback"
    repeats = read_repeats(microphone, loopback if looped else None, schedule)
    by_marker = repeats.timing is not None
    raw = read_impulse(repeats.mean, timed=looped or by_marker)
    details = Details(
        **schedule_parts(schedule),
        clock="loopback" if looped else f"marker:{chosen.anchor}@{chosen.position}" if by_marker else "",
        angle=angle,
        **conditions(desk),
    )
    shows = mended(desk, details, "sweep", raw.timed, raw)
    agrees = None
    bare = shows.response
    if purpose == "driver":
        bare = without_filters(bare, desk.predictor.channel(through.channels[channels[0]], through.common))
        before = forces(desk, slug).get(channels[0])
        low, high = usable_band(bare, desk.grid)
        if before is not None and low < high and not angle:
            same_clock = before.take.timed and before.take.clock == (details.clock or "loopback") and shows.timed
            agrees = agreement(bare_of(desk, before.take), bare, desk.grid, low, high, same_clock)
    evidence = gather(microphone, loopback if looped else None, schedule, shows, repeats, desk.grid, bare)
    details = details.model_copy(update={"evidence": evidence, "agrees": agrees})
    take_id = keep(
        desk,
        slug,
        channels=channels,
        purpose=purpose,
        method="sweep",
        timed=shows.timed,
        through=through,
        rate=schedule.sweep.rate,
        arrays={"microphone": microphone, **({"reference": loopback} if looped else {})},
        details=details,
        note=note,
        level_db=schedule.sweep.level_db,
    )
    desk.readings[take_id] = shows
    if purpose == "driver" and not angle:
        rounds.made(desk, slug, channels[0], take_id)
    return take_id


def conditions(desk: Desk) -> dict[str, object]:
    """Under which conditions of the rig a take is made now."""
    chosen = rig.rig(desk)
    return {
        "device": chosen.device,
        "correction": chosen.correction,
        "pointing": chosen.pointing,
        "position": chosen.position,
        "full_scale_db_spl": rig.full_scale(desk),
        "check": chosen.check.made if chosen.check and "check" not in readiness.stale(desk) else None,
    }


def start_moving(recorder: Recorder, slug: str, channels: tuple[str, ...], purpose: Purpose, note: str = "") -> None:
    """Begin a moving-microphone take: the quiet first, then pink noise until enough averages, or until stopped."""
    desk = recorder.desk
    if rig.rig(desk).device == rig.FILE:
        raise ConflictError("a moving-microphone take needs a sound card; with files, bring a sweep or a curve")
    through = _through(desk, slug, channels, purpose)
    chosen = rig.rig(desk)
    settings = chosen.moving_settings

    def job() -> None:
        recorder.countdown(chosen.sweep.countdown_s)
        layout = desk.layout(slug)
        pink = shaped_noise(settings.size, settings.rate, settings.level_db)[:, 0]
        expected = window_power(pink, settings)
        quiet = MovingAverage(settings, expected)
        loud = MovingAverage(settings, expected)
        ended = False

        def hear(average: MovingAverage) -> Callable[[FloatArray], bool]:
            def on_block(block: FloatArray) -> bool:
                if average.feed(block[:, 0]) and average is loud:
                    now = average.running()
                    assert now is not None
                    recorder.say(
                        averages=now.count, change_db=now.change_db, done=min(1.0, now.count / settings.averages)
                    )
                    draw = partial(running, desk, channels, now)
                    recorder.live = LiveCurve(now.count, channels, draw)
                return average.count >= (1 if average is quiet else settings.averages)

            return on_block

        with measuring_through(desk, layout, through):
            recorder.play(np.zeros(settings.size), on_block=hear(quiet))
            sound = Looped(pink, settings.samples + settings.size)
            try:
                recorder.play(sound, moving=True, on_block=hear(loud))
            except Stopped:
                # Space ends a moving take: what was averaged is kept when it is enough to mean something.
                if loud.count < 10:
                    raise
                ended = True
        recorder.stopping.clear()
        recorder.computing()
        result, noise = loud.running(), quiet.running()
        assert result is not None
        take_id = _keep_moving(desk, slug, channels, purpose, through, result, noise, note)
        recorder.say(
            stage="kept",
            take_id=take_id,
            averages=result.count,
            message=f"Stopped after {result.count} averages; they are kept." if ended else "",
        )

    recorder.start("moving", job, channels=channels, purpose=purpose)


def _keep_moving(
    desk: Desk,
    slug: str,
    channels: tuple[str, ...],
    purpose: Purpose,
    through: Tune,
    result: Running,
    noise: Running | None,
    note: str,
) -> int:
    over = np.full(desk.grid.size, 120.0)
    if noise is not None:
        loud, quiet = (smooth(np.nan_to_num(one.power), desk.grid, 3) for one in (result, noise))
        over = 10 * np.log10(np.maximum(loud, 1e-30) / np.maximum(quiet, 1e-30))
    if np.nanmax(over) < 10:
        raise UnusableError(
            "the pink noise is no louder than the quiet before it: the source is muted, the amplifier is off, or "
            "another input is chosen",
            "muted",
        )
    values = np.where(over >= 6, np.sqrt(result.power), np.nan)
    details = Details(
        length=rig.rig(desk).moving.size,
        level_db=rig.rig(desk).moving.level_db,
        averages=result.count,
        band_hz=tuple(np.round(result.bands_hz, 2).tolist()),
        band_db=tuple(np.round(result.band_db, 3).tolist()),
        change_db=result.change_db,
        **conditions(desk),
    )
    take_id = keep(
        desk,
        slug,
        channels=channels,
        purpose=purpose,
        method="moving",
        timed=False,
        through=through,
        rate=desk.interface.rate,
        arrays={"response": np.stack((values, np.zeros(values.size))), "over": over},
        details=details,
        note=note,
        level_db=rig.rig(desk).moving.level_db,
    )
    if purpose == "driver":
        rounds.made(desk, slug, channels[0], take_id)
    return take_id


def troubles_of(desk: Desk, slug: str, known: list[Take] | None = None) -> dict[int, list[dict[str, str]]]:
    """The verdict on each take that has evidence, by its id: pure, from what was measured when it was made."""
    layout = desk.layout(slug)
    all_takes = takes(desk, slug) if known is None else known
    latest: dict[str, float] = {}
    for one in all_takes:
        if one.purpose == "driver" and not one.discarded and one.details.evidence and one.timed:
            latest.setdefault(one.channels[0], one.details.evidence.arrival_ms)
    found = {}
    for one in all_takes:
        evidence = one.details.evidence
        if evidence is None:
            continue
        kind = layout.driver(one.channels[0]).kind if one.purpose == "driver" else None
        others = tuple(ms for name, ms in latest.items() if name != one.channels[0])
        said = verdict(evidence, kind, one.details.agrees, one.timed, others if kind else ())
        found[one.id] = [trouble.model_dump(mode="json") for trouble in said]
    return found
