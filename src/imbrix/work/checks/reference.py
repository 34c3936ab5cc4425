"""The reference level: by a calibrator, or by a level meter beside pink noise."""

import numpy as np

from imbrix.core.errors import ConflictError, InvalidError, UnusableError
from imbrix.core.measure.stimuli import shaped_noise
from imbrix.core.signal.signal import FloatArray, Looped, decibels
from imbrix.core.signal.weighting import c_weighting
from imbrix.core.tune.tune import measuring, neutral
from imbrix.work.checks.listening import weighted_level, with_sound
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor.hold import measuring_through
from imbrix.work.rig import choices, rig
from imbrix.work.sound.recorder import Recorder


def start_calibrate(recorder: Recorder, level_db: float) -> None:
    """Listen to a calibrator of a known level at 1 kHz on the microphone. Its tone must stand clear."""
    space = recorder.space
    chosen = with_sound(space)
    if level_db not in (94.0, 114.0):
        raise InvalidError(f"calibrators give 94 or 114 dB, not {level_db:g}")

    def job() -> None:
        heard = recorder.play(np.zeros(2 * chosen.rate))[round(0.5 * chosen.rate) :, 0]
        level, hertz, clear = tone(heard, chosen.rate)
        if clear < 20:
            raise UnusableError(
                f"no tone stands out near 1 kHz ({clear:.0f} dB clear): put the calibrator on the microphone and "
                "switch it on",
                "calibrator",
            )
        _reference(space, level_db - level, f"a calibrator of {level_db:g} dB at {hertz:.0f} Hz")
        recorder.say(stage="done", done=1.0)

    recorder.start("calibrate", job)


def tone(samples: FloatArray, rate: int) -> tuple[float, float, float]:
    """Level in dBFS (rms) and frequency of the strongest tone from 900 to 1100 Hz, and how far it stands out in dB.

    The level is read from the flat-topped part of a flat-top window's spectrum, within 0.01 dB.
    """
    from scipy.signal.windows import flattop

    window = flattop(samples.size, sym=False)
    spectrum = np.abs(np.fft.rfft(samples * window)) / window.sum() * np.sqrt(2)
    hertz = np.fft.rfftfreq(samples.size, 1 / rate)
    inside = np.flatnonzero((hertz > 900) & (hertz < 1100))
    top = inside[int(np.argmax(spectrum[inside]))]
    around = np.median(spectrum[inside])
    return float(decibels(spectrum[top])), float(hertz[top]), float(decibels(spectrum[top] / (around + 1e-15)))


def start_by_meter(recorder: Recorder, slug: str, channel: str) -> None:
    """Play pink noise through a driver until stopped, so that a level meter can be read; its own level is kept.

    The level of the microphone input is C-weighted, with the microphone's correction; `by_meter` turns the reading
    into the reference level.
    """
    space = recorder.space
    chosen = with_sound(space)
    layout = space.layout(slug)
    layout.driver(channel)
    rate = chosen.rate
    through = measuring(neutral(layout), layout, {channel})
    pink = shaped_noise(2**17, rate, chosen.sweep.level_db, low_hz=30, high_hz=12_000)[:, 0]

    def job() -> None:
        heard: list[FloatArray] = []

        def on_block(block: FloatArray) -> bool:
            heard.append(block[:, 0])
            if len(heard) > 24:
                heard.pop(0)
            if len(heard) > 12:
                level = weighted_level(space, np.concatenate(heard), rate, c_weighting)
                reads = space.standin.meter_db_c if rig.standin(space) else None
                recorder.say(result={"level_dbfs_c": level, "meter_db_c": reads})
            return False

        with measuring_through(space, slug, through):
            recorder.play(Looped(pink, 12 * pink.size), on_block=on_block)
        recorder.say(stage="done")

    recorder.start("signal", job, project=slug, channels=(channel,))


def by_meter(recorder: Recorder, reading_db_c: float) -> None:
    """Set the reference level by what a level meter (C) read while the pink noise played. Raises ConflictError."""
    result = recorder.progress.result or {}
    if "level_dbfs_c" not in result:
        raise ConflictError("play the pink noise first: the reading is compared with what the microphone hears of it")
    _reference(recorder.space, reading_db_c - float(result["level_dbfs_c"]), f"a level meter at {reading_db_c:g} dB C")


def _reference(space: Workspace, full_scale_db_spl: float, how: str) -> None:
    if not 40 <= full_scale_db_spl <= 200:
        raise UnusableError(
            f"by this, full scale would be {full_scale_db_spl:.0f} dB SPL, which no microphone does: check the reading",
            "calibrator",
        )
    chosen = rig.rig(space)
    done = choices.ReferenceDone(
        made=choices.now(),
        full_scale_db_spl=full_scale_db_spl,
        how=how,
        device=chosen.device,
        input=chosen.microphone_input,
        correction=chosen.correction,
    )
    rig.update(space, reference=done)
