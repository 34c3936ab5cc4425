"""What a seam allows by what its two ways do: a corner to begin with, its range, and a sentence for each bound.

What is asked of a corner is that the upper way still plays there and comes to no harm, and that the lower one still
does and does not beam. Between these bounds stands what common practice begins with (no source for its figures).
"""

from collections.abc import Mapping
from dataclasses import dataclass, field

import numpy as np

from imbrix.core.evidence.band import USUAL
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import FloatArray
from imbrix.core.system.layout import FRAGILE_GUARD_HZ, Driver, Group, Kind, Layout
from imbrix.core.system.layouts import CAUTIOUS_CORNER_HZ
from imbrix.core.value import Value

PRACTICE_HZ: dict[tuple[Kind, Kind], float] = {
    (Kind.SUB, Kind.WOOFER): 60.0,
    (Kind.SUB, Kind.MIDBASS): 80.0,
    (Kind.SUB, Kind.MID): 120.0,
    (Kind.SUB, Kind.FULL): 110.0,
    (Kind.WOOFER, Kind.MIDBASS): 120.0,
    (Kind.WOOFER, Kind.MID): 300.0,
    (Kind.WOOFER, Kind.FULL): 220.0,
    (Kind.WOOFER, Kind.TWEETER): 2500.0,
    (Kind.MIDBASS, Kind.MID): 320.0,
    (Kind.MIDBASS, Kind.FULL): 300.0,
    (Kind.MIDBASS, Kind.TWEETER): 2800.0,
    (Kind.MID, Kind.TWEETER): 3200.0,
}
"""What a tuner begins with between two kinds (common practice, no source)."""
OVER_LOW: dict[Kind, float] = {Kind.WOOFER: 1.1, Kind.MIDBASS: 1.1, Kind.MID: 1.6, Kind.FULL: 1.5}
"""By so much a high-pass stands above the lower end of the usable band at least: the smaller the cone, the sooner it
runs out of travel."""
OVER_RESONANCE: dict[Kind, float] = {
    Kind.WOOFER: 0.9,
    Kind.MIDBASS: 0.9,
    Kind.MID: 1.4,
    Kind.FULL: 1.3,
    Kind.TWEETER: 2,
}
RESONANCE_OVER_LOW = 1.4
"""A closed driver is 6 dB down at some 0.7 of its resonance."""
INSIDE = 1.3
"""A low-pass stands by this factor within the usable band, so that both ways still play where they overlap."""
MOST_SUB_HZ = 120.0
LEAST_MIDBASS_HZ = 45.0
BEAMS_KA = 2.0
"""From here on a cone sends less than half to the sides (6 dB down at 90 degrees: 2 J1(x) / x at x = 2 is -4.8 dB)."""
FILL_HZ = 250.0
"""From here up rear and centre play beside a front that has subs (common practice, no source): longer waves from
several places add or cancel as the space has it, and in the bass a stage needs nothing beside it."""
SUBSONIC = 0.8
ULTRASONIC_HZ = 20_000.0


class Corner(Value):
    """A corner in hertz to begin with, the range in which it makes sense, and why, a sentence a bound."""

    hertz: float
    least_hz: float
    most_hz: float
    says: tuple[str, ...] = ()


@dataclass(frozen=True)
class Known:
    """What is known of a driver: its usable band in hertz; from its impedance the resonance; the cone's area in m2;
    from where on its distortion stays low; and by how much over a whole head it plays less than its trend, in dB, (n,)
    over the grid. What is not known is None."""

    band_hz: tuple[float, float] | None = None
    resonance_hz: float | None = None
    area_m2: float | None = None
    clean_from_hz: float | None = None
    holes_db: FloatArray | None = field(default=None, compare=False)


@dataclass
class _Bound:
    """The bound that holds, and the sentences of all."""

    hertz: float
    says: list[str] = field(default_factory=list)

    def up(self, hertz: float, says: str) -> None:
        self._take(hertz, says, hertz > self.hertz)

    def down(self, hertz: float, says: str) -> None:
        self._take(hertz, says, hertz < self.hertz)

    def _take(self, hertz: float, says: str, tighter: bool) -> None:
        if tighter:
            self.hertz = hertz
            self.says.insert(0, says)
        else:
            self.says.append(says)


def plain(hertz: float) -> float:
    """Two digits: nobody knows a corner better."""
    return float(f"{hertz:.2g}")


def spoken(hertz: float) -> str:
    """`82 Hz`, `2.4 kHz`."""
    return f"{plain(hertz) / 1000:g} kHz" if hertz >= 1000 else f"{plain(hertz):g} Hz"


def _least(driver: Driver, known: Known) -> _Bound:
    """How low an upper way may be crossed over."""
    bound = _Bound(0.0)
    name = named(driver)
    low = known.band_hz[0] if known.band_hz else None
    if driver.kind == Kind.TWEETER:
        resonance = known.resonance_hz or (low and low * RESONANCE_OVER_LOW)
        if resonance:
            how = "by its impedance" if known.resonance_hz else "by where its response falls"
            twice = OVER_RESONANCE[driver.kind] * resonance
            bound.up(twice, f"not below {spoken(twice)}: twice {name}'s resonance, {spoken(resonance)} {how}")
        guard = 2 * FRAGILE_GUARD_HZ[driver.kind]
        bound.up(guard, f"not below {spoken(guard)}: no tweeter is sure to bear more")
    else:
        if low is not None:
            over = OVER_LOW.get(driver.kind, 1.0) * low
            bound.up(over, f"not below {spoken(over)}: {name} plays from {spoken(low)} up")
        if known.resonance_hz:
            over = OVER_RESONANCE.get(driver.kind, 1.0) * known.resonance_hz
            bound.up(over, f"not below {spoken(over)}: {name} resonates at {spoken(known.resonance_hz)}")
        if driver.kind == Kind.MIDBASS:
            bound.up(LEAST_MIDBASS_HZ, f"not below {spoken(LEAST_MIDBASS_HZ)}: a midbass has no travel there")
    if known.clean_from_hz:
        bound.up(known.clean_from_hz, f"not below {spoken(known.clean_from_hz)}: there {name}'s distortion rises")
    if known.band_hz is None and known.resonance_hz is None:
        cautious = CAUTIOUS_CORNER_HZ[driver.kind]
        bound.up(cautious, f"{name} has no take yet: from {spoken(cautious)} none of its kind comes to harm")
    return bound


