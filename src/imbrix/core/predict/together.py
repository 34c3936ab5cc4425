"""What a place hears of sound from both sides: in phase in the bass, as powers in the treble."""

import numpy as np

from imbrix.core.signal.signal import FloatArray

APART_HZ = 700.0
"""About here what comes from the left and from the right parts ways over the width of a head (common practice, no
source: a hand's breadth to and fro changes the difference of the two paths by half a wavelength at 1 kHz)."""


def coherence(frequencies: FloatArray) -> FloatArray:
    """How much of the phase between two sides (n,) a microphone that moves round a head still finds, from 1 to 0.

    A normal distribution of the difference between two paths, of a deviation of c / (sqrt(2) pi `APART_HZ`), 11 cm:
    the mean of exp(j k d) over it is exp(-(f / `APART_HZ`)^2).
    """
    return np.exp(-((frequencies / APART_HZ) ** 2))


def as_a_place_hears(whole: FloatArray, apart: FloatArray, frequencies: FloatArray) -> FloatArray:
    """Power (n,) of sides together over a place: of their complex sum at a spot (n,), and of each alone (s, n).

    What of their phase is lost over the place adds up as power does.
    """
    kept = coherence(frequencies)
    return kept * whole + (1.0 - kept) * apart.sum(axis=0)
