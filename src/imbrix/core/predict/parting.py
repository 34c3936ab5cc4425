"""Where what was measured and what was predicted part ways: by how much, and what that looks like."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from imbrix.core.signal.grid import span_mask
from imbrix.core.signal.signal import FloatArray

SPAN_HZ = (40.0, 16_000.0)
SAME_DB, SAME_MOVED_DB = 0.7, 1.5
"""Curves of one thing, recorded twice, are no farther apart than this, rms: at one spot, and by a moving microphone,
for which both sides meet in the treble as they do in the mean of many places only."""
EXPLAINS = 0.5
"""What explains a difference leaves no more than so much of it."""
BASS_HZ = 300.0
"""Below this a microphone held a hand's breadth elsewhere hears nearly the same (common practice, no source)."""


@dataclass(frozen=True)
class Cause:
    """Something that may have gone otherwise, and the level (n,) in dB that would have been measured then."""

    says: str
    level_db: FloatArray


@dataclass(frozen=True)
class Parting:
    """The rms difference in dB from 40 Hz to 16 kHz; what it looks like, empty where both are one thing."""

    rms_db: float
    says: str


def part(
    measured_db: FloatArray,
    predicted_db: FloatArray,
    causes: Sequence[Cause],
    frequencies: FloatArray,
    same_db: float = SAME_DB,
) -> Parting | None:
    """Compare two levels (n,) and try each cause: the one that leaves least is named, where it explains enough.

    What is no more than `same_db` apart is one thing. Points that either lacks (NaN) do not count; returns None where
    the two share none.
    """
    inside = span_mask(frequencies, *SPAN_HZ) & np.isfinite(measured_db) & np.isfinite(predicted_db)
    if not inside.any():
        return None
    apart = (measured_db - predicted_db)[inside]
    rms = _rms(apart)
    if rms <= same_db:
        return Parting(rms, "")
    shift = float(np.median(apart))
    if _rms(apart - shift) <= max(same_db, EXPLAINS * rms) and abs(shift) > SAME_DB:
        return Parting(rms, f"the level is {shift:+.1f} dB off throughout: a volume or an input gain was turned")
    left = [(_rms((measured_db - one.level_db)[inside]), one) for one in causes]
    least, best = min(left, key=lambda each: each[0], default=(rms, None))
    if best is not None and least <= EXPLAINS * rms:
        return Parting(rms, best.says)
    low = frequencies[inside] < BASS_HZ
    if low.any() and _rms(apart[low]) <= SAME_DB:
        return Parting(rms, "the bass agrees and the treble does not: the microphone stood elsewhere")
    return Parting(rms, "no single cause explains it: look whether drivers, box or seats were changed since the takes")


def _rms(values: FloatArray) -> float:
    return float(np.sqrt(np.mean(values**2)))
