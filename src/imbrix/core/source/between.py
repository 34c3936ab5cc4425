"""What lies between two feeds of a source beside their levels: polarity, delay and all-passes.

Of the ratio of both responses the minimum phase that its magnitude has is taken out (H. W. Bode 1945); what is left has
a magnitude of one: a sign, a delay, and all-passes of either feed. Their number, order, frequency and Q are those that
explain it best by least squares, no more of them than make it clearly better.
"""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.minimum_phase import STEP, bode_phase
from imbrix.core.signal.response import time_shift
from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.core.signal.smoothing import smooth

GRID = log_grid()
EVERY, COARSE = 4, 12
"""The fit looks at every fourth point of the grid, 24 to the octave; the choice of where to begin at every twelfth."""
MOST_DELAY_S = 0.04
ROUGHLY_BELOW_HZ, ABOUT_S = 6000.0, 3e-3
FIRST, SECOND = 1, 2
END, STEEPEST = 32, 4.0
"""So many steps of the grid tell how a magnitude goes on, and no more steeply than 24 dB per octave."""
TURNS_RAD = np.radians(4.0)
"""An all-pass is said where it explains this much more, rms over the band, and halves what is left."""


@dataclass(frozen=True)
class AllPass:
    """An all-pass of the first or second order; `ahead` where it is the first of the two feeds that has it."""

    order: int
    frequency_hz: float
    q: float
    ahead: bool

    def response(self, frequencies: FloatArray) -> ComplexArray:
        """Its response (n,), as between the feeds."""
        turn = _turn(self.order, np.log(self.frequency_hz), np.log(self.q), frequencies)
        return np.asarray(np.exp(1j * (-turn if self.ahead else turn)))


@dataclass(frozen=True)
class Between:
    """How the second of two feeds differs from the first.

    `level_db` is the median of its level over the first's; `delay_s` is by how much it comes later; `left_rad` the rms
    phase that stays unexplained over the band from `low_hz` to `high_hz`.
    """

    level_db: float
    inverted: bool
    delay_s: float
    passes: tuple[AllPass, ...]
    left_rad: float
    low_hz: float
    high_hz: float


def _turn(order: float, log_f: float, log_q: float, frequencies: FloatArray) -> FloatArray:
    """Phase (n,) in radians of an all-pass: analogue prototype, minus 90 or 180 degrees at its frequency."""
    x = frequencies / np.exp(log_f)
    if order == FIRST:
        return np.asarray(-2 * np.arctan(x))
    return np.asarray(-2 * np.arctan2(x / np.exp(log_q), 1 - x**2))


def between(first: ComplexArray, second: ComplexArray) -> Between | None:
    """How `second` (n,) differs from `first` (n,), both on the common grid; None where they share too little."""
    known = np.isfinite(first) & np.isfinite(second)
    if known.sum() < 2 * 96:
        return None
    ratio = np.where(known, second, 1.0) / np.where(known, first, 1.0)
    nepers = np.log(np.abs(ratio))
    at = np.flatnonzero(known)
    span = slice(at[0], at[-1] + 1)
    smoothed = smooth(np.interp(np.arange(GRID.size), at, nepers[at]), GRID, 12)[span]
    ends = _end(smoothed[:END], first=True), _end(smoothed[-END:], first=False)
    excess = np.exp(1j * (np.angle(ratio[span]) - bode_phase(smoothed, *ends)))
    use = known[span]
    frequencies, excess = GRID[span][use], excess[use]
    weight = _weights(first[span][use], second[span][use])
    sign, delay, passes, left = _explained(excess, frequencies, weight)
    middle = (frequencies > 200) & (frequencies < 5000)
    levels = 20 * np.log10(np.abs(ratio[span][use]))
    return Between(
        level_db=float(np.median(levels[middle] if middle.any() else levels)),
        inverted=sign < 0,
        delay_s=delay,
        passes=passes,
        left_rad=left,
        low_hz=float(frequencies[0]),
        high_hz=float(frequencies[-1]),
    )


def _end(nepers: FloatArray, first: bool) -> tuple[float, float]:
    """Level and slope with which a magnitude goes on beyond an end: a high-pass that only one of them has goes on."""
    away = np.arange(nepers.size) * STEP
    slope, level = np.polyfit(away, nepers, 1)
    return float(level if first else level + slope * away[-1]), float(np.clip(slope, -STEEPEST, STEEPEST))


