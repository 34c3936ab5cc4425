"""One sine after another: each frequency is left to settle and then read by correlation over whole periods.

Slower than a sweep and the better where a driver takes time to settle or the place is loud; the estimate at each step
is the discrete Fourier transform at its own frequency (synchronous detection).
"""

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.signal.signal import ComplexArray, FloatArray


@dataclass(frozen=True)
class Steps:
    """`per_octave` sines from `low_hz` to `high_hz` at `level_db`, after `quiet_s` of silence."""

    low_hz: float = 10.0
    high_hz: float = 20_000.0
    per_octave: int = 12
    level_db: float = -24.0
    rate: int = 48_000
    quiet_s: float = 0.2
    settle_s: float = 0.12
    read_s: float = 0.1

    def __post_init__(self) -> None:
        if not 0 < self.low_hz < self.high_hz < self.rate / 2:
            raise InvalidError(
                f"steps from {self.low_hz:g} to {self.high_hz:g} Hz do not fit {self.rate} samples a second"
            )
        if not 1 <= self.per_octave <= 96:
            raise InvalidError(f"{self.per_octave} steps to the octave; 1 to 96 are possible")

    @cached_property
    def frequencies(self) -> FloatArray:
        """The steps (n,), each so that a whole number of periods falls into its reading."""
        count = int(np.floor(self.per_octave * np.log2(self.high_hz / self.low_hz))) + 1
        wanted = self.low_hz * 2 ** (np.arange(count) / self.per_octave)
        periods = np.maximum(2, np.round(wanted * self.read_s))
        length = np.round(periods * self.rate / wanted)
        return periods * self.rate / length

    @cached_property
    def _lengths(self) -> np.ndarray:
        periods = np.maximum(2, np.round(self.frequencies * self.read_s))
        return np.round(periods * self.rate / self.frequencies).astype(int)

    @cached_property
    def _settles(self) -> np.ndarray:
        """Samples left to settle before each reading: at least four periods."""
        return np.round(np.maximum(self.settle_s, 4 / self.frequencies) * self.rate).astype(int)

    @cached_property
    def starts(self) -> np.ndarray:
        """The sample at which each step begins (n,)."""
        whole = self._settles + self._lengths
        return round(self.quiet_s * self.rate) + np.concatenate(([0], np.cumsum(whole)[:-1]))

    @cached_property
    def size(self) -> int:
        """Samples in all, with room for the latency of devices at the end."""
        return int(self.starts[-1] + self._settles[-1] + self._lengths[-1] + round(0.1 * self.rate))

    def samples(self) -> FloatArray:
        """All that is played (size,); the phase runs on from step to step, so that nothing clicks."""
        out = np.zeros(self.size)
        phase = 0.0
        for start, settle, length, hertz in zip(
            self.starts, self._settles, self._lengths, self.frequencies, strict=True
        ):
            turns = phase + 2 * np.pi * hertz / self.rate * np.arange(1, settle + length + 1)
            out[start : start + settle + length] = np.sin(turns)
            phase = float(turns[-1] % (2 * np.pi))
        return 10 ** (self.level_db / 20) * out

    def read(self, recorded: FloatArray, latency: int = 0) -> ComplexArray:
        """Complex amplitudes (steps, inputs) of a recording (samples, inputs) that lags by `latency` samples."""
        found = []
        for start, settle, length, hertz in zip(
            self.starts, self._settles, self._lengths, self.frequencies, strict=True
        ):
            first = start + settle + latency
            piece = recorded[first : first + length]
            turn = np.exp(-2j * np.pi * hertz / self.rate * np.arange(piece.shape[0]))
            found.append(2 / max(1, piece.shape[0]) * (turn @ piece))
        return np.array(found)

    def lag(self, recorded: FloatArray) -> int:
        """By how many samples a recording (samples,) lags: where its sound begins, less the first step's start."""
        loud = np.abs(recorded) > 0.05 * np.abs(recorded).max()
        return max(0, int(np.argmax(loud)) - int(self.starts[0]))
