"""What an alignment is worth, in figures a person can check: losses by seam and side, left against right, arrivals."""

from dataclasses import dataclass

import numpy as np

from imbrix.core.align.pairs import both_below, losses
from imbrix.core.align.problem import ENVELOPE_HZ, TOGETHER_HZ, System, ends
from imbrix.core.errors import InvalidError
from imbrix.core.predict.seam import SeamProblem
from imbrix.core.signal.signal import ComplexArray
from imbrix.core.system.layout import RANK, Driver, Seam
from imbrix.core.tune.tune import Tune


@dataclass(frozen=True, slots=True)
class Spread:
    """A figure at the first place, and the least and the most of all places."""

    value: float
    least: float
    most: float


@dataclass(frozen=True, slots=True)
class SeamFigures:
    """Mean and worst loss of a seam in dB."""

    seam: Seam
    mean: Spread
    worst: Spread


@dataclass(frozen=True, slots=True)
class Figures:
    """What a tune does to a system.

    `sides` is what left and right lose to each other below 500 Hz, mean in dB, None without sides; `apart_s` by how
    much the right side's sound comes later than the left one's, None where that is not known; `unlike` are pairs that
    move against each other; `far` are seams whose direct sounds come more than half a period apart.
    """

    seams: tuple[SeamFigures, ...]
    sides: Spread | None
    apart_s: float | None
    unlike: tuple[str, ...]
    far: tuple[str, ...]


def figures(system: System, tune: Tune) -> Figures:
    """The figures of a tune, its channels voiced as is to be expected."""
    heard = system.heard(system.expects(tune))
    found, far = [], []
    for seam in system.layout.seams():
        if seam.ways is None or not {*seam.lowers, *seam.uppers} <= set(system.ids):
            continue
        problems = [_problem(system, place, seam) for place in heard]
        there = [one for one in problems if one is not None]
        if not there:
            continue
        zero = np.zeros(1)
        curves = [one.curves(zero, invert=False)[0] for one in there]
        means, worsts = [float(one.mean()) for one in curves], [float(one.max()) for one in curves]
        found.append(SeamFigures(seam, _spread(means), _spread(worsts)))
        if seam.side != "both" and abs(_apart(system, tune, seam.lowers[0], seam.uppers[0])) * there[0].centre_hz > 0.5:
            far.append(seam.id)
    return Figures(tuple(found), _sides(system, heard), arrivals_apart(system, tune), unlike(system, tune), tuple(far))


def _problem(system: System, heard: ComplexArray, seam: Seam) -> SeamProblem | None:
    lower, upper = (
        sum((heard[system.ids.index(name)] for name in names), np.zeros(heard.shape[1], dtype=complex))
        for names in (seam.lowers, seam.uppers)
    )
    try:
        return SeamProblem(lower, upper, system.frequencies)
    except InvalidError:
        return None


def _spread(values: list[float]) -> Spread:
    return Spread(values[0], min(values), max(values))


def _pairs(system: System) -> list[tuple[Driver, Driver]]:
    """Left and right of each way that is heard on both sides."""
    found = []
    for driver in system.layout.drivers:
        mate = system.layout.partner(driver)
        if driver.side == "left" and mate is not None and {driver.id, mate.id} <= set(system.ids):
            found.append((driver, mate))
    return found


def _sides(system: System, heard: ComplexArray) -> Spread | None:
    """Both sides of the group in front, each added up."""
    sums = []
    for side in ("left", "right"):
        rows = [
            n for n, name in enumerate(system.ids) if _of_main(system, name) and system.layout.driver(name).side == side
        ]
        if not rows:
            return None
        sums.append(heard[:, rows].sum(axis=1))
    pair = both_below(sums[0], sums[1], system.frequencies, TOGETHER_HZ)
    if pair is None:
        return None
    return _spread(losses(pair, np.zeros(1))[0, :, 0].mean(axis=-1).tolist())


def _of_main(system: System, name: str) -> bool:
    return system.layout.driver(name).group == system.layout.main


def _apart(system: System, tune: Tune, one: str, other: str) -> float:
    """By how many seconds the direct sound of the second comes later than that of the first."""
    first, second = (system.arrivals[name].seconds + tune.channels[name].delay_s for name in (one, other))
    return second - first


def arrivals_apart(system: System, tune: Tune) -> float | None:
    """How far both sides are apart, by the way that plays most of where the envelope is heard."""
    widest: tuple[float, int, float] | None = None
    for left, right in _pairs(system):
        if left.group != system.layout.main:
            continue
        low, high = ends(tune, left.id)
        octaves = float(np.log2(max(min(high, ENVELOPE_HZ[1]) / max(low, ENVELOPE_HZ[0]), 1e-3)))
        rated = (octaves, RANK[left.kind], _apart(system, tune, left.id, right.id))
        widest = max(widest, rated) if widest else rated
    return widest[2] if widest and widest[0] > 0 else None


def unlike(system: System, tune: Tune) -> tuple[str, ...]:
    """Pairs whose left and right move against each other."""
    found = []
    for left, right in _pairs(system):
        signs = [
            system.arrivals[one.id].polarity * (-1 if tune.channels[one.id].inverted else 1) for one in (left, right)
        ]
        if all(signs) and signs[0] != signs[1]:
            found.append(left.name.removesuffix(" L"))
    return tuple(found)
