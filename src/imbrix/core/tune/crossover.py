"""Crossover families as second-order sections by the bilinear transform with prewarped corner.

Butterworth: S. Butterworth, "On the theory of filter amplifiers" (1930): -3.01 dB at the corner.
Linkwitz-Riley: S. Linkwitz, JAES 24 (1976): two Butterworth filters in a row, -6.02 dB at the corner.
Bessel: W. E. Thomson (1949), normalised so that the corner is the -3.01 dB point; the high-pass is
the low-pass with s replaced by 1/s, as analogue practice has it.
"""

from functools import lru_cache
from math import pi, sin, tan
from typing import Literal

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.errors import InvalidError
from imbrix.core.tune.biquad import Section
from imbrix.core.tune.fir import linear_magnitude

Shape = Literal["butterworth", "linkwitz-riley", "bessel"]
End = Literal["high_pass", "low_pass"]

SLOPES: dict[Shape, tuple[int, ...]] = {
    "butterworth": (6, 12, 18, 24, 30, 36, 42, 48),
    "linkwitz-riley": (12, 24, 36, 48),
    "bessel": (6, 12, 18, 24, 30, 36, 42, 48),
}
"""Slopes that each family has, in dB per octave."""

CORNER_LEVEL_DB: dict[Shape, float] = {"butterworth": -3.0103, "linkwitz-riley": -6.0206, "bessel": -3.0103}


@lru_cache(maxsize=64)
def prototype(shape: Shape, slope_db: int) -> tuple[tuple[float, float], ...]:
    """Poles of the analogue low-pass of unit corner as pairs (natural frequency, Q).

    Q of 0 marks a real pole. Raises InvalidError for a slope that the family does not have.
    """
    if slope_db not in SLOPES[shape]:
        raise InvalidError(f"{shape} has no slope of {slope_db} dB per octave; it has {SLOPES[shape]}")
    order = slope_db // 6
    if shape == "linkwitz-riley":
        half = _butterworth(order // 2)
        if order // 2 % 2:  # two equal real poles make one section of Q 1/2
            return (*(pair for pair in half if pair[1]), *half[:-1], (1.0, 0.5))
        return half + half
    if shape == "butterworth":
        return _butterworth(order)
    _, poles, _ = scipy.signal.besselap(order, norm="mag")
    pairs = sorted((abs(p), abs(p) / (-2 * p.real)) for p in poles if p.imag > 1e-9)
    real = [(float(abs(p)), 0.0) for p in poles if abs(p.imag) <= 1e-9]
    return tuple([(float(w), float(q)) for w, q in pairs] + real)


def _butterworth(order: int) -> tuple[tuple[float, float], ...]:
    pairs = [(1.0, 1.0 / (2.0 * sin((2 * k - 1) * pi / (2 * order)))) for k in range(1, order // 2 + 1)]
    return tuple(pairs + [(1.0, 0.0)] * (order % 2))


@lru_cache(maxsize=4096)
def sections(shape: Shape, slope_db: int, corner_hz: float, end: End, rate: int) -> tuple[Section, ...]:
    """Sections of a crossover filter at `rate`.

    Raises InvalidError for a corner outside (0, rate/2) or a slope that the family does not have.
    """
    if not 0.0 < corner_hz < rate / 2:
        raise InvalidError(f"a corner of {corner_hz:g} Hz does not lie between 0 and half of {rate} Hz")
    warp = tan(pi * corner_hz / rate)
    high = end == "high_pass"
    rows: list[Section] = []
    for natural, q in prototype(shape, slope_db):
        k = warp / natural if high else warp * natural
        if q == 0.0:
            scale = 1.0 / (1.0 + k)
            top = (scale, -scale, 0.0) if high else (k * scale, k * scale, 0.0)
            rows.append((*top, 1.0, (k - 1.0) * scale, 0.0))
            continue
        scale = 1.0 / (1.0 + k / q + k * k)
        gain = scale if high else k * k * scale
        top = (gain, -2.0 * gain, gain) if high else (gain, 2.0 * gain, gain)
        rows.append((*top, 1.0, 2.0 * (k * k - 1.0) * scale, (1.0 - k / q + k * k) * scale))
    return tuple(rows)


def alignment(shape: Shape, slope_db: int, corner_hz: float, end: End, frequencies: np.ndarray) -> np.ndarray:
    """Magnitude (n,) of the analogue filter: the shape that a corrected driver is meant to take.

    Of the Linkwitz-Riley family any slope, also those that only linear phase has.
    """
    if shape == "linkwitz-riley":
        return linear_magnitude(slope_db, corner_hz, end == "high_pass", np.asarray(frequencies))
    s = 1j * np.asarray(frequencies) / corner_hz
    if end == "high_pass":
        s = 1.0 / s
    result = np.ones(s.shape, dtype=complex)
    for natural, q in prototype(shape, slope_db):
        x = s / natural
        result *= 1.0 / (1.0 + x) if q == 0.0 else 1.0 / (1.0 + x / q + x * x)
    return np.abs(result)
