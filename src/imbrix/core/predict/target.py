"""Target curves: shapes in dB relative to 1 kHz, placed at a level."""

from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune.tune import Placement


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


def bent(placement: Placement, grid: FloatArray) -> FloatArray:
    """What a placement adds (n,) to its curve, in dB: tilt about 1 kHz, lift of the bass, and points.

    The lift is bass_db / (1 + (f / bass_hz)^2). Between points it goes without overshoot; beyond the outermost ones it
    is back at nothing an octave farther.
    """
    added = placement.tilt_db * np.log2(grid / 1000.0)
    added = added + placement.bass_db / (1.0 + (grid / placement.bass_hz) ** 2)
    if placement.bends:
        points = sorted((one.frequency_hz, one.level_db) for one in placement.bends)
        points = [(points[0][0] / 2, 0.0), *points, (points[-1][0] * 2, 0.0)]
        octaves = np.log2([hertz for hertz, _ in points])
        curve = scipy.interpolate.PchipInterpolator(octaves, [level for _, level in points])
        added = added + curve(np.clip(np.log2(grid), octaves[0], octaves[-1]))
    return np.asarray(added)


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
