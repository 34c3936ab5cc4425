"""Fractional-octave smoothing on a logarithmic frequency axis.

A running mean of power over 1/n octave, the window's ends taken by interpolation of the cumulative sum so
that its width is exact; constants are kept, and at the ends of the grid the window narrows. Compare
P. D. Hatziantoniou and J. N. Mourjopoulos, JAES 48 (2000).
"""

from functools import lru_cache

import numpy as np

from imbrix.core.signal import ComplexArray, FloatArray, power_decibels


@lru_cache(maxsize=64)
def _window(key: bytes, size: int, fraction: float) -> tuple[np.ndarray, ...]:
    octaves = np.log2(np.frombuffer(key))
    edges = np.concatenate(
        ([octaves[0] - (octaves[1] - octaves[0]) / 2], (octaves[1:] + octaves[:-1]) / 2, [octaves[-1]])
    )
    edges[-1] += (octaves[-1] - octaves[-2]) / 2
    widths = np.diff(edges)
    half = np.minimum(0.5 / fraction, np.minimum(octaves - edges[0], edges[-1] - octaves))
    half = np.maximum(half, widths / 2)
    ends = []
    for at in (octaves - half, octaves + half):
        at = np.clip(at, edges[0], edges[-1])
        cell = np.clip(np.searchsorted(edges, at, side="right") - 1, 0, size - 1)
        ends += [cell, (at - edges[cell]) / widths[cell]]
    span = np.clip(octaves + half, edges[0], edges[-1]) - np.clip(octaves - half, edges[0], edges[-1])
    return (widths, *ends, 1.0 / span)


def smooth(values: np.ndarray, frequencies: FloatArray, fraction: float | None) -> np.ndarray:
    """Mean of `values` (..., n), real or complex, over 1/`fraction` octave; None leaves them as they are."""
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


def smooth_power(response: np.ndarray, frequencies: FloatArray, fraction: float | None) -> FloatArray:
    """Smoothed |response|^2 (..., n)."""
    power = response.real**2 + response.imag**2 if np.iscomplexobj(response) else response**2
    return np.maximum(smooth(power, frequencies, fraction), 0.0)


def smooth_db(response: ComplexArray, frequencies: FloatArray, fraction: float | None) -> FloatArray:
    """Smoothed level of a complex response (..., n), in dB."""
    return power_decibels(smooth_power(response, frequencies, fraction))
