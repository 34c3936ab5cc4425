"""Target curves: shapes in dB relative to 1 kHz, placed at a level."""

from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.signal.signal import FloatArray


@dataclass(frozen=True, slots=True)
class TargetCurve:
    """Points of a curve: `frequencies` (n,) ascending in hertz, `levels` (n,) in dB."""

    name: str
    frequencies: tuple[float, ...]
    levels: tuple[float, ...]

    def shape(self, grid: FloatArray) -> FloatArray:
        """Levels (m,) on `grid` relative to 1 kHz; beyond the points the ends are held.

        Interpolated over the logarithm of frequency without overshoot (F. N. Fritsch and J. Butland, 1984).
        """
        if len(self.frequencies) == 1:
            return np.zeros(grid.size)
        octaves = np.log2(self.frequencies)
        curve = scipy.interpolate.PchipInterpolator(octaves, self.levels)
        reference = curve(np.clip(np.log2(1000.0), octaves[0], octaves[-1]))
        return np.asarray(curve(np.clip(np.log2(grid), octaves[0], octaves[-1])) - reference)


BUILT_IN: dict[str, TargetCurve] = {
    "flat": TargetCurve("Flat", (20.0, 20_000.0), (0.0, 0.0)),
    "warm": TargetCurve(
        "Warm cabin",
        (20.0, 35.0, 60.0, 90.0, 140.0, 250.0, 600.0, 1000.0, 3000.0, 8000.0, 20_000.0),
        (8.5, 8.5, 7.5, 5.5, 3.2, 1.4, 0.4, 0.0, -1.2, -2.8, -5.0),
    ),
    "tilt": TargetCurve("Even tilt", (20.0, 20_000.0), (4.0, -3.0)),
}
"""Shapes of our own making; a tuner's own curve comes in as text."""
