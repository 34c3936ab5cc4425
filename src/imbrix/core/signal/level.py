"""Levels through time as a sound level meter shows them, and the filters of fractional octaves.

Weightings A, C, Z, and the exponential time weightings fast (125 ms) and slow (1 s): IEC 61672-1:2013; the analogue
poles of its annex E by the bilinear transform. Band filters: IEC 61260-1:2014, class 1, as Butterworth band-passes of
the eighth order between exact band edges, steep enough for the top octave at 44.1 kHz, where the transform warps.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.errors import InvalidError
from imbrix.core.signal.signal import FloatArray
from imbrix.core.signal.weighting import bands

Weighting = Literal["A", "C", "Z"]
WEIGHTINGS: tuple[Weighting, ...] = ("A", "C", "Z")
FAST_S, SLOW_S = 0.125, 1.0
_F1, _F2, _F3, _F4 = 20.598997, 107.65265, 737.86223, 12_194.217


@lru_cache(maxsize=32)
def weighting_filter(kind: Weighting, rate: int) -> FloatArray:
    """Second-order sections (n, 6) of a weighting at a sample rate, one at 1 kHz; Z passes all.

    Near half the sample rate the bilinear transform falls below the curve: within class 1 from 44.1 kHz up.
    """
    if kind == "Z":
        return np.array([[1.0, 0, 0, 1.0, 0, 0]])
    w = 2 * np.pi * np.array([_F1, _F2, _F3, _F4])
    poles = [-w[0], -w[0], -w[3], -w[3]] + ([-w[1], -w[2]] if kind == "A" else [])
    zeros = [0.0] * (4 if kind == "A" else 2)
    sections = scipy.signal.zpk2sos(*scipy.signal.bilinear_zpk(zeros, poles, 1.0, rate))
    _, one = scipy.signal.sosfreqz(sections, worN=[1000.0], fs=rate)
    sections[0, :3] /= np.abs(one[0])
    return np.asarray(sections)


@lru_cache(maxsize=32)
def band_filters(fraction: int, rate: int) -> tuple[FloatArray, FloatArray]:
    """Mid-band frequencies (n,) and band-passes (n, 4, 6) of 1/`fraction` octave that fit under half the rate."""
    mids = bands(fraction, 20.0 if fraction > 1 else 31.5, 20_000.0 if fraction > 1 else 16_000.0)
    half = 10 ** (0.15 / fraction)
    mids = mids[mids * half < 0.48 * rate]
    made = [scipy.signal.butter(4, [mid / half, mid * half], "bandpass", fs=rate, output="sos") for mid in mids]
    return mids, np.array(made)


def band_levels(samples: FloatArray, rate: int, fraction: int) -> tuple[FloatArray, FloatArray]:
    """Mid-band frequencies (n,) and mean squares (n,) of samples (m,) through each band filter."""
    mids, filters = band_filters(fraction, rate)
    return mids, np.array([np.mean(scipy.signal.sosfilt(one, samples) ** 2) for one in filters])


@dataclass(frozen=True, slots=True)
class Levels:
    """Mean squares by one weighting: equivalent since the start, and of fast and slow now, at most and at least."""

    equivalent: float
    fast: float
    fast_most: float
    fast_least: float
    slow: float
    slow_most: float
    slow_least: float


class LevelMeter:
    """Feed blocks (n,); memory does not grow with time. The least is told once a time weighting has settled."""

    def __init__(self, rate: int, weighting: Weighting) -> None:
        self._filter = weighting_filter(weighting, rate)
        self._state = np.zeros((self._filter.shape[0], 2))
        self._decays = [float(np.exp(-1 / (rate * tau))) for tau in (FAST_S, SLOW_S)]
        self._settled = [round(5 * tau * rate) for tau in (FAST_S, SLOW_S)]
        self._now = [0.0, 0.0]
        self._most = [0.0, 0.0]
        self._least = [np.inf, np.inf]
        self._sum = 0.0
        self._since = 0
        self.count = 0

    def feed(self, block: FloatArray) -> None:
        """Take a block (n,) in."""
        heard, self._state = scipy.signal.sosfilt(self._filter, block, zi=self._state)
        square = heard**2
        self._sum += float(square.sum())
        self._since += block.size
        for n, decay in enumerate(self._decays):
            start = np.array([decay * self._now[n]])
            running, _ = scipy.signal.lfilter([1 - decay], [1, -decay], square, zi=start)
            self._now[n] = float(running[-1])
            self._most[n] = max(self._most[n], float(running.max()))
            late = running[max(0, self._settled[n] - self.count) :]
            if late.size:
                self._least[n] = min(self._least[n], float(late.min()))
        self.count += block.size

    def levels(self) -> Levels:
        """What it shows now."""
        least = [one if np.isfinite(one) else now for one, now in zip(self._least, self._now, strict=True)]
        return Levels(
            self._sum / max(1, self._since),
            self._now[0],
            self._most[0],
            least[0],
            self._now[1],
            self._most[1],
            least[1],
        )

    def restart(self) -> Levels:
        """What it shows, and begin the equivalent, the most and the least anew; the time weightings run on."""
        shown = self.levels()
        self._sum, self._since = 0.0, 0
        self._most, self._least = list(self._now), list(self._now)
        return shown


@dataclass(frozen=True, slots=True)
class Stretch:
    """What a stretch of samples shows: seconds, the frequency that lasts as long as it, the strongest frequency in it,
    peak, rms, and their ratio, the crest factor."""

    seconds: float
    once_hz: float
    strongest_hz: float
    peak: float
    rms: float

    @property
    def crest(self) -> float:
        return self.peak / self.rms if self.rms > 0 else 0.0


def stretch(samples: FloatArray, rate: int) -> Stretch:
    """Read a stretch (n,). Its strongest frequency is the peak of a Hann-windowed spectrum, a parabola through the
    logarithms of three lines giving what lies between them (J. O. Smith, Spectral Audio Signal Processing).

    Raises InvalidError for fewer than two samples.
    """
    if samples.size < 2:
        raise InvalidError("a stretch has at least two samples")
    centred = samples - samples.mean()
    spectrum = np.abs(np.fft.rfft(centred * np.hanning(samples.size), 4 * samples.size))
    at = int(np.argmax(spectrum[1:-1])) + 1
    left, middle, right = np.log(spectrum[at - 1 : at + 2] + 1e-30)
    bend = left - 2 * middle + right
    between = 0.5 * (left - right) / bend if bend < 0 else 0.0
    seconds = samples.size / rate
    return Stretch(
        seconds,
        1 / seconds,
        float((at + between) * rate / (4 * samples.size)),
        float(np.abs(samples).max()),
        float(np.sqrt(np.mean(samples**2))),
    )


def outline(samples: FloatArray, columns: int) -> tuple[FloatArray, FloatArray, FloatArray]:
    """Where (m,) in samples, least (m,) and most (m,) of samples (n,) for drawing in so many columns; every sample
    where they fit."""
    if samples.size <= 2 * columns:
        return np.arange(samples.size, dtype=float), samples, samples
    edges = np.linspace(0, samples.size, columns + 1).astype(int)[:-1]
    return edges.astype(float), np.minimum.reduceat(samples, edges), np.maximum.reduceat(samples, edges)
