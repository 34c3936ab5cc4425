"""Ready systems to start a project from, and a layout with one more driver."""

from collections.abc import Iterable

from imbrix.core.errors import InvalidError
from imbrix.core.system.layout import Driver, Group, Kind, Layout, Side
from imbrix.core.value import Value

NAMES: dict[Kind, str] = {
    Kind.SUB: "Sub",
    Kind.WOOFER: "Woofer",
    Kind.MIDBASS: "Midbass",
    Kind.MID: "Mid",
    Kind.TWEETER: "Tweeter",
    Kind.FULL: "Full range",
}
GROUP_NAMES: dict[Group, str] = {
    Group.FRONT: "Front",
    Group.CENTRE: "Centre",
    Group.REAR: "Rear",
    Group.SUB: "Subs",
}
CAUTIOUS_CORNER_HZ: dict[Kind, float] = {
    Kind.SUB: 25.0,
    Kind.WOOFER: 50.0,
    Kind.MIDBASS: 80.0,
    Kind.MID: 400.0,
    Kind.TWEETER: 3500.0,
    Kind.FULL: 150.0,
}
"""A high-pass corner from which no driver of its kind comes to harm (common practice, no source)."""

_LETTERS: dict[Side, str] = {"left": "L", "right": "R", "both": ""}

Way = tuple[Group, Kind, bool]
"""A group, a kind, and whether it is a pair."""


class Ready(Value):
    """A system to begin with: its drivers in order."""

    key: str
    name: str
    ways: tuple[Way, ...]


def _front(*kinds: Kind) -> tuple[Way, ...]:
    return tuple((Group.FRONT, kind, True) for kind in kinds)


SUB: Way = (Group.SUB, Kind.SUB, False)
TWO = (Kind.MIDBASS, Kind.TWEETER)
THREE = (Kind.MIDBASS, Kind.MID, Kind.TWEETER)

READY: tuple[Ready, ...] = (
    Ready(key="bookshelf-2", name="Two-way bookshelf", ways=_front(*TWO)),
    Ready(key="front-2-sub", name="Two-way front and sub", ways=(SUB, *_front(*TWO))),
    Ready(key="front-3-sub", name="Three-way front and sub", ways=(SUB, *_front(*THREE))),
    Ready(
        key="front-3-rear-sub",
        name="Three-way front, rear and sub",
        ways=(SUB, *_front(*THREE), (Group.REAR, Kind.FULL, True)),
    ),
    Ready(key="four-way", name="Four-way with stereo woofers", ways=_front(Kind.WOOFER, *THREE)),
    Ready(
        key="whole-car",
        name="Three-way front, two-way rear and centre, two subs",
        ways=(
            SUB,
            SUB,
            *_front(*THREE),
            *((Group.CENTRE, kind, False) for kind in TWO),
            *((Group.REAR, kind, True) for kind in TWO),
        ),
    ),
    Ready(key="in-ear-3", name="Three-way in-ear", ways=_front(*THREE)),
    Ready(key="free", name="Free", ways=_front(Kind.FULL)),
)


def make(ways: Iterable[Way], seat: str = "left") -> Layout:
    """A layout of the ways, outputs given in order from 1."""
    drivers: list[Driver] = []
    for group, kind, pair in ways:
        sides: tuple[Side, ...] = ("left", "right") if pair else ("both",)
        for side in sides:
            drivers.append(driver(group, kind, side, len(drivers) + 1, taken=drivers))
    return Layout(drivers=tuple(drivers), seat=seat)


def driver(group: Group, kind: Kind, side: Side, output: int, taken: Iterable[Driver] = ()) -> Driver:
    """A driver with the id and the name that its group, kind and side give it, numbered where these are `taken`."""
    where = "" if group in (Group.FRONT, Group.SUB) else group.value
    way = "" if where and kind == Kind.FULL else kind.value
    words = " ".join(part for part in (where.capitalize(), NAMES[kind].lower() if where and way else "") if part)
    words, letter = words or NAMES[kind], _LETTERS[side]
    base = "-".join(part for part in (where, way) if part)
    ids = {one.id for one in taken}
    for n in range(1, len(ids) + 2):
        number = str(n) if n > 1 else ""
        name = "-".join(part for part in (base, number, letter.lower()) if part)
        if name not in ids:
            break
    shown = " ".join(part for part in (words, number, letter) if part)
    return Driver(id=name, name=shown, kind=kind, group=group, side=side, output=output)


def fits(group: Group, kind: Kind) -> bool:
    """Whether a kind of driver belongs into a group: subs with the subs, all else elsewhere."""
    return (kind == Kind.SUB) == (group == Group.SUB)


def ready(key: str, seat: str) -> Layout:
    """A ready layout by its key. Raises InvalidError."""
    for one in READY:
        if one.key == key:
            return make(one.ways, seat)
    raise InvalidError(f"there is no ready layout {key!r}")


def with_driver(layout: Layout, group: Group, kind: Kind, side: Side) -> Layout:
    """The layout with one more driver, on the first output that is free."""
    used = {one.output for one in layout.drivers}
    free = next(output for output in range(1, len(used) + 2) if output not in used)
    added = driver(group, kind, side, free, taken=layout.drivers)
    return layout.model_copy(update={"drivers": (*layout.drivers, added)})
