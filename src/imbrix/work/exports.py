"""What leaves the project as files: curves, impulses, settings, coefficients, the sweep with its description."""

import io
import json
import zipfile
from dataclasses import asdict
from typing import Literal

import numpy as np
import scipy.fft

from imbrix.core.reading import EARLY_S
from imbrix.core.signal import Impulse, decibels, ratio
from imbrix.core.sweep import SweepSettings, exponential_sweep
from imbrix.formats.settings import sections_json, settings_csv, settings_json
from imbrix.formats.text_curve import write_curve
from imbrix.formats.wav import write_wav
from imbrix.work import corrections, rig
from imbrix.work.desk import NOMINAL_FULL_SCALE, ConflictError, Desk
from imbrix.work.takes import Take, bare, reading, take
from imbrix.work.tuning import head

Sheet = Literal["settings.json", "settings.csv", "sections.json"]


def sheet(desk: Desk, slug: str, which: Sheet) -> str:
    """The present revision as one of the settings files."""
    now = head(desk, slug)
    layout = desk.layout(slug)
    title = f"{slug}, revision {now.number}"
    if which == "settings.csv":
        return settings_csv(now.tune, layout)
    if which == "settings.json":
        return settings_json(now.tune, layout, title)
    return sections_json(now.tune, layout, desk.processor.limits.rate, title)


def response_text(desk: Desk, slug: str, take_id: int) -> str:
    """The response of a take as text: of a driver bare, of a proof as it was measured."""
    one = take(desk, slug, take_id)
    values = bare(desk, one) if one.purpose == "driver" else reading(desk, one).response
    known = np.isfinite(values)
    degrees = np.zeros(values.size)
    degrees[known] = np.degrees(np.angle(values[known]))
    levels = np.where(known, decibels(np.where(known, values, 1.0)) + desk.offset_db, np.nan)
    names = ", ".join(desk.layout(slug).driver(name).name for name in one.channels)
    phase = degrees if one.timed else None
    return write_curve(desk.grid, levels, phase, f"{names}, take {take_id}, dB SPL at -24 dBFS drive")


def impulse_wav(desk: Desk, slug: str, take_id: int, seconds: float = 0.6) -> bytes:
    """The impulse response of a take as 32-bit float WAV, its first sample at time zero, filters included."""
    one = take(desk, slug, take_id)
    if one.method in ("text", "moving"):
        raise ConflictError("this take shows levels only: it has no impulse response")
    shows = _mended(desk, one)
    first = shows.zero if one.timed else max(0, shows.zero - round(EARLY_S * shows.rate))
    return write_wav(shows.samples[first : first + round(seconds * shows.rate)], shows.rate, "FLOAT")


def _mended(desk: Desk, one: Take) -> Impulse:
    """The impulse of a take with microphone and interface divided out, held constant beyond 20 Hz and 20 kHz."""
    shows = reading(desk, one).impulse
    if one.method == "impulse":
        return shows
    hertz = scipy.fft.rfftfreq(shows.samples.size, 1 / shows.rate)
    adds = np.ones(hertz.size, dtype=complex)
    at = np.clip(hertz, desk.grid[0], desk.grid[-1])
    if one.details.correction is not None:
        adds *= corrections.correction(desk, one.details.correction).curve.on(at)
    if one.details.check is not None:
        own = rig.check_curve(desk, one.details.check, against_reference=one.clock == "loopback")
        if own is not None:
            adds *= np.interp(at, desk.grid, own.real) + 1j * np.interp(at, desk.grid, own.imag)
    if one.details.full_scale_db_spl is not None:
        adds /= ratio(one.details.full_scale_db_spl - NOMINAL_FULL_SCALE)
    samples = scipy.fft.irfft(scipy.fft.rfft(shows.samples) / adds, shows.samples.size)
    return Impulse(samples, shows.rate, shows.zero)


def sweep_package(settings: SweepSettings) -> bytes:
    """A zip with the sweep as WAV and its description, which an upload of the recording needs."""
    sweep = exponential_sweep(settings)
    description = {
        "what": "Exponential sweep with faded ends and silence after it",
        **asdict(settings),
        "how": "Play sweep.wav through one driver and record it. Upload the recording with these figures; "
        "a second recorded channel with the loopback keeps time between takes.",
    }
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as package:
        package.writestr("sweep.wav", write_wav(sweep.samples, sweep.rate))
        package.writestr("sweep.json", json.dumps(description, indent=2))
    return out.getvalue()
