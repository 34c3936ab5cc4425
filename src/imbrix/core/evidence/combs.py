"""What of a curve's dips belongs to the place: the combs that reflections make, told from what the driver does.

With the driver's own smooth curve taken out, the response in time is the direct sound as a sharp pulse, and behind it
a pulse for each reflection; what a driver does is narrow in frequency, hence long and low in time. The pulses are
taken out one by one, the strongest first (J. A. Hoegbom 1974), and make the comb: 1 + sum of a exp(-j w t).
"""

from dataclasses import dataclass

import numpy as np

from imbrix.core.evidence.onset import Onset, minimum_phase_of
from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power

EARLIEST_S, LATEST_S = 0.15e-3, 12e-3
WEAKEST = 0.13
"""A reflection of less than this share of the direct sound makes no dip of more than 1.2 dB."""
MOST = 16
SLIGHT_DB = 0.5
_OWN = 1
"""The driver's own smooth curve: over an octave."""
_POINTS = 512


@dataclass(frozen=True, slots=True)
class Reflection:
    """One arrival after the direct sound: by how many seconds, and its amplitude over that of the direct sound."""

    late_s: float
    amount: float


def reflections(
    response: ComplexArray, frequencies: FloatArray, band_hz: tuple[float, float], comes: Onset
) -> tuple[Reflection, ...]:
    """The reflections in a bare response (n,), NaN where nothing is known, of a driver with a band (hertz)."""
    known = np.isfinite(response) & (frequencies >= band_hz[0]) & (frequencies <= band_hz[1])
    found = np.flatnonzero(known)
    if found.size < 96:
        return ()
    span = slice(found[0], found[-1] + 1)
    f, values = frequencies[span], np.where(known[span], np.nan_to_num(response[span]), 0.0)
    size = np.sqrt(smooth_power(np.where(known[span], values, 1e-9), f, _OWN))
    own = size * np.exp(1j * minimum_phase_of(size))
    plain = comes.polarity * values / own * np.exp(2j * np.pi * f * comes.seconds)
    even = np.linspace(f[0], f[-1], _POINTS)
    window = np.hanning(_POINTS + 2)[1:-1]
    flat = (np.interp(even, f, plain.real) + 1j * np.interp(even, f, plain.imag)) * window
    step = 1 / (4 * f[-1])
    late = np.arange(0.0, min(LATEST_S, _POINTS / (2 * (f[-1] - f[0]))), step)
    turns = np.exp(2j * np.pi * np.outer(late, even)) / window.sum()
    shape = turns @ window  # what one pulse at zero looks like at each lateness
    direct = float(np.real(turns[0] @ flat))
    if direct <= 0:
        return ()
    rest = np.real(turns @ flat) / direct
    allowed = late >= max(EARLIEST_S, 0.6 / (f[-1] - f[0]))
    made: list[Reflection] = []
    rest = rest - _pulse(shape, 0)[: late.size]
    for _ in range(MOST):
        at = int(np.argmax(np.abs(rest) * allowed))
        amount = float(rest[at])
        if abs(amount) < WEAKEST:
            break
        made.append(Reflection(float(late[at]), amount))
        rest = rest - amount * _pulse(shape, at)[: late.size]
    return tuple(made)


def _pulse(shape: ComplexArray, at: int) -> FloatArray:
    """A pulse (n,) that stands at a place, from the shape of one at the beginning."""
    real = np.real(shape)
    return np.concatenate((real[1 : at + 1][::-1], real))[: shape.size] if at else real


def dips_db(found: tuple[Reflection, ...], frequencies: FloatArray, smoothing: float) -> FloatArray:
    """How far (n,), in dB, zero or less, the reflections of a place pull a curve under its mean, slight pulls aside."""
    if not found:
        return np.zeros(frequencies.size)
    mean = 10 * np.log10(1.0 + sum(one.amount**2 for one in found))
    return np.minimum(0.0, comb_db(found, frequencies, smoothing) - mean + SLIGHT_DB)


def comb_db(found: tuple[Reflection, ...], frequencies: FloatArray, smoothing: float) -> FloatArray:
    """Level (n,) in dB of the comb of some reflections, smoothed as the curve is that it is compared with."""
    total = np.ones(frequencies.size, dtype=complex)
    for one in found:
        total += one.amount * np.exp(-2j * np.pi * frequencies * one.late_s)
    return power_decibels(smooth_power(total, frequencies, smoothing))
