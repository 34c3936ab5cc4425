"""Checks of the rig: interface loop, level, reference level, the plain microphone's correction."""

from collections.abc import Callable

import numpy as np

from imbrix.core.loop import read_loop, verdict
from imbrix.core.microphone import disagreement, plain_correction
from imbrix.core.reading import UnusableError
from imbrix.core.signal import FloatArray, Looped, decibels
from imbrix.core.stimuli import shaped_noise
from imbrix.core.sweep import SweepSettings, exponential_sweep
from imbrix.core.tune import measuring, neutral
from imbrix.core.weighting import OCTAVES_HZ, a_weighting, c_weighting
from imbrix.work import corrections, rig
from imbrix.work.desk import ConflictError, Desk
from imbrix.work.player import Recorder, measuring_through, silenced
from imbrix.work.takes import reading, take

RUNS = 5
QUIET_S = 0.5
AIM_DBFS = (-24.0, -12.0)
"""Peaks at the input should lie in this window (common practice, no source)."""


def start_interface_check(recorder: Recorder) -> None:
    """Play five short sweeps through the looped interface and say line by line what it does."""
    desk = recorder.desk
    chosen = _with_sound(desk)
    settings = SweepSettings(5.0, 0.48 * chosen.rate, 2**15, chosen.sweep.level_db, 0.3, chosen.rate)
    quiet = round(QUIET_S * chosen.rate)
    stimulus = np.concatenate((np.zeros(quiet), exponential_sweep(settings).samples))

    def job() -> None:
        runs = []
        with silenced(desk):  # the output is still on the processor as well
            for n in range(RUNS):
                recorder.say(message=f"Run {n + 1} of {RUNS}")
                runs.append(recorder.play(stimulus, clip=False))
        recorder.say(stage="computing", message="")
        try:
            _stop_if_exchanged(runs[0])
            found = read_loop(runs, stimulus, quiet, chosen.rate)
        except ValueError as error:
            if isinstance(error, UnusableError):
                raise
            raise UnusableError(str(error), "loop") from None
        lines = verdict(found)
        made = rig.now()
        done = rig.CheckDone(
            made=made,
            device=chosen.device,
            rate=chosen.rate,
            lines=tuple(lines),
            latency=float(found.latencies.mean()),
            noise_dbfs=found.noise_dbfs,
        )
        rig.keep_check(desk, done, found.response, found.against_reference)
        recorder.say(stage="done", done=1.0, seconds_left=0.0, result={"made": made})

    recorder.start("check", job)


def _stop_if_exchanged(run: FloatArray) -> None:
    microphone, reference = (float(np.abs(run[:, n]).max()) for n in (0, 1))
    if microphone < 1e-3 < reference:
        raise UnusableError(
            "only the reference input hears the output: the loop cable is in the other input, or the two are exchanged",
            "exchanged",
        )


def _with_sound(desk: Desk) -> rig.Rig:
    chosen = rig.rig(desk)
    if chosen.device == rig.FILE:
        raise ConflictError("with files there is nothing to listen to: choose a sound card under Device")
    return chosen


