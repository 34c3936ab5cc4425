"""One side turned: an all-pass on all of it where left and right take each other away over the whole head.

A dip of both together that is in neither side is timing, which no boost fills. A second-order all-pass on every channel
of one side turns that side about one frequency and leaves the seams within it as they are. A broad one turns more than
the dip: what left and right would lose to each other in the bass and lower mids counts against it.
"""

from collections.abc import Mapping
from dataclasses import dataclass

import numpy as np

from imbrix.core.align.pairs import both_below
from imbrix.core.align.problem import TOGETHER_HZ
from imbrix.core.predict.predict import Predictor
from imbrix.core.predict.together import as_a_place_hears
from imbrix.core.signal.grid import span_mask
from imbrix.core.signal.signal import ComplexArray, FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import SIDES, Side
from imbrix.core.tune.lower import band_section
from imbrix.core.tune.tune import Band

TRIED_HZ = tuple(float(at) for at in np.geomspace(60.0, 1200.0, 28))
TRIED_Q = (0.5, 0.7, 1.0, 1.4, 2.0, 2.8, 4.0)
BEST = 4
NEAR_HZ = tuple(float(at) for at in 2.0 ** np.linspace(-0.12, 0.12, 7))
NEAR_Q = (0.75, 0.87, 1.0, 1.15, 1.33)
"""About so many of the best of a coarse search a finer one looks."""
SPAN_HZ, LEVEL_HZ = (40.0, 1500.0), (40.0, 16_000.0)
"""Where dips count, and where the level is taken that they are told from."""
DEEP_DB, MENDS_DB = 3.0, 1.0
"""A dip that is no deeper is left to a fit; of one that is at least so much has to go."""
WORST_SHARE = 0.15
"""What the deepest dip counts beside their rms."""
WORTH_DB = 0.3
"""What it has to be better by."""
TOGETHER_SHARE = 0.4
"""What a decibel that the sides lose to each other where they are heard as one wave counts beside dips of the whole."""
SMOOTHING = 6.0


@dataclass(frozen=True)
class Turn:
    """The all-pass and the side that it is for; where the dip is that it mends, and its level before and after, in dB;
    what left and right lose to each other where they are heard as one wave, before and after."""

    side: Side
    band: Band
    dip_hz: float
    before_db: float
    after_db: float
    lost_db: tuple[float, float]


def turn(
    sums: Mapping[Side, ComplexArray], wanted_db: FloatArray, predictor: Predictor, free: frozenset[Side]
) -> Turn | None:
    """The best all-pass on one of the `free` sides; None where no dip is deep, or none that is gets much better.

    `sums` are by side the responses (p, n) of its channels together, at the spots of a place; `wanted_db` (n,) is the
    target over the same level.
    """
    grid = predictor.frequencies
    if not set(SIDES) <= sums.keys():
        return None
    apart = np.array([smooth_power(one, grid, SMOOTHING).mean(axis=0) for one in sums.values()])
    inside, judged = span_mask(grid, *LEVEL_HZ), span_mask(grid, *SPAN_HZ)

    def strays(wholes: ComplexArray) -> FloatArray:
        """Departures (k, n) of wholes (k, p, n) from the target about their own level."""
        heard = as_a_place_hears(smooth_power(wholes, grid, SMOOTHING).mean(axis=1), apart, grid, wholes.shape[1])
        away = power_decibels(heard) - wanted_db
        return np.asarray((away - np.median(away[:, inside], axis=1, keepdims=True))[:, judged])

    total = np.sum(list(sums.values()), axis=0)
    before = strays(total[None])
    deep = before[0] <= -DEEP_DB
    if not deep.any():
        return None
    pair = both_below(sums["left"], sums["right"], grid, TOGETHER_HZ)

    def lost(turns: ComplexArray) -> FloatArray:
        """What the sides lose to each other (k,), the right one turned by each of `turns` (k, n)."""
        return np.zeros(len(turns)) if pair is None else pair.turned(turns).mean(axis=(0, 2))

    loses = float(lost(np.ones((1, grid.size), complex))[0])
    best: Turn | None = None
    reached = float(_cost(before)[0]) + TOGETHER_SHARE * loses - WORTH_DB
    for side in SIDES:
        if side not in free:
            continue

        def costs(bands: list[Band], side: Side = side) -> tuple[FloatArray, FloatArray, FloatArray]:
            """What each band costs (k,), the departures that it leaves (k, n), and what the sides lose then (k,)."""
            turns = predictor.sections(np.array([[band_section(band, predictor.rate)] for band in bands]))
            after = strays(total + sums[side] * (turns[:, None] - 1.0))
            lose = lost(turns if side == "right" else np.conjugate(turns))
            return _cost(after) + TOGETHER_SHARE * lose, after, lose

        tried = [_all_pass(at, q) for at in TRIED_HZ for q in TRIED_Q]
        found = [tried[n] for n in np.argsort(costs(tried)[0], kind="stable")[:BEST]]
        near = [_all_pass(one.frequency_hz * f, one.q * q) for one in found for f in NEAR_HZ for q in NEAR_Q]
        cost, after, lose = costs(near)
        n = int(cost.argmin())
        # The dip that it is for is the one of which it takes most.
        at = int(np.argmax(np.where(deep, np.minimum(after[n], 0.0) - before[0], -np.inf)))
        was, leaves = float(before[0, at]), float(after[n, at])
        if cost[n] < reached and leaves >= was + MENDS_DB:
            reached = float(cost[n])
            best = Turn(side, near[n], float(grid[judged][at]), was, leaves, (loses, float(lose[n])))
    return best


def _all_pass(hertz: float, q: float) -> Band:
    return Band(kind="all_pass", frequency_hz=round(hertz, 1), q=round(q, 2))


def _cost(away: FloatArray) -> FloatArray:
    """What dips cost (k,): their rms, and a share of the deepest."""
    rms = np.sqrt(np.mean(np.minimum(away, 0.0) ** 2, axis=1))
    return np.asarray(rms + WORST_SHARE * np.maximum(-away.min(axis=1), 0.0))
