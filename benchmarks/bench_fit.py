"""Fits of four to ten bands against scipy's differential evolution, given 60 s or so many as are said on the same
problem and polished by least squares: at one place, and over five places whose mean counts, with the worst kept within
a limit and the mids weighing twice.

    python benchmarks/bench_fit.py [SECONDS] [PROBLEMS]
"""

import sys
import time

from timing import in_turn, report  # isort: skip

import numpy as np
from scipy.optimize import differential_evolution

from imbrix.core.predict.fit import GAIN_WEIGHT, Fit, fit
from imbrix.core.predict.fit_problem import FitLimits, FitProblem, Weight
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import FloatArray

SECONDS = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
PROBLEMS = int(sys.argv[2]) if len(sys.argv) > 2 else 20
RATE = 48_000
grid = log_grid()
octaves = np.log2(grid)


def bumps(seed: int, count: int, highest: float) -> FloatArray:
    """A correction (n,) that is wanted, of so many bumps of all widths."""
    random = np.random.default_rng(seed)
    return sum(
        gain * np.exp(-((octaves - np.log2(hertz)) ** 2) / (2 * wide**2))
        for hertz, wide, gain in zip(
            np.geomspace(45, 15_000, count),
            random.uniform(0.08, 0.5, count),
            random.uniform(-8, highest, count),
            strict=True,
        )
    )


def drawn(seed: int) -> tuple[FloatArray, FitLimits]:
    """A correction (n,) of bumps of all widths over a tilt, and from four to ten bands to make it with."""
    random = np.random.default_rng(seed)
    count, bells = int(random.integers(4, 11)), int(random.integers(5, 16))
    places = np.log2(np.exp(random.uniform(np.log(35), np.log(16_000), bells)))
    widths, gains = random.uniform(0.08, 0.8, bells), random.uniform(-9, 5, bells)
    wanted = (gains[:, None] * np.exp(-((octaves - places[:, None]) ** 2) / (2 * widths[:, None] ** 2))).sum(axis=0)
    wanted += random.uniform(-3, 3) * np.tanh((octaves - np.log2(1000)) / 3)
    boost = float(random.choice([3, 6]))
    return wanted, FitLimits(count=count, boost_db=boost, cut_db=12, most_q=6, low_hz=40, high_hz=16_000)


def reference(problem: FitProblem) -> float:
    """What differential evolution leaves, polished."""
    count = problem.limits.count
    assert count is not None
    lower, upper = problem.bounds(count)
    deadline = time.perf_counter() + SECONDS
    found = differential_evolution(
        problem.cost,
        list(zip(lower, upper, strict=True)),
        maxiter=10**6,
        popsize=12,
        tol=0,
        seed=1,
        polish=False,
        callback=lambda *_a, **_k: time.perf_counter() > deadline,
    )
    return min(float(found.fun), problem.cost(problem.refine(found.x, 200)))


def own_cost(problem: FitProblem, found: Fit) -> float:
    bands = found.bands
    return problem.cost(
        np.array(
            [
                found.gain_db,
                *[b.gain_db for b in bands],
                *np.log([b.frequency_hz for b in bands]),
                *np.log([b.q for b in bands]),
            ]
        )
    )


def compare(name: str, wanted: FloatArray, limits: FitLimits, least: FloatArray | None = None) -> None:
    problem = FitProblem(wanted, grid, limits, RATE, least, GAIN_WEIGHT)
    best = reference(problem)
    (own_s,) = in_turn(5, lambda: fit(wanted, grid, limits, RATE, least, thorough=True))
    own = fit(wanted, grid, limits, RATE, least, thorough=True)
    ratio = own_cost(problem, own) / best
    report(f"{name} residual / differential evolution", ratio, 1.05, f"{own.residual_db:.3f} dB")
    report(f"{name} time / half a second", own_s / 0.5, 1, f"{own_s:.2f} s")


ratios = []
for seed in range(PROBLEMS):
    drawn_wanted, drawn_limits = drawn(seed)
    problem = FitProblem(drawn_wanted, grid, drawn_limits, RATE, steady=GAIN_WEIGHT)
    ratios.append(own_cost(problem, fit(drawn_wanted, grid, drawn_limits, RATE, thorough=True)) / reference(problem))
if ratios:
    report(f"{PROBLEMS} drawn problems, the worst", max(ratios), 1.05)
    report(f"{PROBLEMS} drawn problems, the middle", float(np.median(ratios)), 1.05)

limits = FitLimits(count=10, boost_db=3, cut_db=12, most_q=6, low_hz=40, high_hz=16_000)
compare("fit", bumps(3, 14, 3), limits)
mean = bumps(4, 14, 3)
places = np.array([mean + bumps(seed, 30, 8) for seed in range(10, 15)])
middle = -10 * np.log10(np.mean(10 ** (-places / 10), axis=0))
weighed = limits.model_copy(update={"worst_db": 4.0, "weights": (Weight(low_hz=200, high_hz=4000, weight=2),)})
compare("fit over places", middle, weighed, places.min(axis=0))
