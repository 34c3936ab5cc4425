"""FIR taps: the residual against scipy.signal.firls of the same length, and 2047 taps under limits against none."""

from timing import in_turn, report  # isort: skip

import numpy as np
import scipy.signal

from imbrix.core.fir.design import made
from imbrix.core.fir.solve import Problem, solve, weighted_error
from imbrix.core.fir.wanted import way
from imbrix.core.fir.wish import Wish
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.tune.tune import Channel, Crossover

RATE = 48_000
SIZE = 16_384


def against_firls(count: int) -> None:
    """A low-pass in two bands."""
    at = np.fft.rfftfreq(SIZE, 1 / 2.0)
    passes, stops = at <= 0.3, at >= 0.32
    wanted = np.where(passes, 1.0, 0.0) * np.exp(-1j * np.pi * at * (count - 1) / 2)
    weight = np.where(passes, 1.0, np.where(stops, 5.0, 0.0))
    problem = Problem(SIZE, wanted, weight, np.full(at.size, 10.0), np.ones(at.size, complex), 0, 1.0, 1.0)
    theirs = scipy.signal.firls(count, [0, 0.3, 0.32, 1], [1, 1, 0, 0], weight=[1, 5], fs=2)
    ratio = weighted_error(problem, solve(problem, count)) / weighted_error(problem, theirs)
    report(f"{count} taps: residual / firls", ratio, 1.0000001)


def seconds(count: int) -> None:
    """A two-way's sum made linear in phase, quiet before the pulse: seconds for one way of so many taps."""
    grid = log_grid()
    predictor = Predictor(grid, RATE)
    end = Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=2500)
    low = predictor.channel(Channel(high_pass=end.model_copy(update={"corner_hz": 50}), low_pass=end))
    one = way(low[None], grid, (200, 5000), "linear")
    flat = np.zeros(grid.size)
    bound = Wish(low_hz=200, high_hz=5000, taps=count, pre_db=-60)
    loose = bound.model_copy(update={"pre_db": -6.0})
    within, free = in_turn(
        3,
        lambda: made(one, grid, bound, RATE, flat),
        lambda: made(one, grid, loose, RATE, flat),
    )
    report(f"{count} taps under limits / without", within / free, 60.0, f"{within:.2f} s, asked under 5 s")


for taps in (101, 401):
    against_firls(taps)
seconds(2047)
