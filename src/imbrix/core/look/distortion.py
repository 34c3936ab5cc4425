"""Harmonic distortion from an exponential sweep: every order arrives at a time of its own.

A. Farina, AES 108th convention (2000): after deconvolution the k-th harmonic lies L ln k before the linear response,
L = duration / ln(f2 / f1).
"""

from dataclasses import dataclass

import numpy as np

from imbrix.core.measure.sweep import SweepSettings
from imbrix.core.signal.response import arrival, response
from imbrix.core.signal.signal import FloatArray, Impulse

ORDERS = (2, 3, 4, 5)


@dataclass(frozen=True, slots=True)
class Distortion:
    """Against the frequency of excitation (n,): magnitude of the fundamental and of each harmonic, `orders` (k, n),
    and of the noise in a window as long. A harmonic is given at k times its frequency, NaN beyond the band."""

    fundamental: FloatArray
    orders: FloatArray
    noise: FloatArray

    @property
    def total(self) -> FloatArray:
        """Root of the sum of squares of the harmonics that are known (n,); NaN where none is."""
        known = np.isfinite(self.orders)
        power = np.sum(np.where(known, self.orders, 0.0) ** 2, axis=0)
        return np.where(known.any(axis=0), np.sqrt(power), np.nan)


def harmonics(impulse: Impulse, sweep: SweepSettings, frequencies: FloatArray) -> Distortion:
    """Part the deconvolved recording of a sweep into its orders, read at `frequencies` (n,) of excitation.

    `impulse` is circular in at least the sweep's length, as `deconvolve` leaves it.
    """
    rate = impulse.rate
    growth = sweep.length / rate / np.log(sweep.high_hz / sweep.low_hz)
    peak = arrival(impulse) + impulse.zero / rate
    apart = growth * np.log(6 / 5)  # the fifth and the sixth stand nearest to each other
    before = 0.35 * apart
    after = min(0.3, 0.6 * apart)
    first = _window(impulse, peak, before, min(0.5, growth * np.log(2) * 0.6))
    fundamental = np.abs(response(first, frequencies))
    rows = []
    for order in ORDERS:
        at = peak - growth * np.log(order)
        piece = _window(impulse, at, before, after)
        values = np.abs(response(piece, order * frequencies))
        top = min(sweep.high_hz, 0.48 * rate)
        rows.append(np.where(order * frequencies < 0.97 * top, values, np.nan))
    quiet = _window(impulse, peak - growth * np.log(2) / 2, before, after)
    return Distortion(fundamental, np.array(rows), np.abs(response(quiet, frequencies)))


def _window(impulse: Impulse, at: float, before: float, after: float) -> Impulse:
    """A stretch about a time in seconds from the first sample, taken circularly, its ends faded."""
    rate = impulse.rate
    lead, tail = round(before * rate), round(after * rate)
    start = round(at * rate) - lead
    samples = np.take(impulse.samples, np.arange(start, start + lead + tail), mode="wrap").copy()
    rise, fall = max(2, lead // 2), max(2, tail // 2)
    samples[:rise] *= np.sin(np.linspace(0, np.pi / 2, rise)) ** 2
    samples[-fall:] *= np.cos(np.linspace(0, np.pi / 2, fall)) ** 2
    return Impulse(samples, rate, lead)
