"""Test signals: noise, multitone, sine, pulses, band-limited tones and sweeps.

All are plain functions that give samples (n,) or (n, channels); levels are dBFS, of the peak where a signal has a
defined one and of the rms value for noise and multitone.
"""

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them
import scipy.fft

from imbrix.core.errors import TooLoudError
from imbrix.core.signal.signal import FloatArray, ratio
from imbrix.core.signal.weighting import bands


def _fits(samples: FloatArray, level_db: float) -> FloatArray:
    top = float(np.abs(samples).max())
    if top > 1.0:
        raise TooLoudError(
            f"at {level_db:g} dBFS rms the peaks of this signal reach {20 * np.log10(top):+.1f} dBFS: "
            f"at most {level_db - 20 * np.log10(top):.1f} dBFS is possible"
        )
    return samples


def shaped_noise(
    size: int,
    rate: int,
    level_db: float,
    *,
    pink: bool = True,
    low_hz: float = 20.0,
    high_hz: float = 20_000.0,
    channels: int = 1,
    correlated: bool = True,
    seed: int = 1,
) -> FloatArray:
    """Periodic noise (size, channels) of random phase between two frequencies, white or pink (-3.01 dB per octave).

    Its magnitude is exact in every line of a transform of `size` points; after `size` samples it repeats without
    a seam. The ends of its band lie between the bins. Raises TooLoudError where a peak would clip.
    """
    random = np.random.default_rng(seed)
    hertz = scipy.fft.rfftfreq(size, 1 / rate)
    inside = (hertz >= low_hz) & (hertz <= min(high_hz, 0.48 * rate))
    shape = np.zeros(hertz.size)
    shape[inside] = 1 / np.sqrt(hertz[inside]) if pink else 1.0
    columns: list[FloatArray] = []
    for n in range(channels):
        if n and correlated:
            columns.append(columns[0])
            continue
        phase = random.uniform(0, 2 * np.pi, hertz.size)
        columns.append(scipy.fft.irfft(shape * np.exp(1j * phase), size))
    samples = np.stack(columns, axis=1)
    samples *= ratio(level_db) / np.sqrt(np.mean(samples**2, axis=0))
    return _fits(samples, level_db)


def multitone(size: int, rate: int, level_db: float, fraction: int = 3, seed: int = 3) -> FloatArray:
    """Equal sines (size,) at the bins next to the 1/`fraction`-octave mid-band frequencies; periodic in `size`."""
    random = np.random.default_rng(seed)
    mids = bands(fraction, 20.0, min(20_000.0, 0.45 * rate))
    bins = np.unique(np.maximum(1, np.round(mids * size / rate).astype(int)))
    spectrum = np.zeros(size // 2 + 1, dtype=complex)
    spectrum[bins] = np.exp(1j * random.uniform(0, 2 * np.pi, bins.size))
    samples = scipy.fft.irfft(spectrum, size)
    samples *= ratio(level_db) / np.sqrt(np.mean(samples**2))
    return _fits(samples, level_db)


def sine(size: int, rate: int, level_db: float, hertz: float) -> FloatArray:
    """A sine (size,) of peak `level_db` whose ends are faded over 10 ms."""
    return faded(ratio(level_db) * np.sin(2 * np.pi * hertz / rate * np.arange(size)), rate)


def linear_sweep(size: int, rate: int, level_db: float, low_hz: float, high_hz: float) -> FloatArray:
    """A sweep (size,) whose frequency rises in proportion to time."""
    t = np.arange(size) / rate
    phase = 2 * np.pi * (low_hz * t + (high_hz - low_hz) / (2 * size / rate) * t**2)
    return faded(ratio(level_db) * np.sin(phase), rate)


def faded(samples: FloatArray, rate: int, seconds: float = 0.01) -> FloatArray:
    """The samples with both ends faded by raised cosines."""
    share = min(1.0, 2 * seconds * rate / samples.shape[0])
    return samples * scipy.signal.windows.tukey(samples.shape[0], share)


def pulse(rate: int, hertz: float) -> FloatArray:
    """A single raised-cosine pulse (n,) of height one, as wide as half a period of `hertz` at half its height."""
    width = max(4, round(rate / hertz))
    return 0.5 - 0.5 * np.cos(2 * np.pi * np.arange(width + 1) / width)


def polarity_pulses(rate: int, level_db: float, hertz: float, count: int, spacing_s: float) -> FloatArray:
    """`count` positive pulses (n,), one every `spacing_s` seconds, silence after the last as well."""
    gap = np.zeros(round(spacing_s * rate))
    shape = pulse(rate, hertz)
    gap[: shape.size] = shape
    return ratio(level_db) * np.tile(gap, count)


def band_burst(rate: int, level_db: float, low_hz: float, high_hz: float, seconds: float = 0.8) -> FloatArray:
    """A burst (n,) of band-limited pink noise by which an ear tells one driver from another."""
    size = round(seconds * rate)
    return faded(shaped_noise(size, rate, level_db, low_hz=low_hz, high_hz=high_hz)[:, 0], rate, 0.05)


def centre_tone(rate: int, level_db: float, mid_hz: float, seconds: float, fraction: int = 3) -> FloatArray:
    """Noise (n,) one 1/`fraction` octave wide, the same in all channels, by which the place of the centre is heard."""
    half = 10 ** (0.3 / (2 * fraction))
    size = round(seconds * rate)
    return faded(shaped_noise(size, rate, level_db, low_hz=mid_hz / half, high_hz=mid_hz * half)[:, 0], rate, 0.05)
