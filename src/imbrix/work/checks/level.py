"""The level test: the quiet, then pink noise through one driver."""

import numpy as np

from imbrix.core.errors import UnusableError
from imbrix.core.measure.recording import lag_of
from imbrix.core.measure.stimuli import shaped_noise
from imbrix.core.signal.signal import FloatArray, decibels
from imbrix.core.signal.weighting import OCTAVES_HZ, a_weighting
from imbrix.core.tune.tune import measuring, neutral
from imbrix.work.checks.listening import weighted_level, with_sound
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import measuring_through
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Recorder

AIM_DBFS = (-24.0, -12.0)
"""Peaks at the input should lie in this window (common practice, no source)."""
QUIET_S, LEAST_QUIET_S = 2.0, 0.5
"""How much quiet comes before the noise, and how much of it a recording made elsewhere has to hold."""


def start_level(recorder: Recorder, slug: str, channel: str) -> None:
    """Listen to the quiet, then to pink noise through one driver; peak, noise and signal over noise by octave."""
    space = recorder.space
    chosen = with_sound(space)
    layout = space.layout(slug)
    layout.driver(channel)
    rate = chosen.rate
    through = measuring(neutral(layout), layout, {channel})
    pink = _pink(chosen)

    def job() -> None:
        recorder.say(message="The quiet first")
        with measuring_through(space, slug, through):
            quiet = recorder.play(np.zeros(rate))[:, 0]
            recorder.say(message="Now pink noise")
            loud = recorder.play(pink)[round(0.2 * rate) :, 0]
        _found(space, quiet[rate // 10 :], loud, rate)
        recorder.say(stage="done", message="")

    recorder.start("level", job, project=slug, channels=(channel,))


def _pink(chosen: choices.Rig) -> FloatArray:
    return shaped_noise(2**17, chosen.rate, chosen.sweep.level_db)[:, 0]


def played(space: Workspace) -> FloatArray:
    """What is played elsewhere for the test (n,): the quiet, then pink noise."""
    chosen = rig.rig(space)
    return np.concatenate((np.zeros(round(QUIET_S * chosen.rate)), _pink(chosen)))


def bring(space: Workspace, samples: FloatArray) -> None:
    """Read the test from a recording (n,) of what `played` gives, at the rig's rate, made elsewhere.

    Raises UnusableError where it does not hold that noise, or too little of the quiet before it.
    """
    rate = rig.rig(space).rate
    sound = played(space)
    lag = lag_of(samples, sound)
    if lag is None:
        raise UnusableError("the recording does not hold the noise of the level test: play level.wav and record it")
    begins = lag + round(QUIET_S * rate)
    quiet = samples[max(0, lag) : max(0, begins - round(0.02 * rate))]
    loud = samples[max(0, begins + round(0.2 * rate)) : lag + sound.size]
    if quiet.size < LEAST_QUIET_S * rate or loud.size < rate:
        raise UnusableError("the recording began too late or was stopped too early: it should hold the quiet before")
    _found(space, quiet, loud, rate)


def _found(space: Workspace, quiet: FloatArray, loud: FloatArray, rate: int) -> None:
    over = {
        f"{middle:g}": round(float(10 * np.log10(_octave(loud, middle, rate) / _octave(quiet, middle, rate))), 1)
        for middle in OCTAVES_HZ
    }
    done = choices.LevelDone(
        made=choices.now(),
        peak_dbfs=float(decibels(np.abs(loud).max())),
        noise_dbfs=float(decibels(np.sqrt(np.mean(quiet**2)))),
        over_noise_db=over,
        quiet_db_a=weighted_level(space, quiet, rate, a_weighting) + rig.full_scale(space),
    )
    rig.update(space, level=done)


def level_advice(level: choices.LevelDone | None) -> str:
    """What to do about the input gain; empty where peaks lie in the window, or nothing was tried."""
    if level is None or AIM_DBFS[0] <= level.peak_dbfs <= AIM_DBFS[1]:
        return ""
    return (
        "below the window: raise the input gain"
        if level.peak_dbfs < AIM_DBFS[0]
        else "above the window: lower the input gain"
    )


def _octave(samples: FloatArray, middle: float, rate: int) -> float:
    """Mean power of samples within an octave."""
    spectrum = np.abs(np.fft.rfft(samples * np.hanning(samples.size))) ** 2
    hertz = np.fft.rfftfreq(samples.size, 1 / rate)
    inside = (hertz >= middle / 2**0.5) & (hertz < middle * 2**0.5)
    return float(spectrum[inside].mean() / samples.size + 1e-30) if inside.any() else 1e-30
