"""Any input as it is: heard live as waveform and spectrum, levels logged for hours, stretches recorded and read."""

from dataclasses import asdict, dataclass, field
from functools import partial
from typing import Any, Literal

import numpy as np
from pydantic import Field

from imbrix.core.layout import Value
from imbrix.core.level import WEIGHTINGS, LevelMeter, Weighting, band_levels, outline, stretch
from imbrix.core.signal import FloatArray, Looped, decibels, power_decibels
from imbrix.core.smoothing import Fraction
from imbrix.core.spectrum import Spectrum, stairs
from imbrix.core.stimuli import shaped_noise
from imbrix.core.transfer import TransferSettings
from imbrix.core.weighting import nominal
from imbrix.formats.wav import write_wav
from imbrix.work import corrections, rig
from imbrix.work.desk import ConflictError, Desk, NotHereError
from imbrix.work.level_log import SINE_DB, LevelLog, scale_db, told
from imbrix.work.picture import Picture
from imbrix.work.player import LiveCurve, Recorder, Stopped
from imbrix.work.takes import Details, Take, arrays, keep, take
from imbrix.work.tuning import head

LONGEST_S = 24 * 3600
BLOCK = 2048
MOST_RECORDED_S = 300
SHOWN_S = 0.25
"""How much of the waveform is shown live."""
COLUMNS = 1000


class Listen(Value):
    """What to listen to, and how. `record_s` above zero keeps what is heard in that time as a take; `log` writes a row
    of levels each second. `fraction` 0 shows the spectrum fine, else in bands of an octave's fraction."""

    input: int = Field(default=0, ge=0, le=255)
    sound: Literal["nothing", "pink"] = "nothing"
    level_db: float = Field(default=-24.0, ge=-80, le=0)
    size: int = 2**15
    window: str = "hann"
    seconds: float | None = Field(default=1.0, ge=0.05, le=120)
    frames: int | None = Field(default=None, ge=1, le=100_000)
    fraction: Literal[0, 1, 3] = 3
    hold: bool = False
    record_s: float = Field(default=0.0, ge=0, le=MOST_RECORDED_S)
    log: bool = False


@dataclass
class _Run:
    choice: Listen
    spectrum: Spectrum
    meters: dict[Weighting, LevelMeter]
    rate: int
    recent: FloatArray
    blocks: list[FloatArray] = field(default_factory=list)
    held: FloatArray | None = None


def start(recorder: Recorder, slug: str, choice: Listen) -> None:
    """Begin to listen to one input. Raises ConflictError, ValueError."""
    desk = recorder.desk
    chosen = rig.rig(desk)
    if chosen.device == rig.FILE:
        raise ConflictError("with files there is nothing to listen to: choose a sound card under Rig")
    if choice.input >= chosen.known_inputs:
        raise ConflictError(f"there is no input {choice.input + 1}")
    rate = desk.interface.rate
    settings = TransferSettings(choice.size, choice.window, choice.seconds, rate, frames=choice.frames)
    meters = {kind: LevelMeter(rate, kind) for kind in WEIGHTINGS}
    run = _Run(choice, Spectrum(settings), meters, rate, np.zeros(round(SHOWN_S * rate)))
    seconds = choice.record_s or LONGEST_S
    period = np.zeros(2**12)
    if choice.sound == "pink":
        period = shaped_noise(2**17, rate, choice.level_db)[:, 0]
    log = LevelLog(desk, scale_db(desk, choice.input)) if choice.log else None

    def on_block(block: FloatArray) -> bool:
        heard = block[:, 0]
        run.recent = np.concatenate((run.recent, heard))[-run.recent.size :]
        for meter in meters.values():
            meter.feed(heard)
        if log:
            log.feed(heard)
        if choice.record_s:
            run.blocks.append(heard.astype(np.float32))
        if run.spectrum.feed(heard) or not run.spectrum.count:
            _show(recorder, desk, run)
        return False

    def job() -> None:
        try:
            recorder.play(
                Looped(period, round(seconds * rate)),
                on_block=on_block,
                inputs=(choice.input,),
                per_block=BLOCK,
                clip=False,
            )
        except Stopped:
            pass
        finally:
            if log:
                log.close()
        recorder.stopping.clear()
        if not choice.record_s or not run.blocks:
            recorder.say(stage="done", message="", seconds_left=0.0)
            return
        recorder.computing()
        samples = np.concatenate(run.blocks)
        take_id = keep(
            desk,
            slug,
            channels=(),
            purpose="raw",
            method="raw",
            timed=False,
            through=head(desk, slug).tune,
            rate=rate,
            arrays={"samples": samples},
            details=Details(
                input=choice.input,
                device=chosen.device,
                correction=chosen.correction if choice.input == chosen.microphone_input else None,
                full_scale_db_spl=scale_db(desk, choice.input),
            ),
            note=chosen.input_names[choice.input] if choice.input < len(chosen.input_names) else "",
        )
        recorder.say(stage="kept", take_id=take_id, result={"doubt": False})

    recorder.start("listen", job, purpose="raw")


