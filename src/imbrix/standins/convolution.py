"""An FIR filter that runs block by block, whatever the blocks' sizes."""

import numpy as np
import scipy.fft

from imbrix.core.signal.signal import FloatArray


class Convolution:
    """A filter of `taps` (t,), convolved in equal parts (T. G. Stockham 1966).

    The taps are cut into parts as long as a piece of the input; the spectra of the last pieces, each times its part,
    add up to what comes out, by overlap-save. Every block is given out as it comes: no delay but that of the taps.
    """

    PIECE = 512

    def __init__(self, taps: FloatArray) -> None:
        size = self.PIECE
        parts = -(-taps.size // size)
        padded = np.zeros((parts, 2 * size))
        padded[:, :size] = np.pad(taps, (0, parts * size - taps.size)).reshape(parts, size)
        self._parts = scipy.fft.rfft(padded)
        self._spectra = np.zeros_like(self._parts)
        self._past = np.zeros(size)
        self._piece = np.zeros(0)

    def process(self, block: FloatArray) -> FloatArray:
        """What comes out (n,) for a block (n,) that goes in."""
        out = np.empty_like(block)
        done = 0
        while done < block.size:
            some = block[done : done + self.PIECE - self._piece.size]
            start = self._piece.size
            self._piece = np.concatenate((self._piece, some))
            window = np.zeros(2 * self.PIECE)
            window[: self.PIECE] = self._past
            window[self.PIECE : self.PIECE + self._piece.size] = self._piece
            self._spectra[0] = scipy.fft.rfft(window)
            heard = scipy.fft.irfft((self._spectra * self._parts).sum(axis=0))[self.PIECE :]
            out[done : done + some.size] = heard[start : start + some.size]
            done += some.size
            if self._piece.size == self.PIECE:
                self._past, self._piece = self._piece, np.zeros(0)
                self._spectra = np.roll(self._spectra, 1, axis=0)
        return out
