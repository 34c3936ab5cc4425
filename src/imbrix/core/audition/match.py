"""As loud as each other: two tunes of one piece, by ITU-R BS.1770."""

from collections.abc import Iterator

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it

from imbrix.core.signal.loudness import k_weighting
from imbrix.core.signal.signal import FloatArray

SEGMENT_S, OVERLAP, PIECE_S = 0.4, 0.75, 20.0
GATE_DB = -10.0
"""Blocks that are softer than the mean of the others by so much do not count (ITU-R BS.1770-4, annex 1)."""


def spectrum(samples: FloatArray, rate: int, frequencies: FloatArray) -> FloatArray:
    """The power of music (n, channels) in each cell of a grid (m,), summed over its channels: the mean of the blocks
    that the gate of the recommendation lets in."""
    size = min(round(SEGMENT_S * rate), samples.shape[0])
    hertz = np.fft.rfftfreq(size, 1 / rate)
    weights = np.abs(scipy.signal.sosfreqz(k_weighting(rate), 2 * np.pi * hertz / rate)[1]) ** 2
    powers = [weights @ blocks for blocks in _blocks(samples, rate, size)]
    gate = np.concatenate(powers).mean() * 10 ** (GATE_DB / 10)
    # A second time for what the gate lets in: all blocks at once would fill the memory.
    heard = sum(
        blocks[:, loud > gate].sum(axis=1) for loud, blocks in zip(powers, _blocks(samples, rate, size), strict=True)
    )
    # Tones are narrower than the cells of the grid: what is between the edges of a cell is its own.
    below = np.concatenate(([0.0], np.cumsum(heard)))
    middles = np.sqrt(frequencies[1:] * frequencies[:-1])
    edges = np.concatenate(([0.0], middles, [rate / 2]))
    at_lines = np.concatenate((hertz - hertz[1] / 2, [hertz[-1] + hertz[1] / 2]))
    return np.diff(np.interp(edges, at_lines, below))


def _blocks(samples: FloatArray, rate: int, size: int) -> Iterator[FloatArray]:
    """Power spectra (f, blocks) of overlapping blocks, summed over the channels, some seconds at a time."""
    piece = max(size, round(PIECE_S * rate))
    for first in range(0, samples.shape[0], piece):
        part = samples[first : first + piece]
        if part.shape[0] < size:
            continue
        _, _, density = scipy.signal.spectrogram(
            part, rate, window="boxcar", nperseg=size, noverlap=round(OVERLAP * size), detrend=False, axis=0
        )
        yield density.sum(axis=1)


def loudness(power: FloatArray, music: FloatArray, frequencies: FloatArray, rate: int = 48_000) -> float:
    """K-weighted level in dB of music of a `spectrum` (n,) through a response of so much `power` (n,); only differences
    between two of these mean anything."""
    weights = np.abs(scipy.signal.sosfreqz(k_weighting(rate), 2 * np.pi * frequencies / rate)[1]) ** 2
    return float(10.0 * np.log10(max(np.sum(power * music * weights), 1e-30)))
