"""Second-order sections that the stand-ins are made of, each designed once: many of them are used again and again."""

from functools import lru_cache

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.signal.signal import FloatArray


@lru_cache(maxsize=1024)
def low_pass(order: int, hertz: float, rate: int) -> FloatArray:
    """A Butterworth low-pass (s, 6). Do not change what comes back."""
    return scipy.signal.butter(order, hertz, fs=rate, output="sos")


@lru_cache(maxsize=1024)
def high_pass(order: int, hertz: float, rate: int) -> FloatArray:
    """A Butterworth high-pass (s, 6). Do not change what comes back."""
    return scipy.signal.butter(order, hertz, "highpass", fs=rate, output="sos")


@lru_cache(maxsize=1024)
def resonance(hertz: float, q: float, rate: int, through: float = 0.0, height: float = 1.0) -> FloatArray:
    """`through` of what comes in and `height` of a band-pass that is one at `hertz` (1, 6), by the bilinear transform
    (R. Bristow-Johnson, cookbook formulae for audio biquads). Do not change what comes back."""
    w = 2 * np.pi * hertz / rate
    part = np.sin(w) / (2 * q)
    below = np.array([1 + part, -2 * np.cos(w), 1 - part])
    above = through * below + height * np.array([part, 0.0, -part])
    return np.concatenate((above, below))[None, :] / below[0]


@lru_cache(maxsize=1024)
def closed_box(hertz: float, q: float, rate: int) -> FloatArray:
    """A second-order high-pass with its resonance at `hertz` (1, 6). Do not change what comes back."""
    w = 2 * np.pi * hertz / rate
    part, c = np.sin(w) / (2 * q), np.cos(w)
    return np.array([[(1 + c) / 2, -(1 + c), (1 + c) / 2, 1 + part, -2 * c, 1 - part]]) / (1 + part)
