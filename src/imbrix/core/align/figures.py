"""What an alignment is worth, in figures a person can check: losses by seam and side, left against right, arrivals."""

from collections.abc import Iterable
from dataclasses import dataclass

import numpy as np

from imbrix.core.align.pairs import both_below, overlap
from imbrix.core.align.problem import ENVELOPE_HZ, TOGETHER_HZ, System, ends
from imbrix.core.signal.signal import ComplexArray
from imbrix.core.system.layout import RANK, SIDES, Seam
from imbrix.core.tune.tune import Tune

FAR_PERIODS = 0.5
"""Direct sounds that come further apart at a seam are told of."""


@dataclass(frozen=True, slots=True)
class Spread:
    """A figure at every place that was recorded, the first of them first."""

    values: tuple[float, ...]

    @property
    def value(self) -> float:
        """At the first place."""
        return self.values[0]

    @property
    def least(self) -> float:
        """The least of all places."""
        return min(self.values)

    @property
    def most(self) -> float:
        """The most of all places."""
        return max(self.values)


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
        places = zip(_summed(system, heard, seam.lowers), _summed(system, heard, seam.uppers), strict=True)
        there = [one for low, high in places if (one := overlap(low, high, system.frequencies)) is not None]
        if not there:
            continue
        curves = [one.curves(np.zeros(1), invert=False)[0] for one in there]
        means, worsts = [float(one.mean()) for one in curves], [float(one.max()) for one in curves]
        found.append(SeamFigures(seam, Spread(tuple(means)), Spread(tuple(worsts))))
        if (
            seam.side != "both"
            and abs(_apart(system, tune, seam.lowers[0], seam.uppers[0])) * there[0].centre_hz > FAR_PERIODS
        ):
            far.append(seam.id)
    return Figures(tuple(found), _sides(system, heard), arrivals_apart(system, tune), unlike(system, tune), tuple(far))


def _summed(system: System, heard: ComplexArray, names: Iterable[str]) -> ComplexArray:
    """Some drivers together (p, n)."""
    return np.asarray(heard[:, [system.ids.index(name) for name in names]].sum(axis=1))


def _sides(system: System, heard: ComplexArray) -> Spread | None:
    """Both sides of the group in front, each added up."""
    front = [system.layout.driver(name) for name in system.ids]
    front = [one for one in front if one.group == system.layout.main]
    left, right = ([one.id for one in front if one.side == side] for side in SIDES)
    if not left or not right:
        return None
    sums = _summed(system, heard, left), _summed(system, heard, right)
    pair = both_below(*sums, system.frequencies, TOGETHER_HZ)
    if pair is None:
        return None
    return Spread(tuple(pair.curves(np.zeros(1), invert=False)[:, 0].mean(axis=-1).tolist()))


def _apart(system: System, tune: Tune, one: str, other: str) -> float:
    """By how many seconds the direct sound of the second comes later than that of the first."""
    first, second = (
        system.arrivals[name].seconds + tune.channels[name].late_s(system.limits.rate) for name in (one, other)
    )
    return second - first


def arrivals_apart(system: System, tune: Tune) -> float | None:
    """How far both sides are apart, by the way that plays most of where the envelope is heard."""
    widest: tuple[float, int, float] | None = None
    for left, right in system.pairs:
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
    for left, right in system.pairs:
        signs = [
            system.arrivals[one.id].polarity * (-1 if tune.channels[one.id].inverted else 1) for one in (left, right)
        ]
        if all(signs) and signs[0] != signs[1]:
            found.append(left.name.removesuffix(" L"))
    return tuple(found)
