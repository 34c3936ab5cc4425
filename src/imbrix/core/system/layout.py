"""What the system consists of: groups, ways, sides, drivers and the processor outputs that feed them."""

from collections.abc import Iterable, Mapping
from enum import StrEnum
from itertools import pairwise
from typing import Any, Literal

from pydantic import computed_field, model_validator

from imbrix.core.errors import InvalidError, NotHereError
from imbrix.core.value import Value

Side = Literal["left", "right", "both"]
SIDES: tuple[Side, Side] = ("left", "right")


class Group(StrEnum):
    """Where drivers stand: each group is a loudspeaker system of its own, the subs serve the one in front."""

    FRONT = "front"
    CENTRE = "centre"
    REAR = "rear"
    SUB = "sub"


class Kind(StrEnum):
    """Kinds of driver, from the lowest way to the highest; a full-range driver is a way by itself."""

    SUB = "sub"
    WOOFER = "woofer"
    MIDBASS = "midbass"
    MID = "mid"
    TWEETER = "tweeter"
    FULL = "full"


RANK = {kind: n for n, kind in enumerate(Kind)}

FRAGILE_GUARD_HZ: dict[Kind, float] = {Kind.TWEETER: 1000.0}
"""Kinds that must not be driven full range, with the corner of their guard (common practice, no source)."""


class Driver(Value):
    """One driver, fed by one processor output (counted from 1).

    `passive_to` is the highest way that a passive network feeds from the same output: a "midbass" with
    `passive_to` of "tweeter" is a passive two-way loudspeaker.
    """

    id: str
    name: str
    kind: Kind
    group: Group = Group.FRONT
    side: Side
    output: int
    passive_to: Kind | None = None

    @model_validator(mode="before")
    @classmethod
    def _from_before_groups(cls, given: Any) -> Any:
        """Until version 0.1 centre and rear were kinds, and where a sub stands went without saying."""
        if not isinstance(given, dict) or "group" in given:
            return given
        kind = given.get("kind")
        if kind in ("centre", "rear"):
            return {**given, "kind": Kind.FULL, "group": kind}
        return {**given, "group": Group.SUB if kind == "sub" else Group.FRONT}

    @model_validator(mode="after")
    def _passive_goes_up(self) -> "Driver":
        if self.passive_to is not None and RANK[self.passive_to] <= RANK[self.kind]:
            raise InvalidError(f"{self.name}: a passive network leads from a way to a higher one")
        return self

    @property
    def fragile(self) -> bool:
        return self.kind in FRAGILE_GUARD_HZ


class Seam(Value):
    """The overlap of two neighbouring ways on one side; `both` joins what is mono to a left-right pair.

    The overlap of the left side with the right one is a seam too, and so is that of two subs, both without corners:
    `ways` is None there.
    """

    id: str
    group: Group = Group.FRONT
    side: Side
    lowers: tuple[str, ...]
    uppers: tuple[str, ...]
    ways: tuple[Kind, Kind] | None

    @computed_field  # type: ignore[prop-decorator]
    @property
    def name(self) -> str | None:
        """The name of its two ways ("mid-tweeter", "rear-mid-tweeter"), under which they are tied."""
        return self.ways and f"{_prefix(self.group)}{self.ways[0]}-{self.ways[1]}"


