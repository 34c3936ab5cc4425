"""Single figures read off curves: plus/minus over a span, usable band, signal over noise."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.signal.grid import span_mask
from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power


@dataclass(frozen=True, slots=True)
class Deviation:
    """How a curve strays from another over a span, in dB.

    `mean` is the level difference; `plus` and `minus` the greatest departures above and below it; `worst`
    the greatest departure with the level difference left in; `rms` likewise.
    """

    mean: float
    plus: float
    minus: float
    worst: float
    rms: float

    @property
    def plus_minus(self) -> float:
        """Half the distance between the highest and the lowest departure."""
        return (self.plus + self.minus) / 2


def deviation(
    curve_db: FloatArray, against_db: FloatArray, frequencies: FloatArray, low_hz: float, high_hz: float
) -> Deviation | None:
    """Compare two curves (n,) over a span; points that either lacks (NaN) do not count.

    Returns None where the two share no point in the span.
    """
    difference = (curve_db - against_db)[span_mask(frequencies, low_hz, high_hz)]
    difference = difference[np.isfinite(difference)]
    if difference.size == 0:
        return None
    mean = float(difference.mean())
    return Deviation(
        mean=mean,
        plus=float(difference.max() - mean),
        minus=float(mean - difference.min()),
        worst=float(np.abs(difference).max()),
        rms=float(np.sqrt(np.mean(difference**2))),
    )


def usable_band(response: ComplexArray, frequencies: FloatArray, within_db: float = 6.0) -> tuple[float, float]:
    """The stretch (low, high) in hertz over which a driver keeps within `within_db` of its passband level.

    The level is the mean of the 1/1-octave curve where that lies within 3 dB of its maximum; the stretch is
    followed from there on the 1/3-octave curve, passing over dips narrower than a third of an octave.
    """
    known = np.isfinite(response)
    filled = np.where(known, response, 0.0)
    broad = power_decibels(smooth_power(filled, frequencies, 1))
    fine = power_decibels(smooth_power(filled, frequencies, 3))
    plateau = broad >= broad.max() - 3.0
    level = broad[plateau].mean()
    good = (fine >= level - within_db) & known
    octaves = np.log2(frequencies)
    start = int(np.argmax(broad))
    if not good[start]:
        return float(frequencies[start]), float(frequencies[start])
    return (
        float(frequencies[_follow(good, octaves, start, -1)]),
        float(frequencies[_follow(good, octaves, start, 1)]),
    )


def _follow(good: np.ndarray, octaves: FloatArray, start: int, step: int) -> int:
    last = start
    at = start
    while 0 <= at < good.size and abs(octaves[at] - octaves[last]) <= 1 / 3:
        if good[at]:
            last = at
        at += step
    return last


def signal_over_noise(signal: ComplexArray, noise: ComplexArray, frequencies: FloatArray) -> FloatArray:
    """Level of a response over that of its noise (n,), both smoothed over 1/3 octave, in dB."""
    return power_decibels(smooth_power(signal, frequencies, 3)) - power_decibels(smooth_power(noise, frequencies, 3))


def without_filters(response: ComplexArray, filters: ComplexArray) -> ComplexArray:
    """A response (n,) with filters divided out; NaN where they lie 40 dB under their greatest: only noise is left."""
    level = np.abs(filters)
    heard = level >= 0.01 * level.max()
    return np.where(heard, response / np.where(heard, filters, 1.0), np.nan)
