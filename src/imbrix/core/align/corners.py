"""Where crossovers make sense: a range for both ends of every way, a corner to begin with, and the reasons.

The corners of a chain stand in their order, an octave apart, and clear of holes where that pays.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from imbrix.core.align.bounds import Corner, Known, between, corner_of, highest, lowest, named, plain, spoken
from imbrix.core.align.holes import Clear, clear_of_holes, left_between
from imbrix.core.signal.signal import FloatArray
from imbrix.core.system.layout import SIDES, Driver, Group, Kind, Layout
from imbrix.core.value import Value

LIFT_DB = 5.0
"""Where the target wants so much more bass than the front plays, a gap between sub and front is worth a try."""
GAP_OCTAVES = 0.5
WAY = 2.0
"""A way plays an octave at least between its two corners (common practice, no source): else it is none, or upside
down."""


class Corners(Value):
    """Both ends of a channel."""

    high_pass: Corner
    low_pass: Corner


def corners(
    layout: Layout, known: Mapping[str, Known], lift_db: float = 0.0, grid: FloatArray | None = None
) -> dict[str, Corners]:
    """Both ends of every driver, left and right alike, two neighbours at one corner.

    `lift_db` is by how much the target lifts the bass over the octaves above it; `grid` (n,) in hertz is that of the
    holes that are known.
    """
    system = _System(layout, {driver.id: _of_pair(layout, driver, known) for driver in layout.drivers}, grid)
    found = {}
    for driver in layout.drivers:
        mine = system.known[driver.id]
        lower, upper = _beside(layout, driver)
        found[driver.id] = Corners(
            high_pass=system.shown(lower, driver) if lower else lowest(layout, driver, mine),
            low_pass=_low_pass(driver, system.shown(driver, upper), lift_db) if upper else highest(mine),
        )
    return found


@dataclass(frozen=True)
class _System:
    """What is known of every driver with those like it, and the corners of two neighbours that were found so far."""

    layout: Layout
    known: Mapping[str, Known]
    grid: FloatArray | None
    corners: dict[tuple[str, str], Corner] = field(default_factory=dict)

    def between(self, lower: Driver, upper: Driver) -> Corner:
        """The corner of two neighbours, clear of holes."""
        key = (lower.id, upper.id)
        if key not in self.corners:
            corner = self._in_order(lower, upper, between(lower, upper, self.known))
            self.corners[key] = self._clear(lower, upper, corner)
        return self.corners[key]

    def shown(self, lower: Driver, upper: Driver) -> Corner:
        """The same, its range no higher than leaves the upper way its octave."""
        corner, above = self.between(lower, upper), _beside(self.layout, upper)[1]
        if above is None:
            return corner
        ends = self.between(upper, above).hertz
        if corner.most_hz <= ends / WAY:
            return corner
        says = f"not above {spoken(ends / WAY)}: {named(upper)} ends at {spoken(ends)}"
        return corner_of(corner.hertz, corner.least_hz, ends / WAY, [*corner.says, says])

    def _in_order(self, lower: Driver, upper: Driver, corner: Corner) -> Corner:
        """A corner that leaves the lower way its octave, and is no higher than the next one can leave room for."""
        below, above = _beside(self.layout, lower)[0], _beside(self.layout, upper)[1]
        says = list(corner.says)
        least, most = corner.least_hz, corner.most_hz
        plays = self.known[lower.id].band_hz
        begins = self.between(below, lower).hertz if below else plays[0] if plays and lower.kind != Kind.SUB else 0.0
        if WAY * begins > least:
            says.append(f"not below {spoken(WAY * begins)}: {named(lower)} begins at {spoken(begins)}")
            least = min(WAY * begins, most)
        if above is not None:
            most = min(most, max(between(upper, above, self.known).most_hz / WAY, least))
        hertz = float(np.clip(corner.hertz, least, most))
        if plain(hertz) != corner.hertz:
            says[0] = f"{spoken(hertz)}: an octave from the next corner; {says[0]}"
        return corner_of(hertz, least, most, says)

    def _clear(self, lower: Driver, upper: Driver, corner: Corner) -> Corner:
        """A corner at which the upper way plays in the holes of what lies below, and that in its own."""
        under, mine = self._left_up_to(lower), self.known[upper.id].holes_db
        if self.grid is None or under is None or mine is None:
            return corner
        clear = self._cheaper(
            clear_of_holes(under, mine, self.grid, corner.hertz, (corner.least_hz, corner.most_hz)),
            under,
            upper,
            corner,
        )
        if clear is None:
            return corner
        has, fills = (upper, lower) if clear.of_upper else (lower, upper)
        hole = f"hole of {clear.deep_db:.0f} dB about {spoken(clear.hole_hz)}"
        least, most = clear.least_hz, clear.most_hz
        if clear.hertz != corner.hertz:
            why = (
                f"{spoken(clear.hertz)} rather than {spoken(corner.hertz)}: over the whole head {named(has)} has a "
                f"{hole}, and {named(fills)} plays there"
            )
            return corner_of(clear.hertz, least, most, [why, *corner.says[1:]])
        kept = f"from {spoken(least)} to {spoken(most)}: beyond, {named(has)}'s {hole} is heard over the whole head"
        return corner_of(corner.hertz, least, most, [corner.says[0], kept, *corner.says[1:]])

    def _left_up_to(self, driver: Driver) -> FloatArray | None:
        """The holes (n,) in dB of a driver with those below it, crossed over where they begin: none is mended twice."""
        mine, (below, _) = self.known[driver.id].holes_db, _beside(self.layout, driver)
        under = self._left_up_to(below) if below else None
        if self.grid is None or mine is None or below is None or under is None:
            return mine
        return left_between(under, mine, self.grid, np.array([self.between(below, driver).hertz]))[0]

    def _cheaper(self, clear: Clear | None, under: FloatArray, upper: Driver, corner: Corner) -> Clear | None:
        """What clears a seam of holes, or what does where the next way fills the upper one's, if corners move less."""
        mine, (_, above) = self.known[upper.id].holes_db, _beside(self.layout, upper)
        theirs = self.known[above.id].holes_db if above else None
        if clear is None or clear.hertz == corner.hertz or self.grid is None or mine is None or theirs is None:
            return clear
        assert above is not None
        usual = between(upper, above, self.known)
        least = min(max(usual.least_hz, WAY * corner.hertz), usual.most_hz)
        begins = max(usual.hertz, least)
        there = clear_of_holes(mine, theirs, self.grid, begins, (least, usual.most_hz))
        ends = there.hertz if there else begins
        left = left_between(mine, theirs, self.grid, np.array([ends]))[0]
        filled = clear_of_holes(under, left, self.grid, corner.hertz, (corner.least_hz, corner.most_hz))
        now = filled.hertz if filled else corner.hertz

        def moved(hertz: float, end: float) -> float:
            """By how many octaves both corners stand from where they would begin."""
            pushed = max(end, WAY * hertz)
            return abs(float(np.log2(hertz / corner.hertz))) + abs(float(np.log2(pushed / begins)))

        return filled if moved(now, ends) < moved(clear.hertz, begins) else clear


