"""The spectrum of one input while it runs: power averaged over overlapping windows, fine or in bands.

P. D. Welch 1967. Fine: scaled so that a sine reads its own level, as an amplitude spectrum does. In bands: the energy
within each band (IEC 61260-1:2014 mid-band frequencies), by which unrelated sounds add up.
"""

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them
import scipy.fft

from imbrix.core.measure.transfer import TransferSettings
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import FloatArray, power_decibels
from imbrix.core.signal.weighting import bands, edges


class Spectrum:
    """Feed blocks (n,) of samples where 1 is full scale; memory does not grow with time."""

    def __init__(self, settings: TransferSettings) -> None:
        self.settings = settings
        self._window = scipy.signal.windows.get_window(settings.window, settings.size).astype(np.float32)
        self._ring = np.zeros(settings.size, dtype=np.float32)
        self._fresh = 0
        self._heard = 0
        self.reset()

    def reset(self) -> None:
        """Begin the averages anew."""
        self._power = np.zeros(self.settings.size // 2 + 1)
        self.count = 0

    def feed(self, block: FloatArray) -> int:
        """Take a block (n,) in; returns how many frames it completed."""
        done = 0
        hop = self.settings.hop
        position = 0
        while position < block.size:
            part = block[position : position + hop - self._fresh]
            self._ring[: -part.size] = self._ring[part.size :]
            self._ring[-part.size :] = part
            self._fresh += part.size
            self._heard += part.size
            position += part.size
            if self._fresh == hop:
                self._fresh = 0
                if self._heard >= self.settings.size:
                    self._frame()
                    done += 1
        return done

    def _frame(self) -> None:
        share = self.settings.share(self.count + 1)
        if not share:
            return
        spectrum = scipy.fft.rfft(self._ring * self._window)
        self.count += 1
        self._power += share * (spectrum.real**2 + spectrum.imag**2 - self._power)

    def fine(self) -> FloatArray:
        """Level (n,) in dBFS on the common grid: a sine of full scale reads 0. The greatest line of each cell."""
        grid = log_grid()
        rate, size = self.settings.rate, self.settings.size
        top = self._power * (2 / self._window.sum()) ** 2  # the square of a sine's peak amplitude
        where = grid * size / rate
        reach = np.maximum(where * (2 ** (1 / 192) - 1), 0.5)
        first = np.clip(np.round(where - reach).astype(int), 0, top.size - 1)
        last = np.clip(np.round(where + reach).astype(int) + 1, first + 1, top.size)
        # Pairs of first and last for reduceat; what lies between the end of one and the start of the next is left out.
        pairs = np.stack((first, np.minimum(last, top.size - 1)), axis=1).ravel()
        values = np.maximum.reduceat(np.append(top, 0.0), pairs)[::2]
        return np.where(grid < 0.5 * rate, power_decibels(values), np.nan)

    def in_bands(self, fraction: int) -> tuple[FloatArray, FloatArray]:
        """Mid-band frequencies (m,) and levels (m,) in dB where a full-scale sine reads 0: a sine reads its own level
        in its band, and bands add up by energy."""
        rate, size = self.settings.rate, self.settings.size
        mids = bands(fraction, 20.0, min(20_000.0, 0.44 * rate))
        line = rate / size
        density = self._power * 4 / (size * float(np.sum(self._window.astype(float) ** 2)))
        total = np.concatenate(([0.0], np.cumsum(density)))
        ends = (np.arange(total.size) - 0.5) * line
        at = np.interp(edges(mids, fraction), ends, total)
        return mids, power_decibels(np.diff(at))


def stairs(mids: FloatArray, levels: FloatArray, fraction: int) -> FloatArray:
    """Levels of bands (m,) as a curve (n,) on the common grid, flat across each band, NaN beyond."""
    grid = log_grid()
    at = np.searchsorted(edges(mids, fraction), grid) - 1
    inside = (at >= 0) & (at < mids.size)
    return np.where(inside, levels[np.clip(at, 0, mids.size - 1)], np.nan)
