"""What the system consists of: ways, sides, drivers and the processor outputs that feed them."""

from enum import StrEnum
from typing import Literal

from pydantic import computed_field

from imbrix.core.errors import NotHereError
from imbrix.core.value import Value

Side = Literal["left", "right", "both"]


class Kind(StrEnum):
    """Kinds of driver, from the lowest way to the highest; centre and rear stand beside the ways."""

    SUB = "sub"
    MIDBASS = "midbass"
    MID = "mid"
    TWEETER = "tweeter"
    FULL = "full"
    CENTRE = "centre"
    REAR = "rear"


BESIDE = (Kind.CENTRE, Kind.REAR)
"""Kinds that share no seam with the ways."""

FRAGILE_GUARD_HZ: dict[Kind, float] = {Kind.TWEETER: 1000.0}
"""Kinds that must not be driven full range, with the corner of their guard (common practice, no source)."""


class Driver(Value):
    """One driver, fed by one processor output (counted from 1)."""

    id: str
    name: str
    kind: Kind
    side: Side
    output: int

    @property
    def fragile(self) -> bool:
        return self.kind in FRAGILE_GUARD_HZ


class Seam(Value):
    """The overlap of two neighbouring ways on one side; `both` joins a mono way to a left-right pair.

    The overlap of the left side with the right one is a seam too, without corners: `ways` is None there.
    """

    id: str
    side: Side
    lowers: tuple[str, ...]
    uppers: tuple[str, ...]
    ways: tuple[Kind, Kind] | None

    @computed_field  # type: ignore[prop-decorator]
    @property
    def name(self) -> str | None:
        """The name of its two ways ("mid-tweeter"), under which they are tied."""
        return self.ways and f"{self.ways[0]}-{self.ways[1]}"


class Layout(Value):
    """All drivers of a system, the listener's side, and what follows from them."""

    drivers: tuple[Driver, ...]
    seat: Literal["left", "right"]

    def driver(self, driver_id: str) -> Driver:
        for driver in self.drivers:
            if driver.id == driver_id:
                return driver
        raise NotHereError(f"there is no driver {driver_id!r} in this system")

    @property
    def kinds(self) -> tuple[Kind, ...]:
        """The ways from low to high."""
        present = {driver.kind for driver in self.drivers}
        return tuple(kind for kind in Kind if kind in present and kind not in BESIDE)

    def of(self, kind: Kind, side: Side) -> Driver | None:
        """The driver of a way on a side; a mono driver stands on both."""
        for driver in self.drivers:
            if driver.kind == kind and driver.side in (side, "both"):
                return driver
        return None

    def partner(self, driver: Driver) -> Driver | None:
        """The same way on the other side."""
        for other in self.drivers:
            if other.kind == driver.kind and other.id != driver.id:
                return other
        return None

    def seams(self) -> tuple[Seam, ...]:
        """Seams from low to high, left before right; a mono way has one more with both sides together.

        Left against right comes last.
        """
        found: list[Seam] = []
        for low, high in zip(self.kinds, self.kinds[1:], strict=False):
            pairs: dict[str, tuple[str, str, Side]] = {}
            sides: tuple[Side, ...] = ("left", "right")
            for side in sides:
                lower, upper = self.of(low, side), self.of(high, side)
                if lower and upper:
                    mono = lower.side == "both" and upper.side == "both"
                    pairs.setdefault(f"{lower.id}+{upper.id}", (lower.id, upper.id, "both" if mono else side))
            for lower_id, upper_id, side in pairs.values():
                found.append(
                    Seam(
                        id=f"{low}-{high}-{side}",
                        side=side,
                        lowers=(lower_id,),
                        uppers=(upper_id,),
                        ways=(low, high),
                    )
                )
            lowers = {lower for lower, _, _ in pairs.values()}
            if len(pairs) == 2 and len(lowers) == 1:
                found.append(
                    Seam(
                        id=f"{low}-{high}-both",
                        side="both",
                        lowers=tuple(lowers),
                        uppers=tuple(upper for _, upper, _ in pairs.values()),
                        ways=(low, high),
                    )
                )
        ways = [driver for driver in self.drivers if driver.kind not in BESIDE]
        left = tuple(driver.id for driver in ways if driver.side == "left")
        right = tuple(driver.id for driver in ways if driver.side == "right")
        if left and right:
            found.append(Seam(id="left-right", side="both", lowers=left, uppers=right, ways=None))
        return tuple(found)

    def seam(self, seam_id: str) -> Seam:
        for seam in self.seams():
            if seam.id == seam_id:
                return seam
        raise NotHereError(f"there is no seam {seam_id!r} in this system")

    def above(self, driver: Driver) -> tuple[Driver, ...]:
        """The driver and those of the higher ways that it shares a side with: they move together in time."""
        if driver.kind in BESIDE:
            return (driver,)
        first = self.kinds.index(driver.kind)
        return tuple(
            other
            for other in self.drivers
            if other.kind not in BESIDE
            and self.kinds.index(other.kind) >= first
            and (other.side == driver.side or driver.side == "both")
        )
