"""An impedance, and how loud it gets, watched while parts are clipped in and out.

Noise that repeats plays through the jig. A window as long as its period holds every line whole wherever it begins, so
that ratios of two inputs need no window function, and one period after a change the curve is the new one.
"""

import numpy as np
import scipy.fft

from imbrix.core.measure.stimuli import shaped_noise
from imbrix.core.signal.signal import ComplexArray, FloatArray

PERIOD_S = 0.6
"""The least: lines 1.7 Hz apart at most, fine enough for a sub's resonance."""
HOPS = 8
AVERAGE_S = 1.5
CHANGED = 0.02
"""Where the median line has moved by more of itself, something was clipped: what was averaged before is dropped."""
LOW_HZ, HIGH_HZ = 10.0, 22_000.0


class Watched:
    """Feed blocks (n, 3): the voltages across driver and resistor, and the microphone; memory stays as it is.

    `stimulus` (size,) is what is to be played again and again. Raises TooLoudError where it would clip.
    """

    def __init__(self, rate: int, level_db: float) -> None:
        size = scipy.fft.next_fast_len(round(PERIOD_S * rate), real=True)
        size += size % 2
        self.stimulus = shaped_noise(size, rate, level_db, low_hz=LOW_HZ, high_hz=HIGH_HZ)[:, 0]
        self.hop = size // HOPS
        hertz = scipy.fft.rfftfreq(size, 1 / rate)
        self._lines = (hertz >= LOW_HZ) & (hertz <= min(HIGH_HZ, 0.48 * rate))
        self.frequencies = hertz[self._lines]
        self.count = 0
        self._share = self.hop / rate / AVERAGE_S
        self._ring = np.zeros((size, 3))
        self._heard = 0
        self._fresh = 0
        self._ratio = np.zeros(self.frequencies.size, dtype=complex)
        self._level = np.zeros(self.frequencies.size)

    def feed(self, block: FloatArray) -> bool:
        """Take a block (n, 3) in; whether the curves are new."""
        told = False
        while block.shape[0]:
            part, block = np.split(block, [min(self.hop - self._fresh, block.shape[0])])
            count = part.shape[0]
            self._ring[:-count] = self._ring[count:]
            self._ring[-count:] = part
            self._fresh += count
            self._heard += count
            if self._fresh == self.hop:
                self._fresh = 0
                if self._heard >= 2 * self.stimulus.size:  # the first period is what rings in
                    self._window()
                    told = True
        return told

    def _window(self) -> None:
        spectra = scipy.fft.rfft(self._ring, axis=0)[self._lines]
        across, whole = spectra[:, 0], spectra[:, 0] + spectra[:, 1]
        ratio = across / np.where(whole == 0, 1e-30, whole)
        level = np.abs(spectra[:, 2] / np.where(across == 0, 1e-30, across)) ** 2
        moved = np.median(np.abs(ratio - self._ratio) / np.maximum(np.abs(self._ratio), 1e-9))
        share = max(self._share, 1 / (self.count + 1)) if moved < CHANGED else 1.0
        self.count = self.count + 1 if share < 1.0 else 1
        self._ratio += share * (ratio - self._ratio)
        self._level += share * (level - self._level)

    @property
    def ratio(self) -> ComplexArray:
        """The jig's ratio (m,) at `frequencies`: `jig.ohms` makes an impedance of it."""
        return self._ratio.copy()

    @property
    def level(self) -> FloatArray:
        """Sound over the voltage across the clips (m,), as power."""
        return self._level.copy()
