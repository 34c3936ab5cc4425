"""The exponential sweep, and the way back from a recording of it to an impulse response.

Sweep: A. Farina, AES 108th convention (2000), with the phase of the synchronised sweep of A. Novak,
P. Lotton and L. Simon, JAES 63 (2015), so that harmonics keep their phase. Deconvolution is a regularised
spectral division by the loopback, or by the stimulus where there is no loopback.
"""

from dataclasses import dataclass

import numpy as np
import scipy.fft

from imbrix.core.signal import FloatArray, Impulse, Signal


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
            raise ValueError(
                f"a sweep from {self.low_hz:g} to {self.high_hz:g} Hz does not fit {self.rate} samples a second"
            )
        if not 2**12 <= self.length <= 2**20:
            raise ValueError(f"a sweep of {self.length} samples is outside 4096 to 1048576")
        if self.level_db > 0:
            raise ValueError(f"a level of {self.level_db:g} dBFS is above full scale")


def exponential_sweep(settings: SweepSettings) -> Signal:
    """The sweep with faded ends, followed by its silence: (length + tail,) samples."""
    rate, length = settings.rate, settings.length
    octave_ratio = np.log(settings.high_hz / settings.low_hz)
    growth = length / rate / octave_ratio
    seconds = np.arange(length) / rate
    samples = np.sin(2 * np.pi * settings.low_hz * growth * np.expm1(seconds / growth))
    fade_in = min(length // 8, round(1.0 / settings.low_hz * rate))
    fade_out = min(length // 64, round(0.01 * rate))
    samples[:fade_in] *= np.sin(np.linspace(0, np.pi / 2, fade_in)) ** 2
    samples[-fade_out:] *= np.cos(np.linspace(0, np.pi / 2, fade_out)) ** 2
    tail = np.zeros(round(settings.tail_s * rate))
    return Signal(10 ** (settings.level_db / 20) * np.concatenate((samples, tail)), rate)


def deconvolve(recording: FloatArray, reference: FloatArray, rate: int, zero: int = 0) -> Impulse:
    """Impulse response of the path from `reference` (m,) to `recording` (n,).

    The spectrum of the reference is kept from dividing by next to nothing with a floor 90 dB below its
    strongest part; outside its band the result tends to zero. Time zero is sample
    `zero`: ask for a few samples before it to see what arrives early. The impulse is circular in the
    transform's length, so that harmonics end up at its far end. Raises ValueError for a silent reference.
    """
    size = scipy.fft.next_fast_len(max(recording.size, reference.size), real=True)
    top = scipy.fft.rfft(recording, size)
    bottom = scipy.fft.rfft(reference, size)
    power = bottom.real**2 + bottom.imag**2
    strongest = power.max()
    if strongest <= 0.0:
        raise ValueError("the reference is silent: there is nothing to compare the recording with")
    power += 1e-9 * strongest
    np.conjugate(bottom, out=bottom)
    top *= bottom
    top /= power
    impulse = scipy.fft.irfft(top, size, overwrite_x=True)
    return Impulse(np.roll(impulse, zero) if zero else impulse, rate, zero)
