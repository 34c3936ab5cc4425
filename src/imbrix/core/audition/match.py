"""As loud as each other: two tunes of one piece, by ITU-R BS.1770."""

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.signal.loudness import k_weighting
from imbrix.core.signal.signal import FloatArray

SEGMENT_S, OVERLAP = 0.4, 0.75
GATE_DB = -10.0
"""Blocks that are softer than the mean of the others by so much do not count (ITU-R BS.1770-4, annex 1)."""


def spectrum(samples: FloatArray, rate: int, frequencies: FloatArray) -> FloatArray:
    """The power of music (n, channels) in each cell of a grid (m,), summed over its channels: the mean of the blocks
    that the gate of the recommendation lets in."""
    size = min(round(SEGMENT_S * rate), samples.shape[0])
    hertz, _, density = scipy.signal.spectrogram(
        samples, rate, window="boxcar", nperseg=size, noverlap=round(OVERLAP * size), detrend=False, axis=0
    )
    blocks = density.sum(axis=1)
    weights = np.abs(scipy.signal.sosfreqz(k_weighting(rate), 2 * np.pi * hertz / rate)[1]) ** 2
    powers = weights @ blocks
    heard = powers > powers.mean() * 10 ** (GATE_DB / 10)
    # Tones are narrower than the cells of the grid: what is between the edges of a cell is its own.
    below = np.concatenate(([0.0], np.cumsum(blocks[:, heard].mean(axis=1))))
    middles = np.sqrt(frequencies[1:] * frequencies[:-1])
    edges = np.concatenate(([0.0], middles, [rate / 2]))
    at_lines = np.concatenate((hertz - hertz[1] / 2, [hertz[-1] + hertz[1] / 2]))
    return np.diff(np.interp(edges, at_lines, below))


def loudness(power: FloatArray, music: FloatArray, frequencies: FloatArray, rate: int = 48_000) -> float:
    """K-weighted level in dB of music of a `spectrum` (n,) through a response of so much `power` (n,); only differences
    between two of these mean anything."""
    weights = np.abs(scipy.signal.sosfreqz(k_weighting(rate), 2 * np.pi * frequencies / rate)[1]) ** 2
    return float(10.0 * np.log10(max(np.sum(power * music * weights), 1e-30)))