def _show(recorder: Recorder, desk: Desk, run: _Run) -> None:
    """Do what was asked for, and make the picture as it is now."""
    if "reset" in recorder.asked:
        recorder.asked.discard("reset")
        run.spectrum.reset()
        run.held = None
        for meter in run.meters.values():
            meter.restart()
    scale = scale_db(desk, run.choice.input)
    shown = {kind: told(asdict(meter.levels()), scale) for kind, meter in run.meters.items()}
    recorder.say(
        result={"levels": shown, "unit": "dBFS" if scale is None else "dB SPL"},
        averages=run.spectrum.count,
    )
    levels = _spectrum(desk, run) if run.spectrum.count else None
    if levels is not None and run.choice.hold:
        run.held = levels if run.held is None else np.fmax(run.held, levels)
    recorder.live = LiveCurve(
        recorder.progress.version, (), partial(_live, run.recent.copy(), run.rate, levels, run.held)
    )


def _spectrum(desk: Desk, run: _Run) -> FloatArray:
    """The running spectrum on the common grid (n,) in dBFS or, of the microphone, dB SPL with it divided out."""
    if run.choice.fraction:
        levels = stairs(*run.spectrum.in_bands(run.choice.fraction), run.choice.fraction)
    else:
        levels = run.spectrum.fine()
    return _sound(desk, levels, scale_db(desk, run.choice.input), rig.rig(desk).correction)


def _sound(desk: Desk, levels: FloatArray, scale: float | None, correction: int | None) -> FloatArray:
    """Levels (n,) on the grid, where a full-scale sine is 0, as sound where a microphone was on the input."""
    if scale is None:
        return levels
    if correction is not None:
        levels = levels - decibels(corrections.on_grid(desk, correction))
    return levels - SINE_DB + scale


def _live(
    recent: FloatArray, rate: int, levels: FloatArray | None, held: FloatArray | None, smoothing: Fraction
) -> Picture:
    del smoothing  # bands are what they are, and a fine spectrum is not smoothed: its lines are what it is for
    drawn = Picture()
    _wave(drawn, recent, rate, -recent.size / rate)
    if levels is not None:
        drawn.add("spectrum", levels, "live", label="now")
    if held is not None:
        drawn.add("held", held, "compare", label="highest")
    return drawn


def _wave(drawn: Picture, samples: FloatArray, rate: int, start_s: float) -> None:
    at, least, most = outline(samples, COLUMNS)
    x = start_s + at / rate
    drawn.add("wave-least", least, "live", pane="wave", x=x)
    drawn.add("wave-most", most, "live", pane="wave", x=x)


def draw(
    desk: Desk,
    slug: str,
    picture: Picture,
    take_id: int | None,
    shown: tuple[float, float],
    marked: tuple[float, float],
) -> None:
    """Add a recorded input: its waveform over the seconds `shown`, and the figures and spectrum of those `marked`.

    Empty spans stand for the whole.
    """
    if take_id is None:
        return
    one = take(desk, slug, take_id)
    if one.purpose != "raw":
        return
    samples, rate = _samples(desk, one)
    first, last = _span(shown, samples.size, rate)
    _wave(picture, samples[first:last], rate, first / rate)
    begin, end = _span(marked, samples.size, rate)
    picture.facts["raw"] = {
        "take_id": one.id,
        "seconds": samples.size / rate,
        "shown": [first / rate, last / rate],
        "rate": rate,
        **_figures(desk, one, samples[begin:end], rate),
    }
    if end - begin >= 512:
        _marked_spectrum(desk, picture, one, samples[begin:end], rate)


