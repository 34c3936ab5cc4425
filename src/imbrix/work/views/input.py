"""What Rig shows of an input as it is: waveform, spectrum and figures, live or of a recording."""

import numpy as np

from imbrix.core.measure.spectrum import Spectrum, stairs
from imbrix.core.measure.transfer import TransferSettings
from imbrix.core.signal.level import WEIGHTINGS, LevelMeter, band_levels, outline, stretch
from imbrix.core.signal.signal import FloatArray, decibels, power_decibels
from imbrix.core.signal.weighting import nominal
from imbrix.work.ground.workspace import Workspace
from imbrix.work.sound.level_log import SINE_DB, levels_of
from imbrix.work.takes.listening import HeardInput, as_sound, samples_of
from imbrix.work.takes.shelf import Take, take
from imbrix.work.views.facts import Stretched
from imbrix.work.views.picture import Picture

COLUMNS = 800
"""No more than the plot has pixels at its narrowest: of several points in one the plot drops what is even."""


def running(heard: HeardInput) -> Picture:
    """What an input does now. Bands are what they are, and a fine spectrum is not smoothed: its lines are what it is
    for."""
    drawn = Picture()
    _wave(drawn, heard.recent, heard.rate, -heard.recent.size / heard.rate)
    if heard.levels is not None:
        drawn.add("spectrum", heard.levels, "live", label="now")
    if heard.held is not None:
        drawn.add("held", heard.held, "compare", label="highest")
    return drawn


def _wave(drawn: Picture, samples: FloatArray, rate: int, start_s: float) -> None:
    at, least, most = outline(samples, COLUMNS)
    x = start_s + at / rate
    drawn.add("wave-least", least, "live", pane="wave", x=x)
    drawn.add("wave-most", most, "live", pane="wave", x=x)


def draw(
    space: Workspace,
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
    one = take(space, slug, take_id)
    if one.purpose != "raw":
        return
    samples, rate = samples_of(space, one)
    first, last = _span(shown, samples.size, rate)
    _wave(picture, samples[first:last], rate, first / rate)
    begin, end = _span(marked, samples.size, rate)
    picture.facts["raw"] = {
        "take_id": one.id,
        "seconds": samples.size / rate,
        "shown": (first / rate, last / rate),
        "rate": rate,
        **_figures(space, one, samples[begin:end], rate),
    }
    if end - begin >= 512:
        _marked_spectrum(space, picture, one, samples[begin:end], rate)


def _span(seconds: tuple[float, float], size: int, rate: int) -> tuple[int, int]:
    first, last = (round(one * rate) for one in seconds)
    first, last = max(0, first), min(size, last)
    return (first, last) if last - first >= 2 else (0, size)


def _figures(space: Workspace, one: Take, samples: FloatArray, rate: int) -> Stretched:
    found = stretch(samples, rate)
    scale = one.details.full_scale_db_spl
    meters = {kind: LevelMeter(rate, kind) for kind in WEIGHTINGS}
    for meter in meters.values():
        meter.feed(samples)
    octaves = _bands(space, one, samples, rate, 1)
    thirds = _bands(space, one, samples, rate, 3)
    return {
        "stretch": {
            "seconds": found.seconds,
            "once_hz": found.once_hz,
            "strongest_hz": found.strongest_hz,
            "peak_dbfs": float(decibels(np.array(found.peak))),
            "rms_dbfs": float(decibels(np.array(found.rms))) + SINE_DB,
            "crest_db": float(decibels(np.array(found.crest))),
        },
        "levels": {kind: levels_of(meter, scale) for kind, meter in meters.items()},
        "unit": "dBFS" if scale is None else "dB SPL",
        "octaves": octaves,
        "thirds": thirds,
    }


def _bands(space: Workspace, one: Take, samples: FloatArray, rate: int, fraction: int) -> list[tuple[float, float]]:
    """Nominal mid-band frequency and level of each band filter, the microphone divided out."""
    mids, power = band_levels(samples, rate, fraction)
    levels = power_decibels(power) + SINE_DB
    on_mids = np.interp(np.log(space.grid), np.log(mids), levels)
    heard = as_sound(space, on_mids, one.details.full_scale_db_spl, one.details.correction)
    adds = np.interp(np.log(mids), np.log(space.grid), heard - on_mids)
    return [(nominal(mid), round(float(level), 2)) for mid, level in zip(mids, levels + adds, strict=True)]


def _marked_spectrum(space: Workspace, picture: Picture, one: Take, samples: FloatArray, rate: int) -> None:
    """The spectrum of a stretch, in as long windows as it holds."""
    size = int(min(2**16, max(2**10, 2 ** int(np.log2(samples.size / 2 + 1)))))
    made = Spectrum(TransferSettings(size, "hann", None, rate, per_second=4 * rate / size))
    made.feed(samples if samples.size >= size else np.concatenate((samples, np.zeros(size - samples.size))))
    if made.count:
        fine = as_sound(space, made.fine(), one.details.full_scale_db_spl, one.details.correction)
        picture.add("spectrum", fine, "live", label="spectrum")
    thirds = picture.facts["raw"]["thirds"]
    mids = 1000 * 10 ** (np.round(10 * np.log10(np.array([mid for mid, _ in thirds]) / 1000)) / 10)
    levels = np.array([level for _, level in thirds])
    picture.add("thirds", stairs(mids, levels, 3), "sum", label="third octaves")