def _weights(first: ComplexArray, second: ComplexArray) -> FloatArray:
    """Where a feed is far down its phase counts for little."""
    weaker = np.minimum(*(np.abs(one) / np.median(np.abs(one)) for one in (first, second)))
    return np.asarray(np.clip(weaker, 0.0, 1.0))


def _explained(
    excess: ComplexArray, frequencies: FloatArray, weight: FloatArray
) -> tuple[int, float, tuple[AllPass, ...], float]:
    """Sign, delay and all-passes behind a ratio (n,) of magnitude one, and the rms phase left."""
    delay, other = (_delay(way * weight * excess, frequencies) for way in (1, -1))
    best = min(
        (_fitted(excess, frequencies, weight, sign, start, ()) for sign in (1, -1) for start in (delay, other)),
        key=lambda one: one[3],
    )
    for _ in range(2):
        if best[3] < TURNS_RAD:
            break
        coarse = [
            _fitted(excess, frequencies, weight, sign, best[1], (*best[2], more), COARSE, 8)
            for sign in (1, -1)
            for more in _starts(frequencies)
        ]
        coarse.sort(key=lambda one: one[3])
        better = min(
            (_fitted(excess, frequencies, weight, one[0], one[1], one[2]) for one in coarse[:4]),
            key=lambda one: one[3],
        )
        if better[3] > 0.5 * best[3] or best[3] - better[3] < TURNS_RAD:
            break
        best = better
    return best


def _delay(values: ComplexArray, frequencies: FloatArray) -> float:
    """The delay that explains most of a phase (n,): roughly by its lower part, then by all of it about there, because
    an all-pass lets the lower part come late."""
    some = frequencies < ROUGHLY_BELOW_HZ
    rough = time_shift(np.ones(int(some.sum()), dtype=complex), values[some], frequencies[some], MOST_DELAY_S)
    moved = values * np.exp(2j * np.pi * frequencies * rough)
    return rough + time_shift(np.ones(values.size, dtype=complex), moved, frequencies, ABOUT_S)


def _starts(frequencies: FloatArray) -> Iterable[AllPass]:
    inside = [hertz for hertz in (50, 110, 240, 520, 1100, 2400, 5200) if frequencies[0] < hertz < frequencies[-1]]
    for hertz in inside:
        for ahead in (False, True):
            yield AllPass(FIRST, hertz, 1.0, ahead)
            yield AllPass(SECOND, hertz, 0.8, ahead)
            yield AllPass(SECOND, hertz, 3.0, ahead)


def _fitted(
    excess: ComplexArray,
    frequencies: FloatArray,
    weight: FloatArray,
    sign: int,
    delay: float,
    passes: tuple[AllPass, ...],
    every: int = EVERY,
    most: int = 60,
) -> tuple[int, float, tuple[AllPass, ...], float]:
    """Least squares of delay and all-passes from where they are."""
    f, seen, heavy = frequencies[::every], excess[::every], np.sqrt(weight[::every])

    def model(x: FloatArray, hertz: FloatArray) -> ComplexArray:
        turned = -2 * np.pi * hertz * x[0] * 1e-4
        for n, one in enumerate(passes):
            way = -1 if one.ahead else 1
            turned = turned + way * _turn(one.order, x[1 + 2 * n], x[2 + 2 * n], hertz)
        return np.asarray(sign * np.exp(1j * turned))

    def misses(x: FloatArray) -> FloatArray:
        apart = heavy * (seen - model(x, f))
        return np.concatenate((apart.real, apart.imag))

    start = [delay * 1e4]
    low, high = [-MOST_DELAY_S * 1e4], [MOST_DELAY_S * 1e4]
    for one in passes:
        start += [np.log(one.frequency_hz), np.log(one.q)]
        low += [np.log(20.0), np.log(0.2)]
        high += [np.log(18_000.0), np.log(12.0)]
    found = scipy.optimize.least_squares(misses, np.clip(start, low, high), bounds=(low, high), max_nfev=most)
    x = found.x
    left = np.angle(excess * np.conjugate(model(x, frequencies)))
    rms = float(np.sqrt(np.sum(weight * left**2) / np.sum(weight)))
    made = tuple(
        AllPass(
            one.order,
            float(np.exp(x[1 + 2 * n])),
            float(np.exp(x[2 + 2 * n])) if one.order == SECOND else 1.0,
            one.ahead,
        )
        for n, one in enumerate(passes)
    )
    return sign, float(x[0] * 1e-4), made, rms
