"""The search over delays and polarities of a whole system: global along its chains, then all together.

Drivers are set one after another, each where it costs least beside those that stand already, several ways kept
side by side (a beam search; B. T. Lowerre, 1976). The best are then moved, driver by driver and group by group, until
nothing that moves by itself gets any better.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field

import numpy as np

from imbrix.core.align.pairs import Table
from imbrix.core.patience import goes_on
from imbrix.core.signal.signal import FloatArray

WIDTH = 48
MINIMA = 5
_ROUNDS = 40


@dataclass(frozen=True, slots=True)
class Setting:
    """Steps of delay and inversion (0 or 1) of each driver, and what they cost in dB."""

    steps: tuple[int, ...]
    inverted: tuple[int, ...]
    cost: float


@dataclass
class Net:
    """Tables between `count` drivers, `reach` steps to either side of where each is looked for.

    `about` are the steps at which all sounds arrive together, `root` is the driver that stays there; `groups` are
    drivers that may have to move together; `held` are those that may not move at all, with their steps and inversions.
    """

    count: int
    tables: Sequence[Table]
    about: Sequence[int]
    reach: Sequence[int]
    groups: Sequence[frozenset[int]] = ()
    root: int = 0
    held: Mapping[int, tuple[int, int]] = field(default_factory=dict)
    _at: list[list[Table]] = field(default_factory=list, init=False, repr=False)

    def __post_init__(self) -> None:
        self._at = [[one for one in self.tables if n in (one.first, one.second)] for n in range(self.count)]

    def total(self, steps: Sequence[int], inverted: Sequence[int]) -> float:
        """What a setting costs."""
        return float(sum(_between(one, steps, inverted) for one in self.tables))

    def neighbours(self, n: int) -> set[int]:
        return {one.first + one.second - n for one in self._at[n]}

    def moved(self, group: frozenset[int], steps: Sequence[int], inverted: Sequence[int], by: np.ndarray) -> FloatArray:
        """Cost (2, k) of all tables across the edge of a group that is moved `by` (k,) steps, and inverted besides."""
        costs = np.zeros((2, by.size))
        for n in group:
            for one in self._at[n]:
                if one.first in group and one.second in group:
                    continue
                away = steps[one.second] - steps[one.first] + (by if one.second == n else -by)
                against = inverted[one.first] ^ inverted[one.second]
                costs[0] += one.at(away, against)
                costs[1] += one.at(away, 1 - against)
        return costs


def _between(one: Table, steps: Sequence[int], inverted: Sequence[int]) -> float:
    return one.at_one(steps[one.second] - steps[one.first], inverted[one.first] ^ inverted[one.second])


def search(
    net: Net, most: int = 1, also: Sequence[tuple[list[int], list[int]]] = (), width: int = WIDTH
) -> list[Setting]:
    """The best settings, least cost first; only differences between drivers count in them.

    `also` are settings to begin from besides, as that which stands: what is found is never worse than they are.
    `width` is how many settings are kept side by side, a quarter of which is settled.
    """
    found: dict[tuple[tuple[int, ...], tuple[int, ...]], float] = {}
    for steps, inverted in [*_beam(net, width)[: width // 4], *also]:
        setting = _settled(net, steps, inverted)
        found[setting.steps, setting.inverted] = setting.cost
    ordered = sorted(found.items(), key=lambda one: one[1])
    return [Setting(steps, inverted, cost) for (steps, inverted), cost in ordered[:most]]


def order(net: Net) -> list[int]:
    """Drivers so that each has as many neighbours as can be among those before it."""
    placed = list(net.held) or [net.root]
    while len(placed) < net.count:
        left = [n for n in range(net.count) if n not in placed]
        placed.append(max(left, key=lambda n: (len(net.neighbours(n) & set(placed)), -n)))
    return placed


def _beam(net: Net, width: int) -> list[tuple[list[int], list[int]]]:
    """Whole settings that were built driver by driver, the cheapest first."""
    begun = net.held or {net.root: (net.about[net.root], 0)}
    beam = [(0.0, {n: one[0] for n, one in begun.items()}, {n: one[1] for n, one in begun.items()})]
    # What is held may stand elsewhere than where all sounds arrive together.
    shift = round(float(np.median([one[0] - net.about[n] for n, one in begun.items()])))
    for n in order(net)[len(begun) :]:
        grown = []
        for cost, steps, inverted in beam:
            trial = net.about[n] + shift + np.arange(-net.reach[n], net.reach[n] + 1)
            costs = np.zeros((2, trial.size))
            known = False
            for one in net._at[n]:
                other = one.first + one.second - n
                if other not in steps:
                    continue
                known = True
                away = trial - steps[other] if one.second == n else steps[other] - trial
                costs += one.at(away, np.array([[inverted[other]], [1 - inverted[other]]]))
            if not known:  # an island: it begins where its sound arrives with the others
                grown.append((cost, {**steps, n: net.about[n] + shift}, {**inverted, n: 0}))
                continue
            grown += [
                (cost + float(costs[way, at]), {**steps, n: int(trial[at])}, {**inverted, n: way})
                for way in (0, 1)
                for at in _minima(costs[way])
            ]
        beam = sorted(grown, key=lambda one: one[0])[:width]
    return [
        ([steps[n] for n in range(net.count)], [inverted[n] for n in range(net.count)]) for _, steps, inverted in beam
    ]


def _minima(costs: FloatArray) -> list[int]:
    padded = np.concatenate(([np.inf], costs, [np.inf]))
    inner = np.flatnonzero((costs <= padded[:-2]) & (costs < padded[2:]))
    return sorted(inner.tolist(), key=lambda at: float(costs[at]))[:MINIMA]


def _settled(net: Net, steps: list[int], inverted: list[int]) -> Setting:
    """A setting moved, driver by driver and group by group, until nothing gets any better by it."""
    steps, inverted = list(steps), list(inverted)
    groups = [frozenset({n}) for n in range(net.count)] + [one for one in net.groups if len(one) > 1]
    for _ in range(_ROUNDS):
        gained = 0.0
        goes_on()
        for group in groups:
            if len(group) == net.count or group & net.held.keys():
                continue
            reach = max(net.reach[n] for n in group)
            by = np.arange(-reach, reach + 1)
            costs = net.moved(group, steps, inverted, by)
            way, at = np.unravel_index(int(np.argmin(costs)), costs.shape)
            gain = float(costs[0, reach] - costs[way, at])
            if gain > 1e-9:
                gained += gain
                for n in group:
                    steps[n] += int(by[at])
                    inverted[n] ^= int(way)
        if gained <= 1e-9:
            break
    return Setting(tuple(steps), tuple(inverted), net.total(steps, inverted))
