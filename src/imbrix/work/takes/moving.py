"""Moving-microphone takes: pink noise averaged while the microphone goes round the head."""

from collections.abc import Callable

import numpy as np

from imbrix.core.errors import ConflictError, UnusableError
from imbrix.core.measure.moving import MovingAverage, MovingSettings, Running, window_power
from imbrix.core.measure.stimuli import shaped_noise
from imbrix.core.signal.signal import FloatArray, Looped, Samples
from imbrix.core.signal.smoothing import smooth
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import measuring_through
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Growing, Recorder, Stopped
from imbrix.work.takes import rounds
from imbrix.work.takes.asked import Asked, Kept, TakeJob, start_take
from imbrix.work.takes.recording import conditions, going_through
from imbrix.work.takes.shelf import Details, Purpose, keep

LEAST_AVERAGES = 10
"""Fewer mean nothing."""


def start_moving(recorder: Recorder, slug: str, channels: tuple[str, ...], purpose: Purpose, note: str = "") -> None:
    """Begin a moving-microphone take: the quiet first, then pink noise until enough averages, or until stopped."""
    start_take(recorder, slug, Asked(channels, purpose, note), moving_take, "moving")


def moving_take(recorder: Recorder, slug: str, asked: Asked) -> TakeJob:
    """A moving-microphone take, made ready to be recorded: as the rig is set now, about a place or where it says."""
    space = recorder.space
    if rig.rig(space).device == choices.FILE:
        raise ConflictError("a moving-microphone take needs a sound card; with files, bring a sweep or a curve")
    through = going_through(space, slug, asked.channels, asked.purpose)
    # What is changed while it sounds is of the next take.
    made_under = conditions(space, slug, asked.place)
    settings = rig.rig(space).moving_settings

    def take() -> Kept:
        pink = shaped_noise(settings.size, settings.rate, settings.level_db)[:, 0]
        walk = Walk(recorder, settings, asked.channels)
        with measuring_through(space, slug, through):
            walk.listen_to_the_quiet()
            walk.go(Looped(pink, settings.samples + settings.size))
        heard = walk.ended_with(), walk.noise
        take_id = keep_moving(space, slug, asked, through, *heard, settings, made_under)
        return Kept(take_id, walk.ended)

    return take


class Walk:
    """What is averaged while the microphone goes round, and of the quiet before it."""

    def __init__(self, recorder: Recorder, settings: MovingSettings, channels: tuple[str, ...]) -> None:
        pink = shaped_noise(settings.size, settings.rate, settings.level_db)[:, 0]
        expected = window_power(pink, settings)
        self._recorder, self._settings, self._channels = recorder, settings, channels
        self._quiet, self._loud = MovingAverage(settings, expected), MovingAverage(settings, expected)
        self.ended = False
        """Whether a person ended it before its time."""

    @property
    def noise(self) -> Running | None:
        return self._quiet.running()

    def listen_to_the_quiet(self) -> None:
        """Raises Stopped."""

        def on_block(block: FloatArray) -> bool:
            self._quiet.feed(block[:, 0])
            return self._quiet.count >= 1

        self._recorder.play(np.zeros(self._settings.size), on_block=on_block)

    def go(self, sound: Samples) -> None:
        """Play a sound until enough is averaged. Raises Stopped where it ended before it means anything."""
        try:
            self._recorder.play(sound, moving=True, on_block=self._hear)
        except Stopped:
            # Space ends a moving take: what was averaged is kept when it is enough to mean something.
            if self._loud.count < LEAST_AVERAGES:
                raise
            self.ended = True

    def _hear(self, block: FloatArray) -> bool:
        enough = self._settings.averages
        # A long block may hold more than one average: what comes after the last that was asked for is left out.
        pieces = np.split(block[:, 0], range(self._settings.hop, block.shape[0], self._settings.hop))
        if sum(self._loud.feed(one) for one in pieces if self._loud.count < enough):
            now = self._loud.running()
            assert now is not None
            self._recorder.say(averages=now.count, change_db=now.change_db, done=min(1.0, now.count / enough))
            self._recorder.growing = Growing(now.count, self._channels, now)
        return self._loud.count >= enough

    def ended_with(self) -> Running:
        """What was averaged, when the walk is over."""
        self._recorder.stopping.clear()
        self._recorder.computing()
        result = self._loud.running()
        assert result is not None
        self._recorder.say(averages=result.count)
        return result


def keep_moving(
    space: Workspace,
    slug: str,
    asked: Asked,
    through: Tune,
    result: Running,
    noise: Running | None,
    settings: MovingSettings,
    made_under: dict[str, object],
    bare_of: Callable[[FloatArray], FloatArray] = lambda values: values,
) -> int:
    """Judge an average and keep it; `bare_of` takes out of its magnitudes (n,) what is not the system's."""
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
    values = bare_of(np.where(over >= 6, np.sqrt(result.power), np.nan))
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
        channels=asked.channels,
        purpose=asked.purpose,
        method="moving",
        timed=False,
        through=through,
        rate=space.interface.rate,
        arrays={"response": np.stack((values, np.zeros(values.size))), "over": over},
        details=details,
        note=asked.note,
        level_db=settings.level_db,
    )
    if asked.purpose == "driver":
        rounds.made(space, slug, asked.channels[0], take_id)
    return take_id
