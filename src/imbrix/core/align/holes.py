"""Holes in what a way plays over a whole head, and a corner at which its neighbour plays in their place.

What reflections and modes take away in the bass and the low mids is gone at every place that a head can be in, and no
boost brings it back. Where the next way does not share the hole, the corner can stand on its far side.
"""

from dataclasses import dataclass

import numpy as np
import scipy  # its parts load at first use: the start need not wait for them

from imbrix.core.signal.signal import FloatArray

BESIDE_OCTAVES = (0.2, 0.75)
"""From here to here on both sides of it lies what a hole is missed from."""
DEEP_DB = 4.0
"""What stands out of a tune within +-3 dB."""
SHALLOW_DB = 2.5
"""Less than this is voiced away."""
WINS_DB = 1.5
"""What another corner has to win of a hole's depth to be worth it."""
OCTAVE_DB = 2.0
"""What it has to win for every octave that it stands from where practice begins."""
SLACK_DB = 0.5
"""By so much deeper may a hole be within the range that remains, and by twice as much where it is voiced away."""
BESIDE = 1.5
"""By this factor outside of its range the corner of two ways still tells what is heard."""
TRIED = 33


@dataclass(frozen=True)
class Clear:
    """A corner clear of a hole, and the range that is: all in hertz. The hole: where, how deep it would be at the usual
    corner, or, where that stays, at the worst one of the range; what remains of it; whether it is the upper way's."""

    hertz: float
    least_hz: float
    most_hz: float
    hole_hz: float
    deep_db: float
    remains_db: float
    of_upper: bool


def under_trend(power: FloatArray, grid: FloatArray, band_hz: tuple[float, float]) -> FloatArray:
    """By how much a driver plays less than its own trend, in dB, (n,), 0 or less; 0 outside of its band.

    `power` (n,) is smoothed, and the mean over a head; `grid` (n,) in hertz has as many points in every octave.
    """
    inside = (grid >= band_hz[0]) & (grid <= band_hz[1]) & (power > 0)
    result = np.zeros(grid.size)
    if inside.sum() > 2:
        level = 10 * np.log10(power[inside])
        octaves = float(np.log2(grid[-1] / grid[0])) / (grid.size - 1)
        result[inside] = np.minimum(level - _trend(level, octaves), 0.0)
    return result


def _trend(level: FloatArray, octaves: float) -> FloatArray:
    """What levels (n,), so many octaves apart, have on both sides of each: in the middle of each side, so that another
    hole does not count; between both, so that a slope does not; beyond the ends as a slope goes on."""
    near, far = (max(round(one / octaves), 1) for one in BESIDE_OCTAVES)
    pad = min(far, level.size - 1)
    longer = np.pad(level, pad, mode="reflect", reflect_type="odd")
    size = max(far - near, 1)
    middles = scipy.ndimage.median_filter(longer, size, mode="nearest")
    shift = (near + far) // 2
    at = np.arange(level.size) + pad
    return np.asarray((middles[np.maximum(at - shift, 0)] + middles[np.minimum(at + shift, longer.size - 1)]) / 2)


def left_between(lower_db: FloatArray, upper_db: FloatArray, grid: FloatArray, corners_hz: FloatArray) -> FloatArray:
    """What holes (n,) of two ways leave of their sum at each of some corners (c,), in dB, (c, n).

    The ways are taken to add in phase, in the shape of a Linkwitz-Riley crossover of 24 dB per octave.
    """
    low = 1 / (1 + (grid / corners_hz[:, None]) ** 4)
    return np.asarray(20 * np.log10(low * 10 ** (lower_db / 20) + (1 - low) * 10 ** (upper_db / 20)))


def clear_of_holes(
    lower_db: FloatArray, upper_db: FloatArray, grid: FloatArray, usual_hz: float, range_hz: tuple[float, float]
) -> Clear | None:
    """A corner within a range at which two ways fill each other's holes, as near to the usual one as pays, which may be
    that itself; None where no corner of the range makes any difference."""
    least, most = range_hz
    near = (grid >= least / BESIDE) & (grid <= most * BESIDE)
    if most <= least or not near.any() or min(lower_db[near].min(), upper_db[near].min()) > -DEEP_DB:
        return None
    tried = np.concatenate(([usual_hz], np.geomspace(least, most, TRIED)))
    left = left_between(lower_db[near], upper_db[near], grid[near], tried)
    deep = -left.min(axis=1)
    cost = np.maximum(deep, SHALLOW_DB) + OCTAVE_DB * np.abs(np.log2(tried / usual_hz))
    best = int(np.argmin(cost))
    if deep[0] < DEEP_DB or deep[best] > deep[0] - WINS_DB:
        best = 0
    good = deep[1:] <= max(deep[best] + SLACK_DB, SHALLOW_DB + 2 * SLACK_DB)
    if best == 0 and good.all():
        return None
    first = last = int(np.argmin(np.abs(np.log2(tried[1:] / tried[best]))))
    while first > 0 and good[first - 1]:
        first -= 1
    while last < TRIED - 1 and good[last + 1]:
        last += 1
    worst = 0 if best else 1 + int(np.argmax(deep[1:]))
    at = int(np.argmin(left[worst]))
    return Clear(
        hertz=float(tried[best]),
        least_hz=min(float(tried[1 + first]), float(tried[best])),
        most_hz=max(float(tried[1 + last]), float(tried[best])),
        hole_hz=float(grid[near][at]),
        deep_db=float(-left[worst, at]),
        remains_db=float(-left[best, at]),
        of_upper=bool(upper_db[near][at] < lower_db[near][at]),
    )
