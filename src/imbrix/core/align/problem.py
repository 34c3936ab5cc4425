"""What is wanted of the alignment of a whole system, as a net of tables between its drivers.

In this order: the sound of both sides arrives at once; each seam is in phase through its overlap; left and right are
in phase where the bass needs it; left and right of a way move alike; what arrives together by its direct sound stays
near that, lest a seam a whole period off be taken for right.
"""

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from itertools import combinations

import numpy as np

from imbrix.core.align.pairs import Table, both_below, overlap, tabled
from imbrix.core.align.search import Net
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.signal import ComplexArray, FloatArray
from imbrix.core.system.layout import RANK, Driver, Group, Layout
from imbrix.core.tune.limits import Limits
from imbrix.core.tune.tune import Tune

TOGETHER_HZ = 500.0
"""Below this left and right are heard as one wave; above 700 Hz the ear goes by when the envelope arrives (common
practice after the duplex theory of J. W. Strutt, 1907; no source for the figures)."""
ENVELOPE_HZ = (700.0, 5000.0)
PERIOD_DB = 8.0
"""What a seam is put back by where its direct sounds are a period apart; it grows with the square."""
SIDES_S, SIDES_DB = 50e-6, 1.0
"""By so much apart the arrivals of both sides count as so much."""
AGAINST_DB = 1.0
"""First movements that go against each other, where the crossover does not want it."""
SIDES_WEIGHT = 1.5
"""What left and right lose to each other counts beside what the ways of a seam do."""
UNLIKE_DB = 30.0
"""Left and right of a way against each other."""
LOOSE_DB, LOOSE_HZ = 0.5, 200.0
"""What keeps groups that share no seam together: so much for a period of so many hertz."""


@dataclass(frozen=True, slots=True)
class Arrival:
    """When the direct sound of a driver arrives, in seconds, and which way it moves first: 0 if not known."""

    seconds: float
    polarity: int = 0


