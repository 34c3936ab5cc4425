"""Coefficients as whole numbers: what a processor that reckons in fixed point is given, and what rounding does.

Qm.n has a sign bit, m bits before the point and n after it: numbers from -2^m to 2^m - 2^-n in steps of 2^-n, kept as
integers of n bits' weight in words of 1 + m + n bits, two's complement (the notation that counts the sign apart; where
it is counted with m, Q2.30 here is Q3.30 there).
"""

from dataclasses import dataclass
from typing import Self

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
from numpy.typing import NDArray

from imbrix.core.errors import InvalidError
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels

MOST_BITS = 64
LEAST_FRACTION = 8


@dataclass(frozen=True, slots=True)
class Format:
    """Qm.n: `whole` bits before the point, `fraction` after it, and a sign."""

    whole: int
    fraction: int

    def __post_init__(self) -> None:
        if not self.whole >= 1 or not self.fraction >= LEAST_FRACTION or self.bits > MOST_BITS:
            raise InvalidError(
                f"Q{self.whole}.{self.fraction} is no format for sections: at least 1 bit before the point (their "
                f"middle coefficient reaches 2), at least {LEAST_FRACTION} after it, at most {MOST_BITS} with the sign"
            )

    @classmethod
    def read(cls, text: str) -> Self:
        """`2.30` or `Q2.30`. Raises InvalidError."""
        whole, point, fraction = text.strip().removeprefix("Q").removeprefix("q").partition(".")
        if not (point and whole.isdigit() and fraction.isdigit() and len(whole) < 3 and len(fraction) < 3):
            raise InvalidError(f"{text!r} is no format: two numbers of bits with a point between them, as in 2.30")
        return cls(int(whole), int(fraction))

    @property
    def bits(self) -> int:
        """Of a word, with its sign."""
        return 1 + self.whole + self.fraction

    def __str__(self) -> str:
        return f"Q{self.whole}.{self.fraction}"


@dataclass(frozen=True, slots=True)
class Rounded:
    """Sections in fixed point.

    `words` (n, 6) are the integers, a0 among them; `shifts` (n,) say how often b0, b1 and b2 of a section were halved
    to fit: what comes out of it is to be doubled as often. `sos` (n, 6) is what they mean, shifts undone.
    """

    format: Format
    words: NDArray[np.int64]
    shifts: NDArray[np.int64]
    sos: FloatArray


def rounded(sos: FloatArray, wanted: Format) -> Rounded:
    """Round sections (n, 6), a0 of 1, to the nearest step of a format.

    Raises InvalidError where a coefficient does not fit, or where a section would no longer be stable: rounding moves
    poles, most of all those of low frequencies at a high rate.
    """
    limit, step = 2.0**wanted.whole, 2.0**-wanted.fraction
    shifts = np.zeros(len(sos), dtype=np.int64)
    words = np.zeros((len(sos), 6), dtype=np.int64)
    means = np.zeros((len(sos), 6))
    for n, row in enumerate(sos):
        top, bottom = row[:3], row[3:]
        if np.abs(bottom).max() > limit - step:
            raise InvalidError(
                f"section {n + 1} has a coefficient of {np.abs(bottom).max():.4f}, and {wanted} ends at "
                f"{limit - step:.4f}: take one more bit before the point"
            )
        while np.round(np.abs(top).max() / 2.0 ** shifts[n] / step) * step > limit - step:
            shifts[n] += 1
        words[n] = np.round(np.concatenate((top / 2.0 ** shifts[n], bottom)) / step).astype(np.int64)
        means[n] = words[n] * step
        means[n, :3] *= 2.0 ** shifts[n]
        # Stable where the poles lie within the unit circle (the triangle of a second-order section).
        a1, a2 = means[n, 4:]
        if abs(a2) >= 1 or abs(a1) >= 1 + a2:
            raise InvalidError(
                f"section {n + 1} would no longer be stable in {wanted}: its poles lie so near the unit circle that "
                "rounding puts them on it. Take more bits after the point, or a lower rate"
            )
    return Rounded(wanted, words, shifts, means)


def response(sos: FloatArray, hertz: FloatArray, rate: int) -> ComplexArray:
    """Response (m,) of sections (n, 6) at `hertz` (m,); 1 where there are none."""
    if not len(sos):
        return np.ones(hertz.size, dtype=complex)
    return scipy.signal.sosfreqz(sos, worN=hertz, fs=rate)[1]


def error_db(sos: FloatArray, words: Rounded, hertz: FloatArray, rate: int) -> FloatArray:
    """By how much rounded sections are louder (m,) than the exact ones, where these let more than -60 dB of their most
    pass; 0 elsewhere."""
    exact = decibels(response(sos, hertz, rate))
    away = decibels(response(words.sos, hertz, rate)) - exact
    return np.where(exact > exact.max() - 60, away, 0.0)
