"""Proposals for the alignment of a whole system, of a side or of a seam: what to set, and what comes of it.

They differ in kind: delays and polarity with the crossovers as they stand; other slopes and corners too; an all-pass
on one side besides. None is worse than what stands by the net's own cost.
"""

from collections.abc import Iterator, Mapping
from dataclasses import dataclass
from typing import Literal

import numpy as np

from imbrix.core.align.corners import Corners
from imbrix.core.align.figures import Figures, figures
from imbrix.core.align.problem import System, ends, net
from imbrix.core.align.search import Net, Setting, search
from imbrix.core.patience import goes_on
from imbrix.core.system.layout import SIDES, Group, Seam
from imbrix.core.tune.apply import apply
from imbrix.core.tune.crossover import End, Shape
from imbrix.core.tune.edits import Edit, SetBands, SetChannel, SetCrossover, SetDelays
from imbrix.core.tune.tune import Band, Crossover, Tune, guard
from imbrix.core.value import Value

Kind = Literal["timing", "crossovers", "all-pass"]
SLOPES: tuple[tuple[Shape, int], ...] = (
    ("linkwitz-riley", 24),
    ("linkwitz-riley", 48),
    ("linkwitz-riley", 12),
)
"""Slopes that are worth a look."""
WORTH_DB: dict[Kind, float] = {"timing": 0.0, "crossovers": 0.6, "all-pass": 2.5}
"""What a proposal has to be better by than a plainer one."""
CHANGE_DB = 0.3
"""What another crossover at one seam has to gain to be worth the change."""
CORNER_DB = 1.0
"""What an octave away from where a corner would begin costs."""
SLOPE_DB: dict[int, float] = {6: 2.0, 12: 0.6, 18: 0.3, 24: 0.0, 30: 0.3, 36: 0.5, 42: 0.7, 48: 0.8}
"""What a slope costs beside what is lost by it: a shallow one protects less, a steep one rings longer (common practice,
no source)."""
CORNER_REACH = 1.4
"""By so much at most a search moves a corner from where it would begin."""
GLANCE = 8
"""How wide a search is that only compares crossovers of one seam."""
ALL_PASS_HZ = tuple(float(at) for at in np.geomspace(45.0, 450.0, 9))
ALL_PASS_Q = (0.7, 1.4, 2.8)


class Allowed(Value):
    """What a proposal may change besides delays and polarities."""

    slopes: bool = True
    corners: bool = True
    all_pass: bool = True


@dataclass(frozen=True)
class Proposal:
    """The edits of a proposal, the tune that they make, its figures, and its cost in dB."""

    kind: Kind
    edits: tuple[Edit, ...]
    tune: Tune
    figures: Figures
    cost: float


@dataclass(frozen=True)
class Proposals:
    """What stands, with its cost, and what is proposed, the best first; `lacking` says what could not be."""

    before: Figures
    before_cost: float
    proposals: tuple[Proposal, ...]
    lacking: tuple[str, ...]


