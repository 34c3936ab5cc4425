"""A band of noise played from the left, the right or both, until the next one."""

from typing import Literal

import numpy as np
from pydantic import Field

from imbrix.core.errors import ConflictError, InvalidError
from imbrix.core.measure.stimuli import polarity_pulses, shaped_noise
from imbrix.core.signal.signal import FloatArray, Looped, ratio
from imbrix.core.tune.tune import measuring
from imbrix.core.value import Value
from imbrix.standins.listener import hear
from imbrix.work.ground.workspace import Workspace
from imbrix.work.image.answers import Playing, answers, plays
from imbrix.work.image.bands import mids
from imbrix.work.processor.hold import measuring_through
from imbrix.work.processor.link import read_back, unsent
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import RUNNING, Recorder
from imbrix.work.tune.revisions import head

From = Literal["both", "left", "right"]
Sound = Literal["noise", "tone", "pulses"]
PERIOD = 2**18
"""So many samples of noise go round and round."""
PULSE_APART_S = 0.5


class Play(Value):
    """A band to be played: noise, a tone in its middle, or a pulse as short as half a period of that, twice a second.

    Without `hz` one is drawn that was heard least, and not told: for a person who wants to judge blind. The level is
    that of noise by its rms value, of a tone and a pulse by their peak.
    """

    sound: Sound = "noise"
    hz: float | None = Field(default=None, ge=20, le=20_000, allow_inf_nan=False)
    octaves: float = Field(default=1.0, gt=0.3, le=1, allow_inf_nan=False)
    side: From = "both"
    seconds: float = Field(default=60.0, ge=0.5, le=3600, allow_inf_nan=False)
    level_db: float = Field(default=-24.0, ge=-80, le=-12, allow_inf_nan=False)


def start(recorder: Recorder, slug: str, wanted: Play) -> None:
    """Play a band through the tune as it is in the processor; a band that plays ends for it.

    Raises NotHereError, and ConflictError while something is recorded, or with files.
    """
    space = recorder.space
    layout = space.layout(slug)
    if rig.rig(space).device == choices.FILE:
        raise ConflictError("with files, download a centre tone under Drivers and play it elsewhere")
    if recorder.progress.kind == "image" and recorder.progress.stage in RUNNING:
        recorder.abort(slug)
        recorder.wait()
    if unsent(space, slug):
        raise ConflictError("the processor does not do the tune yet: send it before its image is heard")
    band = _drawn(space, slug, wanted) if wanted.hz is None else Playing(hz=wanted.hz, octaves=wanted.octaves)
    playing = {one.id for one in layout.drivers if wanted.side == "both" or one.side in (wanted.side, "both")}
    if not playing:
        raise InvalidError(f"nothing stands on the {wanted.side} side")
    tune = head(space, slug).tune
    silent = {one for one in playing if not tune.audible(one)}
    through = measuring(read_back(space, slug, tune), layout, playing - silent)
    rate = space.interface.rate
    sound = Looped(_period(wanted, band, rate), round(wanted.seconds * rate))
    turn = len(answers(space, slug))

    def job() -> None:
        with measuring_through(space, slug, through):
            if rig.standin(space):
                heard = hear(space.standin, band.hz, band.octaves, turn)
                recorder.say(result={"places": list(heard)} if heard else {})
            recorder.play(sound, on_block=lambda _block: False, clip=False)
        recorder.say(stage="done", seconds_left=0.0)

    recorder.start("image", job, project=slug, channels=tuple(sorted(playing)), purpose=wanted.side)
    plays(space, slug, band)


def _period(wanted: Play, band: Playing, rate: int) -> FloatArray:
    """What goes round and round (n,), without a seam."""
    if wanted.sound == "pulses":
        return polarity_pulses(rate, wanted.level_db, band.hz, 1, PULSE_APART_S)
    if wanted.sound == "tone":
        whole = round(band.hz * PERIOD / rate)
        return np.asarray(ratio(wanted.level_db) * np.sin(2 * np.pi * whole * np.arange(PERIOD) / PERIOD))
    half = 2 ** (band.octaves / 2)
    return shaped_noise(PERIOD, rate, wanted.level_db, low_hz=band.hz / half, high_hz=band.hz * half)[:, 0]


def _drawn(space: Workspace, slug: str, wanted: Play) -> Playing:
    """One of the bands that were heard least."""
    known = mids(wanted.octaves)
    counts = dict.fromkeys(known, 0)
    for one in answers(space, slug):
        if one.heard.hz in counts:
            counts[one.heard.hz] += 1
    least = [hz for hz in known if counts[hz] == min(counts.values())]
    return Playing(hz=float(np.random.default_rng().choice(least)), octaves=wanted.octaves, blind=True)
