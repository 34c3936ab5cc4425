"""When a driver's direct sound arrives, and which way it moves first.

The envelope's peak is late by the driver's own delay, and where two reflections come together it is theirs. A
loudspeaker and its weaker reflections are of minimum phase (H. W. Bode 1945; reflections that together stay below the
direct sound leave it so), so that what the phase has beyond the minimum that belongs to the magnitude is the way
through the air: a pure delay, and a sign. It is the delay that brings this excess into phase best over all the
frequencies that the driver plays, those of its slopes with them.
"""

from dataclasses import dataclass

import numpy as np

from imbrix.core.signal.minimum_phase import STEP, bode_phase
from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.core.signal.smoothing import smooth_power

LEAST_OVER_DB = 10.0
LEAST_POINTS = 144
"""An octave and a half: from less there is no telling."""
BELOW, ABOVE = 2.0, 4.0
"""So far beyond the ends of its band a driver's phase is still its own, if it stands out of the noise."""
_FINE = 24
_SLOPE = 2.0
"""Nepers per neper at which the magnitude goes on where it is not known: 12 dB per octave."""
EARLIER_S, LATER_S = 0.004, 0.0015
CLEAR, LIKELY = 0.64, 0.45
"""With less of the excess in phase the arrival is not sure, with still less it is a guess."""
_OFF, _LEAST_OFF_S = 0.04, 5e-6


@dataclass(frozen=True, slots=True)
class Onset:
    """The arrival in seconds from the response's time zero, and by how much it may be off (one standard deviation).

    `polarity` is 1 or -1 for a driver that moves towards or away from the listener first; `clear` the share of the
    excess phase, from 0 to 1, that one delay explains.
    """

    seconds: float
    off_s: float
    polarity: int
    clear: float

    @property
    def sure(self) -> bool:
        """Whether `off_s` holds."""
        return self.clear >= CLEAR

    @property
    def likely(self) -> bool:
        """Whether it is more than a guess, its polarity above all."""
        return self.clear >= LIKELY


def onset(
    response: ComplexArray,
    frequencies: FloatArray,
    over_noise_db: FloatArray,
    band_hz: tuple[float, float],
    about_s: float,
) -> Onset | None:
    """The arrival of a driver with a band (hertz), looked for about that of its envelope; None where too little is
    known.

    `response` (n,) is bare of filters, NaN where nothing is known, on a grid of 96 points to the octave;
    `over_noise_db` (n,) says where it stands out.
    """
    good = np.isfinite(response) & (over_noise_db >= LEAST_OVER_DB)
    good &= (frequencies >= band_hz[0] / BELOW) & (frequencies <= band_hz[1] * ABOVE)
    found = np.flatnonzero(good)
    if found.size < LEAST_POINTS:
        return None
    span = slice(found[0], found[-1] + 1)
    good, f = good[span], frequencies[span]
    values = np.where(good, np.nan_to_num(response[span]), 1e-9)
    excess = values / np.abs(values) * np.exp(-1j * minimum_phase_of(np.sqrt(smooth_power(values, f, _FINE)))) * good
    weights = excess * f / float(np.sum(f * good))  # evenly over frequency, as a pulse is
    earliest = about_s - EARLIER_S - min(0.5 / band_hz[0], 0.012)
    coarse = np.arange(earliest, about_s + LATER_S, 1 / (5 * f[-1]))
    best = coarse[int(np.argmax(np.abs(_in_phase(coarse, f, weights))))]
    fine = best + np.linspace(-1, 1, 33) / (5 * f[-1])
    heights = _in_phase(fine, f, weights)
    top = int(np.argmax(np.abs(heights)))
    clear = float(np.abs(heights[top]))
    off = max(_LEAST_OFF_S, _OFF / band_hz[1]) * (0.8 / max(clear, 0.1)) ** 2
    return Onset(float(fine[top]), off, 1 if heights[top].real >= 0 else -1, clear)


def _in_phase(seconds: FloatArray, frequencies: FloatArray, weights: ComplexArray) -> ComplexArray:
    """How much of the excess (n,) each of several delays (m,), evenly apart, brings into phase."""
    # In rows of a square: a delay is its row's first and a step within the row, so that 2 sqrt(m) turns make all of m.
    row = int(np.ceil(np.sqrt(seconds.size)))
    begins = np.exp(2j * np.pi * np.outer(seconds[::row], frequencies))
    within = np.exp(2j * np.pi * np.outer(seconds[:row] - seconds[0], frequencies))
    return ((begins * weights) @ within.T).ravel()[: seconds.size]


def minimum_phase_of(values: ComplexArray) -> FloatArray:
    """Minimum phase (n,) of the magnitude of `values` on the grid, which goes on beyond its ends as a driver's does."""
    nepers = np.log(np.maximum(np.abs(values), 1e-15))
    # The ends are those of a straight line through half an octave, lest a dip there be carried on.
    low, high = (float(np.mean(end)) - _SLOPE * 24 * STEP for end in (nepers[:48], nepers[-48:]))
    return bode_phase(nepers, (low, _SLOPE), (high, -_SLOPE))
