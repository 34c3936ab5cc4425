"""Averages over a moving microphone: magnitude only, from power spectra of overlapping windows.

P. D. Welch, IEEE Trans. Audio Electroacoust. 15 (1967): power spectra of windowed, overlapping segments are
averaged; neighbouring segments are not independent, which the confidence takes into account.
"""

from dataclasses import dataclass, field
from functools import lru_cache

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them
import scipy.fft

from imbrix.core.errors import InvalidError
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import FloatArray, power_decibels
from imbrix.core.signal.weighting import bands, edges

WINDOWS = ("hann", "blackmanharris", "flattop", "boxcar")
LAST = 10
"""The change of the result is told over this many averages."""
BAND_FRACTION = 6


@dataclass(frozen=True, slots=True)
class MovingSettings:
    """Defaults are common practice (no source): 65,536 points, Hann, 87.5 % overlap, about 100 averages."""

    size: int = 65_536
    window: str = "hann"
    overlap: float = 0.875
    averages: int = 100
    rate: int = 48_000
    level_db: float = -24.0

    def __post_init__(self) -> None:
        if self.size not in (2**n for n in range(12, 19)):
            raise InvalidError(f"a transform of {self.size} points; powers of two from 4096 to 262144 are possible")
        if self.window not in WINDOWS:
            raise InvalidError(f"there is no window {self.window!r}; there are {', '.join(WINDOWS)}")
        if not 0 <= self.overlap <= 0.95:
            raise InvalidError(f"an overlap of {self.overlap:.0%}; 0 to 95 % are possible")
        if not 2 <= self.averages <= 10_000:
            raise InvalidError(f"{self.averages} averages; 2 to 10000 are possible")

    @property
    def hop(self) -> int:
        """Samples from one segment to the next."""
        return max(1, round(self.size * (1 - self.overlap)))

    @property
    def samples(self) -> int:
        """Samples that all averages need."""
        return self.size + (self.averages - 1) * self.hop


@lru_cache(maxsize=8)
def _correlation_sum(window: str, size: int, hop: int) -> float:
    """1 + 2 sum of the squared normalised window autocorrelation at multiples of the hop (Welch 1967)."""
    shape = scipy.signal.windows.get_window(window, size)
    whole = float(shape @ shape)
    total = 1.0
    for lag in range(hop, size, hop):
        total += 2 * (float(shape[lag:] @ shape[: size - lag]) / whole) ** 2
    return total


@dataclass(frozen=True, slots=True)
class Running:
    """The average so far: `power` (n,) on the grid; `level_db` (b,) in bands at `bands_hz`, not divided by the
    reference, and `spread_db` (b,) of single averages there; `band_db` (b,) the half-width of the 95 %
    confidence band of the mean, `change_db` over the last ten."""

    count: int
    power: FloatArray
    bands_hz: FloatArray
    level_db: FloatArray
    spread_db: FloatArray
    band_db: FloatArray
    change_db: float | None


@dataclass
class MovingAverage:
    """Feed blocks of samples; the memory needed does not grow with their number.

    `reference_power` (size / 2 + 1,) is the power spectrum of the excitation under the same window, by which the
    result is divided.
    """

    settings: MovingSettings
    reference_power: FloatArray
    count: int = 0
    _pending: list[np.ndarray] = field(default_factory=list, repr=False)
    _held: int = 0

    def __post_init__(self) -> None:
        size, rate = self.settings.size, self.settings.rate
        self._window = scipy.signal.windows.get_window(self.settings.window, size).astype(np.float32)
        self._sum = np.zeros(size // 2 + 1)
        hertz = scipy.fft.rfftfreq(size, 1 / rate)
        top = min(20_000.0, 0.45 * rate)
        mids = bands(BAND_FRACTION, max(20.0, 2 * rate / size), top)
        places = np.searchsorted(hertz, edges(mids, BAND_FRACTION))
        filled = np.diff(places) > 0
        self.bands_hz = mids[filled]
        self._places = places[:-1][filled]
        self._ends = places[1:][filled]
        self._band_sum = np.zeros(self.bands_hz.size)
        self._level_mean = np.zeros(self.bands_hz.size)
        self._level_square = np.zeros(self.bands_hz.size)
        self._recent: list[FloatArray] = []
        self._ring = np.zeros(size, dtype=np.float32)

    def feed(self, block: FloatArray) -> int:
        """Take samples (n,) in; returns how many averages they completed."""
        size, hop = self.settings.size, self.settings.hop
        done = 0
        position = 0
        while position < block.size:
            need = size - self._held
            part = block[position : position + need]
            self._ring[self._held : self._held + part.size] = part
            self._held += part.size
            position += part.size
            if self._held == size:
                self._average()
                done += 1
                self._ring[: size - hop] = self._ring[hop:]
                self._held = size - hop
        return done

    def _average(self) -> None:
        spectrum = scipy.fft.rfft(self._ring * self._window)
        power = spectrum.real**2
        power += spectrum.imag**2
        self._sum += power
        self.count += 1
        sums = np.add.reduceat(power, np.append(self._places, self._ends[-1]))[:-1].astype(float)
        self._band_sum += sums
        level = power_decibels(sums)
        apart = level - self._level_mean
        self._level_mean += apart / self.count
        self._level_square += apart * (level - self._level_mean)
        self._recent.append(power_decibels(self._band_sum / self.count))
        del self._recent[: -LAST - 1]

    def running(self) -> Running | None:
        """The result so far; None before the first average."""
        if not self.count:
            return None
        power = on_grid(self._sum / self.count, self.reference_power, self.settings)
        spread = np.sqrt(self._level_square / max(1, self.count - 1))
        related = _correlation_sum(self.settings.window, self.settings.size, self.settings.hop)
        independent = max(1.0, self.count / related)
        change = None
        if len(self._recent) > LAST:
            change = float(np.sqrt(np.mean((self._recent[-1] - self._recent[0]) ** 2)))
        half = 1.96 * spread / np.sqrt(independent)
        return Running(self.count, power, self.bands_hz, self._recent[-1], spread, half, change)


def window_power(samples: FloatArray, settings: MovingSettings) -> FloatArray:
    """Mean power spectrum (size / 2 + 1,) of a periodic excitation (size,) under the settings' window and hops."""
    window = scipy.signal.windows.get_window(settings.window, settings.size)
    count = max(1, round(1 / (1 - settings.overlap))) if settings.overlap else 8
    step = settings.size // count
    total = np.zeros(settings.size // 2 + 1)
    for n in range(count):
        spectrum = scipy.fft.rfft(np.roll(samples, -n * step) * window)
        total += spectrum.real**2 + spectrum.imag**2
    return total / count


def on_grid(power: FloatArray, reference: FloatArray, settings: MovingSettings) -> FloatArray:
    """Ratio of two power spectra on the common grid (n,), each summed over a cell at least two lines wide.

    NaN where the reference holds nothing.
    """
    grid = log_grid()
    line = settings.rate / settings.size
    ratio = 2 ** (1 / 192)
    half = np.maximum(grid * (ratio - 1 / ratio) / 2, line)
    ends = np.arange(power.size + 1) - 0.5
    sums = []
    for spectrum in (power, reference):
        total = np.concatenate(([0.0], np.cumsum(spectrum, dtype=float)))
        sums.append(np.interp((grid + half) / line, ends, total) - np.interp((grid - half) / line, ends, total))
    top, bottom = sums
    known = (bottom > 1e-9 * bottom.max()) & (grid + half < 0.5 * settings.rate)
    return np.where(known, top / np.where(known, bottom, 1.0), np.nan)
