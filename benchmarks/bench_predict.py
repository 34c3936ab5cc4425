"""Seven channels of two crossovers and ten bands, summed, against sosfreqz one channel after another."""

import itertools

from timing import in_turn, report  # isort: skip

import numpy as np
from scipy.signal import sosfreqz

from imbrix.core.predict.predict import Predictor, combine
from imbrix.core.signal.grid import log_grid
from imbrix.core.tune.lower import lower
from imbrix.core.tune.tune import Band, Channel, Crossover

RATE = 48_000
grid = log_grid()
random = np.random.default_rng(0)
counter = itertools.count()


def channel() -> Channel:
    bands = tuple(
        Band(frequency_hz=random.uniform(50, 15_000), gain_db=random.uniform(-6, 6), q=random.uniform(0.5, 6))
        for _ in range(10)
    )
    return Channel(
        gain_db=-3,
        delay_s=0.001,
        high_pass=Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=random.uniform(60, 3000)),
        low_pass=Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=random.uniform(3000, 9000)),
        bands=bands,
    )


predictor = Predictor(grid, RATE)
sets = [[channel() for _ in range(7)] for _ in range(200)]
base = sets[0]
singles = [channel() for _ in range(200)]
audible = [True] * 7


def reference() -> None:
    total = np.zeros(grid.size, dtype=complex)
    for one in base:
        lowered = lower(one, (), RATE)
        response = sosfreqz(lowered.sos, worN=grid, fs=RATE)[1] * lowered.factor
        total += response * np.exp(-2j * np.pi * grid * lowered.delay / RATE)


def everything() -> None:
    combine(predictor.channels(sets[next(counter) % 200]), audible)


def one_changed() -> None:
    now = [*base[:3], singles[next(counter) % 200], *base[4:]]
    combine(predictor.channels(now), audible)


predictor._remember = 8  # so that no set of channels is met again in memory
ref, all_, one = in_turn(60, reference, everything, one_changed)
report("prediction, everything changed / sosfreqz", all_ / ref, 1 / 5, f"{all_ * 1e3:.2f} ms")
predictor = Predictor(grid, RATE)
predictor.channels(base)
ref, one = in_turn(60, reference, one_changed)
report("prediction, one channel changed / sosfreqz", one / ref, 1 / 25, f"{one * 1e3:.2f} ms")
