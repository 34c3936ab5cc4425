"""A feed heard live: pink noise on its wire as it comes, and with what its input does by now, to be set by hand."""

import time
from contextlib import suppress
from dataclasses import dataclass

import numpy as np

from imbrix.core.measure.spectrum import Spectrum
from imbrix.core.measure.stimuli import shaped_noise
from imbrix.core.measure.transfer import TransferSettings
from imbrix.core.signal.signal import FloatArray, Looped, decibels
from imbrix.core.signal.smoothing import smooth_db
from imbrix.core.tune.routing import input_of
from imbrix.core.tune.tune import Tune
from imbrix.standins.head_unit import RATE
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.sound.recorder import Growing, Recorder, Stopped
from imbrix.work.source import feeds
from imbrix.work.source.recording import as_wav, clipped, leads_of
from imbrix.work.tune.revisions import head

LEVEL_DBFS = -18.0
PERIOD = 2**18
SECONDS = 1.5
"""Over so long the curve is averaged: it follows a knob, and lies still enough to be read."""
BANDS = 24
DRAWN_S = 0.1
"""No sooner is it drawn again, however fast the sound comes."""
LONGEST_S = 7200
LIES_HZ = (200.0, 5000.0)


@dataclass(frozen=True)
class HeardFeed:
    """What is heard of the wire of an input: levels (n,) in dB of pink noise as it comes, and with its input, so that a
    feed that was recorded lies on the first."""

    number: int
    comes: FloatArray
    does: FloatArray


def pink_wav(rate: int) -> bytes:
    """Pink noise, the same on both sides, as a WAV file of 16 bit, without a seam. Raises ConflictError."""
    return as_wav(pink, rate)


def pink(rate: int) -> FloatArray:
    """Pink noise (n, 2), the same on both sides."""
    return shaped_noise(PERIOD, rate, LEVEL_DBFS, channels=2)


def start(recorder: Recorder, slug: str, number: int, window: str = "") -> None:
    """Listen to the wire of an input (from 1) at the first lead, until it is stopped, following what is under the hand
    in a `window`. Raises ConflictError."""
    space = recorder.space
    used = leads_of(space, slug, (number,))
    rate = space.interface.rate
    spectrum = Spectrum(TransferSettings(2**15, "hann", SECONDS, rate))
    lies_db = _lies(space, slug, number)
    drawn_at = -np.inf

    def on_block(block: FloatArray) -> bool:
        nonlocal drawn_at
        if spectrum.feed(block[:, 0]) and time.monotonic() - drawn_at >= DRAWN_S:
            drawn_at = time.monotonic()
            # Pink noise is alike in every band of a width in octaves.
            mids, levels = spectrum.in_bands(BANDS)
            comes = np.interp(np.log(space.grid), np.log(mids), levels)
            inside = (space.grid >= LIES_HZ[0]) & (space.grid <= LIES_HZ[1]) & np.isfinite(comes)
            comes = comes - float(np.median(comes[inside])) + lies_db
            tune = recorder.drafts.get((slug, window)) or head(space, slug).tune
            does = comes + _does_db(space, slug, number, tune)
            recorder.say(averages=spectrum.count)
            recorder.growing = Growing(recorder.progress.version, (), HeardFeed(number, comes, does))
        return False

    def job() -> None:
        with suppress(Stopped), clipped(space, slug, pink(RATE), {used[0]: number}):
            recorder.play(
                Looped(np.zeros(4096), LONGEST_S * rate), inputs=used, on_block=on_block, clip=False, goes_on=True
            )
        recorder.stopping.clear()
        recorder.say(stage="done", message="", seconds_left=0.0)

    recorder.start("wire", job, project=slug, purpose="feed")


def _does_db(space: Workspace, slug: str, number: int, tune: Tune) -> FloatArray:
    """What an input does to the level (n,), in dB."""
    predictor = space.predictor_at(processors.model(space, slug).rate)
    return decibels(predictor.channel(input_of(tune, number).channel))


def _lies(space: Workspace, slug: str, number: int) -> float:
    """Where the feed as it was recorded is drawn, in the middle of its band; nought where it was not."""
    there = feeds.feeds(space, slug)
    one = there.get(number)
    if one is None:
        return 0.0
    known = np.isfinite(one.response) & (LIES_HZ[0] <= feeds.GRID) & (LIES_HZ[1] >= feeds.GRID)
    levels = smooth_db(np.nan_to_num(one.response), feeds.GRID, 6.0)
    return float(np.median(levels[known])) + feeds.raised_db(one, there.values())
