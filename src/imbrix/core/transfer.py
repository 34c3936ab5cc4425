"""The transfer function between a reference and a microphone while both run: magnitude, phase and coherence.

Cross-spectral estimate H1 and coherence: J. S. Bendat and A. G. Piersol, Random Data; averages over overlapping windows
by P. D. Welch 1967, exponential in time or by count.
"""

from dataclasses import dataclass

import numpy as np
import scipy.fft
from scipy.signal.windows import get_window

from imbrix.core.grid import log_grid
from imbrix.core.moving import WINDOWS
from imbrix.core.signal import ComplexArray, FloatArray

MOST_DELAY_S = 0.2


@dataclass(frozen=True, slots=True)
class TransferSettings:
    """`size` points of the transform; `seconds` of exponential averaging, or None for all since the last reset."""

    size: int = 2**16
    window: str = "hann"
    seconds: float | None = 1.0
    rate: int = 48_000
    per_second: float = 20.0

    def __post_init__(self) -> None:
        if self.size not in (2**n for n in range(10, 19)):
            raise ValueError(f"a transform of {self.size} points; powers of two from 1024 to 262144 are possible")
        if self.window not in WINDOWS:
            raise ValueError(f"there is no window {self.window!r}; there are {', '.join(WINDOWS)}")
        if self.seconds is not None and not 0.05 <= self.seconds <= 120:
            raise ValueError(f"averaging over {self.seconds:g} s; 0.05 to 120 are possible")

    @property
    def hop(self) -> int:
        """Samples from one frame to the next: at most half a window, and no more frames than can be drawn."""
        return int(min(self.size // 2, max(1, round(self.rate / self.per_second))))


@dataclass(frozen=True, slots=True)
class Shown:
    """What runs, on the common grid (n,): the response from reference to microphone with the delay taken out, its
    coherence from 0 to 1, and the number of frames so far."""

    response: ComplexArray
    coherence: FloatArray
    count: int
    delay_s: float


class Transfer:
    """Feed blocks (n, 2) of microphone and reference; memory does not grow with time."""

    def __init__(self, settings: TransferSettings) -> None:
        self.settings = settings
        self._window = get_window(settings.window, settings.size).astype(np.float32)
        self._reach = round(MOST_DELAY_S * settings.rate)
        self._ring = np.zeros((settings.size + self._reach, 2), dtype=np.float32)
        self._fresh = 0
        self._heard = 0
        self.delay = 0
        self.reset()

    def reset(self) -> None:
        """Begin the averages anew."""
        lines = self.settings.size // 2 + 1
        self._cross = np.zeros(lines, dtype=complex)
        self._reference = np.zeros(lines)
        self._microphone = np.zeros(lines)
        self.count = 0

    def feed(self, block: FloatArray) -> int:
        """Take a block (n, 2) in; returns how many frames it completed."""
        done = 0
        hop = self.settings.hop
        position = 0
        while position < block.shape[0]:
            part = block[position : position + hop - self._fresh]
            count = part.shape[0]
            self._ring[:-count] = self._ring[count:]
            self._ring[-count:] = part
            self._fresh += count
            self._heard += count
            position += count
            if self._fresh == hop:
                self._fresh = 0
                if self._heard >= self.settings.size + self.delay:
                    self._frame()
                    done += 1
        return done

    def _frame(self) -> None:
        size = self.settings.size
        end = self._ring.shape[0] - self.delay
        top = scipy.fft.rfft(self._ring[-size:, 0] * self._window)
        bottom = scipy.fft.rfft(self._ring[end - size : end, 1] * self._window)
        self.count += 1
        share = 1.0 / self.count
        if self.settings.seconds is not None:
            share = max(share, 1 - np.exp(-self.settings.hop / self.settings.rate / self.settings.seconds))
        self._cross += share * (top * np.conjugate(bottom) - self._cross)
        self._reference += share * (bottom.real**2 + bottom.imag**2 - self._reference)
        self._microphone += share * (top.real**2 + top.imag**2 - self._microphone)

    def find_delay(self) -> float:
        """Find how much later the microphone hears, take it out from now on, and begin anew; in seconds.

        The peak of the cross-spectrum's inverse transform, whitened by the reference (C. H. Knapp and G. C. Carter
        1976).
        """
        power = self._reference + 1e-6 * self._reference.max() + 1e-30
        lag = scipy.fft.irfft(self._cross / power, self.settings.size)
        peak = int(np.argmax(np.abs(lag)))
        if peak > self.settings.size // 2:
            peak -= self.settings.size
        self.delay = int(np.clip(self.delay + peak, 0, self._reach))
        self.reset()
        return self.delay / self.settings.rate

    def shown(self) -> Shown | None:
        """The estimate so far; None before the first frame."""
        if not self.count:
            return None
        grid = log_grid()
        line = self.settings.rate / self.settings.size
        ratio = 2 ** (1 / 96)  # a 48th of an octave
        half = np.maximum(grid * (ratio - 1 / ratio) / 4, 0.75 * line)
        ends = np.arange(self._reference.size + 1) - 0.5

        def cells(values: np.ndarray) -> np.ndarray:
            total = np.concatenate(([0], np.cumsum(values)))
            parts = [
                np.interp((grid + side * half) / line, ends, part)
                for side in (1, -1)
                for part in ((total.real, total.imag) if np.iscomplexobj(total) else (total,))
            ]
            if np.iscomplexobj(total):
                return (parts[0] - parts[2]) + 1j * (parts[1] - parts[3])
            return parts[0] - parts[1]

        cross, reference, microphone = cells(self._cross), cells(self._reference), cells(self._microphone)
        known = (reference > 1e-10 * reference.max()) & (grid + half < 0.5 * self.settings.rate)
        safe = np.where(known, reference, 1.0)
        coherence = np.abs(cross) ** 2 / np.maximum(safe * microphone, 1e-300)
        return Shown(
            np.where(known, cross / safe, np.nan),
            np.where(known, np.clip(coherence, 0, 1), 0.0),
            self.count,
            self.delay / self.settings.rate,
        )
