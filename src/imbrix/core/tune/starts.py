"""Where a crossover begins when a person asks for one, judged for a whole system: common practice, no source."""

from collections.abc import Mapping

import numpy as np

from imbrix.core.system.layout import FRAGILE_GUARD_HZ, SIDES, Driver, Group, Kind, Layout
from imbrix.core.system.layouts import CAUTIOUS_CORNER_HZ
from imbrix.core.value import Value

INSIDE = 1.3
"""A low-pass stands by this factor within the usable band, so that both ways still play where they overlap."""
UNKNOWN_HIGH_HZ = 10_000.0
ABOVE: dict[Kind, float] = {
    Kind.SUB: 1.0,
    Kind.WOOFER: 1.2,
    Kind.MIDBASS: 1.4,
    Kind.MID: 2.2,
    Kind.TWEETER: 4.0,
    Kind.FULL: 1.8,
}
"""By this factor a high-pass stands above the lower end of the usable band: the smaller the cone, the sooner it runs
out of travel. A tweeter's end lies at some two thirds of its resonance; its corner at two and a half times that."""


class Starts(Value):
    """Corners in hertz to begin with."""

    high_pass_hz: float
    low_pass_hz: float


def starts(layout: Layout, bands_hz: Mapping[str, tuple[float, float]]) -> dict[str, Starts]:
    """Corners to begin with for each driver, left and right alike, two neighbours at one corner where both can.

    `bands_hz` are the usable bands of the drivers for which they are known. Without a take the high-pass is the
    cautious one of its kind, from which none comes to harm.
    """
    bands = {driver.id: _of_pair(layout, driver, bands_hz) for driver in layout.drivers}
    highs = {driver.id: _high_pass(driver, bands[driver.id]) for driver in layout.drivers}
    found = {}
    for driver in layout.drivers:
        band = bands[driver.id]
        reach = band[1] / INSIDE if band else UNKNOWN_HIGH_HZ / INSIDE
        above = _above(layout, driver)
        if above is not None:
            theirs = bands[above.id]
            if band and theirs and highs[above.id] > reach:
                # The lower way does not reach as high: the upper one comes down as far as it may.
                lowered = max(reach, theirs[0] * INSIDE, _least(above))
                highs.update({one.id: min(highs[one.id], lowered) for one in layout.alike(above)})
            if highs[above.id] <= reach or not band:
                reach = highs[above.id]
        found[driver.id] = reach
    return {name: Starts(high_pass_hz=_plain(highs[name]), low_pass_hz=_plain(reach)) for name, reach in found.items()}


def _plain(hertz: float) -> float:
    """Two digits: nobody knows a corner better."""
    return float(f"{hertz:.2g}")


def _of_pair(layout: Layout, driver: Driver, bands_hz: Mapping[str, tuple[float, float]]) -> tuple[float, float] | None:
    """The usable band of a driver and those like it, in the middle."""
    known = [bands_hz[one.id] for one in layout.alike(driver) if one.id in bands_hz]
    if driver.id not in bands_hz or not known:
        return None
    low, high = np.exp(np.mean(np.log(known), axis=0))
    return float(low), float(high)


def _least(driver: Driver) -> float:
    return 2 * FRAGILE_GUARD_HZ.get(driver.kind, 0.0)


def _high_pass(driver: Driver, band: tuple[float, float] | None) -> float:
    if band is None:
        return CAUTIOUS_CORNER_HZ[driver.kind]
    return max(max(band[0], 20.0) * ABOVE[driver.kind], _least(driver))


def _above(layout: Layout, driver: Driver) -> Driver | None:
    """The next higher way of a driver: in its chain, or above the subs the lowest of the group that they serve."""
    for side in SIDES if driver.side == "both" else (driver.side,):
        chain = layout.chain(layout.main if driver.group == Group.SUB else driver.group, side)
        later = chain if driver.group == Group.SUB else chain[chain.index(driver) + 1 :]
        if later:
            return later[0]
    return None
