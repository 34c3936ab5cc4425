"""A fit of ten bands against scipy's differential evolution given 60 s on the same problem."""

import sys
import time

from timing import in_turn, report  # isort: skip

import numpy as np
from scipy.optimize import differential_evolution

from imbrix.core.predict.fit import FitLimits, FitProblem, fit
from imbrix.core.signal.grid import log_grid

SECONDS = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
RATE = 48_000
grid = log_grid()
limits = FitLimits(count=10, boost_db=3, cut_db=12, most_q=6, low_hz=40, high_hz=16_000)
random = np.random.default_rng(3)
octaves = np.log2(grid)
wanted = sum(
    gain * np.exp(-((octaves - np.log2(hertz)) ** 2) / (2 * wide**2))
    for hertz, wide, gain in zip(
        np.geomspace(45, 15_000, 14), random.uniform(0.08, 0.5, 14), random.uniform(-8, 3, 14), strict=True
    )
)
problem = FitProblem(wanted, grid, limits, RATE)
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
(own_s,) = in_turn(5, lambda: fit(wanted, grid, limits, RATE))
own = fit(wanted, grid, limits, RATE)
x = np.array(
    [
        own.gain_db,
        *[b.gain_db for b in own.bands],
        *np.log([b.frequency_hz for b in own.bands]),
        *np.log([b.q for b in own.bands]),
    ]
)
report("fit residual / differential evolution", problem.cost(x) / found.fun, 1.05, f"{own.residual_db:.3f} dB rms")
report("fit time / half a second", own_s / 0.5, 1, f"{own_s:.2f} s")
