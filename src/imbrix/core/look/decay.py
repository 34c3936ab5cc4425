"""How sound dies away: slices of a waterfall, a spectrogram, and decay times by band.

Decay times: backward integration by M. R. Schroeder, JASA 37 (1965); EDT, T20, T30 and the quality of the fit after
ISO 3382-1:2009 and ISO 3382-2:2008.
"""

from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them
import scipy.fft

from imbrix.core.signal.response import arrival
from imbrix.core.signal.signal import FloatArray, Impulse, decibels


@dataclass(frozen=True, slots=True)
class DecayMap:
    """Level in dB, `levels` (t, n), at `seconds` (t,) after the arrival and at the frequencies asked for."""

    seconds: FloatArray
    levels: FloatArray


def waterfall(
    impulse: Impulse, frequencies: FloatArray, seconds: float, window_s: float, rise_s: float, slices: int = 60
) -> DecayMap:
    """Spectra of what is left of the impulse from later and later on.

    Each slice begins with a rising half-cosine of `rise_s` and is as long as `window_s`; the bass that a window can
    tell apart is 1 / window_s. Defaults for bass in a cabin: 0.4 s with a window of 0.3 s.
    """
    rate = impulse.rate
    start = round(arrival(impulse) * rate) + impulse.zero
    long, rise = round(window_s * rate), max(2, round(rise_s * rate))
    shape = np.ones(long)
    shape[:rise] = np.sin(np.linspace(0, np.pi / 2, rise)) ** 2
    shape[-long // 3 :] *= np.cos(np.linspace(0, np.pi / 2, shape[-long // 3 :].size)) ** 2
    times = np.linspace(0, seconds, slices)
    return DecayMap(times, _spectra(impulse, start + np.round(times * rate).astype(int) - rise, shape, frequencies))


def spectrogram(
    impulse: Impulse, frequencies: FloatArray, seconds: float, window_s: float, slices: int = 160
) -> DecayMap:
    """Spectra of short windows that travel along the impulse: when which frequency is there."""
    rate = impulse.rate
    start = round(arrival(impulse) * rate) + impulse.zero
    long = max(16, round(window_s * rate))
    times = np.linspace(-window_s / 2, seconds, slices)
    firsts = start + np.round(times * rate).astype(int) - long // 2
    return DecayMap(times, _spectra(impulse, firsts, np.hanning(long), frequencies))


def _spectra(impulse: Impulse, firsts: np.ndarray, shape: FloatArray, frequencies: FloatArray) -> FloatArray:
    """Levels (t, n) of windowed stretches that begin at `firsts` (t,), interpolated on the frequencies asked for."""
    padded = np.concatenate((np.zeros(shape.size), impulse.samples, np.zeros(shape.size)))
    index = np.clip(firsts[:, None] + shape.size, 0, padded.size - shape.size) + np.arange(shape.size)
    size = scipy.fft.next_fast_len(max(shape.size, 4096), real=True)
    power = np.abs(scipy.fft.rfft(padded[index] * shape, size, axis=1))
    hertz = scipy.fft.rfftfreq(size, 1 / impulse.rate)
    place = np.interp(frequencies, hertz, np.arange(hertz.size))
    low = np.minimum(place.astype(int), hertz.size - 2)
    part = place - low
    return decibels(power[:, low] * (1 - part) + power[:, low + 1] * part)


STRAIGHT = 0.9
"""A decay less straight than this has no one time: its correlation coefficient over the stretch of T30."""


@dataclass(frozen=True, slots=True)
class DecayTimes:
    """Seconds for 60 dB by three stretches of the decay; NaN where the noise does not allow them. `quality` is the
    correlation coefficient of the T20 line, 1 for a straight decay."""

    edt: float
    t20: float
    t30: float
    quality: float


def schroeder(samples: FloatArray) -> FloatArray:
    """Backward-integrated energy (n,) in dB, 0 at the start."""
    energy = np.cumsum(samples[::-1] ** 2)[::-1]
    return 10 * np.log10(np.maximum(energy / max(energy[0], 1e-300), 1e-20))


def decay_times(impulse: Impulse, mid_hz: float, fraction: int = 3) -> DecayTimes:
    """Decay times in a 1/`fraction`-octave band; the integration ends where the decay meets the noise."""
    half = 10 ** (0.3 / (2 * fraction))
    rate = impulse.rate
    sos = scipy.signal.butter(3, [mid_hz / half, min(mid_hz * half, 0.49 * rate)], "bandpass", fs=rate, output="sos")
    start = max(0, round(arrival(impulse) * rate) + impulse.zero)
    # Filtered backwards in time, the filter's own ringing falls before the decay instead of into it.
    band = scipy.signal.sosfiltfilt(sos, impulse.samples)[start:]
    frame = max(16, round(4 / mid_hz * rate))
    count = band.size // frame
    if count < 8:
        return DecayTimes(np.nan, np.nan, np.nan, np.nan)
    levels = 10 * np.log10(np.mean(band[: count * frame].reshape(count, frame) ** 2, axis=1) + 1e-30)
    noise = float(np.median(levels[-max(3, count // 5) :]))
    above = np.flatnonzero(levels > noise + 8)
    end = int((above[-1] + 1) * frame) if above.size and levels.max() - noise > 15 else band.size
    endless = bool(levels[-1] < levels.max() - 90)
    if endless:
        end = band.size
    curve = schroeder(band[:end])
    seconds = np.arange(curve.size) / rate
    edt, _ = _line(seconds, curve, 0.0, -10.0)
    t20, quality = _line(seconds, curve, -5.0, -25.0)
    t30, straight = _line(seconds, curve, -5.0, -35.0)
    room = 120.0 if endless else float(levels.max() - noise)
    return DecayTimes(edt, t20 if room > 35 else np.nan, t30 if room > 45 and straight > STRAIGHT else np.nan, quality)


def _line(seconds: FloatArray, curve: FloatArray, top: float, bottom: float) -> tuple[float, float]:
    """Time for 60 dB by a straight line through the stretch between two levels, and how straight it is."""
    inside = (curve <= top) & (curve >= bottom)
    if inside.sum() < 8 or curve.min() > bottom:
        return np.nan, np.nan
    slope, _ = np.polyfit(seconds[inside], curve[inside], 1)
    quality = float(abs(np.corrcoef(seconds[inside], curve[inside])[0, 1]))
    return float(-60.0 / slope) if slope < 0 else np.nan, quality
