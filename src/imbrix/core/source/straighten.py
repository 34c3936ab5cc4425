"""Undoing what a source does to a feed: its tone within its own band; and how two feeds sum."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.predict.fit import Fit, fit
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels, power_decibels
from imbrix.core.signal.smoothing import smooth_power

GRID = log_grid()
END_DB = 3.0
PLATEAU_HZ = (150.0, 8000.0)
FEW, ENOUGH_DB = (3, 5, 7, 10, 14), 0.05


@dataclass(frozen=True)
class Tone:
    """What a feed does to the tone: `levels` (n,) in dB about its `plateau_db`, and its band between -3 dB points."""

    levels: FloatArray
    plateau_db: float
    low_hz: float
    high_hz: float
    most_off_db: float

    @property
    def flat(self) -> bool:
        """Whether there is nothing to straighten: within half a decibel over its own band."""
        return self.most_off_db <= 0.5


def tone(values: ComplexArray) -> Tone:
    """The tone of a feed's response (n,) on the grid, looked at in twelfths of an octave."""
    known = np.isfinite(values)
    levels = power_decibels(smooth_power(np.where(known, values, 0), GRID, 12))
    middle = known & (PLATEAU_HZ[0] < GRID) & (PLATEAU_HZ[1] > GRID)
    plateau = float(np.median(levels[middle] if middle.any() else levels[known]))
    there = np.flatnonzero(known & (levels >= plateau - END_DB))
    low, high = float(GRID[there[0]]), float(GRID[there[-1]])
    inside = known & (low <= GRID) & (high >= GRID)
    level = np.where(known, levels - plateau, np.nan)
    return Tone(level, plateau, low, high, float(np.abs(level[inside]).max()))


def inverse(seen: Tone, count: int, rate: int, boost_db: float = 6.0, most_q: float = 6.0) -> Fit:
    """Bands and gain that undo a tone within its own band; below and above it nothing is lifted.

    Of at most `count` bands no more are taken than bring what is left under 0.05 dB rms, and if none do, those that
    leave least.

    Raises InvalidError where there is no band to work in.
    """
    if count < 1:
        raise InvalidError(
            "the processor has no bands at its inputs: choose a model that has, or correct at its outputs"
        )
    inside = (seen.low_hz <= GRID) & (seen.high_hz >= GRID)
    limits = FitLimits(
        boost_db=boost_db,
        cut_db=15.0,
        most_q=most_q,
        least_q=0.3,
        low_hz=seen.low_hz,
        high_hz=seen.high_hz,
        least_gain_db=-12.0,
        most_gain_db=0.0,
    )
    wanted = np.where(inside, -seen.levels, np.nan)
    best: Fit | None = None
    for number in sorted({*(one for one in FEW if one < count), min(count, 31)}):
        made = fit(wanted, GRID, limits.model_copy(update={"count": number}), rate)
        if best is None or made.residual_db < best.residual_db:
            best = made
        if best.residual_db < ENOUGH_DB:
            break
    assert best is not None
    return best


def summing(first: ComplexArray, second: ComplexArray) -> FloatArray:
    """Level (n,) in dB of the sum of two feeds over the mean of both: 6.02 everywhere where they are aligned."""
    both = 0.5 * (np.abs(first) + np.abs(second))
    return np.asarray(decibels(np.abs(first + second) + 1e-12) - decibels(both + 1e-12))