def propose(
    system: System,
    tune: Tune,
    corners: Mapping[str, Corners],
    allowed: Allowed,
    movable: frozenset[str] | None = None,
) -> Proposals:
    """Proposals for a tune, at most three. Where crossovers are missing they begin where `corners` say.

    From takes at one spot slopes stay as they are: what another one wins there is lost again over a head that moves.
    (Seams of 60 drawn places lost 0.70 dB over such a head with other corners alone, 0.82 with other slopes too.)

    `movable` are the drivers that may be moved, None for all.
    """
    work = _Work(system, corners, movable)
    # Crossovers are of both sides: where one side is aligned by itself they stay.
    begun = _with_corners(system, tune, corners) if movable is None else ()
    before_cost = work.cost(tune) if begun == () else float("inf")
    kept: list[Proposal] = []
    lacking: list[str] = []
    base = apply(tune, begun, system.layout, system.limits)
    goes_on(PLAIN[0])
    plain = work.aligned("timing", tune, begun, base)
    best = plain
    if (allowed.slopes or allowed.corners) and movable is None:
        goes_on(CROSSED[0])
        changed = work.crossed(best.tune, allowed)
        if changed:
            edits = (*begun, *changed)
            other = work.aligned("crossovers", tune, edits, apply(tune, edits, system.layout, system.limits))
            if other.cost < best.cost - WORTH_DB["crossovers"]:
                kept.append(other)
                best = other
    if allowed.all_pass:
        goes_on(TURNED[0])
        found = work.all_passed(best, tune)
        if found is not None and found.cost < best.cost - WORTH_DB["all-pass"]:
            kept.append(found)
    kept.append(plain)
    fitting = []
    known = system.limits.refusals(tune, system.layout)
    # An all-pass that was judged at one spot does not hold over a head that moves: it never comes first.
    spotty = system.one_spot
    for one in sorted(kept, key=lambda one: (spotty and one.kind == "all-pass", one.cost)):
        new = [says for says in _refused(system, one) if says not in known]
        if new:
            lacking += new
        elif one.cost < before_cost - 1e-6 or begun:
            fitting.append(one)
    return Proposals(figures(system, tune), before_cost, tuple(fitting), tuple(dict.fromkeys(lacking)))


PLAIN, CROSSED, TURNED = (0.02, 0.2), (0.2, 0.65), (0.65, 1.0)
"""From which share of the work to which its parts go, about."""


def _share(part: tuple[float, float], nth: int, of: int) -> float:
    return part[0] + (part[1] - part[0]) * nth / max(of, 1)


def _refused(system: System, one: Proposal) -> list[str]:
    """What of a proposal the processor cannot do, in words."""
    can = system.limits.delay_s
    said = system.limits.refusals(one.tune, system.layout)
    for edit in one.edits:
        if isinstance(edit, SetDelays):
            # What is set is settled to what there is: it is what was asked for that tells.
            name, most = max(edit.delays_s.items(), key=lambda each: each[1])
            if not can.holds(most):
                said.append(
                    f"{system.layout.driver(name).name}: a delay of {most * 1e3:.2f} ms is needed, "
                    f"the processor has {can.most * 1e3:g} ms"
                )
    return said


def _with_corners(system: System, tune: Tune, corners: Mapping[str, Corners]) -> tuple[Edit, ...]:
    """Edits that set the ends that are missing: as the other end of their seam is set, else as they begin."""
    begin = next((one for one in SLOPES if one[1] in system.limits.slopes_of(one[0])), None)
    if begin is None:
        return ()
    shape, slope = begin
    found: list[Edit] = []
    for seam in system.layout.seams():
        if seam.ways is None or not {*seam.lowers, *seam.uppers} <= set(system.ids):
            continue
        sides: tuple[tuple[tuple[str, ...], End], ...] = ((seam.uppers, "high_pass"), (seam.lowers, "low_pass"))
        there = {(name, end): _own_end(system, tune, name, end) for names, end in sides for name in names}
        set_so = next((one for one in there.values() if one is not None), None) or Crossover(
            shape=shape, slope_db=slope, corner_hz=corners[seam.uppers[0]].high_pass.hertz
        )
        for (name, end), one in there.items():
            edit = SetCrossover(channel=name, end=end, **set_so.model_dump())
            if one is None and edit not in found:
                found.append(edit)
    return (*found, *(_lower_ends(system, tune, corners, shape, slope) if found else ()))


def _own_end(system: System, tune: Tune, name: str, end: End) -> Crossover | None:
    """An end of a channel that a person has set: a guard only stands in for one."""
    one: Crossover | None = getattr(tune.channels[name], end)
    return None if one is not None and one == guard(system.layout.driver(name)) else one


def _lower_ends(
    system: System, tune: Tune, corners: Mapping[str, Corners], shape: Shape, slope: int
) -> Iterator[SetCrossover]:
    """High-passes of what has nothing below it, where there are none: subs keep their travel, the rear leaves the bass
    to them."""
    layout = system.layout
    above = {name for seam in layout.seams() if seam.ways is not None for name in seam.uppers}
    for name in system.ids:
        driver = layout.driver(name)
        if name in above or tune.channels[name].high_pass is not None:
            continue
        if driver.group == Group.SUB or (layout.subs and driver.group != layout.main):
            hertz = corners[name].high_pass.hertz
            yield SetCrossover(channel=name, end="high_pass", shape=shape, slope_db=slope, corner_hz=hertz)


