"""The places that ship, by key, and those that are drawn from a number."""

from collections.abc import Callable
from dataclasses import dataclass

from imbrix.core.errors import NotHereError
from imbrix.core.system.layout import Layout
from imbrix.standins.places import coach, drawn, helmet, room, van
from imbrix.standins.places.place import ListenerSide, Place, Wiring

Make = Callable[[Wiring, ListenerSide], Place]


@dataclass(frozen=True)
class Shipped:
    """A place with a scenario of its own: a project at `slug`, its system, its model of processor.

    `level_with` is the driver that the level test plays, `spots` are microphone spots of the place by name, in metres
    right and forward of the middle of the head; `height_m` that of the loudspeakers over the ground where that decides
    how near the microphone goes. `fixed` says that the microphones cannot be moved.
    """

    key: str
    name: str
    says: str
    slug: str
    project: str
    layout: Callable[[], Layout]
    processor: str
    level_with: str
    make: Make
    spots: tuple[tuple[str, float, float], ...] = ()
    height_m: float | None = None
    fixed: bool = False


SHIPPED: dict[str, Shipped] = {
    one.key: one
    for one in (
        Shipped(
            "van",
            "Van",
            "a small van, glass all round",
            van.SLUG,
            van.NAME,
            van.layout,
            "six-by-eight",
            "mid-r",
            van.place,
        ),
        Shipped(
            "coach",
            "Coach",
            "a coach, its engine idling, the rear far behind",
            coach.SLUG,
            coach.NAME,
            coach.layout,
            "eight-by-twelve",
            "mid-l",
            coach.place,
        ),
        Shipped(
            "room",
            "Reading room",
            "loudspeakers on stands in a furnished room, walls near enough to be heard",
            room.SLUG,
            room.NAME,
            room.layout,
            "four-by-six-taps",
            "midbass-r",
            room.place,
            (("before the left one", *room.spot_before("left")), ("before the right one", *room.spot_before("right"))),
            room.HEIGHT_M,
        ),
        Shipped(
            "helmet",
            "Helmet on ear couplers",
            "capsules in short tubes; the microphones of both couplers are summed",
            helmet.SLUG,
            helmet.NAME,
            helmet.layout,
            "two-by-six",
            "mid-r",
            helmet.place,
            fixed=True,
        ),
    )
}
DRAWN = "drawn-"
"""What the key of a place drawn from a number begins with."""
DRAWN_SAYS = "a vehicle that nobody has seen before, another one for each number"
NUMBERS = 1_000_000


def make(key: str, wiring: Wiring, seat: ListenerSide) -> Place:
    """A place by its key, with the drivers of a wiring in it. Raises NotHereError."""
    if key in SHIPPED:
        return SHIPPED[key].make(wiring, seat)
    return drawn.place(number_of(key), wiring, seat)


def number_of(key: str) -> int:
    """The number in the key of a drawn place. Raises NotHereError."""
    digits = key.removeprefix(DRAWN)
    if not key.startswith(DRAWN) or not digits.isascii() or not digits.isdigit() or int(digits) >= NUMBERS:
        raise NotHereError(f"there is no place {key!r}")
    return int(digits)


def name(key: str) -> str:
    """What a place is called. Raises NotHereError."""
    return SHIPPED[key].name if key in SHIPPED else f"Vehicle drawn from number {number_of(key)}"
