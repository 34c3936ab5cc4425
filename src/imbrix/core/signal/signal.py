"""The values that travel through the core: sampled signals, impulses, and responses on a grid.

Angles are in radians, time in seconds, levels are linear ratios. Conversion to degrees,
milliseconds and decibels happens at the edge.
"""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

FloatArray = NDArray[np.float64]
ComplexArray = NDArray[np.complex128]

SMALLEST = 1e-12
"""Magnitudes below this are drawn as this: -240 dB, far under any converter."""


@dataclass(frozen=True, slots=True)
class Signal:
    """Samples of one channel: `samples` (n,), at `rate` in hertz."""

    samples: FloatArray
    rate: int


@dataclass(frozen=True, slots=True)
class Impulse:
    """An impulse response: `samples` (n,) at `rate`; sample `zero` is time zero."""

    samples: FloatArray
    rate: int
    zero: int = 0


class Looped:
    """One period of samples (n,) repeated up to `size` samples, without the memory that they would take."""

    def __init__(self, period: FloatArray, size: int) -> None:
        self.period = period
        self.size = size

    def __getitem__(self, piece: slice) -> FloatArray:
        """The samples of a slice, as an array would give them."""
        first, last, step = piece.indices(self.size)
        return np.take(self.period, np.arange(first, last, step), mode="wrap")


class Sided:
    """Left and right (n, 2), round and round up to `size` samples, by a `factor` that may change on the way; slices
    give (m, 2)."""

    def __init__(self, period: FloatArray, size: int) -> None:
        self.period = period
        self.size = size
        self.factor = 1.0

    def __getitem__(self, piece: slice) -> FloatArray:
        """The samples of a slice, as an array would give them."""
        first, last, step = piece.indices(self.size)
        return np.take(self.period, np.arange(first, last, step), axis=0, mode="wrap") * self.factor


class Rest:
    """What is left of samples from the `first` on."""

    def __init__(self, whole: "Samples", first: int) -> None:
        self.size: int = whole.size - first
        self._whole = whole
        self._first = first

    def __getitem__(self, piece: slice) -> FloatArray:
        """The samples of a slice, as an array would give them."""
        first, last, step = piece.indices(self.size)
        return self._whole[first + self._first : last + self._first : step]


Samples = FloatArray | Looped | Sided | Rest
"""What can be played: it has a size, and slices give arrays, with two columns where left and right differ."""


def decibels(ratio: NDArray[Any]) -> FloatArray:
    """Twenty times the decimal logarithm of |ratio|, floored at -240 dB."""
    return 20.0 * np.log10(np.maximum(np.abs(ratio), SMALLEST))


def power_decibels(power: NDArray[Any]) -> FloatArray:
    """Ten times the decimal logarithm of a power ratio, floored at -240 dB."""
    return 10.0 * np.log10(np.maximum(power, SMALLEST**2))


def ratio(level_db: float | NDArray[Any]) -> FloatArray:
    """The linear ratio of a level in decibels."""
    return np.power(10.0, np.asarray(level_db, dtype=float) / 20.0)
