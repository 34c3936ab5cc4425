"""What follows the direct sound: the first reflection, and the lowest frequency that a gate still supports."""

import numpy as np

from imbrix.core.signal.response import analytic, arrival
from imbrix.core.signal.signal import FloatArray, Impulse, decibels


def envelope_db(impulse: Impulse) -> FloatArray:
    """Magnitude of the analytic signal (n,) in dB, its peak at 0."""
    level = np.abs(analytic(impulse.samples))
    return decibels(level / max(float(level.max()), 1e-30))


def first_reflection(
    impulse: Impulse, least_s: float = 0.0004, most_s: float = 0.03, over_db: float = -18.0
) -> float | None:
    """Seconds from the arrival to the first later peak of the envelope within `over_db` of the direct sound.

    A peak counts where the envelope has fallen 3 dB since and rises 3 dB again; None where there is none.
    """
    envelope = envelope_db(impulse)
    start = round(arrival(impulse) * impulse.rate) + impulse.zero
    first, last = start + round(least_s * impulse.rate), start + round(most_s * impulse.rate)
    piece = envelope[start : min(last, envelope.size)]
    if piece.size < 8:
        return None
    deepest = piece[0]
    n = 1
    while n < piece.size - 1:
        deepest = min(deepest, piece[n])
        rising = piece[n] >= piece[n - 1] and piece[n] > piece[n + 1]
        if start + n >= first and rising and piece[n] > over_db and piece[n] - deepest > 3.0:
            return n / impulse.rate
        n += 1
    return None


def lowest_hz(gate_s: float) -> float:
    """The lowest frequency that a gate supports: one period must fit."""
    return 1.0 / gate_s
