"""What stands in a place: the drivers on the processor's outputs, with their circuits, and the space around them."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Literal

from imbrix.core.system.layout import RANK, Driver, Kind
from imbrix.standins.cabin import Cabin
from imbrix.standins.head_unit import HeadUnit, flat
from imbrix.standins.jig import Motor

Wiring = Mapping[int, Driver]
"""By output (from 1) the driver that a fitter hung on it. Who moves a channel in a layout moves no wire."""
ListenerSide = Literal["left", "right"]


@dataclass(frozen=True)
class Place:
    """A space with drivers in it, and the source that plays there.

    `motors[i]` is what a jig finds at output i + 1, None where nothing hangs there.
    """

    cabin: Cabin
    motors: tuple[Motor | None, ...]
    wiring: Wiring
    head_unit: HeadUnit = field(default_factory=flat)

    @property
    def exchanged(self) -> tuple[int, int] | None:
        """The outputs whose wires a practice switch exchanges: a mid and the tweeter next to it, if there are any."""
        lower = self.backwards
        if lower is None:
            return None
        mid = self.wiring[lower]
        above = [
            output
            for output, one in sorted(self.wiring.items())
            if (one.group, one.side) == (mid.group, mid.side) and RANK[one.kind] > RANK[mid.kind]
        ]
        return (lower, above[0]) if above else None

    @property
    def backwards(self) -> int | None:
        """The output whose wires a practice switch exchanges: the first mid, or what comes nearest to one."""
        for kind in (Kind.MID, Kind.FULL, Kind.MIDBASS, Kind.WOOFER, Kind.TWEETER, Kind.SUB):
            found = [output for output, one in sorted(self.wiring.items()) if one.kind == kind]
            if found:
                return found[0]
        return None

    @property
    def says(self) -> dict[str, str]:
        """The practice switches that differ from place to place, in words; those that can do nothing are left out."""
        said = {}
        if self.exchanged:
            one, other = (self.wiring[output].name for output in self.exchanged)
            said["wrong_channel"] = f"{one} and {other} hang on each other's outputs"
        if self.backwards is not None:
            said["wired_backwards"] = f"{self.wiring[self.backwards].name} is wired backwards"
        if len(self.head_unit.wires) > 1:
            said["wires_exchanged"] = "Wires 1 and 2 of the source are exchanged"
            said["wire_inverted"] = "Wire 2 of the source is inverted"
        if len(self.head_unit.wires) > 3:
            said["front_and_rear_exchanged"] = "Front and rear wires of the source are exchanged"
        said["track_stops"] = "The source's track is stopped halfway"
        said["chime"] = "A chime sounds while the source plays"
        return said


def wired(drivers: Mapping[int, Driver] | tuple[Driver, ...]) -> dict[int, Driver]:
    """The wiring of drivers that hang on the outputs that their layout says."""
    return dict(drivers) if isinstance(drivers, Mapping) else {one.output: one for one in drivers}


def swapped(wiring: Wiring, one: int, other: int) -> dict[int, Driver]:
    """A wiring with two outputs' wires exchanged, where something hangs on both."""
    if one not in wiring or other not in wiring:
        return dict(wiring)
    return {**wiring, one: wiring[other], other: wiring[one]}
