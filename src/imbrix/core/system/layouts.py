"""Ready layouts to start a project from, and what is wrong with one."""

import re
from collections.abc import Iterable

from imbrix.core.errors import InvalidError
from imbrix.core.system.layout import Driver, Kind, Layout, Side
from imbrix.core.value import Value

NAMES: dict[Kind, str] = {
    Kind.SUB: "Sub",
    Kind.MIDBASS: "Midbass",
    Kind.MID: "Mid",
    Kind.TWEETER: "Tweeter",
    Kind.FULL: "Full range",
    Kind.CENTRE: "Centre",
    Kind.REAR: "Rear",
}
CAUTIOUS_CORNER_HZ: dict[Kind, float] = {
    Kind.SUB: 25.0,
    Kind.MIDBASS: 80.0,
    Kind.MID: 400.0,
    Kind.TWEETER: 3500.0,
    Kind.FULL: 150.0,
    Kind.CENTRE: 150.0,
    Kind.REAR: 150.0,
}
"""A high-pass corner from which no driver of its kind comes to harm (common practice, no source)."""

_ID = re.compile(r"[a-z0-9][a-z0-9-]{0,39}")
MOST_NAME = 40

_SIDES: dict[Side, str] = {"left": "L", "right": "R", "both": ""}


class Ready(Value):
    """A layout to begin with: its drivers in order, each a kind and whether it is a pair."""

    key: str
    name: str
    ways: tuple[tuple[Kind, bool], ...]


READY: tuple[Ready, ...] = (
    Ready(key="bookshelf-2", name="Two-way bookshelf", ways=((Kind.MIDBASS, True), (Kind.TWEETER, True))),
    Ready(
        key="front-2-sub",
        name="Two-way front and sub",
        ways=((Kind.SUB, False), (Kind.MIDBASS, True), (Kind.TWEETER, True)),
    ),
    Ready(
        key="front-3-sub",
        name="Three-way front and sub",
        ways=((Kind.SUB, False), (Kind.MIDBASS, True), (Kind.MID, True), (Kind.TWEETER, True)),
    ),
    Ready(
        key="front-3-rear-sub",
        name="Three-way front, rear and sub",
        ways=((Kind.SUB, False), (Kind.MIDBASS, True), (Kind.MID, True), (Kind.TWEETER, True), (Kind.REAR, True)),
    ),
    Ready(
        key="four-way",
        name="Four-way with stereo woofers",
        ways=((Kind.SUB, True), (Kind.MIDBASS, True), (Kind.MID, True), (Kind.TWEETER, True)),
    ),
    Ready(key="in-ear-3", name="Three-way in-ear", ways=((Kind.MIDBASS, True), (Kind.MID, True), (Kind.TWEETER, True))),
    Ready(key="free", name="Free", ways=((Kind.FULL, True),)),
)


def make(ways: Iterable[tuple[Kind, bool]], seat: str = "left") -> Layout:
    """A layout of the ways, outputs given in order from 1."""
    drivers: list[Driver] = []
    for kind, pair in ways:
        sides: tuple[Side, ...] = ("left", "right") if pair else ("both",)
        for side in sides:
            drivers.append(driver(kind, side, len(drivers) + 1))
    return Layout(drivers=tuple(drivers), seat=seat)


def driver(kind: Kind, side: Side, output: int) -> Driver:
    """A driver with the id and the name that its kind and side give it."""
    letter = _SIDES[side]
    name = NAMES[kind] + (f" {letter}" if letter else "")
    return Driver(
        id=f"{kind.value}-{letter.lower()}" if letter else kind.value, name=name, kind=kind, side=side, output=output
    )


def ready(key: str, seat: str) -> Layout:
    """A ready layout by its key. Raises InvalidError."""
    for one in READY:
        if one.key == key:
            return make(one.ways, seat)
    raise InvalidError(f"there is no ready layout {key!r}")


def with_driver(layout: Layout, kind: Kind, side: Side) -> Layout:
    """The layout with one more driver, on the first output that is free."""
    used = {one.output for one in layout.drivers}
    free = next(output for output in range(1, len(used) + 2) if output not in used)
    return layout.model_copy(update={"drivers": (*layout.drivers, driver(kind, side, free))})


class Remark(Value):
    """Something about a layout; `bars` means that it cannot be used so."""

    says: str
    bars: bool


def _badly_named(one: Driver) -> list[str]:
    found = []
    if not _ID.fullmatch(one.id):
        shown = one.id if len(one.id) <= 40 else f"{one.id[:40]}…"
        found.append(f"the id {shown!r} is not one: small letters, figures and hyphens, at most 40 of them")
    if not one.name.strip() or not one.name.isprintable() or len(one.name) > MOST_NAME:
        found.append(f"the driver {one.id[:40]!r} needs a name of 1 to {MOST_NAME} characters that can be read")
    return found


def remarks(layout: Layout, outputs: int) -> list[Remark]:
    """Too many channels, two drivers on one output, outputs beyond the processor's, doubles, and outputs left over."""
    found: list[Remark] = []
    if not layout.drivers:
        return [Remark(says="there is no driver", bars=True)]
    if len(layout.drivers) > outputs:
        found.append(Remark(says=f"{len(layout.drivers)} drivers, but the processor has {outputs} outputs", bars=True))
    for one in layout.drivers:
        found += [Remark(says=says, bars=True) for says in _badly_named(one)]
    used: dict[int, str] = {}
    seen: dict[tuple[Kind, Side], str] = {}
    for one in layout.drivers:
        if one.output in used:
            found.append(Remark(says=f"{used[one.output]} and {one.name} share output {one.output}", bars=True))
        used.setdefault(one.output, one.name)
        if not 1 <= one.output <= outputs:
            found.append(
                Remark(says=f"{one.name} is on output {one.output}; the processor has 1 to {outputs}", bars=True)
            )
        if (one.kind, one.side) in seen:
            found.append(Remark(says=f"there are two drivers {one.name}", bars=True))
        seen[(one.kind, one.side)] = one.name
        if one.side == "both" and {(one.kind, "left"), (one.kind, "right")} & seen.keys():
            found.append(Remark(says=f"{one.name} is there as a mono way and as a side", bars=True))
    if len({one.id for one in layout.drivers}) < len(layout.drivers):
        found.append(Remark(says="two drivers have the same id", bars=True))
    left = sorted(set(range(1, outputs + 1)) - used.keys())
    if left and not any(one.bars for one in found):
        names = ", ".join(map(str, left))
        found.append(Remark(says=f"output{'s' if len(left) > 1 else ''} {names} not used", bars=False))
    return found
