"""FIR taps that come nearest to a wanted response within limits: least squares with constraints.

The objective is quadratic with a Toeplitz matrix, so that without a limit that binds the taps are its one minimum.
With limits - how much is lifted at each frequency, how loud it may be before the main pulse - the problem stays convex
and is solved by the alternating direction method of multipliers (S. Boyd et al., Foundations and Trends in Machine
Learning 3, 2011): one factorised matrix, and projections onto the limits by turns.
"""

from dataclasses import dataclass

import numpy as np
import scipy  # its linear algebra loads at first use: the start need not wait for it
import scipy.fft

from imbrix.core.patience import goes_on
from imbrix.core.signal.signal import ComplexArray, FloatArray

_LEAST = 1e-11
"""Share of the mean weight that every tap is held down by, so that nothing grows where nothing is weighed."""
_TURNS = 400
OVER = 1.8
"""Each turn goes further than it is asked to: over-relaxation (J. Eckstein and D. P. Bertsekas 1992)."""
_NEAR = 2e-3
"""How near to its limit, relative to it, a solution has to come."""
_TIGHTER = 0.99
"""Limits are aimed at a little within them, so that they hold where the turns end."""


@dataclass(frozen=True)
class Problem:
    """What taps are sought for, on the uniform frequencies of a transform of `size` samples, half + 1 of them.

    `wanted` (k,) is the response of the taps, `weight` (k,) what an error counts there, `most` (k,) how much they may
    lift at each; `chain` (k,) is what they correct, so that `chain` times the taps is heard. Before sample `before`
    what is heard stays under `quiet`, a share of `peak`.
    """

    size: int
    wanted: ComplexArray
    weight: FloatArray
    most: FloatArray
    chain: ComplexArray
    before: int
    quiet: float
    peak: float


def weighted_error(problem: Problem, taps: FloatArray) -> float:
    """The weighted sum of squared errors of taps (t,), over both halves of the spectrum."""
    error = np.abs(scipy.fft.rfft(taps, problem.size) - problem.wanted) ** 2 * problem.weight
    return float(2 * error.sum() - error[0] - error[-1])


def solve(problem: Problem, count: int) -> FloatArray:
    """The taps (count,)."""
    row = scipy.fft.irfft(problem.weight, problem.size)[:count]
    wanted = scipy.fft.irfft(problem.weight * problem.wanted, problem.size)[:count]
    scale = 1.0 / row[0]
    row, wanted = row * scale, wanted * scale
    row[0] += _LEAST
    free = scipy.linalg.solve_toeplitz(row, wanted)
    limits = _Limits(problem, count)
    if limits.beyond(free) <= 1.0 + _NEAR:
        return np.asarray(free)
    return _within(limits, row, wanted, np.asarray(free))


class _Limits:
    """The two limits, as linear maps of the taps: their spectrum, and what is heard before the pulse."""

    def __init__(self, problem: Problem, count: int) -> None:
        self.size, self.count, self.chain = problem.size, count, problem.chain
        self.most = np.maximum(problem.most, 1e-4)
        first = min(0, problem.before - count)
        self.early = np.arange(first, max(first + 1, problem.before)) % problem.size
        self.quiet = problem.quiet * problem.peak
        self.pulse = scipy.fft.irfft(problem.chain, problem.size)

    def heard(self, spectrum: ComplexArray) -> FloatArray:
        return np.asarray(scipy.fft.irfft(spectrum * self.chain, self.size)[self.early])

    def back(self, early: FloatArray) -> FloatArray:
        """The transpose of `heard`."""
        placed = np.zeros(self.size)
        placed[self.early] = early
        return np.asarray(scipy.fft.irfft(scipy.fft.rfft(placed) * np.conj(self.chain), self.size)[: self.count])

    def gram(self) -> FloatArray:
        """The matrix (count, count) of `heard` and its transpose.

        The rows are a stretch of one sequence, each shifted by one: an element differs from the one before it on the
        diagonal by what enters at one end of the stretch and leaves at the other.
        """
        span, at = self.early.size, np.arange(self.count)
        first = int(self.early[0])
        # What tap j adds at the early sample m is pulse[m - j].
        start = self.pulse[(first - 1 - at) % self.size]
        end = self.pulse[(first + span - 1 - at) % self.size]
        made = np.empty((self.count, self.count))
        made[0] = self.back(self.pulse[self.early])
        made[:, 0] = made[0]
        for n in range(self.count - 1):
            if n % 256 == 0:
                goes_on()
            made[n + 1, 1:] = made[n, :-1] + start[n] * start[:-1] - end[n] * end[:-1]
        return made

    def beyond(self, taps: FloatArray) -> float:
        """The worst of both limits, as a ratio: 1 is at the limit."""
        spectrum = scipy.fft.rfft(taps, self.size)
        loud = float(np.abs(self.heard(spectrum)).max()) / max(self.quiet, 1e-12)
        return max(float((np.abs(spectrum) / self.most).max()), loud)


def _within(limits: _Limits, row: FloatArray, wanted: FloatArray, taps: FloatArray) -> FloatArray:
    gram = limits.gram()
    lifts = 0.3  # what the limit of the lift weighs; the mean weight of the objective is one
    early = 30.0 / max(float(np.diagonal(gram).max()), 1e-12)
    matrix = scipy.linalg.toeplitz(row) + early * gram
    matrix[np.diag_indices_from(matrix)] += lifts
    factor = scipy.linalg.cho_factor(matrix, overwrite_a=True, check_finite=False)
    most, quiet = limits.most * _TIGHTER, limits.quiet * _TIGHTER
    spectrum = scipy.fft.rfft(taps, limits.size)
    lifted, over = _capped(spectrum, most), np.zeros_like(spectrum)
    heard = limits.heard(spectrum)
    kept, rest = np.clip(heard, -quiet, quiet), np.zeros_like(heard)
    best, least = taps, np.inf
    for nth in range(_TURNS):
        goes_on()
        pull = lifts * scipy.fft.irfft(lifted - over, limits.size)[: limits.count]
        right = wanted + pull + early * limits.back(kept - rest)
        taps = scipy.linalg.cho_solve(factor, right, check_finite=False)
        spectrum = scipy.fft.rfft(taps, limits.size)
        heard = limits.heard(spectrum)
        lead = OVER * spectrum + (1 - OVER) * lifted
        lifted = _capped(lead + over, most)
        over = over + lead - lifted
        lead_heard = OVER * heard + (1 - OVER) * kept
        kept = np.clip(lead_heard + rest, -quiet, quiet)
        rest = rest + lead_heard - kept
        if nth % 10 == 9:
            beyond = limits.beyond(taps)
            if beyond < least:
                best, least = taps, beyond
            if beyond <= 1.0 and nth >= 30:
                return np.asarray(taps)
    return np.asarray(best)


def _capped(spectrum: ComplexArray, most: FloatArray) -> ComplexArray:
    """The spectrum with no magnitude over `most`."""
    size = np.abs(spectrum)
    return np.asarray(spectrum * np.minimum(1.0, most / np.maximum(size, 1e-12)))
