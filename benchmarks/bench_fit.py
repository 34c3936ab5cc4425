"""Fits of ten bands against scipy's differential evolution given 60 s on the same problem: at one place, and over five
places whose mean counts, with the worst kept within a limit and the mids weighing twice."""

import sys
import time

from timing import in_turn, report  # isort: skip

import numpy as np
from scipy.optimize import differential_evolution

from imbrix.core.predict.fit import FitLimits, FitProblem, Weight, fit
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import FloatArray

SECONDS = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
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


def compare(name: str, wanted: FloatArray, limits: FitLimits, least: FloatArray | None = None) -> None:
    problem = FitProblem(wanted, grid, limits, RATE, least)
    lower, upper = problem.bounds(limits.count)
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
    (own_s,) = in_turn(5, lambda: fit(wanted, grid, limits, RATE, least))
    own = fit(wanted, grid, limits, RATE, least)
    x = np.array(
        [
            own.gain_db,
            *[b.gain_db for b in own.bands],
            *np.log([b.frequency_hz for b in own.bands]),
            *np.log([b.q for b in own.bands]),
        ]
    )
    report(f"{name} residual / differential evolution", problem.cost(x) / found.fun, 1.05, f"{own.residual_db:.3f} dB")
    report(f"{name} time / half a second", own_s / 0.5, 1, f"{own_s:.2f} s")


limits = FitLimits(count=10, boost_db=3, cut_db=12, most_q=6, low_hz=40, high_hz=16_000)
compare("fit", bumps(3, 14, 3), limits)
mean = bumps(4, 14, 3)
places = np.array([mean + bumps(seed, 30, 8) for seed in range(10, 15)])
middle = -10 * np.log10(np.mean(10 ** (-places / 10), axis=0))
weighed = limits.model_copy(update={"worst_db": 4.0, "weights": (Weight(low_hz=200, high_hz=4000, weight=2),)})
compare("fit over places", middle, weighed, places.min(axis=0))
