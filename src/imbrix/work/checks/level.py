"""The level test: the quiet, then pink noise through one driver."""

import numpy as np

from imbrix.core.measure.stimuli import shaped_noise
from imbrix.core.signal.signal import FloatArray, decibels
from imbrix.core.signal.weighting import OCTAVES_HZ, a_weighting
from imbrix.core.tune.tune import measuring, neutral
from imbrix.work.checks.listening import weighted_level, with_sound
from imbrix.work.processor.hold import measuring_through
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Recorder

AIM_DBFS = (-24.0, -12.0)
"""Peaks at the input should lie in this window (common practice, no source)."""


def start_level(recorder: Recorder, slug: str, channel: str) -> None:
    """Listen to the quiet, then to pink noise through one driver; peak, noise and signal over noise by octave."""
    space = recorder.space
    chosen = with_sound(space)
    layout = space.layout(slug)
    layout.driver(channel)
    rate = chosen.rate
    through = measuring(neutral(layout), layout, {channel})
    pink = shaped_noise(2**17, rate, chosen.sweep.level_db)[:, 0]

    def job() -> None:
        recorder.say(message="The quiet first")
        with measuring_through(space, slug, through):
            quiet = recorder.play(np.zeros(rate))[:, 0]
            recorder.say(message="Now pink noise")
            loud = recorder.play(pink)[round(0.2 * rate) :, 0]
        over = {
            f"{middle:g}": round(float(10 * np.log10(_octave(loud, middle, rate) / _octave(quiet, middle, rate))), 1)
            for middle in OCTAVES_HZ
        }
        done = choices.LevelDone(
            made=choices.now(),
            peak_dbfs=float(decibels(np.abs(loud).max())),
            noise_dbfs=float(decibels(np.sqrt(np.mean(quiet[rate // 10 :] ** 2)))),
            over_noise_db=over,
            quiet_db_a=weighted_level(space, quiet[rate // 10 :], rate, a_weighting) + rig.full_scale(space),
        )
        rig.update(space, level=done)
        recorder.say(stage="done", message="")

    recorder.start("level", job, project=slug, channels=(channel,))


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
