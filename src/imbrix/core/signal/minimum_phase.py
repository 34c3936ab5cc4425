"""The minimum phase that belongs to a magnitude (H. W. Bode, Network Analysis and Feedback Amplifier Design, 1945)."""

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.signal.signal import FloatArray

STEP = np.log(2) / 96
"""The grid's step in nepers of frequency."""
BEYOND = 10 * 96
"""So many steps a magnitude is carried on beyond its known ends: ten octaves."""


def bode_phase(nepers: FloatArray, low: tuple[float, float], high: tuple[float, float]) -> FloatArray:
    """Phase (n,) in radians of the minimum-phase system with a magnitude (n,) in nepers, on a grid of 96 to the octave.

    The phase is 1/pi times the integral of the slope of the magnitude, in nepers per neper of frequency, weighted by
    ln coth |u / 2|, u the logarithm of frequency over that looked at. Beyond its ends the magnitude goes on from the
    level that `low` and `high` begin with, by the slope that they end with.
    """
    away = np.arange(1, BEYOND + 1) * STEP
    before, after = (low[0] - low[1] * away)[::-1], high[0] + high[1] * away
    slopes = np.diff(np.concatenate((before, nepers, after)))  # over one step, so that the sum below is the integral
    reach = np.arange(1 - slopes.size, slopes.size) * STEP
    weight = np.log(1 / np.tanh(np.maximum(np.abs(reach), STEP / 8) / 2))
    weight[slopes.size - 1] = 1 + np.log(4 / STEP)  # the mean over the cell about the singularity
    phase = scipy.signal.fftconvolve(slopes, weight, "same") / np.pi
    # A slope stands between two points: its phase is that of both.
    return np.asarray((phase[BEYOND - 1 : BEYOND - 1 + nepers.size] + phase[BEYOND : BEYOND + nepers.size]) / 2)
