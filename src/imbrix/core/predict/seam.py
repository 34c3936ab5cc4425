"""The seam: how much level two neighbouring ways lose to timing, and which settings lose the least.

Loss is how far the complex sum falls short of the sum of magnitudes, in dB, over the stretch where both
ways are within 10 dB of each other. It is zero when the two are in phase throughout.
"""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.errors import InvalidError
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels, power_decibels
from imbrix.core.signal.smoothing import Fraction, smooth, smooth_power

WITHIN_DB = 10.0


@dataclass(frozen=True, slots=True)
class Loss:
    """Loss of one seam: `curve` (n,) in dB, NaN outside the stretch; mean and worst within it."""

    curve: FloatArray
    low_hz: float
    high_hz: float
    mean: float
    worst: float
    worst_hz: float


@dataclass(frozen=True, slots=True)
class Candidate:
    """A change at a seam: the upper way later by `delay_s` and perhaps inverted, and what it would lose."""

    delay_s: float
    invert: bool
    mean: float
    worst: float


def stretch(lower: ComplexArray, upper: ComplexArray, frequencies: FloatArray) -> slice | None:
    """Where both ways are within 10 dB of each other, around the point at which the weaker is strongest.

    Judged on 1/3-octave curves, so that a narrow dip does not end it. None where they do not overlap.
    """
    low = power_decibels(smooth_power(np.nan_to_num(lower), frequencies, 3))
    high = power_decibels(smooth_power(np.nan_to_num(upper), frequencies, 3))
    weaker = np.where(np.abs(low - high) <= WITHIN_DB, np.minimum(low, high), -np.inf)
    peak = int(np.argmax(weaker))
    if not np.isfinite(weaker[peak]) or weaker[peak] < max(low.max(), high.max()) - 40.0:
        return None
    together = np.isfinite(weaker)
    first = last = peak
    while first > 0 and together[first - 1]:
        first -= 1
    while last < together.size - 1 and together[last + 1]:
        last += 1
    return slice(first, last + 1) if last > first + 2 else None


def over_places(responses: ComplexArray) -> ComplexArray:
    """The level (n,) of responses (p, n) at several places together; one response (n,) as it is."""
    return responses if responses.ndim == 1 else np.sqrt(np.mean(np.abs(responses) ** 2, axis=0))