def _samples(desk: Desk, one: Take) -> tuple[FloatArray, int]:
    known = desk.raw.get(one.id)
    if known is None:
        data, rate = arrays(desk, one.id)
        known = (data["samples"], rate)
        desk.raw = {one.id: known}  # recordings are long: one at a time is kept at hand
    return known


def _span(seconds: tuple[float, float], size: int, rate: int) -> tuple[int, int]:
    first, last = (round(one * rate) for one in seconds)
    first, last = max(0, first), min(size, last)
    return (first, last) if last - first >= 2 else (0, size)


def _figures(desk: Desk, one: Take, samples: FloatArray, rate: int) -> dict[str, Any]:
    found = stretch(samples, rate)
    scale = one.details.full_scale_db_spl
    meters = {kind: LevelMeter(rate, kind) for kind in WEIGHTINGS}
    for meter in meters.values():
        meter.feed(samples)
    octaves = _bands(desk, one, samples, rate, 1)
    thirds = _bands(desk, one, samples, rate, 3)
    return {
        "stretch": {
            "seconds": found.seconds,
            "once_hz": found.once_hz,
            "strongest_hz": found.strongest_hz,
            "peak_dbfs": float(decibels(np.array(found.peak))),
            "rms_dbfs": float(decibels(np.array(found.rms))) + SINE_DB,
            "crest_db": float(decibels(np.array(found.crest))),
        },
        "levels": {kind: told(asdict(meter.levels()), scale) for kind, meter in meters.items()},
        "unit": "dBFS" if scale is None else "dB SPL",
        "octaves": octaves,
        "thirds": thirds,
    }


def _bands(desk: Desk, one: Take, samples: FloatArray, rate: int, fraction: int) -> list[tuple[float, float]]:
    """Nominal mid-band frequency and level of each band filter, the microphone divided out."""
    mids, power = band_levels(samples, rate, fraction)
    levels = power_decibels(power) + SINE_DB
    on_mids = np.interp(np.log(desk.grid), np.log(mids), levels)
    as_sound = _sound(desk, on_mids, one.details.full_scale_db_spl, one.details.correction)
    adds = np.interp(np.log(mids), np.log(desk.grid), as_sound - on_mids)
    return [(nominal(mid), round(float(level), 2)) for mid, level in zip(mids, levels + adds, strict=True)]


def _marked_spectrum(desk: Desk, picture: Picture, one: Take, samples: FloatArray, rate: int) -> None:
    """The spectrum of a stretch, in as long windows as it holds."""
    size = int(min(2**16, max(2**10, 2 ** int(np.log2(samples.size / 2 + 1)))))
    made = Spectrum(TransferSettings(size, "hann", None, rate, per_second=4 * rate / size))
    made.feed(samples if samples.size >= size else np.concatenate((samples, np.zeros(size - samples.size))))
    if made.count:
        fine = _sound(desk, made.fine(), one.details.full_scale_db_spl, one.details.correction)
        picture.add("spectrum", fine, "live", label="spectrum")
    thirds = picture.facts["raw"]["thirds"]
    mids = 1000 * 10 ** (np.round(10 * np.log10(np.array([mid for mid, _ in thirds]) / 1000)) / 10)
    levels = np.array([level for _, level in thirds])
    picture.add("thirds", stairs(mids, levels, 3), "sum", label="third octaves")


def as_wav(desk: Desk, slug: str, take_id: int) -> bytes:
    """A recorded input as 32-bit float WAV. Raises NotHereError."""
    one = take(desk, slug, take_id)
    if one.purpose != "raw":
        raise NotHereError(f"take {take_id} is no recording of an input")
    return write_wav(*_samples(desk, one), "FLOAT")