def _of_pair(layout: Layout, driver: Driver, known: Mapping[str, Known]) -> Known:
    """What is known of a driver and those like it, in the middle; no band where the driver itself has none."""
    mine = known.get(driver.id, Known())
    alike = [known[one.id] for one in layout.alike(driver) if one.id in known]
    bands = [one.band_hz for one in alike if one.band_hz]
    band = tuple(float(end) for end in np.exp(np.mean(np.log(bands), axis=0))) if bands and mine.band_hz else None
    return Known(
        (band[0], band[1]) if band else None,
        _middle([one.resonance_hz for one in alike]),
        _middle([one.area_m2 for one in alike]),
        max((one.clean_from_hz for one in alike if one.clean_from_hz), default=None),
        _both([one.holes_db for one in alike]),
    )


def _both(holes: list[FloatArray | None]) -> FloatArray | None:
    """The holes of drivers that play together: where one has none, it fills half of that of another."""
    there = [one for one in holes if one is not None]
    return np.asarray(10 * np.log10(np.mean(10 ** (np.array(there) / 10), axis=0))) if there else None


def _middle(values: list[float | None]) -> float | None:
    there = [one for one in values if one]
    return float(np.exp(np.mean(np.log(there)))) if there else None


def _beside(layout: Layout, driver: Driver) -> tuple[Driver | None, Driver | None]:
    """The next lower and the next higher way of a driver; subs stand below the lowest way of what they serve."""
    lower: Driver | None = None
    upper: Driver | None = None
    for side in SIDES if driver.side == "both" else (driver.side,):
        chain = layout.chain(driver.group, side)
        if driver.group == Group.SUB:
            served = layout.chain(layout.main, side)
            upper = upper or (served[0] if layout.main != Group.SUB and served else None)
            continue
        at = chain.index(driver)
        below = chain[at - 1] if at else (layout.subs[0] if driver.group == layout.main and layout.subs else None)
        lower, upper = lower or below, upper or (chain[at + 1] if at + 1 < len(chain) else None)
    return lower, upper


def _low_pass(driver: Driver, corner: Corner, lift_db: float) -> Corner:
    """The lower way's end: that of the upper one; of a sub perhaps lower, where the target lifts the bass."""
    if driver.kind != Kind.SUB or lift_db < LIFT_DB:
        return corner
    gap = plain(corner.hertz / 2**GAP_OCTAVES)
    says = f"the target lifts the bass by {lift_db:.0f} dB: a gap, with this end at {spoken(gap)}, is worth a try"
    return corner.model_copy(update={"least_hz": min(corner.least_hz, gap), "says": (*corner.says, says)})