def start_level(recorder: Recorder, slug: str, channel: str) -> None:
    """Listen to the quiet, then to pink noise through one driver; peak, noise and signal over noise by octave."""
    desk = recorder.desk
    chosen = _with_sound(desk)
    layout = desk.layout(slug)
    layout.driver(channel)
    rate = chosen.rate
    through = measuring(neutral(layout), layout, {channel})
    pink = shaped_noise(2**17, rate, chosen.sweep.level_db)[:, 0]

    def job() -> None:
        recorder.say(message="The quiet first")
        with measuring_through(desk, layout, through):
            quiet = recorder.play(np.zeros(rate))[:, 0]
            recorder.say(message="Now pink noise")
            loud = recorder.play(pink)[round(0.2 * rate) :, 0]
        over = {
            f"{middle:g}": round(float(10 * np.log10(_octave(loud, middle, rate) / _octave(quiet, middle, rate))), 1)
            for middle in OCTAVES_HZ
        }
        done = rig.LevelDone(
            made=rig.now(),
            peak_dbfs=float(decibels(np.abs(loud).max())),
            noise_dbfs=float(decibels(np.sqrt(np.mean(quiet[rate // 10 :] ** 2)))),
            over_noise_db=over,
            quiet_db_a=weighted_level(desk, quiet[rate // 10 :], rate, a_weighting) + rig.full_scale(desk),
        )
        rig.keep(desk, rig.rig(desk).model_copy(update={"level": done}))
        recorder.say(stage="done", message="")

    recorder.start("level", job, channels=(channel,))


def level_advice(level: rig.LevelDone | None) -> str:
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


def start_calibrate(recorder: Recorder, level_db: float) -> None:
    """Listen to a calibrator of a known level at 1 kHz on the microphone. Its tone must stand clear."""
    desk = recorder.desk
    chosen = _with_sound(desk)
    if level_db not in (94.0, 114.0):
        raise ValueError(f"calibrators give 94 or 114 dB, not {level_db:g}")

    def job() -> None:
        heard = recorder.play(np.zeros(2 * chosen.rate))[round(0.5 * chosen.rate) :, 0]
        level, hertz, clear = tone(heard, chosen.rate)
        if clear < 20:
            raise UnusableError(
                f"no tone stands out near 1 kHz ({clear:.0f} dB clear): put the calibrator on the microphone and "
                "switch it on",
                "calibrator",
            )
        _reference(desk, level_db - level, f"a calibrator of {level_db:g} dB at {hertz:.0f} Hz")
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
    desk = recorder.desk
    chosen = _with_sound(desk)
    layout = desk.layout(slug)
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
                level = weighted_level(desk, np.concatenate(heard), rate, c_weighting)
                reads = desk.standin.meter_db_c if rig.standin(desk) else None
                recorder.say(result={"level_dbfs_c": level, "meter_db_c": reads})
            return False

        with measuring_through(desk, layout, through):
            recorder.play(Looped(pink, 12 * pink.size), on_block=on_block)
        recorder.say(stage="done")

    recorder.start("signal", job, channels=(channel,))


Weighting = Callable[[FloatArray], FloatArray]


def weighted_level(desk: Desk, samples: FloatArray, rate: int, weighting: Weighting) -> float:
    """Weighted level of the microphone input (n,) in dBFS rms, with the correction in use divided out."""
    spectrum = np.abs(np.fft.rfft(samples)) ** 2
    hertz = np.asarray(np.fft.rfftfreq(samples.size, 1 / rate), dtype=float)
    weight = np.zeros(hertz.size)
    weight[1:] = weighting(hertz[1:])
    correction = rig.rig(desk).correction
    if correction is not None:
        weight[1:] /= np.abs(corrections.correction(desk, correction).curve.on(hertz[1:]))
    inside = (hertz > 15) & (hertz < 20_000)
    return float(10 * np.log10(2 * np.sum((spectrum * weight**2)[inside]) / samples.size**2 + 1e-30))


def by_meter(recorder: Recorder, reading_db_c: float) -> None:
    """Set the reference level by what a level meter (C) read while the pink noise played. Raises ConflictError."""
    result = recorder.progress.result or {}
    if "level_dbfs_c" not in result:
        raise ConflictError("play the pink noise first: the reading is compared with what the microphone hears of it")
    _reference(recorder.desk, reading_db_c - float(result["level_dbfs_c"]), f"a level meter at {reading_db_c:g} dB C")


def _reference(desk: Desk, full_scale_db_spl: float, how: str) -> None:
    if not 40 <= full_scale_db_spl <= 200:
        raise UnusableError(
            f"by this, full scale would be {full_scale_db_spl:.0f} dB SPL, which no microphone does: check the reading",
            "calibrator",
        )
    chosen = rig.rig(desk)
    done = rig.ReferenceDone(
        made=rig.now(),
        full_scale_db_spl=full_scale_db_spl,
        how=how,
        device=chosen.device,
        input=chosen.microphone_input,
        correction=chosen.correction,
    )
    rig.keep(desk, chosen.model_copy(update={"reference": done, "gain_suspect": ""}))


def make_correction(desk: Desk, slug: str, known_id: int, plain_id: int, name: str) -> dict[str, float | int]:
    """A correction for a plain microphone from two takes of one driver at one spot: corrected, and plain.

    Raises ConflictError or ValueError where they do not fit together.
    """
    known, plain = take(desk, slug, known_id), take(desk, slug, plain_id)
    if known.id == plain.id or known.channels != plain.channels:
        raise ConflictError(
            "choose two takes of the same driver: one with the corrected microphone, one with the plain"
        )
    if known.details.position != plain.details.position:
        raise ConflictError("the two takes were made at different places of the microphone")
    if known.details.correction is None:
        raise ConflictError("the first take has no microphone correction: nothing is known to compare with")
    first, second = reading(desk, known), reading(desk, plain)
    bare_plain = second.response
    if plain.details.correction is not None:
        bare_plain = bare_plain * corrections.on_grid(desk, plain.details.correction)
    found = plain_correction(first.response, first.over_noise_db, bare_plain, second.over_noise_db, desk.grid)
    pointing = plain.details.pointing or "source"
    new = corrections.add(desk, name, pointing, "made here", found.correction)
    return {"id": new, "low_hz": found.low_hz, "high_hz": found.high_hz}


def verify_correction(desk: Desk, slug: str, known_id: int, plain_id: int) -> dict[str, float | bool]:
    """Whether a fresh pair of corrected takes agrees within 1 dB, both as they are corrected now."""
    known, plain = take(desk, slug, known_id), take(desk, slug, plain_id)
    if plain.details.correction is None or known.details.correction is None:
        raise ConflictError("both takes need a correction: choose the new one for the plain microphone's take")
    kept = corrections.correction(desk, plain.details.correction).curve
    first, second = reading(desk, known).response, reading(desk, plain).response
    flat = kept.on(desk.grid)
    worst, where, rms = disagreement(first, second * flat, kept, desk.grid)
    return {"worst_db": worst, "worst_hz": where, "rms_db": rms, "agrees": worst <= 1.0}