def _prefix(group: Group) -> str:
    """What names of a group begin with: the front goes without saying."""
    return f"{group}-" if group in (Group.CENTRE, Group.REAR) else ""


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
    def subs(self) -> tuple[Driver, ...]:
        """The subs, in their order: what plays the lowest octaves for all."""
        return tuple(driver for driver in self.drivers if driver.group == Group.SUB)

    @property
    def main(self) -> Group:
        """The group that the subs serve: the front, or what there is in its stead."""
        here = {driver.group for driver in self.drivers}
        return next((group for group in Group if group in here), Group.FRONT)

    def chain(self, group: Group, side: Side) -> tuple[Driver, ...]:
        """The ways of a group on a side, from low to high; a mono driver stands on both."""
        found = [one for one in self.drivers if one.group == group and one.side in (side, "both")]
        return tuple(sorted(found, key=lambda one: RANK[one.kind]))

    def partner(self, driver: Driver) -> Driver | None:
        """The same way of the same group on the other side; of a sub, another sub."""
        for other in self.drivers:
            if (other.kind, other.group) == (driver.kind, driver.group) and other.id != driver.id:
                return other
        return None

    def alike(self, driver: Driver) -> tuple[Driver, ...]:
        """The driver and those of the same way and group, in their order."""
        return tuple(one for one in self.drivers if (one.kind, one.group) == (driver.kind, driver.group))

    def seams(self) -> tuple[Seam, ...]:
        """Seams from low to high, left before right; what is mono below a pair has one more with both sides together.

        The subs come first, against each other and summed against the lowest way in front of them; left against right
        ends each group.
        """
        found = self._between_subs()
        for group in (Group.FRONT, Group.CENTRE, Group.REAR):
            if group == self.main and self.subs:
                found += self._above_subs(group)
            found += self._within(group)
            found += self._across(group)
        return tuple(found)

    def _between_subs(self) -> list[Seam]:
        first, *others = self.subs or (None,)
        if first is None:
            return []
        names = ["subs"] if len(others) == 1 else [f"subs-{n}" for n in range(2, len(others) + 2)]
        return [
            Seam(id=name, group=Group.SUB, side="both", lowers=(first.id,), uppers=(other.id,), ways=None)
            for name, other in zip(names, others, strict=True)
        ]

    def _above_subs(self, group: Group) -> list[Seam]:
        subs = tuple(sub.id for sub in self.subs)
        chains = {side: self.chain(group, side) for side in SIDES}
        lowest = {side: chain[0] for side, chain in chains.items() if chain}
        kinds = dict.fromkeys(one.kind for one in lowest.values())
        found: list[Seam] = []
        for kind in kinds:
            pairs = {side: (subs, (one.id,)) for side, one in lowest.items() if one.kind == kind}
            found += _joined(Group.FRONT, (Kind.SUB, kind), pairs)
        return found

    def _within(self, group: Group) -> list[Seam]:
        ways: dict[tuple[Kind, Kind], dict[Side, tuple[tuple[str, ...], tuple[str, ...]]]] = {}
        for side in SIDES:
            chain = self.chain(group, side)
            for lower, upper in pairwise(chain):
                ways.setdefault((lower.kind, upper.kind), {})[side] = ((lower.id,), (upper.id,))
        ordered = sorted(ways.items(), key=lambda one: RANK[one[0][0]])
        return [seam for kinds, pairs in ordered for seam in _joined(group, kinds, pairs)]

    def _across(self, group: Group) -> list[Seam]:
        sides = [tuple(one.id for one in self.drivers if (one.group, one.side) == (group, side)) for side in SIDES]
        if not all(sides):
            return []
        name = f"{_prefix(group)}left-right"
        return [Seam(id=name, group=group, side="both", lowers=sides[0], uppers=sides[1], ways=None)]

    def seam(self, seam_id: str) -> Seam:
        for seam in self.seams():
            if seam.id == seam_id:
                return seam
        raise NotHereError(f"there is no seam {seam_id!r} in this system")

    def above(self, driver: Driver) -> tuple[Driver, ...]:
        """The driver and the higher ways of its group on its side: they move together in time."""
        if driver.group == Group.SUB:
            return (driver,)
        return tuple(
            other
            for other in self.drivers
            if other.group == driver.group
            and RANK[other.kind] >= RANK[driver.kind]
            and (other.side == driver.side or driver.side == "both")
        )


def _joined(
    group: Group, kinds: tuple[Kind, Kind], pairs: Mapping[Side, tuple[tuple[str, ...], tuple[str, ...]]]
) -> list[Seam]:
    """The seams of two ways: of each side, of both together where they share what is below, or one of mono ways."""
    name = f"{_prefix(group)}{kinds[0]}-{kinds[1]}"

    def seam(side: Side, lowers: Iterable[str], uppers: Iterable[str]) -> Seam:
        return Seam(id=f"{name}-{side}", group=group, side=side, lowers=tuple(lowers), uppers=tuple(uppers), ways=kinds)

    if len(pairs) == 2 and pairs["left"] == pairs["right"]:
        return [seam("both", *pairs["left"])]
    found = [seam(side, *pair) for side, pair in pairs.items()]
    if len(pairs) == 2 and pairs["left"][0] == pairs["right"][0]:
        found.append(seam("both", pairs["left"][0], (*pairs["left"][1], *pairs["right"][1])))
    return found
