"""What brings the image to the centre: opposite gains of a band or a way, a delay, a polarity, a pair of all-passes.

Everything is done half to each side, so that both together change as little as can be.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from imbrix.core.image.head import TIMED_HZ
from imbrix.core.image.heard import LEAST_DEG, Meaning
from imbrix.core.signal.signal import ComplexArray, FloatArray, decibels
from imbrix.core.tune.tune import Band

LEAST_DB, MOST_DB = 0.5, 8.0
"""Smaller differences are not heard as a place; greater ones are no matter of a band."""
ALIKE_DB = 1.0
"""Bands of a way that differ by no more from their mean are the way's level."""
PAIR_Q = (0.7, 1.0, 1.4, 2.0, 2.8, 4.0)
PAIR_DEG = tuple(range(20, 190, 10))
CENTRES_HZ = tuple(float(hz) for hz in np.geomspace(100.0, 800.0, 19))
FINE = 48
MOST_PAIRS, WORTH = 2, 0.7
"""So many pairs at most, each of which has to leave no more than so much of what the one before left."""
DELAYS_S = np.linspace(-1e-3, 1e-3, 201)
EXPLAINS = 0.5
"""What one delay, or one polarity, has to leave at most of the angles, by their rms."""


@dataclass(frozen=True)
class Levels:
    """Gains by way and bells: each for left, the opposite for right, in dB."""

    gains_db: Mapping[str, float]
    bells: tuple[Band, ...]


Pair = tuple[Band, Band]
"""All-passes of the left and of the right side that belong together."""


@dataclass(frozen=True)
class Phases:
    """What brings both sides in phase: a delay of the left side in seconds (negative: of the right one), one side
    turned round, or all pairs of all-passes that there shall be, those that were there included."""

    delay_s: float = 0.0
    inverted: bool = False
    pairs: tuple[Pair, ...] = ()


def levels(heard: Sequence[Meaning], way_of: Mapping[float, str]) -> Levels | None:
    """Opposite gains for what stands off the centre; None where nothing does.

    `way_of` names by a band's frequency the way that plays it. Bands of a way that all lean alike are its gain; what is
    left are bells, whose overlap is reckoned with.
    """
    wanted = {one.hz: _limited(-one.level_db) for one in heard}
    gains: dict[str, float] = {}
    for way in dict.fromkeys(way_of.values()):
        among = [hz for hz in wanted if way_of.get(hz) == way]
        off = [wanted[hz] for hz in among]
        mean = float(np.mean(off)) if len(off) > 1 else 0.0
        if all(abs(one) >= LEAST_DB and abs(one - mean) <= ALIKE_DB for one in off) and mean:
            gains[way] = round(mean / 2, 1)
            for hz in among:
                wanted[hz] -= mean
    bells = _bells([one for one in heard if abs(wanted[one.hz]) >= LEAST_DB], wanted)
    return Levels(gains, bells) if gains or bells else None


def _bells(off: Sequence[Meaning], wanted: Mapping[float, float]) -> tuple[Band, ...]:
    """Bells at bands that together give what is wanted by band, in dB, half of it each; small ones are left out."""
    if not off:
        return ()
    shapes = [Band(frequency_hz=one.hz, gain_db=1.0, q=_q(one.octaves)) for one in off]
    matrix = np.array([decibels(_analog(one, np.array(list(wanted)))) for one in shapes]).T
    found, *_ = np.linalg.lstsq(matrix, np.array(list(wanted.values())), rcond=None)
    small = int(np.abs(found).argmin())
    if abs(found[small]) < LEAST_DB:
        return _bells([one for n, one in enumerate(off) if n != small], wanted)
    return tuple(
        shape.model_copy(update={"gain_db": round(_limited(float(gain)) / 2, 1)})
        for shape, gain in zip(shapes, found, strict=True)
    )


