"""Two sources heard by turns: which of two combs of tones sounds, window by window, and how the change-over went.

The wires play one comb, the second source the other; their lines lie between each other, so that both meet about the
same drivers and the same place. All lines are multiples of 20 Hz: a window of 50 ms holds whole periods of each, and no
line leaks into another.
"""

from dataclasses import dataclass, field
from typing import Literal

import numpy as np
import scipy  # its signal part loads at first use: the start need not wait for it
import scipy.fft

from imbrix.core.signal.signal import FloatArray
from imbrix.core.value import Value

Which = Literal["wires", "second"]
OTHER: dict[Which, Which] = {"wires": "second", "second": "wires"}
WINDOW_S = 0.05
LINE_HZ = 20.0
LOW_HZ, HIGH_HZ, LINES = 400.0, 4000.0, 20
LEVEL_DBFS = -18.0
"""Of either comb, as a mean square; its peaks stay under -6 dBFS."""
COMB_S = 30.0
OVER_DB = 10.0
"""A comb sounds where its power is so far over that of the lines beside it."""
STEADY = 8
"""So many windows on end are no chance."""
SETTLES = 3
"""So many windows at each end are left out of a level: what fades and what rings."""
GONE_DB = -40.0
"""What leaks by less cannot be heard beside the other."""


def lines(which: Which) -> FloatArray:
    """The frequencies (n,) of a comb, in hertz."""
    all_of_them = np.round(np.geomspace(LOW_HZ, HIGH_HZ, LINES) / LINE_HZ) * LINE_HZ
    return all_of_them[0 if which == "wires" else 1 :: 2]


def comb(which: Which, rate: int, seconds: float = COMB_S) -> FloatArray:
    """A comb on both sides (n, 2), with phases that keep its peaks low (D. J. Newman's: pi k squared over n)."""
    hertz = lines(which)
    at = np.arange(round(seconds * rate)) / rate
    phases = np.pi * np.arange(hertz.size) ** 2 / hertz.size
    sound = np.cos(2 * np.pi * hertz[:, None] * at[None, : rate // round(LINE_HZ)] + phases[:, None]).sum(axis=0)
    period = sound * 10 ** (LEVEL_DBFS / 20) / np.sqrt(np.mean(sound**2))
    whole = np.resize(period, at.size)
    return np.stack((whole, whole), axis=1)


class ChangeOver(Value):
    """What was heard of two sources, of which `first` comes first and the other one is heard without it.

    Levels are in dB over full scale. `gap_s` is for how long nothing sounded when the first took over, below nought for
    how long both did; `back_s` how long after its end the other was back; `leaks_db` the level of the other while the
    first sounded, against before. None is what was not heard.
    """

    first: Which
    other_db: float | None = None
    first_db: float | None = None
    gap_s: float | None = None
    back_s: float | None = None
    leaks_db: float | None = None

    @property
    def done(self) -> bool:
        """Whether it was heard from beginning to end."""
        return self.back_s is not None

    @property
    def louder_db(self) -> float | None:
        """By how much the second source is louder than the wires."""
        if self.first_db is None or self.other_db is None:
            return None
        return (self.first_db - self.other_db) * (1 if self.first == "second" else -1)


@dataclass
class ChangingOver:
    """Listens to a microphone block by block."""

    rate: int
    first: Which
    _rest: FloatArray = field(default_factory=lambda: np.zeros(0))
    _windows: list[tuple[float, float, bool, bool]] = field(default_factory=list)

    def feed(self, block: FloatArray) -> bool:
        """Take (n,) samples in; whether a window became full."""
        size = round(WINDOW_S * self.rate)
        rest = np.concatenate((self._rest, block))
        count = rest.size // size
        for one in rest[: count * size].reshape(count, size):
            self._windows.append(self._heard(one))
        self._rest = rest[count * size :]
        return count > 0

    def _heard(self, window: FloatArray) -> tuple[float, float, bool, bool]:
        """Power of the first source and of the other in a window, and whether each sounds."""
        power = 2 * np.abs(scipy.fft.rfft(window) / window.size) ** 2
        at = [np.round(lines(which) / LINE_HZ).astype(int) for which in (self.first, OTHER[self.first])]
        between = np.ones(power.size, dtype=bool)
        between[np.concatenate(at)] = False
        between[: round(LOW_HZ / LINE_HZ) - 2] = False
        between[round(HIGH_HZ / LINE_HZ) + 2 :] = False
        # A median of noise power is by log(2) less than its mean.
        noise = float(np.median(power[between])) / np.log(2) * at[0].size
        one, two = (float(power[each].sum()) for each in at)
        enough = 10 ** (OVER_DB / 10) * noise
        return one, two, one > enough, two > enough

    @property
    def now(self) -> tuple[bool, bool]:
        """Whether the first source and the other sound now."""
        if not self._windows:
            return False, False
        first, other, first_over, other_over = self._windows[-1]
        least = 10 ** (GONE_DB / 10) * max(first, other)
        return first_over and first > least, other_over and other > least

    @property
    def found(self) -> ChangeOver:
        """What was heard until now."""
        heard = ChangeOver(first=self.first)
        if not self._windows:
            return heard
        first, other, first_over, other_over = (np.array(each) for each in zip(*self._windows, strict=True))
        # Distortion of what sounds falls into the other's lines: that is far down.
        least = 10 ** (GONE_DB / 10) * max(first.max(), other.max())
        first_on, other_on = first_over & (first > least), other_over & (other > least)
        alone = _first_run(other_on & ~first_on, 0)
        if alone is None:
            return heard
        begins = _first_run(first_on, alone[0])
        until = begins[0] if begins else other.size
        base = _level(other[alone[0] : until][other_on[alone[0] : until]])
        heard = ChangeOver(first=self.first, other_db=base)
        if begins is None or base is None:
            return heard
        ends = begins[1]
        # Where the other goes on beside it, it fades or it stays.
        gap = (begins[0] - 1 - int(np.flatnonzero(other_on[:ends])[-1])) * WINDOW_S
        first_db, leaking = _level(first[begins[0] : ends]), _level(other[begins[0] : ends])
        gone = first_db is None or leaking is None or leaking < max(base, first_db) + GONE_DB
        back = _first_run(other_on & ~first_on, ends)
        return ChangeOver(
            first=self.first,
            other_db=base,
            first_db=first_db,
            gap_s=round(gap, 3),
            back_s=None if back is None else round((back[0] - ends) * WINDOW_S, 3),
            leaks_db=None if gone or leaking is None else leaking - base,
        )


def _first_run(on: np.ndarray, start: int) -> tuple[int, int] | None:
    """The first windows from `start` on, at least `STEADY` on end, that are on: where they begin and where they end."""
    edges = np.flatnonzero(np.diff(np.concatenate(([False], on[start:], [False])).astype(int)))
    runs = edges.reshape(-1, 2) + start
    long_ones = runs[runs[:, 1] - runs[:, 0] >= STEADY]
    return (int(long_ones[0, 0]), int(long_ones[0, 1])) if long_ones.size else None


def _level(power: FloatArray) -> float | None:
    """The level of some windows in dB, without what fades at both ends; None where there are too few."""
    inner = power[SETTLES:-SETTLES]
    return float(10 * np.log10(max(float(np.median(inner)), 1e-20))) if inner.size >= 2 else None
