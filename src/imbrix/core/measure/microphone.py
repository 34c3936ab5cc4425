"""Microphone corrections: what a microphone adds, read from a file or found against another one."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.signal.grid import PER_OCTAVE
from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power

LEAST_OVER_NOISE_DB = 15.0
"""Where both microphones had less than this over noise, no correction is made (common practice, no source)."""
CLEAR_OVER_NOISE_DB = 30.0
"""From here on noise leaves fine detail alone."""


@dataclass(frozen=True, slots=True)
class Correction:
    """What a microphone adds: `levels` (n,) in dB at `frequencies` (n,), `degrees` (n,) or None."""

    frequencies: FloatArray
    levels: FloatArray
    degrees: FloatArray | None = None

    def on(self, grid: FloatArray) -> ComplexArray:
        """What it adds at each frequency of `grid` (m,), as a complex ratio; held constant beyond its ends."""
        at, places = np.log2(grid), np.log2(self.frequencies)
        levels = np.interp(at, places, self.levels)
        phase = np.zeros(grid.size)
        if self.degrees is not None:
            phase = np.interp(at, places, np.unwrap(np.radians(self.degrees)))
        return 10 ** (levels / 20) * np.exp(1j * phase)


@dataclass(frozen=True, slots=True)
class Comparison:
    """How two microphones at one spot compare: a correction for the second, and the span in which it holds."""

    correction: Correction
    low_hz: float
    high_hz: float


def plain_correction(
    known: ComplexArray, known_over_db: FloatArray, plain: ComplexArray, plain_over_db: FloatArray, grid: FloatArray
) -> Comparison:
    """What a plain microphone adds, from takes (n,) of one source at one spot with a corrected one and with it.

    Magnitudes at 1/12 octave, at 1/3 octave where either was less than 30 dB over noise, at 24 points per
    octave, limited to the longest stretch where both takes were 15 dB
    over their noise; the level at 1 kHz (or at the stretch's middle) is kept out, since it is the gain's business.
    Raises InvalidError where there is no octave of it.
    """
    good = (known_over_db >= LEAST_OVER_NOISE_DB) & (plain_over_db >= LEAST_OVER_NOISE_DB)
    good &= np.isfinite(known) & np.isfinite(plain)
    first, last = _longest(good)
    # Signal over noise is known at 1/3 octave: on a steep slope the outermost third of an octave may have less.
    trim = round(PER_OCTAVE / 3)
    first, last = (first + trim if first > 0 else 0), (last - trim if last < grid.size else last)
    if last <= first or grid[last - 1] < 2 * grid[first]:
        raise InvalidError(
            "the two takes have no octave in common with 15 dB over the noise: play louder, or come closer"
        )
    span = slice(first, last)
    fine, broad = (_ratio_db(plain, known, grid, fraction)[span] for fraction in (12, 3))
    clear = np.minimum(known_over_db, plain_over_db)[span] >= CLEAR_OVER_NOISE_DB
    levels = np.where(clear, fine, broad)
    middle = 1000.0 if grid[first] <= 1000.0 <= grid[last - 1] else float(np.sqrt(grid[first] * grid[last - 1]))
    levels -= np.interp(np.log(middle), np.log(grid[span]), levels)
    some = np.unique(np.append(np.arange(0, last - first, 4), last - first - 1))
    return Comparison(Correction(grid[span][some], levels[some]), float(grid[first]), float(grid[last - 1]))


def disagreement(
    known: ComplexArray, plain: ComplexArray, correction: Correction, grid: FloatArray
) -> tuple[float, float, float]:
    """How far two corrected takes still differ in shape at 1/3 octave within the correction's span.

    Returns the greatest difference in dB, the frequency in hertz where it is, and its rms value.
    """
    low, high = correction.frequencies[0], correction.frequencies[-1]
    inside = (grid >= low) & (grid <= high) & np.isfinite(known) & np.isfinite(plain)
    levels = _ratio_db(plain / correction.on(grid), known, grid, 3)[inside]
    levels -= np.median(levels)
    worst = int(np.argmax(np.abs(levels)))
    return float(abs(levels[worst])), float(grid[inside][worst]), float(np.sqrt(np.mean(levels**2)))


def _ratio_db(top: ComplexArray, bottom: ComplexArray, grid: FloatArray, fraction: float) -> FloatArray:
    """Difference of two smoothed levels (n,) in dB; what either lacks counts in neither."""
    both = np.isfinite(top) & np.isfinite(bottom)
    first, second = (smooth_power(np.where(both, one, 0), grid, fraction) for one in (top, bottom))
    return power_decibels(first) - power_decibels(second)


def _longest(good: np.ndarray) -> tuple[int, int]:
    """First and one-past-last index of the longest run of True."""
    marks = np.flatnonzero(np.diff(np.concatenate(([0], good.astype(int), [0]))))
    if marks.size == 0:
        return 0, 0
    starts, ends = marks[::2], marks[1::2]
    best = int(np.argmax(ends - starts))
    return int(starts[best]), int(ends[best])
