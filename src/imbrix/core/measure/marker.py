"""The marker: a short band-limited chirp that an anchor driver plays before and after a sweep.

Where playing and recording have clocks of their own, the two markers tell how much faster one runs, and when
the recording began: the arrival of everything is then counted from the anchor's own.
"""

from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them
import scipy.fft

from imbrix.core.errors import UnusableError
from imbrix.core.signal.response import arrival
from imbrix.core.signal.signal import FloatArray, Impulse

SEARCH_S = 1.2
"""How late a recording may begin or lag, in seconds."""
LEAST_CLEAR_DB = 15.0
MOST_DRIFT = 300e-6
"""No two clocks differ by more: crystals keep to 100 ppm each (common practice, no source)."""
_NEAR_S = 0.012


@dataclass(frozen=True, slots=True)
class Marker:
    """A linear chirp within a band in hertz, `length` samples at `rate`, of peak level `level_db`."""

    low_hz: float
    high_hz: float
    length: int
    rate: int
    level_db: float

    def samples(self, drift: float = 0.0) -> FloatArray:
        """The chirp (length,), its ends faded, as a clock sees it that runs faster by `drift`."""
        t = np.arange(self.length) / self.rate / (1.0 + drift)
        slope = (self.high_hz - self.low_hz) / (self.length / self.rate)
        chirp = np.sin(2 * np.pi * (self.low_hz * t + slope / 2 * t**2)) * scipy.signal.windows.tukey(self.length, 0.25)
        return 10 ** (self.level_db / 20) * chirp


@dataclass(frozen=True, slots=True)
class Timing:
    """`drift` is how much faster the recorder's clock runs (50e-6: 50 ppm); `first` is the recorded sample,
    with its fraction, at which the first marker arrives; `clear_db` how far it stands out."""

    drift: float
    first: float
    clear_db: float

    def recorded(self, played: float, first_played: int) -> float:
        """Where in the recording lies what was played at sample `played`, after the anchor's own path."""
        return self.first + (played - first_played) * (1.0 + self.drift)

    def check(self, apart_s: float) -> None:
        """Refuse a timing by markers `apart_s` seconds from each other that no clock explains. Raises UnusableError."""
        if abs(self.drift) > MOST_DRIFT:
            raise UnusableError(
                f"between the two markers the recording is some {abs(self.drift) * apart_s * 1e3:.0f} ms "
                f"{'longer' if self.drift > 0 else 'shorter'} than what was played: samples were lost or doubled on "
                "the way, and nobody said so. Close what keeps the computer busy, and record again",
                "slipped",
            )


def find(recording: FloatArray, marker: Marker, starts: tuple[int, ...], search_s: float = SEARCH_S) -> Timing:
    """Read the timing off a recording (n,) in which the marker was played at the two `starts`.

    Each marker is deconvolved within its band; drift is the lag between the two results (maximum of their
    cross-correlation), arrival the peak of the envelope of their mean. A second pass takes the marker as the
    drifting clock sees it, whose compressed peak would lie off by the drift over half the marker; what no clock
    does is told as it is. Raises UnusableError where a marker does not stand out.
    """
    once = _pass(recording, marker, starts, 0.0, search_s)
    if abs(once.drift) > MOST_DRIFT:
        return once
    return _pass(recording, marker, starts, once.drift, search_s)


def _pass(recording: FloatArray, marker: Marker, starts: tuple[int, ...], drift: float, search_s: float) -> Timing:
    reach = round(search_s * marker.rate)
    found = [_compress(recording, marker.samples(drift), marker, start, reach) for start in starts]
    peaks = []
    for which, samples in zip(("first", "second"), found, strict=True):
        level = np.abs(samples)
        peak = int(np.argmax(level))
        # The peak of mere noise stands some 10 dB out of its median.
        clear = 20 * np.log10((level[peak] + 1e-15) / (np.median(level) + 1e-15)) - 10.0
        if clear < LEAST_CLEAR_DB:
            raise UnusableError(
                f"the {which} marker of the anchor was not found in the recording ({max(clear, 0):.0f} dB clear): "
                "play louder, choose an anchor nearer to the microphone, or check that it is not muted"
            )
        peaks.append((peak, clear))
    near = round(_NEAR_S * marker.rate)
    pieces = [_around(samples, peak, near) for samples, (peak, _) in zip(found, peaks, strict=True)]
    lag = _lag(pieces[0], pieces[1])
    apart = starts[1] - starts[0] + peaks[1][0] - peaks[0][0] + lag
    mean = pieces[0] + _shifted(pieces[1], -lag)
    first = starts[0] + peaks[0][0] - near + arrival(Impulse(mean, marker.rate)) * marker.rate
    return Timing(apart / (starts[1] - starts[0]) - 1.0, first, min(clear for _, clear in peaks))


def _compress(recording: FloatArray, chirp: FloatArray, marker: Marker, start: int, reach: int) -> FloatArray:
    """Deconvolution of the stretch after `start` by the marker, within its band: (reach,) samples of lag."""
    piece = recording[start : start + marker.length + reach]
    size = scipy.fft.next_fast_len(2 * marker.length + reach, real=True)
    bottom = scipy.fft.rfft(chirp, size)
    power = bottom.real**2 + bottom.imag**2
    hertz = scipy.fft.rfftfreq(size, 1 / marker.rate)
    middle = np.sqrt(marker.low_hz * marker.high_hz)
    octaves = np.log2(np.maximum(hertz, 1e-3) / middle) / np.log2(marker.high_hz / middle)
    window = np.cos(np.pi / 2 * np.clip(octaves, -1, 1)) ** 2
    top = scipy.fft.rfft(piece, size)
    return scipy.fft.irfft(top * np.conjugate(bottom) * window / (power + 1e-4 * power.max()), size)[:reach]


def _around(samples: FloatArray, peak: int, near: int) -> FloatArray:
    padded = np.concatenate((np.zeros(near), samples, np.zeros(near)))
    return padded[peak : peak + 2 * near] * np.hanning(2 * near)


def _lag(first: FloatArray, second: FloatArray) -> float:
    """By how many samples `second` lies later than `first`, within two samples."""
    size = 2 * first.size
    cross = np.conjugate(scipy.fft.rfft(first, size)) * scipy.fft.rfft(second, size)
    omega = 2 * np.pi * np.arange(cross.size) / size
    trial = np.linspace(-2, 2, 257)
    agreement = np.real(np.exp(1j * np.outer(trial, omega)) @ cross)
    top = int(np.clip(np.argmax(agreement), 1, trial.size - 2))
    left, middle, right = agreement[top - 1 : top + 2]
    bend = left - 2 * middle + right
    return float(trial[top] + (0.5 * (left - right) / bend if bend < 0 else 0.0) * (trial[1] - trial[0]))


def _shifted(samples: FloatArray, by: float) -> FloatArray:
    """Samples moved later by a fraction of a sample, circularly."""
    spectrum = scipy.fft.rfft(samples)
    omega = 2 * np.pi * np.arange(spectrum.size) / samples.size
    return scipy.fft.irfft(spectrum * np.exp(-1j * omega * by), samples.size)