def phases(heard: Sequence[Meaning], present: Sequence[Pair] = (), most_q: float = PAIR_Q[-1]) -> Phases | None:
    """What undoes the angles between both sides; None where they are in phase, or nothing brings them nearer to it.

    One delay or one polarity where it explains most of them, else pairs of all-passes in the place of the `present`
    ones, as few as do.
    """
    timed = [one for one in heard if one.hz <= TIMED_HZ]
    if not any(abs(one.angle_deg) >= LEAST_DEG or one.sounds == "split" for one in timed):
        return None
    hertz = np.array([one.hz for one in timed])
    angles = np.radians([one.angle_deg for one in timed])
    stands = _off(angles)
    several = np.sum(np.abs(angles) >= np.radians(LEAST_DEG)) >= max(3, len(timed) / 2)
    if several and _off(angles - np.pi) < EXPLAINS * stands:
        return Phases(inverted=True)
    late = [_off(angles - 2 * np.pi * hertz * delay) for delay in DELAYS_S]
    if several and min(late) < EXPLAINS * stands:
        return Phases(delay_s=float(DELAYS_S[int(np.argmin(late))]))
    between = np.geomspace(hertz.min() / 1.3, min(hertz.max() * 1.3, TIMED_HZ), FINE)
    near = np.interp(np.log(between), np.log(hertz), np.arange(hertz.size))
    below = np.minimum(near.astype(int), hertz.size - 2) if hertz.size > 1 else np.zeros(FINE, dtype=int)
    above = np.minimum(below + 1, hertz.size - 1)
    turns = np.exp(1j * angles)
    wanted = np.angle((1 - near + below) * turns[below] + (near - below) * turns[above])
    for pair in present:
        wanted = wanted - _apart(pair, between)
    kept: tuple[Pair, ...] = ()
    left, reached = wanted, _off(wanted)
    tried = [pair for hz in CENTRES_HZ for deg in PAIR_DEG for q in PAIR_Q if q <= most_q for pair in _both(hz, deg, q)]
    shapes = np.array([_apart(pair, between) for pair in tried])
    for _ in range(MOST_PAIRS):
        costs = np.mean(1 - np.cos(left[None, :] + shapes), axis=1)
        best = int(costs.argmin())
        if costs[best] > WORTH * reached:
            break
        kept, left, reached = (*kept, tried[best]), left + shapes[best], float(costs[best])
    return Phases(pairs=kept) if kept and reached < stands else None


def _both(hz: float, degrees: float, q: float) -> tuple[Pair, Pair]:
    """A pair by which the left side lags, and the one by which the right does."""
    one, other = apart(hz, degrees, q)
    return (one, other), (other, one)


def _apart(pair: Pair, hertz: FloatArray) -> FloatArray:
    """By how much a pair puts left ahead of right (n,), in radians."""
    return _ahead(pair[0], hertz) - _ahead(pair[1], hertz)


def apart(hz: float, degrees: float, q: float) -> tuple[Band, Band]:
    """Two all-passes of one Q whose phases differ by so many degrees at `hz`, under 360, and come together to both
    sides of it: the first lags.

    With s = sqrt(f2 / f1), centred at `hz`, the difference there is 360 - 4 atan(s / (Q (s^2 - 1))) degrees.
    """
    y = q * np.tan(np.radians((360.0 - degrees) / 4))
    s = float((1 / y + np.sqrt(1 / y**2 + 4)) / 2)
    return (
        Band(kind="all_pass", frequency_hz=round(hz / s, 1), q=q),
        Band(kind="all_pass", frequency_hz=round(hz * s, 1), q=q),
    )


def _analog(band: Band, hertz: FloatArray) -> ComplexArray:
    """A bell's response (n,) by the analog prototype, far below half the rate that of the digital one."""
    x = hertz / band.frequency_hz
    root = 10 ** (band.gain_db / 40)
    return np.asarray((1 - x**2 + 1j * x * root / band.q) / (1 - x**2 + 1j * x / (root * band.q)))


def _ahead(band: Band, hertz: FloatArray) -> FloatArray:
    """The phase of an all-pass (n,) in radians, continuous from 0 down to -2 pi."""
    x = hertz / band.frequency_hz
    return np.asarray(-2 * np.arctan2(x / band.q, 1 - x**2))


def _q(octaves: float) -> float:
    """The Q of a bell so wide (closed form)."""
    width = 2.0**octaves
    return round(float(np.sqrt(width) / (width - 1)), 2)


def _limited(level_db: float) -> float:
    return float(np.clip(level_db, -MOST_DB, MOST_DB))


def _off(radians: FloatArray) -> float:
    """How far angles are from nought, from 0 to 2, wherever they are wrapped."""
    return float(np.mean(1 - np.cos(radians)))