def _most(driver: Driver, known: Known) -> _Bound:
    """How high a lower way may be crossed over."""
    bound = _Bound(float("inf"))
    name = named(driver)
    high = known.band_hz[1] if known.band_hz else USUAL[driver.kind].high_hz
    how = (
        f"plays up to {spoken(high)}" if known.band_hz else f"has no take yet; its kind plays up to some {spoken(high)}"
    )
    bound.down(high / INSIDE, f"not above {spoken(high / INSIDE)}: {name} {how}")
    if driver.kind == Kind.SUB:
        bound.down(MOST_SUB_HZ, f"not above {spoken(MOST_SUB_HZ)}: higher up the ear finds where a sub stands")
    elif known.area_m2:
        radius = float(np.sqrt(known.area_m2 / np.pi))
        beams = BEAMS_KA * speed_of_sound() / (2 * np.pi * radius)
        bound.down(beams, f"not above {spoken(beams)}: from there a cone of {radius * 200:.0f} cm beams")
    return bound


def _hard(driver: Driver, known: Known) -> float:
    """What no reason brings an upper way below."""
    if driver.kind != Kind.TWEETER:
        return 0.0
    if known.band_hz is None and known.resonance_hz is None:
        return CAUTIOUS_CORNER_HZ[driver.kind]
    low = known.band_hz[0] if known.band_hz else 0.0
    resonance = known.resonance_hz or low * RESONANCE_OVER_LOW
    return max(1.6 * resonance, 2 * FRAGILE_GUARD_HZ[driver.kind])


def between(lower: Driver, upper: Driver, pairs: Mapping[str, Known]) -> Corner:
    """The corner of two neighbours by what each of them does."""
    least, most = _least(upper, pairs[upper.id]), _most(lower, pairs[lower.id])
    hard = _hard(upper, pairs[upper.id])
    usual = PRACTICE_HZ.get((lower.kind, upper.kind), float(np.sqrt(least.hertz * most.hertz)))
    says = [*least.says[:2], *most.says[:2]]
    if least.hertz <= most.hertz:
        hertz = float(np.clip(usual, least.hertz, most.hertz))
        why = (
            "where practice begins"
            if hertz == usual
            else f"as near to {spoken(usual)}, where practice begins, as can be"
        )
        says.insert(0, f"{spoken(hertz)}: {why}")
        return corner_of(hertz, least.hertz, most.hertz, says)
    # The lower way does not reach as high: the upper one comes down as far as it may.
    hertz = max(most.hertz, hard, float(np.sqrt(least.hertz * most.hertz)) if not hard else 0.0)
    says.insert(0, f"{spoken(hertz)}: {named(lower)} and {named(upper)} hardly meet")
    return corner_of(hertz, max(min(most.hertz, hertz), hard), max(least.hertz, hertz), says)


def lowest(layout: Layout, driver: Driver, known: Known) -> Corner:
    """The lower end of what has nothing below it."""
    name = named(driver)
    if known.band_hz is None:
        cautious = CAUTIOUS_CORNER_HZ[driver.kind]
        says = f"{name} has no take yet: from {spoken(cautious)} none of its kind comes to harm"
        return corner_of(cautious, cautious, cautious * 2, [says])
    if layout.subs and driver.group not in (Group.SUB, layout.main):
        least = _least(driver, known)
        hertz = max(FILL_HZ, least.hertz)
        left = f"{spoken(hertz)}: what lies below is left to front and subs, with which it would add here, cancel there"
        return corner_of(hertz, least.hertz, hertz * 2, [left, *least.says])
    if driver.kind == Kind.TWEETER:
        least = _least(driver, known)
        return corner_of(least.hertz, least.hertz, least.hertz * 2, least.says)
    low = max(known.band_hz[0], 20.0 / SUBSONIC)
    hertz = SUBSONIC * low
    says = f"{spoken(hertz)}: a little under what {name} plays, from {spoken(low)}; below it moves and is not heard"
    return corner_of(hertz, max(hertz * 0.75, 15.0), low, [says])


def highest(known: Known) -> Corner:
    """The upper end of what has nothing above it."""
    if known.band_hz is None or known.band_hz[1] > ULTRASONIC_HZ / 1.5:
        says = f"{spoken(ULTRASONIC_HZ)}: keeps out what nobody hears"
        return corner_of(ULTRASONIC_HZ, ULTRASONIC_HZ * 0.8, ULTRASONIC_HZ, [says])
    high = known.band_hz[1]
    says = f"{spoken(high * 1.1)}: a little over what it plays, up to {spoken(high)}"
    return corner_of(high * 1.1, high, min(high * 2, ULTRASONIC_HZ), [says])


def corner_of(hertz: float, least: float, most: float, says: list[str]) -> Corner:
    at = plain(hertz)
    return Corner(hertz=at, least_hz=min(plain(least), at), most_hz=max(plain(most), at), says=tuple(says))


def named(driver: Driver) -> str:
    """A driver and its partner, without the side."""
    return f"the {driver.name.removesuffix(' L').removesuffix(' R').lower()}"
