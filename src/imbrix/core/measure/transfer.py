"""The transfer function between a reference and microphones while all run: magnitude, phase, coherence, impulse.

Cross-spectral estimate H1 and coherence: J. S. Bendat and A. G. Piersol, Random Data; averages over overlapping windows
by P. D. Welch 1967, exponential in time or by count.
"""

from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them
import scipy.fft

from imbrix.core.errors import InvalidError
from imbrix.core.measure.moving import WINDOWS
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import ComplexArray, FloatArray

MOST_DELAY_S = 0.2
TRACKED = 3
"""A delay that is tracked moves when it was found off by the same so many times."""


@dataclass(frozen=True, slots=True)
class TransferSettings:
    """`size` points of the transform; `seconds` of exponential averaging, or None for all since the last reset, of at
    most `frames` where that is given; windows overlap by a share, or as much as can be drawn."""

    size: int = 2**16
    window: str = "hann"
    seconds: float | None = 1.0
    rate: int = 48_000
    per_second: float = 20.0
    frames: int | None = None
    overlap: float | None = None

    def __post_init__(self) -> None:
        if self.size not in (2**n for n in range(10, 19)):
            raise InvalidError(f"a transform of {self.size} points; powers of two from 1024 to 262144 are possible")
        if self.window not in WINDOWS:
            raise InvalidError(f"there is no window {self.window!r}; there are {', '.join(WINDOWS)}")
        if self.seconds is not None and not 0.05 <= self.seconds <= 120:
            raise InvalidError(f"averaging over {self.seconds:g} s; 0.05 to 120 are possible")
        if self.frames is not None and not 1 <= self.frames <= 100_000:
            raise InvalidError(f"{self.frames} averages; 1 to 100000 are possible")
        if self.overlap is not None and not 0 <= self.overlap <= 0.98:
            raise InvalidError(f"an overlap of {100 * self.overlap:g} %; 0 to 98 are possible")

    @property
    def hop(self) -> int:
        """Samples from one frame to the next: by the overlap, or at most half a window and as many as can be drawn."""
        if self.overlap is not None:
            return max(1, round(self.size * (1 - self.overlap)))
        return int(min(self.size // 2, max(1, round(self.rate / self.per_second))))

    def share(self, count: int) -> float:
        """The weight of the newest frame when `count` are there with it."""
        if self.frames is not None and count > self.frames:
            return 0.0
        least = 1.0 / count
        if self.seconds is None or self.frames is not None:
            return least
        return max(least, float(1 - np.exp(-self.hop / self.rate / self.seconds)))


@dataclass(frozen=True, slots=True)
class Shown:
    """What runs, on the common grid (n,): the response from reference to microphones with the delay taken out - their
    mean power, the first one's phase -, the mean of their coherences from 0 to 1, and the number of frames so far."""

    response: ComplexArray
    coherence: FloatArray
    count: int
    delay_s: float


class Transfer:
    """Feed blocks (n, microphones + 1), the reference last; memory does not grow with time."""

    def __init__(self, settings: TransferSettings, microphones: int = 1) -> None:
        self.settings = settings
        self._window = scipy.signal.windows.get_window(settings.window, settings.size).astype(np.float32)
        self._reach = round(MOST_DELAY_S * settings.rate)
        self._ring = np.zeros((microphones + 1, settings.size + self._reach), dtype=np.float32)
        self._fresh = 0
        self._heard = 0
        self._off: list[int] = []
        self.delay = 0
        self.reset()

    def reset(self) -> None:
        """Begin the averages anew."""
        lines = self.settings.size // 2 + 1
        microphones = self._ring.shape[0] - 1
        self._cross = np.zeros((microphones, lines), dtype=complex)
        self._reference = np.zeros(lines)
        self._microphone = np.zeros((microphones, lines))
        self.count = 0

    def feed(self, block: FloatArray) -> int:
        """Take a block (n, microphones + 1) in; returns how many frames it completed."""
        done = 0
        hop = self.settings.hop
        position = 0
        while position < block.shape[0]:
            part = block[position : position + hop - self._fresh]
            count = part.shape[0]
            self._ring[:, :-count] = self._ring[:, count:]
            self._ring[:, -count:] = part.T
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
        end = self._ring.shape[1] - self.delay
        share = self.settings.share(self.count + 1)
        if not share:
            return
        top = scipy.fft.rfft(self._ring[:-1, -size:] * self._window)
        bottom = scipy.fft.rfft(self._ring[-1, end - size : end] * self._window)
        self.count += 1
        self._cross += share * (top * np.conjugate(bottom) - self._cross)
        self._reference += share * (bottom.real**2 + bottom.imag**2 - self._reference)
        self._microphone += share * (top.real**2 + top.imag**2 - self._microphone)

    @property
    def full(self) -> bool:
        """Whether the count of averages that was asked for is there."""
        return self.settings.frames is not None and self.count >= self.settings.frames

    def _lag(self) -> int:
        """Samples by which the first microphone is later than the delay that is taken out.

        The peak of the cross-spectrum's inverse transform, whitened by the reference (C. H. Knapp and G. C. Carter
        1976).
        """
        peak = int(np.argmax(np.abs(self._circular())))
        return peak - self.settings.size if peak > self.settings.size // 2 else peak

    def _circular(self) -> FloatArray:
        power = self._reference + 1e-6 * self._reference.max() + 1e-30
        return scipy.fft.irfft(self._cross[0] / power, self.settings.size)

    def find_delay(self) -> float:
        """Find how much later the microphone hears, take it out from now on, and begin anew; in seconds."""
        self.delay = int(np.clip(self.delay + self._lag(), 0, self._reach))
        self.reset()
        return self.delay / self.settings.rate

    def track_delay(self) -> bool:
        """Follow a delay that moves, without beginning anew: the averages are turned by what it moved. Whether it did.

        It moves when it was found off by the same amount, within a sample, several times in turn.
        """
        off = self._lag()
        self._off = [*self._off[-TRACKED + 1 :], off]
        steady = len(self._off) == TRACKED and max(self._off) - min(self._off) <= 1
        wanted = int(np.clip(self.delay + off, 0, self._reach))
        if not steady or wanted == self.delay:
            return False
        lines = np.arange(self.settings.size // 2 + 1) / self.settings.size
        self._cross = self._cross * np.exp(2j * np.pi * lines * (wanted - self.delay))
        self.delay = wanted
        self._off = []
        return True

    def impulse(self, before_s: float, after_s: float) -> tuple[FloatArray, FloatArray]:
        """The running impulse of the first microphone: seconds from the delay taken out (m,), and values (m,)."""
        rate, size = self.settings.rate, self.settings.size
        before, after = (min(round(one * rate), size // 2 - 1) for one in (before_s, after_s))
        at = np.arange(-before, after)
        return at / rate, self._circular()[at % size]

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

        reference = cells(self._reference)
        cross = np.array([cells(one) for one in self._cross])
        microphone = np.array([cells(one) for one in self._microphone])
        known = (reference > 1e-10 * reference.max()) & (grid + half < 0.5 * self.settings.rate)
        safe = np.where(known, reference, 1.0)
        coherence = np.abs(cross) ** 2 / np.maximum(safe * microphone, 1e-300)
        each = cross / safe
        level = np.sqrt(np.mean(np.abs(each) ** 2, axis=0))
        turn = each[0] / np.maximum(np.abs(each[0]), 1e-300)
        return Shown(
            np.where(known, each[0] if each.shape[0] == 1 else level * turn, np.nan),
            np.where(known, np.clip(coherence.mean(axis=0), 0, 1), 0.0),
            self.count,
            self.delay / self.settings.rate,
        )
