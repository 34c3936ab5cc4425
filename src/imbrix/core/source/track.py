"""The track that a source plays to be known by: a marker, a sweep on the left alone, on the right alone, on both, and
the marker again.

It is one sound in continuous time: at every sample rate at which its parts are whole samples it is the same, so that
a player of one rate and a recorder of another need not agree on more than seconds.
"""

import numpy as np

from imbrix.core.measure.marker import Marker
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.sweep import SweepSettings
from imbrix.core.signal.signal import FloatArray

RATES = (44_100, 48_000, 88_200, 96_000, 176_400, 192_000)
LOW_HZ, HIGH_HZ = 12.0, 20_500.0
LEVEL_DB = -12.0
"""A factory's bass lift has so much room before the track itself makes it clip."""
SWEEP_S, TAIL_S, QUIET_S, MARKER_S = 1.4, 0.5, 0.4, 0.3
MARKER_HZ = (400.0, 5000.0)
LEFT, RIGHT, BOTH = range(3)
"""The sweeps in their order."""


def schedule(rate: int) -> Schedule:
    """The parts of the track in samples at `rate`."""
    sweep = SweepSettings(LOW_HZ, HIGH_HZ, round(SWEEP_S * rate), LEVEL_DB, TAIL_S, rate)
    marker = Marker(*MARKER_HZ, round(MARKER_S * rate), rate, LEVEL_DB)
    return Schedule(sweep, 3, QUIET_S, marker)


def track(rate: int) -> FloatArray:
    """The track (n, 2): left and right."""
    parts = schedule(rate)
    both = np.repeat(parts.samples()[:, None], 2, axis=1)
    for silent, which in ((1, LEFT), (0, RIGHT)):
        start = parts.sweeps[which]
        both[start : start + parts.period, silent] = 0.0
    return both
