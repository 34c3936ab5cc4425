"""What two drivers lose to each other against the time and the polarity between them, as a table.

Whatever is wanted of an alignment is wanted between two drivers: that neighbouring ways are in phase where they
overlap, left and right where the ear and the bass need it, that their sound arrives when it should. So a system is a
net of tables, each over the steps that the processor's delay has, and a search need not predict anything again.
"""

from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.errors import InvalidError
from imbrix.core.predict.seam import WITHIN_DB, SeamProblem, over_places
from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power

WORST = 0.25
"""What the worst point of an overlap counts beside its mean, and the worst place beside the mean of all."""
_PER_PERIOD = 24
_WEAK_DB = 15.0
"""Left and right are compared where both are less than this under their loudest."""


def overlap(first: ComplexArray, second: ComplexArray, frequencies: FloatArray) -> SeamProblem | None:
    """Two neighbouring ways (p, n) where they are within 10 dB of each other; None where they are nowhere."""
    try:
        return SeamProblem(first, second, frequencies)
    except InvalidError:
        return None


def both_below(
    first: ComplexArray, second: ComplexArray, frequencies: FloatArray, below_hz: float
) -> SeamProblem | None:
    """The same way left and right (p, n) where both play alike below `below_hz`; None where they do not."""
    one, other = (power_decibels(smooth_power(over_places(each), frequencies, 3)) for each in (first, second))
    inside = (frequencies <= below_hz) & (np.abs(one - other) <= WITHIN_DB)
    inside &= np.minimum(one, other) >= min(one.max(), other.max()) - _WEAK_DB
    found = np.flatnonzero(inside)
    if found.size < 12:
        return None
    return SeamProblem(first, second, frequencies, where=slice(int(found[0]), int(found[-1]) + 1))


@dataclass(frozen=True, slots=True)
class Table:
    """Cost (2, k) in dB of a pair, as it is and with one inverted, the second later by `least` steps and more.

    `first` and `second` are the drivers' indices, `beyond` is what a step more costs past the ends.
    """

    first: int
    second: int
    least: int
    costs: FloatArray
    beyond: float

    def at(self, steps: np.ndarray, inverted: np.ndarray | int) -> FloatArray:
        """Cost where the second is later by `steps` (...,), and one of both inverted where `inverted` is 1."""
        index = steps - self.least
        # Asked for tens of thousands of times: np.clip takes longer to look at its limits than to keep to them.
        inside = np.minimum(np.maximum(index, 0), self.costs.shape[1] - 1)
        return self.costs[inverted, inside] + self.beyond * np.abs(index - inside)

    def at_one(self, steps: int, inverted: int) -> float:
        """The same of a single number of steps."""
        index = steps - self.least
        inside = min(max(index, 0), self.costs.shape[1] - 1)
        return float(self.costs[inverted, inside]) + self.beyond * abs(index - inside)


def cost(lost: FloatArray) -> FloatArray:
    """What losses (..., p, d, m) cost (..., d): their mean and a share of the worst, over points and over places."""
    each = lost.mean(axis=-1) + WORST * lost.max(axis=-1)
    return np.asarray((1 - WORST) * each.mean(axis=-2) + WORST * each.max(axis=-2))


def tabled(pair: SeamProblem, least: int, most: int, step_s: float) -> FloatArray:
    """Cost (2, most - least + 1) of a pair against whole steps of delay.

    Computed so finely that a cubic spline follows it, and read at the steps (24 to the shortest period).
    """
    shortest = 1.0 / pair.judged_hz[-1]
    steps = np.asarray(np.arange(least, most + 1) * step_s, dtype=np.float64)
    every = max(step_s, shortest / _PER_PERIOD)
    if every < 1.5 * step_s or steps.size < 8:
        return cost(pair.both(steps))
    count = int(np.ceil((steps[-1] - steps[0]) / every)) + 4
    coarse = np.asarray(np.linspace(steps[0], steps[-1], count), dtype=np.float64)
    spline = scipy.interpolate.CubicSpline(coarse, cost(pair.both(coarse)), axis=-1)
    return np.asarray(spline(steps))
