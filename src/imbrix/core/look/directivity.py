"""Level over angle and frequency from takes at several angles, and the closed form of a piston to check it by.

Piston in an infinite baffle: D = 2 J1(ka sin t) / (ka sin t), e.g. L. L. Beranek, Acoustics (1954).
"""

import numpy as np
import scipy  # its special functions load at first use: the start need not wait for them

from imbrix.core.errors import InvalidError
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels


def piston(frequencies: FloatArray, degrees: float, radius: float) -> FloatArray:
    """Pressure (n,) of a rigid piston of `radius` metres off its axis over that on it."""
    x = 2 * np.pi * frequencies / speed_of_sound() * radius * np.sin(np.radians(degrees))
    return np.where(np.abs(x) < 1e-6, 1.0, 2 * scipy.special.j1(x) / np.where(np.abs(x) < 1e-6, 1.0, x))


def fan(levels_db: FloatArray, degrees: FloatArray, step: float = 2.5) -> tuple[FloatArray, FloatArray]:
    """Levels (k, n) known at some angles (k,), ascending, spread evenly: angles (m,) and levels (m, n) between them.

    Raises InvalidError for fewer than two angles.
    """
    if degrees.size < 2:
        raise InvalidError("a map needs takes at two angles at least")
    even = np.linspace(degrees[0], degrees[-1], round((degrees[-1] - degrees[0]) / step) + 1)
    at = np.clip(np.searchsorted(degrees, even, side="right") - 1, 0, degrees.size - 2)
    share = ((even - degrees[at]) / (degrees[at + 1] - degrees[at]))[:, None]
    return even, levels_db[at] * (1 - share) + levels_db[at + 1] * share


def over_axis(curves: ComplexArray, degrees: FloatArray) -> FloatArray:
    """Levels (k, n) in dB of curves (k, n) over the one that is nearest to the axis."""
    return np.asarray(decibels(curves) - decibels(curves[int(np.argmin(np.abs(degrees)))]))