@dataclass
class _Work:
    """The search for one system."""

    system: System
    corners: Mapping[str, Corners]
    movable: frozenset[str] | None

    def cost(self, tune: Tune) -> float:
        """What a tune costs as it stands, its corners included."""
        steps, inverted = self.system.steps(tune)
        return net(self.system, tune, self.movable).total(steps, inverted) + self._corner_cost(tune)

    def aligned(self, kind: Kind, before: Tune, edits: tuple[Edit, ...], base: Tune) -> Proposal:
        """A tune with the best delays and polarities, as a proposal."""
        tables = net(self.system, base, self.movable)
        steps, inverted = self.system.steps(base)
        best = search(tables, also=[(steps, inverted)])[0]
        set_so = (*edits, *self._set(base, tables, best))
        tune = apply(before, set_so, self.system.layout, self.system.limits)
        return Proposal(kind, set_so, tune, figures(self.system, tune), best.cost + self._corner_cost(tune))

    def _set(self, tune: Tune, tables: Net, found: Setting) -> tuple[Edit, ...]:
        """The edits that make a setting: the least delay of all channels is none, and most of them stay upright."""
        system = self.system
        inverted = list(found.inverted)
        if not tables.held and sum(self._against_nature(inverted)) * 2 > len(inverted):
            inverted = [1 - one for one in inverted]
        at = dict(zip(system.ids, found.steps, strict=True))
        least = 0 if tables.held else min(at.values())
        delays = {
            name: (steps - least) * system.step_s
            for name, steps in at.items()
            if system.ids.index(name) not in tables.held
        }
        turned: list[Edit] = [
            SetChannel(channel=name, inverted=bool(way))
            for name, way in zip(system.ids, inverted, strict=True)
            if tune.channels[name].inverted != bool(way)
        ]
        return (SetDelays(delays_s=delays), *turned)

    def _against_nature(self, inverted: list[int]) -> Iterator[int]:
        """Which drivers move away from the listener first, or, where that is not known, are inverted."""
        for name, way in zip(self.system.ids, inverted, strict=True):
            yield way ^ int(self.system.arrivals[name].polarity < 0)

    def _corner_cost(self, tune: Tune) -> float:
        costs = 0.0
        for seam in self._seams():
            high = tune.channels[seam.uppers[0]].high_pass
            if high is not None:
                away = abs(float(np.log2(high.corner_hz / self.corners[seam.uppers[0]].high_pass.hertz)))
                costs += CORNER_DB * away + SLOPE_DB.get(high.slope_db, 1.0)
        return costs

    def _seams(self) -> list[Seam]:
        """One seam of each two ways that are crossed over, left and right together."""
        named = {seam.name: seam for seam in reversed(self.system.layout.seams()) if seam.ways is not None}
        return [seam for seam in named.values() if {*seam.lowers, *seam.uppers} <= set(self.system.ids)]

    def crossed(self, tune: Tune, allowed: Allowed) -> list[Edit]:
        """Other crossovers that lose less, seam by seam from the lowest: the edits that set them."""
        edits: list[Edit] = []
        tune = self.system.expects(tune)  # what voicing does is hardly other at another corner: it is not tried anew
        seams = self._seams()
        for n, seam in enumerate(reversed(seams)):
            goes_on(_share(CROSSED, n, len(seams)))
            if seam.name not in tune.tied_ways or seam.name not in tune.tied_sides:
                continue  # what a person has freed is set by hand
            now = tune.channels[seam.uppers[0]].high_pass
            if now is None:
                continue
            stands = self._cost_at(tune, seam)
            least, edit = stands, None
            for turn in (
                self._corners(seam) if allowed.corners else [],
                self._slopes() if allowed.slopes and not now.taps and not self.system.one_spot else [],
            ):
                tried = [self._tried(tune, seam, now, {**now.model_dump(), **one}) for one in turn]
                cost, this, end = min(tried, key=lambda one: one[0], default=(least, None, now))
                if cost < least:
                    least, edit, now = cost, this, end
            if edit is not None and least < stands - CHANGE_DB:
                edits.append(edit)
                tune = apply(tune, [edit], self.system.layout, self.system.limits)
        return edits

    def _corners(self, seam: Seam) -> list[dict[str, object]]:
        """Corners about that where a seam begins, within what makes sense there."""
        begin = self.corners[seam.uppers[0]].high_pass
        low = max(begin.least_hz, begin.hertz / CORNER_REACH)
        high = min(begin.most_hz, begin.hertz * CORNER_REACH)
        hertz = {low, float(np.sqrt(low * begin.hertz)), begin.hertz, float(np.sqrt(begin.hertz * high)), high}
        return [{"corner_hz": float(f"{at:.2g}")} for at in sorted(hertz)]

    def _slopes(self) -> list[dict[str, object]]:
        return [
            {"shape": shape, "slope_db": slope}
            for shape, slope in SLOPES
            if slope in self.system.limits.slopes_of(shape)
        ]

    def _tried(
        self, tune: Tune, seam: Seam, now: Crossover, values: dict[str, object]
    ) -> tuple[float, Edit | None, Crossover]:
        end = Crossover.model_validate(values)
        if end == now:
            return float("inf"), None, now
        edit = SetCrossover(channel=seam.uppers[0], end="high_pass", **end.model_dump())
        after = apply(tune, [edit], self.system.layout, self.system.limits)
        return self._cost_at(after, seam), edit, end

    def _cost_at(self, tune: Tune, seam: Seam) -> float:
        """What the seams of two ways cost at least, whatever the delays elsewhere."""
        members = {
            name for one in self.system.layout.seams() if one.name == seam.name for name in (*one.lowers, *one.uppers)
        }
        part = self.system.among(tuple(members))
        return search(net(part, tune), width=GLANCE)[0].cost + self._corner_cost(tune)

    def all_passed(self, best: Proposal, before: Tune) -> Proposal | None:
        """The best with one all-pass on one side: None where there is none, or no room for one."""
        system = self.system
        whole = net(system, best.tune, here=True)
        tried = []
        lowest = self._lowest_two()
        for n, name in enumerate(lowest):
            goes_on(_share(TURNED, n, len(lowest)))
            channel = best.tune.channels[name]
            if len(channel.bands) + len(best.tune.common) >= system.limits.bands:
                continue
            # Only what the channel overlaps with is changed by it.
            beside = whole.neighbours(system.ids.index(name))
            part = system.among([name, *(system.ids[n] for n in beside)])
            stands = _here(part, best.tune)
            low, high = ends(best.tune, name)
            for hertz in ALL_PASS_HZ:
                if not low / 1.5 < hertz < high * 1.5:
                    continue
                for q in ALL_PASS_Q:
                    band = Band(kind="all_pass", frequency_hz=round(hertz, 1), q=q)
                    edit = SetBands(channel=name, bands=(*channel.bands, band), gain_db=channel.gain_db)
                    after = apply(best.tune, [edit], system.layout, system.limits)
                    tried.append((_here(part, after) - stands, edit))
        found = [
            self.aligned(
                "all-pass", before, (*best.edits, edit), apply(best.tune, [edit], system.layout, system.limits)
            )
            for change, edit in sorted(tried, key=lambda one: one[0])[:3]
            if change < 0
        ]
        return min(found, key=lambda one: one.cost, default=None)

    def _lowest_two(self) -> list[str]:
        """The two lowest ways of each side in front: where left and right are heard as one."""
        layout = self.system.layout
        found = [one for side in SIDES for one in layout.chain(layout.main, side)[:2] if one.side != "both"]
        return [
            one.id for one in found if one.id in self.system.ids and (self.movable is None or one.id in self.movable)
        ]


def _here(system: System, tune: Tune) -> float:
    """What a tune costs as it stands."""
    return net(system, tune, here=True).total(*system.steps(tune))
