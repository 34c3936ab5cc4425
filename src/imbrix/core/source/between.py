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
EVERY, COARSE = 4, 6
"""The fit looks at every fourth point of the grid, 24 to the octave; the choice of where to begin at every sixth."""
MOST_DELAY_S = 0.04
ROUGHLY_BELOW_HZ, ABOUT_S = 6000.0, 2e-3
FIRST, SECOND = 1, 2
END, STEEPEST = 32, 4.0
"""So many steps of the grid tell how a magnitude goes on, and no more steeply than 24 dB per octave."""
MOST_PASSES, BEAM, LOOKED = 2, 2, 6
ENOUGH_RAD = np.radians(1.5)
"""A phase explained so well is looked at no further."""
EARNS_RAD = np.radians(5.0)
"""So much less an all-pass has to leave than there is without it, rms over the band."""


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
    best = _explained(excess, frequencies, weight)
    middle = (frequencies > 200) & (frequencies < 5000)
    levels = 20 * np.log10(np.abs(ratio[span][use]))
    return Between(
        level_db=float(np.median(levels[middle] if middle.any() else levels)),
        inverted=best.sign < 0,
        delay_s=best.delay_s,
        passes=best.passes,
        left_rad=best.left_rad,
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


@dataclass(frozen=True)
class _Guess:
    """An explanation of a ratio of magnitude one: sign, delay, all-passes, and the rms phase that it leaves."""

    sign: int
    delay_s: float
    passes: tuple[AllPass, ...]
    left_rad: float

    @property
    def price(self) -> float:
        """What it leaves, and what each all-pass has to earn."""
        return self.left_rad + EARNS_RAD * len(self.passes)


def _explained(excess: ComplexArray, frequencies: FloatArray, weight: FloatArray) -> _Guess:
    """The simplest good explanation of a ratio (n,), of those with none, one and two all-passes."""
    delay = min(
        (
            _fitted(excess, frequencies, weight, _Guess(sign, _delay(sign * weight * excess, frequencies), (), 0.0))
            for sign in (1, -1)
        ),
        key=lambda one: one.left_rad,
    )
    best, beam = delay, [delay]
    for _ in range(MOST_PASSES):
        if best.left_rad < ENOUGH_RAD:
            break
        tried = [one for had in beam for one in _looked(excess, frequencies, weight, had, delay.delay_s)]
        beam = sorted((_fitted(excess, frequencies, weight, one) for one in tried), key=lambda one: one.left_rad)[:BEAM]
        best = min(best, beam[0], key=lambda one: one.price)
    return best


def _looked(
    excess: ComplexArray, frequencies: FloatArray, weight: FloatArray, had: _Guess, about_s: float
) -> list[_Guess]:
    """Guesses with one all-pass more, the likeliest first: of all that are looked at, each with every delay about
    `about_s`, those whose phase agrees best with what is there."""
    f, heavy = frequencies[::COARSE], weight[::COARSE]
    rest = excess[::COARSE] * heavy / heavy.sum()
    for one in had.passes:
        rest = rest * np.conjugate(one.response(f))
    more = list(_starts(frequencies))
    without = np.array([rest * np.conjugate(one.response(f)) for one in more])
    delays = about_s + np.arange(-ABOUT_S, ABOUT_S, 1 / (6 * frequencies[-1]))
    agrees = np.real(without @ np.exp(2j * np.pi * np.outer(f, delays)))
    tops = np.abs(agrees).max(axis=1)
    found = []
    for n in np.argsort(tops)[::-1][:LOOKED]:
        at = int(np.argmax(np.abs(agrees[n])))
        found.append(_Guess(1 if agrees[n, at] > 0 else -1, float(delays[at]), (*had.passes, more[n]), 0.0))
    return found


def _delay(values: ComplexArray, frequencies: FloatArray) -> float:
    """The delay that explains most of a phase (n,): roughly by its lower part, then by all of it about there."""
    some = frequencies < ROUGHLY_BELOW_HZ
    rough = time_shift(np.ones(int(some.sum()), dtype=complex), values[some], frequencies[some], MOST_DELAY_S)
    moved = values * np.exp(2j * np.pi * frequencies * rough)
    return rough + time_shift(np.ones(values.size, dtype=complex), moved, frequencies, ABOUT_S)


def _starts(frequencies: FloatArray) -> Iterable[AllPass]:
    """All-passes to look for: every half octave, of both orders, broad and narrow, of either feed."""
    for hertz in np.geomspace(30.0, 16_000.0, 19):
        if frequencies[0] < hertz < frequencies[-1]:
            for ahead in (False, True):
                yield AllPass(FIRST, float(hertz), 1.0, ahead)
                for q in (0.6, 1.2, 3.0):
                    yield AllPass(SECOND, float(hertz), q, ahead)


def _fitted(
    excess: ComplexArray,
    frequencies: FloatArray,
    weight: FloatArray,
    guess: _Guess,
    every: int = EVERY,
    most: int = 80,
) -> _Guess:
    """Least squares of delay and all-passes from where they are guessed."""
    f, seen, heavy = frequencies[::every], excess[::every], np.sqrt(weight[::every])
    passes = guess.passes

    def model(x: FloatArray, hertz: FloatArray) -> ComplexArray:
        turned = -2 * np.pi * hertz * x[0] * 1e-4
        for n, one in enumerate(passes):
            way = -1 if one.ahead else 1
            turned = turned + way * _turn(one.order, x[1 + 2 * n], x[2 + 2 * n], hertz)
        return np.asarray(guess.sign * np.exp(1j * turned))

    def misses(x: FloatArray) -> FloatArray:
        apart = heavy * (seen - model(x, f))
        return np.concatenate((apart.real, apart.imag))

    start = [guess.delay_s * 1e4]
    low, high = [-MOST_DELAY_S * 1e4], [MOST_DELAY_S * 1e4]
    for one in passes:
        start += [np.log(one.frequency_hz), np.log(one.q)]
        low += [np.log(20.0), np.log(0.2)]
        high += [np.log(18_000.0), np.log(12.0)]
    scale = np.array([0.2, *([0.3, 0.5] * len(passes))])
    found = scipy.optimize.least_squares(
        misses, np.clip(start, low, high), bounds=(low, high), x_scale=scale, max_nfev=most, xtol=1e-10, ftol=1e-10
    )
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
    return _Guess(guess.sign, float(x[0] * 1e-4), made, rms)
