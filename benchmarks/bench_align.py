"""The search for the delays and polarities of a system against scipy's differential evolution on the same objective,
given 60 s; and the time that a whole proposal takes, for 7 channels at one place and for 14 at three."""

import sys
import time

from timing import report  # isort: skip

import numpy as np
from scipy.optimize import differential_evolution

from imbrix.core.align.bounds import Known
from imbrix.core.align.corners import corners
from imbrix.core.align.problem import Arrival, System, net
from imbrix.core.align.propose import Allowed, propose
from imbrix.core.align.search import search
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.system.layouts import ready
from imbrix.core.tune.models import LARGE
from imbrix.core.tune.tune import neutral
from imbrix.standins.places import drawn
from imbrix.standins.places.place import wired

SECONDS = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
MODEL = LARGE.model_copy(update={"name": "Eight by sixteen", "outputs": 16})
GRID = log_grid()
PREDICTOR = Predictor(GRID, MODEL.rate)
SPOTS = ((0.0, 0.0), (0.1, 0.0), (-0.1, 0.05))


def system(seed: int, key: str, places: int) -> tuple[System, dict[str, Known]]:
    layout = ready(key, "left")
    cabin = drawn.place(seed, wired(layout.drivers), "left").cabin
    rows = np.array([[cabin.truth(one.output - 1, GRID) for one in layout.drivers]])
    rows = np.concatenate([rows * np.exp(2j * np.pi * GRID * spot[0] / 340) for spot in SPOTS[:places]])
    seats = [cabin.seat(one.output - 1) for one in layout.drivers]
    arrivals = {
        one.id: Arrival(seat.path.distance_m / speed_of_sound(cabin.celsius), -1 if seat.wired_backwards else 1)
        for one, seat in zip(layout.drivers, seats, strict=True)
    }
    bands = {one.id: Known(seat.driver.own_band(MODEL.rate)) for one, seat in zip(layout.drivers, seats, strict=True)}
    return System(layout, tuple(one.id for one in layout.drivers), rows, PREDICTOR, arrivals, MODEL), bands


small, known = system(3, "front-3-sub", 1)
begun = time.perf_counter()
found = propose(small, neutral(small.layout), corners(small.layout, known), Allowed())
took = time.perf_counter() - begun
one = net(small, found.proposals[-1].tune)
own = search(one)[0].cost
free = [n for n in range(one.count) if n != one.root]
about = [each - one.about[one.root] for each in one.about]


def total(x: np.ndarray) -> float:
    steps, inverted = list(about), [0] * one.count
    for n, value, way in zip(free, x[: len(free)], x[len(free) :], strict=True):
        steps[n], inverted[n] = about[n] + round(value), int(way > 0.5)
    return one.total(steps, inverted)


deadline = time.perf_counter() + SECONDS
theirs = differential_evolution(
    total,
    [(-one.reach[n], one.reach[n]) for n in free] + [(0, 1)] * len(free),
    maxiter=10**6,
    popsize=20,
    tol=0,
    seed=1,
    polish=False,
    callback=lambda *_a, **_k: time.perf_counter() > deadline,
)
report("alignment / differential evolution", own / theirs.fun, (theirs.fun + 0.05) / theirs.fun, f"{own:.3f} dB")
report("proposal for 7 channels / 3 s", took / 3, 1, f"{took:.2f} s")
large, known = system(4, "whole-car", 3)
begun = time.perf_counter()
propose(large, neutral(large.layout), corners(large.layout, known), Allowed())
took = time.perf_counter() - begun
report("proposal for 14 channels at three places / 10 s", took / 10, 1, f"{took:.2f} s")
