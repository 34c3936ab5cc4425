"""Fit gain and peaking bands to a wanted correction, all bands together.

A greedy guess places one bell after another where the most is left to do; after each, bounded least squares moves
every gain, frequency and Q at once. Four such runs look through windows of different width. A thorough fit places
bells to spare and takes out those that do least, some with the gain held where they need but cut. What is redundant in
the end goes.
"""

from dataclasses import dataclass

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.predict.fit_problem import FitLimits, FitProblem
from imbrix.core.signal.signal import FloatArray
from imbrix.core.tune.tune import Band

GAIN_WEIGHT = 0.03
"""What lies beyond the span moves with the gain: a decibel off the mean costs as much as this of residual."""
FEW = 6
STARTS = ((4.0, False), (8.0, False), (2.0, True), (4.0, True), (8.0, True))
"""1/n of the window in octaves through which a start looks, and whether it holds the gain at the top."""
MORE, LOOKED_AT, FOLLOWED, ALIKE = 2, 4, 3, 1.02
"""Bells to spare; starts thinned out, and followed to the end; of those so near, the one that boosts least wins."""
SPARED, UNHEARD_DB = 1.01, 0.02
"""Bells go while no more than this times what was left comes of it, or so little that nobody measures it."""
FIRMER, LEAK_DB = (16.0, 64.0), 0.1
"""By how much more a boost over what others leave counts, while more than this of it is over."""


@dataclass(frozen=True, slots=True)
class Fit:
    """`gain_db` and `bands`, the rms of what is left over the judged span, and the greatest sum boost."""

    gain_db: float
    bands: tuple[Band, ...]
    residual_db: float
    boost_db: float


def fit(
    wanted_db: FloatArray,
    frequencies: FloatArray,
    limits: FitLimits,
    rate: int,
    least_db: FloatArray | None = None,
    thorough: bool = False,
    lifted_db: FloatArray | None = None,
) -> Fit:
    """Gain and bands that come nearest to `wanted_db` (n,) within the limits.

    Over several places that is what their mean wants, and `least_db` (n,) what the one wants that wants least: none
    comes to stand more than the limits' `worst_db` over its own. A `thorough` one leaves less in twice the time. It is
    for what all channels have in common: ways that are fitted one by one are aligned by what fits do beyond the span.
    `lifted_db` (n,) is what channels boost of themselves: both together keep the limit of boost, where they can.
    Raises InvalidError where the limits leave no curve to fit or contradict each other.
    """
    spans = ((limits.low_hz, limits.high_hz), *((one.low_hz, one.high_hz) for one in limits.weights))
    if limits.least_q > limits.most_q or any(low >= high for low, high in spans):
        raise InvalidError("the limits of the fit contradict each other: the lower one exceeds the upper one")
    problem = FitProblem(wanted_db, frequencies, limits, rate, least_db, GAIN_WEIGHT if thorough else 0.0, lifted_db)
    count = FEW if limits.count is None else limits.count
    if thorough:
        best = _sought(problem, count)
    else:
        staged = sorted((problem.staged(count, broad) for broad in (2.0, 4.0, 8.0, 16.0)), key=problem.cost)
        best = min((problem.refine(x, 60) for x in staged[:2]), key=problem.cost)
    best = _spared(problem, best)
    if lifted_db is not None:
        best = _under(problem, best)
    return _result(problem, _held(problem, best))


def _sought(problem: FitProblem, count: int) -> FloatArray:
    """What is best of several starts with bells to spare."""
    staged = sorted((problem.staged(count + MORE, *start) for start in STARTS), key=problem.cost)
    thinned = sorted((problem.thinned(x, count) for x in staged[:LOOKED_AT]), key=problem.cost)
    found = [problem.refine(x, 60) for x in thinned[:FOLLOWED]]
    enough = ALIKE * min(problem.cost(x) for x in found)
    return min((x for x in found if problem.cost(x) <= enough), key=lambda x: problem.bands_db(x).max(initial=0.0))


def _spared(problem: FitProblem, x: FloatArray) -> FloatArray:
    """The solution without the bells that the others can do without: a processor's bands are few."""
    most = max(SPARED * problem.cost(x), UNHEARD_DB)
    while x.size // 3 > 1:
        fewer = problem.refine(problem.thinned(x, x.size // 3 - 1), 12)
        if problem.cost(fewer) > most:
            break
        x = fewer
    return x


def _under(problem: FitProblem, x: FloatArray) -> FloatArray:
    """The solution moved under what others leave of the boost, the more firmly the more is over."""
    for weight in FIRMER:
        if not x.size // 3 or (problem.bands_db(x) - problem.ceiling).max() <= LEAK_DB:
            break
        problem.over_weight = weight
        x = problem.refine(x, 60)
    return x


def _held(problem: FitProblem, x: FloatArray) -> FloatArray:
    """The solution with its boosts turned down until their sum keeps the limit: the penalty alone leaks a little."""
    limit = problem.limits.boost_db + 0.01
    count = x.size // 3
    if not count or problem.bands_db(x).max() <= limit:
        return x
    boosted = x[1 : 1 + count] > 0

    def turned(share: float) -> FloatArray:
        y = x.copy()
        y[1 : 1 + count][boosted] *= share
        return y

    low, high = 0.0, 1.0
    for _ in range(30):
        middle = (low + high) / 2
        low, high = (middle, high) if problem.bands_db(turned(middle)).max() <= limit else (low, middle)
    y = turned(low)
    y[0] = problem.best_gain(problem.bands_db(y))
    return y


def _result(problem: FitProblem, x: FloatArray) -> Fit:
    count = x.size // 3
    bands = sorted(
        (
            Band(frequency_hz=float(np.exp(f)), gain_db=float(g), q=float(np.exp(q)))
            for g, f, q in zip(x[1 : 1 + count], x[1 + count : 1 + 2 * count], x[1 + 2 * count :], strict=True)
            if abs(g) >= 0.1
        ),
        key=lambda band: band.frequency_hz,
    )
    bells = problem.bands_db(x)
    return Fit(
        gain_db=float(x[0]),
        bands=tuple(bands),
        residual_db=float(np.sqrt(np.mean((x[0] + bells - problem.wanted) ** 2))),
        boost_db=float(max(bells.max(), 0.0)) if bells.size else 0.0,
    )