def opposite_by_filters(tune: Tune, lower: str, upper: str) -> bool | None:
    """Whether a crossover wants its ways to move against each other; None where it wants neither.

    Between low- and high-pass of n-th order lie n quarter turns; between those of linear phase none.
    """
    low, high = tune.channels[lower].low_pass, tune.channels[upper].high_pass
    if low is None or high is None or low.slope_db != high.slope_db or bool(low.taps) != bool(high.taps):
        return None
    if low.taps:
        return False
    return {0: False, 2: True}.get(high.slope_db // 6 % 4)


@dataclass(frozen=True)
class System:
    """What an alignment is sought for.

    `bare` (p, d, n) are the responses of the drivers `ids` at p places, what the processor does to them divided out;
    `arrivals` are those at the first place. `expects` gives the tune that is to be expected of another one once its
    channels are voiced.
    """

    layout: Layout
    ids: tuple[str, ...]
    bare: ComplexArray
    predictor: Predictor
    arrivals: Mapping[str, Arrival]
    limits: Limits
    expects: Callable[[Tune], Tune] = lambda tune: tune

    @property
    def frequencies(self) -> FloatArray:
        return self.predictor.frequencies

    @property
    def step_s(self) -> float:
        """The step of the processor's delay: a sample."""
        return 1.0 / self.limits.rate

    @property
    def one_spot(self) -> bool:
        """Whether all that is known was heard at one place: what holds over a head that moves is not told by it."""
        return len(self.bare) < 2

    @property
    def pairs(self) -> list[tuple[Driver, Driver]]:
        """Left and right of each way that is heard on both sides."""
        here = [self.layout.driver(name) for name in self.ids]
        mates = [(one, self.layout.partner(one)) for one in here if one.side == "left"]
        return [(one, mate) for one, mate in mates if mate is not None and mate.id in self.ids]

    def index(self, driver: Driver) -> int:
        return self.ids.index(driver.id)

    def among(self, names: Sequence[str]) -> "System":
        """The part of the system that some of its drivers are."""
        kept = [n for n, name in enumerate(self.ids) if name in names]
        return replace(self, ids=tuple(self.ids[n] for n in kept), bare=self.bare[:, kept])

    def together(self, n: int) -> int:
        """Steps by which driver `n` has to be late for its sound to come at time zero."""
        return -round(self.arrivals[self.ids[n]].seconds / self.step_s)

    def heard(self, tune: Tune) -> ComplexArray:
        """Responses (p, d, n) through a tune as it stands."""
        return np.asarray(self.bare * self.predictor.through(tune, self.ids))

    def still(self, tune: Tune) -> ComplexArray:
        """Responses (p, d, n) through what is to be expected of a tune, without delays and polarities."""
        plain = self.expects(tune)
        channels = {
            name: channel.model_copy(update={"delay_s": 0.0, "inverted": False})
            for name, channel in plain.channels.items()
        }
        return self.heard(plain.model_copy(update={"channels": channels}))

    def with_taps(self, tune: Tune) -> "System":
        """The system with its arrivals as late as the taps of a tune make them."""
        late = {name: tune.channels[name].tap_delay for name in self.ids}
        if not any(late.values()):
            return self
        arrivals = {
            name: replace(one, seconds=one.seconds + late.get(name, 0) / self.limits.rate)
            for name, one in self.arrivals.items()
        }
        return replace(self, arrivals=arrivals)

    def steps(self, tune: Tune) -> tuple[list[int], list[int]]:
        """Delays in steps and inversions as a tune has them."""
        channels = [tune.channels[name] for name in self.ids]
        return [round(one.delay_s / self.step_s) for one in channels], [int(one.inverted) for one in channels]


def net(system: System, tune: Tune, movable: frozenset[str] | None = None, here: bool = False) -> Net:
    """The net of a system with the crossovers and bands of a tune; where only some drivers are `movable`, the others
    stay as they are in it. A net that is wanted `here` only knows the delays that the tune has."""
    system = system.with_taps(tune)
    drivers = [system.layout.driver(name) for name in system.ids]
    build = _Build(system, tune, system.still(tune), system.steps(tune)[0] if here else None)
    tables = list(build.tables(drivers))
    count = len(drivers)
    root = max(range(count), key=lambda n: (drivers[n].group == system.layout.main, RANK[drivers[n].kind], -n))
    reach = [round(1.0 / build.lowest.get(n, 80.0) / system.step_s) for n in range(count)]
    held = {}
    if movable is not None:
        steps, inverted = system.steps(tune)
        held = {n: (steps[n], inverted[n]) for n in range(count) if system.ids[n] not in movable}
    groups = _groups(system, drivers)
    return Net(count, tables, [system.together(n) for n in range(count)], reach, groups, root, held)


def _groups(system: System, drivers: Sequence[Driver]) -> list[frozenset[int]]:
    found: list[frozenset[int]] = []
    for driver in drivers:
        above = [one for one in system.layout.above(driver) if one.id in system.ids]
        found.append(frozenset(system.index(one) for one in above))
        both = {
            one for mate in system.layout.alike(driver) for one in system.layout.above(mate) if one.id in system.ids
        }
        found.append(frozenset(system.index(one) for one in both))
        found.append(frozenset(system.index(one) for one in system.layout.alike(driver) if one.id in system.ids))
    return list(dict.fromkeys(found))


@dataclass
class _Build:
    """Tables of a system from its `still` responses (p, d, n); `lowest` is by driver the lowest seam that it is at."""

    system: System
    tune: Tune
    still: ComplexArray
    here: list[int] | None
    lowest: dict[int, float] = field(default_factory=dict)

    def tables(self, drivers: Sequence[Driver]) -> Iterator[Table]:
        for a, b in _neighbours(self.system):
            yield self._seam(a, b)
        for left, right in self.system.pairs:
            yield self._sides(left, right)
        # Groups that share no seam are kept together by their lowest ways.
        chains: dict[Group, int] = {}
        for n, driver in sorted(enumerate(drivers), key=lambda one: RANK[one[1].kind]):
            if driver.group != Group.SUB:
                chains.setdefault(driver.group, n)
        for a, b in combinations(chains.values(), 2):
            yield self._kept_together(a, b)

    def _seam(self, a: int, b: int) -> Table:
        system = self.system
        pair = overlap(self.still[:, a], self.still[:, b], system.frequencies)
        if pair is None:
            return self._kept_together(a, b)
        for n in (a, b):
            self.lowest[n] = min(self.lowest.get(n, np.inf), pair.centre_hz)
        period = 1.0 / pair.centre_hz
        least, most, apart = self._span(a, b, period)
        costs = tabled(pair, least, most, system.step_s) + PERIOD_DB * (apart / period) ** 2
        wanted = opposite_by_filters(self.tune, system.ids[a], system.ids[b])
        costs = costs + self._against(a, b, wanted, AGAINST_DB)[:, None]
        return Table(a, b, least, costs, self._beyond(period))

    def _sides(self, left: Driver, right: Driver) -> Table:
        system = self.system
        a, b = system.index(left), system.index(right)
        pair = both_below(self.still[:, a], self.still[:, b], system.frequencies, TOGETHER_HZ)
        low, high = ends(self.tune, left.id)
        period = 1.0 / (pair.centre_hz if pair else max(low, TOGETHER_HZ))
        least, most, apart = self._span(a, b, period)
        costs = np.zeros((2, apart.size)) if pair is None else SIDES_WEIGHT * tabled(pair, least, most, system.step_s)
        if min(high, ENVELOPE_HZ[1]) > max(low, ENVELOPE_HZ[0]) * 2**0.5:
            costs = costs + SIDES_DB * np.minimum((apart / SIDES_S) ** 2, 4 * np.abs(apart / SIDES_S))
        costs = costs + PERIOD_DB * (apart / period) ** 2
        known = system.arrivals[left.id].polarity and system.arrivals[right.id].polarity
        unlike = self._against(a, b, False, UNLIKE_DB) if known else np.array([0.0, UNLIKE_DB / 4])
        return Table(a, b, least, costs + unlike[:, None], self._beyond(period))

    def _kept_together(self, a: int, b: int) -> Table:
        """Two drivers that do not overlap: kept about as they arrive, and moving alike."""
        period = 1.0 / LOOSE_HZ
        least, _, apart = self._span(a, b, period)
        costs = np.broadcast_to(LOOSE_DB * (apart / period) ** 2, (2, apart.size))
        return Table(a, b, least, costs + self._against(a, b, False, LOOSE_DB)[:, None], self._beyond(period))

    def _span(self, a: int, b: int, period_s: float) -> tuple[int, int, FloatArray]:
        """Least and most steps between two drivers, and by how many seconds (k,) their sounds come apart at each."""
        system = self.system
        middle = system.together(b) - system.together(a)
        wide = int(np.ceil(1.25 * period_s / system.step_s))
        least, most = middle - wide, middle + wide
        if self.here is not None:
            least = most = self.here[b] - self.here[a]
        apart = system.arrivals[system.ids[b]].seconds - system.arrivals[system.ids[a]].seconds
        return least, most, np.asarray(np.arange(least, most + 1) * system.step_s + apart, dtype=float)

    def _against(self, a: int, b: int, wanted: bool | None, costs: float) -> FloatArray:
        """What the relative inversion (2,) of two drivers costs by the way that they move first."""
        one, other = (self.system.arrivals[self.system.ids[n]].polarity for n in (a, b))
        if wanted is None or not one or not other:
            return np.zeros(2)
        right = int((one != other) != wanted)
        return np.where(np.arange(2) == right, 0.0, costs)

    def _beyond(self, period_s: float) -> float:
        return 2.5 * PERIOD_DB * self.system.step_s / period_s


def _neighbours(system: System) -> list[tuple[int, int]]:
    """Pairs of drivers at seams of two ways, and of several subs; the lower one first."""
    found = [
        (system.ids.index(lower), system.ids.index(upper))
        for seam in system.layout.seams()
        if seam.ways is not None or seam.group == Group.SUB
        for lower in seam.lowers
        for upper in seam.uppers
        if lower in system.ids and upper in system.ids
    ]
    return list(dict.fromkeys(found))


def ends(tune: Tune, name: str) -> tuple[float, float]:
    """Both corners of a channel in hertz; 0 and infinity where there is none."""
    channel = tune.channels[name]
    return (
        channel.high_pass.corner_hz if channel.high_pass else 0.0,
        channel.low_pass.corner_hz if channel.low_pass else np.inf,
    )
