"""The exponential sweep, and the way back from a recording of it to an impulse response.

Sweep: A. Farina, AES 108th convention (2000), with the phase of the synchronised sweep of A. Novak,
P. Lotton and L. Simon, JAES 63 (2015), so that harmonics keep their phase. Deconvolution is a regularised
spectral division by the loopback, or by the stimulus where there is no loopback.
"""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np
import scipy.fft

from imbrix.core.errors import InvalidError
from imbrix.core.signal.signal import FloatArray, Impulse, Signal


@dataclass(frozen=True, slots=True)
class SweepSettings:
    """Band in hertz, length in samples, level in dBFS peak, silence after the sweep in seconds."""

    low_hz: float = 10.0
    high_hz: float = 23_000.0
    length: int = 2**17
    level_db: float = -24.0
    tail_s: float = 0.6
    rate: int = 48_000

    def __post_init__(self) -> None:
        if not 0 < self.low_hz < self.high_hz <= self.rate / 2:
            raise InvalidError(
                f"a sweep from {self.low_hz:g} to {self.high_hz:g} Hz does not fit {self.rate} samples a second"
            )
        if not 2**12 <= self.length <= 2**20:
            raise InvalidError(f"a sweep of {self.length} samples is outside 4096 to 1048576")
        if self.level_db > 0:
            raise InvalidError(f"a level of {self.level_db:g} dBFS is above full scale")


def exponential_sweep(settings: SweepSettings) -> Signal:
    """The sweep with faded ends, followed by its silence: (length + tail,) samples."""
    return Signal(sweep_within(settings, settings.length + round(settings.tail_s * settings.rate)), settings.rate)


def sweep_within(settings: SweepSettings, size: int) -> FloatArray:
    """The sweep at the beginning of `size` samples, silence after it; cut off where these are fewer."""
    made = np.zeros(size)
    samples = _samples(settings)[:size]
    made[: samples.size] = samples
    return made


@lru_cache(maxsize=4)
def _samples(settings: SweepSettings) -> FloatArray:
    """A round plays and reads the same sweep again and again."""
    return sweep_at(settings, np.arange(settings.length, dtype=float))


def sweep_at(settings: SweepSettings, position: FloatArray) -> FloatArray:
    """The sweep (n,) at any `position` (n,), counted in samples of its own clock; zero outside it.

    Positions between samples give the sweep as a recorder hears it whose clock is not the player's.
    """
    rate, length = settings.rate, settings.length
    octave_ratio = np.log(settings.high_hz / settings.low_hz)
    growth = length / rate / octave_ratio
    inside = (position >= 0) & (position <= length - 1)
    place = np.where(inside, position, 0.0)
    samples = np.sin(2 * np.pi * settings.low_hz * growth * np.expm1(place / rate / growth))
    fade_in = min(length // 8, round(1.0 / settings.low_hz * rate))
    fade_out = min(length // 64, round(0.01 * rate))
    rise = np.clip(place / (fade_in - 1), 0, 1)
    fall = np.clip((length - 1 - place) / (fade_out - 1), 0, 1)
    samples *= np.sin(np.pi / 2 * rise) ** 2 * np.sin(np.pi / 2 * fall) ** 2
    return np.where(inside, 10 ** (settings.level_db / 20) * samples, 0.0)


def deconvolve(recording: FloatArray, reference: FloatArray, rate: int, zero: int = 0) -> Impulse:
    """Impulse response of the path from `reference` (m,) to `recording` (n,).

    The spectrum of the reference is kept from dividing by next to nothing with a floor 90 dB below its
    strongest part; outside its band the result tends to zero. Time zero is sample
    `zero`: ask for a few samples before it to see what arrives early. The impulse is circular in the
    transform's length, so that harmonics end up at its far end. Raises InvalidError for a silent reference.
    """
    size = scipy.fft.next_fast_len(max(recording.size, reference.size), real=True)
    top = scipy.fft.rfft(recording, size)
    bottom = scipy.fft.rfft(reference, size)
    power = bottom.real**2 + bottom.imag**2
    strongest = power.max()
    if strongest <= 0.0:
        raise InvalidError("the reference is silent: there is nothing to compare the recording with")
    power += 1e-9 * strongest
    np.conjugate(bottom, out=bottom)
    top *= bottom
    top /= power
    impulse = scipy.fft.irfft(top, size, overwrite_x=True)
    return Impulse(np.roll(impulse, zero) if zero else impulse, rate, zero)
