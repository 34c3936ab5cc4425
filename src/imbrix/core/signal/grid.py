"""The one frequency grid on which curves are predicted, stacked and drawn."""

from functools import lru_cache

import numpy as np

from imbrix.core.signal.signal import FloatArray

PER_OCTAVE = 96
LOWEST_HZ = 20.0
HIGHEST_HZ = 20_000.0


@lru_cache(maxsize=8)
def log_grid(lowest_hz: float = LOWEST_HZ, highest_hz: float = HIGHEST_HZ, per_octave: int = PER_OCTAVE) -> FloatArray:
    """Frequencies with `per_octave` points to the octave, 1 kHz among them, both ends included.

    Returns a read-only array (n,) in hertz.
    """
    first = np.ceil(per_octave * np.log2(lowest_hz / 1000.0) - 1e-9)
    last = np.floor(per_octave * np.log2(highest_hz / 1000.0) + 1e-9)
    inner = 1000.0 * 2.0 ** (np.arange(first, last + 1) / per_octave)
    ends = [lowest_hz] if inner[0] > lowest_hz * 1.0001 else []
    tail = [highest_hz] if inner[-1] < highest_hz * 0.9999 else []
    grid = np.concatenate((ends, inner, tail))
    grid.flags.writeable = False
    return grid


def between(frequencies: FloatArray, values: np.ndarray, grid: FloatArray, beyond: float | None = None) -> np.ndarray:
    """Values (n,), complex ones by their parts, at other frequencies (m,): linear over the logarithm of frequency.

    Beyond the ends the end values stay, or `beyond` stands.
    """
    at, to = np.log(frequencies), np.log(grid)
    if np.iscomplexobj(values):
        parts = [np.interp(to, at, part, left=beyond, right=beyond) for part in (values.real, values.imag)]
        return np.asarray(parts[0] + 1j * parts[1])
    return np.interp(to, at, values, left=beyond, right=beyond)


def span_mask(frequencies: FloatArray, low_hz: float, high_hz: float) -> np.ndarray:
    """Which points of `frequencies` (n,) lie within the closed span."""
    return (frequencies >= low_hz) & (frequencies <= high_hz)
