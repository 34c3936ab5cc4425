"""What a place hears of sound from several sides: in phase in the bass, as powers in the treble.

Where the drivers were recorded at several spots of a head, these tell how much of the phase between two sides a whole
head keeps; beyond what spots so far apart can tell, and where there is but one of them, a mean over such paths does.
"""

import numpy as np

from imbrix.core.signal.signal import FloatArray

APART_HZ = 700.0
"""About here what comes from the left and from the right parts ways over the width of a head (common practice, no
source: a hand's breadth to and fro changes the difference of the two paths by half a wavelength at 1 kHz)."""
TOLD_HZ = (APART_HZ, 1400.0, 2500.0)
"""Up to about here one spot, two and more of them, some 9 cm apart, tell what the head as a whole keeps."""


def coherence(frequencies: FloatArray, spots: int = 1) -> FloatArray:
    """How much of the phase between two sides (n,) that is known at some spots holds over a head, from 1 to 0.

    A normal distribution of the difference between two paths, for one spot of a deviation of c / (sqrt(2) pi
    `APART_HZ`), 11 cm: the mean of exp(j k d) over it is exp(-(f / `APART_HZ`)^2). Several spots are so near to any
    other that less of it is left.
    """
    return np.exp(-((frequencies / TOLD_HZ[min(spots, len(TOLD_HZ)) - 1]) ** 2))


def as_a_place_hears(
    whole: FloatArray,
    apart: FloatArray,
    frequencies: FloatArray,
    spots: int = 1,
    heard: FloatArray | None = None,
) -> FloatArray:
    """Power (..., n) of sides together over a place.

    Parameters
    ----------
    whole : ndarray, shape (..., n)
        The power of their complex sum at a spot, or its mean over several.
    apart : ndarray, shape (s, n)
        The power of each alone, at that spot, or its mean over the same ones.
    frequencies : ndarray, shape (n,)
        In hertz.
    spots : int
        At how many spots they are known.
    heard : ndarray, shape (s, n), optional
        The power of each alone as the place as a whole hears it, where that is known besides. What of their phase is
        lost over the place adds up as power does.
    """
    alone = apart.sum(axis=0)
    shares = alone if heard is None else heard.sum(axis=0)
    more = whole / np.maximum(alone, 1e-300) - 1.0
    return np.asarray(shares * (1.0 + more * coherence(frequencies, spots)))
