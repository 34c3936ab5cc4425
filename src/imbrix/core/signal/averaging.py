"""Several curves made one: their mean power, or their complex mean; and what aligns their levels.

The mean power (rms) tells what unrelated places have in common and fills no dip; the complex mean keeps what arrives
alike and lets the rest cancel (J. S. Bendat and A. G. Piersol, Random Data).
"""

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.signal.grid import span_mask
from imbrix.core.signal.signal import ComplexArray, FloatArray


def rms_mean(curves: ComplexArray) -> FloatArray:
    """Root of the mean square (n,) of curves (k, n); NaN where one of them is not known."""
    return np.asarray(np.sqrt(np.mean(np.abs(curves) ** 2, axis=0)))


def complex_mean(curves: ComplexArray) -> ComplexArray:
    """The mean (n,) of complex curves (k, n); NaN where one of them is not known."""
    return np.asarray(np.mean(curves, axis=0))


def level_apart(
    curve_db: FloatArray, against_db: FloatArray, frequencies: FloatArray, low_hz: float, high_hz: float
) -> float:
    """What is to be added to a curve (n,) so that its mean level over a span is that of another.

    Raises InvalidError where the two share too little there.
    """
    gap = (against_db - curve_db)[span_mask(frequencies, low_hz, high_hz)]
    gap = gap[np.isfinite(gap)]
    if gap.size < 4:
        raise InvalidError(f"the two curves share nothing from {low_hz:.0f} to {high_hz:.0f} Hz")
    return float(gap.mean())
