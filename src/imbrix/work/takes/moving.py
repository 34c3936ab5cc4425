"""Moving-microphone takes: pink noise averaged while the microphone goes round the head."""

from collections.abc import Callable

import numpy as np

from imbrix.core.errors import ConflictError, UnusableError
from imbrix.core.measure.moving import MovingAverage, MovingSettings, Running, window_power
from imbrix.core.measure.stimuli import shaped_noise
from imbrix.core.signal.signal import FloatArray, Looped
from imbrix.core.signal.smoothing import smooth
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import measuring_through
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Growing, Recorder, Stopped
from imbrix.work.takes import rounds
from imbrix.work.takes.recording import Kept, TakeJob, conditions, going_through
from imbrix.work.takes.shelf import Details, Purpose, keep


def start_moving(recorder: Recorder, slug: str, channels: tuple[str, ...], purpose: Purpose, note: str = "") -> None:
    """Begin a moving-microphone take: the quiet first, then pink noise until enough averages, or until stopped."""
    take = moving_take(recorder, slug, channels, purpose, note)
    countdown_s = rig.rig(recorder.space).sweep.countdown_s

    def job() -> None:
        recorder.countdown(countdown_s)
        kept = take()
        averages = recorder.progress.averages
        message = f"Stopped after {averages} averages; they are kept." if kept.ended else ""
        recorder.say(stage="kept", take_id=kept.id, message=message)

    recorder.start("moving", job, project=slug, channels=channels, purpose=purpose)


def moving_take(
    recorder: Recorder, slug: str, channels: tuple[str, ...], purpose: Purpose, note: str = "", place: str = ""
) -> TakeJob:
    """A moving-microphone take, made ready to be recorded: as the rig is set now, about a `place` or where it says."""
    space = recorder.space
    if rig.rig(space).device == choices.FILE:
        raise ConflictError("a moving-microphone take needs a sound card; with files, bring a sweep or a curve")
    through = going_through(space, slug, channels, purpose)
    # What is changed while it sounds is of the next take.
    made_under = conditions(space, slug, place)
    settings = rig.rig(space).moving_settings

    def take() -> Kept:
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
                    recorder.growing = Growing(now.count, channels, now)
                return average.count >= (1 if average is quiet else settings.averages)

            return on_block

        with measuring_through(space, slug, through):
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
        recorder.say(averages=result.count)
        return Kept(
            _keep_moving(space, slug, channels, purpose, through, result, noise, note, settings, made_under), ended
        )

    return take


def _keep_moving(
    space: Workspace,
    slug: str,
    channels: tuple[str, ...],
    purpose: Purpose,
    through: Tune,
    result: Running,
    noise: Running | None,
    note: str,
    settings: MovingSettings,
    made_under: dict[str, object],
) -> int:
    over = np.full(space.grid.size, 120.0)
    if noise is not None:
        loud, quiet = (smooth(np.nan_to_num(one.power), space.grid, 3) for one in (result, noise))
        over = 10 * np.log10(np.maximum(loud, 1e-30) / np.maximum(quiet, 1e-30))
    if np.nanmax(over) < 10:
        raise UnusableError(
            "the pink noise is no louder than the quiet before it: the source is muted, the amplifier is off, or "
            "another input is chosen",
            "muted",
        )
    values = np.where(over >= 6, np.sqrt(result.power), np.nan)
    details = Details(
        length=settings.size,
        level_db=settings.level_db,
        averages=result.count,
        band_hz=tuple(np.round(result.bands_hz, 2).tolist()),
        band_db=tuple(np.round(result.band_db, 3).tolist()),
        change_db=result.change_db,
        **made_under,
    )
    take_id = keep(
        space,
        slug,
        channels=channels,
        purpose=purpose,
        method="moving",
        timed=False,
        through=through,
        rate=space.interface.rate,
        arrays={"response": np.stack((values, np.zeros(values.size))), "over": over},
        details=details,
        note=note,
        level_db=settings.level_db,
    )
    if purpose == "driver":
        rounds.made(space, slug, channels[0], take_id)
    return take_id
