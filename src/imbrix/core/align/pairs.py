"""What two drivers lose to each other against the time and the polarity between them, as a table.

Whatever is wanted of an alignment is wanted between two drivers: that neighbouring ways are in phase where they
overlap, left and right where the ear and the bass need it, that their sound arrives when it should. So a system is a
net of tables, each over the steps that the processor's delay has, and a search need not predict anything again.
"""

from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.predict.seam import WITHIN_DB, stretch
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels, power_decibels
from imbrix.core.signal.smoothing import smooth, smooth_power

SMOOTHING = 12
WORST = 0.25
"""What the worst point of an overlap counts beside its mean, and the worst place beside the mean of all."""
BEYOND_DB = 8.0
"""What a period more costs beyond the ends of a table."""
_PER_PERIOD = 24
_WEAK_DB = 15.0
"""Left and right are compared where both are less than this under their loudest."""


@dataclass(frozen=True, slots=True)
class Overlap:
    """Two responses (p, m) at several places where both play: frequencies (m,), and which of them (m,) are judged."""

    first: ComplexArray
    second: ComplexArray
    frequencies: FloatArray
    inner: slice

    @property
    def centre_hz(self) -> float:
        """Geometric middle of what is judged."""
        judged = self.frequencies[self.inner]
        return float(np.sqrt(judged[0] * judged[-1]))


def overlap(first: ComplexArray, second: ComplexArray, frequencies: FloatArray) -> Overlap | None:
    """Where two neighbouring ways (p, n) are within 10 dB of each other; None where they are nowhere.

    The levels of all places together say where that is.
    """
    one, other = (np.sqrt(np.mean(np.abs(each) ** 2, axis=0)) for each in (first, second))
    return _cut(first, second, frequencies, stretch(one, other, frequencies))


def both_below(first: ComplexArray, second: ComplexArray, frequencies: FloatArray, below_hz: float) -> Overlap | None:
    """Where the same way left and right (p, n) play alike below `below_hz`; None where they do not."""
    one, other = (
        power_decibels(smooth_power(np.sqrt(np.mean(np.abs(each) ** 2, axis=0)), frequencies, 3))
        for each in (first, second)
    )
    inside = (frequencies <= below_hz) & (np.abs(one - other) <= WITHIN_DB)
    inside &= np.minimum(one, other) >= min(one.max(), other.max()) - _WEAK_DB
    found = np.flatnonzero(inside)
    if found.size < 12:
        return None
    return _cut(first, second, frequencies, slice(int(found[0]), int(found[-1]) + 1))


def _cut(first: ComplexArray, second: ComplexArray, frequencies: FloatArray, where: slice | None) -> Overlap | None:
    if where is None:
        return None
    margin = 8  # what the smoothing takes in
    wide = slice(max(0, where.start - margin), min(frequencies.size, where.stop + margin))
    inner = slice(where.start - wide.start, where.stop - wide.start)
    return Overlap(first[:, wide], second[:, wide], frequencies[wide], inner)


@dataclass(frozen=True, slots=True)
class Table:
    """Cost (2, k) in dB of a pair, as it is and with one inverted, the second later by `least` steps and more.

    `first` and `second` are the drivers' indices, `centre_hz` is where the pair overlaps.
    """

    first: int
    second: int
    least: int
    costs: FloatArray
    beyond: float

    def at(self, steps: np.ndarray, inverted: np.ndarray | int) -> FloatArray:
        """Cost where the second is later by `steps` (...,), and one of both inverted where `inverted` is 1."""
        index = steps - self.least
        inside = np.clip(index, 0, self.costs.shape[1] - 1)
        return self.costs[inverted, inside] + self.beyond * np.abs(index - inside)


def losses(pair: Overlap, delays_s: FloatArray) -> FloatArray:
    """Loss (2, p, d, m) in dB over what is judged, as it is and inverted, the second later by `delays_s` (d,)."""
    turned = np.exp(2j * np.pi * np.outer(delays_s, pair.frequencies))
    cross = (pair.first * np.conjugate(pair.second))[:, None] * turned
    real = 2.0 * smooth(cross.real, pair.frequencies, SMOOTHING)[..., pair.inner]
    one = smooth_power(pair.first, pair.frequencies, SMOOTHING)[:, None, pair.inner]
    other = smooth_power(pair.second, pair.frequencies, SMOOTHING)[:, None, pair.inner]
    power, ideal = one + other, decibels(np.sqrt(one) + np.sqrt(other))
    total = np.stack((power + real, power - real))
    return ideal - power_decibels(np.maximum(total, power * 1e-6))


def cost(lost: FloatArray) -> FloatArray:
    """What losses (..., p, d, m) cost (..., d): their mean and a share of the worst, over points and over places."""
    each = lost.mean(axis=-1) + WORST * lost.max(axis=-1)
    return np.asarray((1 - WORST) * each.mean(axis=-2) + WORST * each.max(axis=-2))


def tabled(pair: Overlap, least: int, most: int, step_s: float) -> FloatArray:
    """Cost (2, most - least + 1) of a pair against whole steps of delay.

    Computed so finely that a cubic spline follows it, and read at the steps (24 to the shortest period).
    """
    shortest = 1.0 / pair.frequencies[pair.inner][-1]
    steps = np.asarray(np.arange(least, most + 1) * step_s, dtype=np.float64)
    every = max(step_s, shortest / _PER_PERIOD)
    if every < 1.5 * step_s or steps.size < 8:
        return cost(losses(pair, steps))
    count = int(np.ceil((steps[-1] - steps[0]) / every)) + 4
    coarse = np.asarray(np.linspace(steps[0], steps[-1], count), dtype=np.float64)
    spline = scipy.interpolate.CubicSpline(coarse, cost(losses(pair, coarse)), axis=-1)
    return np.asarray(spline(steps))
