"""Values of a two-way network against scipy's differential evolution given 60 s on the same objective."""

import sys
import time

from timing import in_turn, report  # isort: skip

import numpy as np
from scipy.optimize import differential_evolution

from imbrix.core.impedance.impedance import Circuit, impedance
from imbrix.core.passive import search as searched
from imbrix.core.passive.network import Branch, Network
from imbrix.core.passive.search import Scene
from imbrix.core.passive.textbook import ladder, pad, zobel
from imbrix.core.tune.crossover import alignment

SECONDS = float(sys.argv[1]) if len(sys.argv) > 1 else 60.0
f = np.geomspace(20, 20_000, 240)
s = 2j * np.pi * f


def scene(corner: float, least_ohm: float, late_s: float) -> Scene:
    ohms = {
        "w": impedance(Circuit(6.2, 45.0, 4.0, 30.0, 0.012, 0.7), f),
        "t": impedance(Circuit(3.4, 850.0, 2.5, 6.0, 0.0006, 0.6), f),
    }
    bare = {
        "w": (s / (s + 2 * np.pi * 50)) ** 2 / (1 + s / (2 * np.pi * 4500)) ** 2,
        "t": 1.6 * (s / (s + 2 * np.pi * 900)) ** 2 * np.exp(-s * late_s),
    }
    own = {
        "w": 20 * np.log10(alignment("linkwitz-riley", 24, corner, "low_pass", f)),
        "t": 20 * np.log10(alignment("linkwitz-riley", 24, corner, "high_pass", f)),
    }
    return Scene(f, ohms, bare, own, np.zeros(f.size), (f > 120) & (f < 18_000), least_ohm)


def network(corner: float, with_zobel: bool) -> Network:
    low = ladder("linkwitz-riley", 12, corner, "low_pass", 8.0)
    low = (*low, zobel(6.2, 0.5e-3)) if with_zobel else low
    high = (*pad(3.0, 4.0), *ladder("butterworth", 18, corner, "high_pass", 4.0))
    return Network(branches=(Branch(driver="w", steps=low), Branch(driver="t", steps=high)))


for corner, with_zobel, least, late in ((2500.0, False, 3.0, 60e-6), (1800.0, True, 4.0, 90e-6)):
    place, begun = scene(corner, least, late), network(corner, with_zobel)
    at = np.log(searched.values(begun))
    deadline = time.perf_counter() + SECONDS
    theirs = differential_evolution(
        lambda x, place=place, begun=begun: searched.cost(place, searched.with_values(begun, np.exp(x))),
        list(zip(at - searched.REACH, at + searched.REACH, strict=True)),
        maxiter=10**6,
        popsize=12,
        tol=0,
        seed=1,
        callback=lambda *_a, deadline=deadline, **_k: time.perf_counter() > deadline,
    )
    (took,) = in_turn(1, lambda place=place, begun=begun: searched.search(place, begun))
    ratio = searched.cost(place, searched.search(place, begun)) / theirs.fun
    report(f"network at {corner:.0f} Hz, cost / differential evolution", ratio, 1.05, f"{took:.1f} s")
