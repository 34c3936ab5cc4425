"""Frequency weightings and fractional-octave bands.

A and C weighting: IEC 61672-1:2013, annex E, closed form. Mid-band frequencies: IEC 61260-1:2014, base ten.
"""

import numpy as np

from imbrix.core.signal.signal import FloatArray

_F1, _F2, _F3, _F4 = 20.598997, 107.65265, 737.86223, 12_194.217
OCTAVES_HZ = (31.5, 63.0, 125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0, 16_000.0)
"""Nominal mid-band frequencies of the octaves, ISO 266."""


def c_weighting(frequencies: FloatArray) -> FloatArray:
    """C weighting (n,) as an amplitude ratio, one at 1 kHz."""
    return _c(np.square(frequencies)) / _c(np.array(1e6))


def a_weighting(frequencies: FloatArray) -> FloatArray:
    """A weighting (n,) as an amplitude ratio, one at 1 kHz."""
    return _a(np.square(frequencies)) / _a(np.array(1e6))


def _c(square: np.ndarray) -> np.ndarray:
    return _F4**2 * square / ((square + _F1**2) * (square + _F4**2))


def _a(square: np.ndarray) -> np.ndarray:
    return _c(square) * square / np.sqrt((square + _F2**2) * (square + _F3**2))


def bands(fraction: int, low_hz: float = 20.0, high_hz: float = 20_000.0) -> FloatArray:
    """Exact mid-band frequencies (n,) of 1/`fraction`-octave bands between two nominal ones.

    For odd fractions 1 kHz is among them, for even ones it is an edge; ends are taken with 1 % to spare.
    """
    low_hz, high_hz = low_hz * 0.99, high_hz * 1.01
    octave = 10**0.3
    offset = 0.0 if fraction % 2 else 0.5
    first = np.ceil(fraction * np.log(low_hz / 1000.0) / np.log(octave) - offset - 1e-9)
    last = np.floor(fraction * np.log(high_hz / 1000.0) / np.log(octave) - offset + 1e-9)
    return 1000.0 * octave ** ((np.arange(first, last + 1) + offset) / fraction)


def edges(mids: FloatArray, fraction: int) -> FloatArray:
    """Band edges (n + 1,) of neighbouring bands with mid-band frequencies (n,)."""
    half = 10 ** (0.3 / (2 * fraction))
    return np.concatenate((mids / half, mids[-1:] * half))


def nominal(mid_hz: float) -> float:
    """The nominal name of a third-octave mid-band frequency: two or three digits as ISO 266 rounds them."""
    named = np.array([1.0, 1.25, 1.6, 2.0, 2.5, 3.15, 4.0, 5.0, 6.3, 8.0, 10.0])
    decade = 10.0 ** np.floor(np.log10(mid_hz) + 1e-9)
    return float(named[int(np.argmin(np.abs(np.log(mid_hz / decade / named))))] * decade)


def octave_means(values_db: FloatArray, frequencies: FloatArray) -> dict[float, float]:
    """Mean of a curve in dB (n,) over each octave that it covers by half at least, by nominal frequency."""
    found: dict[float, float] = {}
    for middle in OCTAVES_HZ:
        inside = (frequencies >= middle / np.sqrt(2)) & (frequencies < middle * np.sqrt(2))
        known = inside & np.isfinite(values_db)
        if inside.any() and known.sum() >= inside.sum() / 2 and frequencies[-1] > middle * 1.05:
            found[middle] = float(values_db[known].mean())
    return found
