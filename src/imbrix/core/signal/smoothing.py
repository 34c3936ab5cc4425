"""Fractional-octave smoothing on a logarithmic frequency axis.

A running mean of power over 1/n octave, the window's ends taken by interpolation of the cumulative sum so
that its width is exact; constants are kept, and at the ends of the grid the window narrows. Compare
P. D. Hatziantoniou and J. N. Mourjopoulos, JAES 48 (2000).
"""

from functools import lru_cache
from typing import Literal

import numpy as np

from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels

Fraction = float | Literal["hearing"] | None
"""1/`fraction` octave, the bandwidth of hearing, or no smoothing."""


@lru_cache(maxsize=64)
def _window(key: bytes, size: int, fraction: float | Literal["hearing"]) -> tuple[np.ndarray, ...]:
    octaves = np.log2(np.frombuffer(key))
    edges = np.concatenate(
        ([octaves[0] - (octaves[1] - octaves[0]) / 2], (octaves[1:] + octaves[:-1]) / 2, [octaves[-1]])
    )
    edges[-1] += (octaves[-1] - octaves[-2]) / 2
    widths = np.diff(edges)
    wanted = hearing_octaves(2.0**octaves) / 2 if fraction == "hearing" else 0.5 / fraction
    half = np.minimum(wanted, np.minimum(octaves - edges[0], edges[-1] - octaves))
    half = np.maximum(half, widths / 2)
    ends = []
    for at in (octaves - half, octaves + half):
        at = np.clip(at, edges[0], edges[-1])
        cell = np.clip(np.searchsorted(edges, at, side="right") - 1, 0, size - 1)
        ends += [cell, (at - edges[cell]) / widths[cell]]
    span = np.clip(octaves + half, edges[0], edges[-1]) - np.clip(octaves - half, edges[0], edges[-1])
    return (widths, *ends, 1.0 / span)


def hearing_octaves(frequencies: FloatArray) -> FloatArray:
    """The equivalent rectangular bandwidth of hearing (n,) in octaves: 24.7 (4.37 f / 1000 + 1) hertz about f.

    B. R. Glasberg and B. C. J. Moore, Hearing Research 47 (1990). Nearly an octave at 50 Hz, a sixth at 5 kHz.
    """
    width = 24.7 * (4.37e-3 * frequencies + 1.0)
    low = np.sqrt(frequencies**2 + width**2 / 4) - width / 2  # of the two edges, the geometric mean is f
    return np.log2((low + width) / low)


def smooth(values: np.ndarray, frequencies: FloatArray, fraction: Fraction) -> np.ndarray:
    """Mean of `values` (..., n), real or complex, over 1/`fraction` octave, or the width that hearing has.

    None leaves them as they are.
    """
    if not fraction:
        return values
    widths, low, low_part, high, high_part, scale = _window(
        np.ascontiguousarray(frequencies).tobytes(), frequencies.size, fraction
    )
    weighted = values * widths
    total = np.zeros((*values.shape[:-1], frequencies.size + 1), dtype=weighted.dtype)
    np.cumsum(weighted, axis=-1, out=total[..., 1:])
    upper = total[..., high] + weighted[..., high] * high_part
    lower = total[..., low] + weighted[..., low] * low_part
    return (upper - lower) * scale


def smooth_power(response: np.ndarray, frequencies: FloatArray, fraction: Fraction) -> FloatArray:
    """Smoothed |response|^2 (..., n)."""
    power = response.real**2 + response.imag**2 if np.iscomplexobj(response) else response**2
    return np.maximum(smooth(power, frequencies, fraction), 0.0)


def smooth_db(response: ComplexArray, frequencies: FloatArray, fraction: Fraction) -> FloatArray:
    """Smoothed level of a complex response (..., n), in dB."""
    return power_decibels(smooth_power(response, frequencies, fraction))