class SeamProblem:
    """Two ways at their seam, prepared so that many delays can be tried at once.

    `lower` and `upper` (n,) are complex responses with their filters, or (p, n) those at several places. Judged is
    where both are within 10 dB of each other, or `where` that is said. Raises InvalidError where they do not overlap.
    """

    def __init__(
        self,
        lower: ComplexArray,
        upper: ComplexArray,
        frequencies: FloatArray,
        smoothing: Fraction = 12,
        where: slice | None = None,
    ) -> None:
        where = where or stretch(over_places(lower), over_places(upper), frequencies)
        if where is None:
            raise InvalidError("the two ways do not overlap: nowhere are both within 10 dB of each other")
        # The stretch is fixed by the levels alone, so that it does not move while delays are tried.
        margin = 8
        wide = slice(max(0, where.start - margin), min(frequencies.size, where.stop + margin))
        self.where = where
        self._wide = wide
        self.smoothing = smoothing
        self.frequencies = frequencies[wide]
        self._inner = slice(where.start - wide.start, where.stop - wide.start)
        a, b = np.nan_to_num(lower[..., wide]), np.nan_to_num(upper[..., wide])
        self._cross = a * np.conjugate(b)
        first = smooth_power(a, self.frequencies, smoothing)[..., self._inner]
        second = smooth_power(b, self.frequencies, smoothing)[..., self._inner]
        self._power = (first + second)[..., None, :]
        self._ideal = decibels(np.sqrt(first) + np.sqrt(second))[..., None, :]
        self._span = 2j * np.pi * self.frequencies

    @property
    def judged_hz(self) -> FloatArray:
        """The frequencies (m,) of the stretch."""
        return self.frequencies[self._inner]

    @property
    def centre_hz(self) -> float:
        """Geometric middle of the stretch."""
        return float(np.sqrt(self.judged_hz[0] * self.judged_hz[-1]))

    def curves(self, delays_s: FloatArray, invert: bool) -> FloatArray:
        """Loss (d, m), or (p, d, m), in dB over the stretch for the upper way later by each of `delays_s` (d,)."""
        return self._lost(self._crossed(delays_s), -1.0 if invert else 1.0)

    def turned(self, turns: ComplexArray) -> FloatArray:
        """Loss (d, m), or (p, d, m), in dB for the upper way turned by each of `turns` (d, n): all-passes, on the whole
        grid."""
        return self._lost(self._common(np.conjugate(turns[:, self._wide])), 1.0)

    def both(self, delays_s: FloatArray) -> FloatArray:
        """The same (2, ..., d, m) as it is and with the upper way inverted."""
        cross = self._crossed(delays_s)
        return np.stack((self._lost(cross, 1.0), self._lost(cross, -1.0)))

    def _crossed(self, delays_s: FloatArray) -> FloatArray:
        """What both have in common (..., d, m), the upper way later by each delay."""
        return self._common(np.exp(np.outer(delays_s, self._span)))

    def _common(self, turns: ComplexArray) -> FloatArray:
        """What both have in common (..., d, m), turned against each other by each of `turns` (d, w)."""
        turned = turns * self._cross[..., None, :]
        return smooth(turned.real, self.frequencies, self.smoothing)[..., self._inner]

    def _lost(self, cross: FloatArray, sign: float) -> FloatArray:
        total = self._power + 2.0 * sign * cross
        return self._ideal - power_decibels(np.maximum(total, self._power * 1e-6))

    def means(self, delays_s: FloatArray, invert: bool) -> FloatArray:
        """Mean loss (d,) over the stretch, in dB."""
        parts = np.array_split(np.asarray(delays_s, dtype=float), max(1, len(delays_s) // 256))
        return np.concatenate([self.curves(part, invert).mean(axis=-1) for part in parts])

    def both_polarities(self, delays_s: FloatArray) -> tuple[FloatArray, FloatArray]:
        """Mean loss (d,) against delay, as it is and with the upper way inverted."""
        plus, minus = self.both(delays_s).mean(axis=-1)
        return plus, minus

    def candidate(self, delay_s: float, invert: bool) -> Candidate:
        """Mean and worst loss of one setting."""
        curve = self.curves(np.array([delay_s]), invert)[0]
        return Candidate(delay_s, invert, float(curve.mean()), float(curve.max()))


def loss(lower: ComplexArray, upper: ComplexArray, frequencies: FloatArray, smoothing: Fraction = 12) -> Loss | None:
    """Loss of a seam as it stands; None where the two ways do not overlap."""
    try:
        problem = SeamProblem(lower, upper, frequencies, smoothing)
    except InvalidError:
        return None
    inner = problem.curves(np.zeros(1), invert=False)[0]
    curve = np.full(frequencies.size, np.nan)
    curve[problem.where] = inner
    stretch_hz = frequencies[problem.where]
    worst = int(np.argmax(inner))
    return Loss(
        curve=curve,
        low_hz=float(stretch_hz[0]),
        high_hz=float(stretch_hz[-1]),
        mean=float(inner.mean()),
        worst=float(inner[worst]),
        worst_hz=float(stretch_hz[worst]),
    )


def sensible_delays(centre_hz: float) -> float:
    """How far, in seconds, a search looks to either side: two periods, within 2 and 10 ms.

    10 ms is more path than a car or a listening room has between two drivers (3.4 m).
    """
    return float(np.clip(2.0 / centre_hz, 2e-3, 10e-3))


def search(
    problem: SeamProblem, step_s: float | None = None, limit_s: float | None = None, together_s: float = 0.0
) -> list[Candidate]:
    """The best delays for both polarities, least loss first.

    Looked at is all that is sensible about the present setting, and about the delay `together_s` of the upper way at
    which the direct sound of both arrives at once: the present setting may be astray. The range is covered by a grid
    so fine that no minimum fits between two points (an eighth of the shortest period), every minimum is then refined
    by Brent's bounded method, and rounded to the processor's step where there is one.
    """
    limit = limit_s or sensible_delays(problem.centre_hz)
    step = 1.0 / (8.0 * problem.frequencies[-1])
    trial = np.arange(min(0.0, together_s) - limit, max(0.0, together_s) + limit + step, step)
    found: list[Candidate] = []
    for invert in (False, True):
        mean = problem.means(trial, invert)
        inner = np.flatnonzero((mean[1:-1] <= mean[:-2]) & (mean[1:-1] <= mean[2:])) + 1
        for at in sorted(inner, key=lambda i: mean[i])[:6]:
            refined = scipy.optimize.minimize_scalar(
                lambda delay, invert=invert: float(problem.means(np.array([delay]), invert)[0]),
                bounds=(trial[at] - step, trial[at] + step),
                method="bounded",
                options={"xatol": 1e-8},
            )
            delay = float(refined.x)
            if step_s:
                delay = _best_step(problem, delay, invert, step_s)
            found.append(problem.candidate(delay, invert))
    return sorted(found, key=lambda one: one.mean)


def _best_step(problem: SeamProblem, delay_s: float, invert: bool, step_s: float) -> float:
    around = np.array([np.floor(delay_s / step_s), np.ceil(delay_s / step_s)]) * step_s
    return float(around[int(np.argmin(problem.means(around, invert)))])


def distinct(candidates: Sequence[Candidate], apart_s: float, most: int = 3) -> list[Candidate]:
    """The first `most` candidates that differ in polarity or by more than `apart_s`."""
    kept: list[Candidate] = []
    for one in candidates:
        if all(one.invert != other.invert or abs(one.delay_s - other.delay_s) > apart_s for other in kept):
            kept.append(one)
    return kept[:most]
