"""A simulated second source: a digital player of its own volume, and the switch in the processor that lets it in."""

from dataclasses import dataclass

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import soxr

from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune.second import SecondSource

RATE = 48_000
STEPS = 40
"""Of its volume, one decibel each (common practice, no source)."""
FADE_S = 2e-3
"""The time constant with which the switch fades over."""


@dataclass(frozen=True)
class Player:
    """What it plays, round and round (n, 2) at `RATE`, flat, from one second of a recording until another."""

    track: FloatArray
    from_s: float
    until_s: float

    def plays(self, size: int, rate: int, volume: int) -> FloatArray:
        """What it gives to the processor in `size` samples at `rate` (size, 2)."""
        sound = self.track if rate == RATE else soxr.resample(self.track, RATE, rate, quality="VHQ")
        first, last = (min(size, round(each * rate)) for each in (self.from_s, self.until_s))
        out = np.zeros((size, 2))
        level = 10 ** ((volume - STEPS) / 20)
        out[first:last] = level * np.take(sound, np.arange(last - first), axis=0, mode="wrap")
        return out


class Switch:
    """Which source the processor lets through: follows the one that comes first, block by block."""

    def __init__(self, rate: int) -> None:
        self._rate = rate
        self._since = 10**9  # samples since the first one was heard
        self._share = np.zeros(1)

    def share(self, wires: FloatArray, second: FloatArray, wanted: SecondSource) -> FloatArray:
        """How much of the second source is let in (n,), from 0 to 1, by the peaks of the wires (n,) and of it (n,)."""
        first = second if wanted.priority == "before" else wires
        at = np.arange(first.size)
        over = first > 10 ** (wanted.over_dbfs / 20)
        last = np.maximum.accumulate(np.where(over, at, -1 - self._since))
        since = at - last
        self._since = int(since[-1])
        holds = since < wanted.hold_s * self._rate
        target = holds if wanted.priority == "before" else ~holds
        a = 1 - np.exp(-1 / (FADE_S * self._rate))
        share, self._share = scipy.signal.lfilter([a], [1, a - 1], target.astype(float), zi=self._share)
        return np.asarray(share)
