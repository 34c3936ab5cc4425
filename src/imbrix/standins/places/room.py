"""A reading room with a pair of active two-way loudspeakers on stands, and a sub in the corner: image sources."""

from dataclasses import replace

import numpy as np

from imbrix.core.system.layout import Driver, Group, Kind, Layout
from imbrix.core.system.layouts import SUB, TWO, make
from imbrix.standins.cabin import Buzz, Cabin, DriverModel
from imbrix.standins.noise import Noise
from imbrix.standins.paths import Path, RoomPath, Shoebox
from imbrix.standins.places.drawn import furnished
from imbrix.standins.places.place import ListenerSide, Place, Wiring

NAME = "Heron reading room"
SLUG = "heron"
SEED = 9051
ROOM = Shoebox((4.2, 5.6, 2.6), (0.80, 0.86, 0.78, 0.84, 0.72, 0.86))
HEAD = (2.05, 2.0, 1.12)
STANDS = {"left": (0.93, 4.15), "right": (3.18, 4.10)}
"""Where the stands are, metres from the left and from the rear wall."""
HEIGHT_M = 1.0
"""How high the woofers are over the floor; the tweeters are 0.14 m above them."""
BEFORE_M = HEIGHT_M / 1.5
_WOOFER = DriverModel(52.0, 0.68, 3900.0, 2, 101.0, ((1150.0, 2.0, 2.5), (4300.0, 4.5, 4.5)), 0.02, 0.012)
_TWEETER = DriverModel(870.0, 0.62, 23_000.0, 1, 103.0, ((3100.0, -1.5, 2.0), (12_500.0, 2.5, 3.0)), 0.008, 0.005)


def layout() -> Layout:
    """Five channels. Nobody sits to one side here: the seat is in the middle, a hand's breadth to the left."""
    return make((SUB, *((Group.FRONT, kind, True) for kind in TWO)), "left")


def spot_before(side: str = "left") -> tuple[float, float]:
    """The microphone's spot before a loudspeaker at the distance that its height allows, on the line to the head."""
    stand = np.array(STANDS[side])
    ahead = np.array(HEAD[:2]) - stand
    at = stand + ahead / np.linalg.norm(ahead) * BEFORE_M - np.array(HEAD[:2])
    return float(at[0]), float(at[1])


def place(wiring: Wiring, seat: ListenerSide) -> Place:
    """The room in the evening. Something in the left woofer's cabinet is loose, and buzzes."""

    def path(driver: Driver, number: int, drawn: np.random.Generator) -> Path:
        return RoomPath(ROOM, _stands_at(driver, number), HEAD)

    seats, motors = furnished(wiring, SEED, path, 0)
    for output, driver in wiring.items():
        known = {Kind.MIDBASS: _WOOFER, Kind.TWEETER: _TWEETER}.get(driver.kind)
        there = seats[output - 1]
        if known is None or there is None or driver.group != Group.FRONT:
            continue
        loose = Buzz(128.0) if driver.kind == Kind.MIDBASS and driver.side == "left" else None
        sensitivity = known.sensitivity_db + (0.4 if driver.side == "left" else -0.3)
        seats[output - 1] = replace(there, driver=replace(known, sensitivity_db=sensitivity), buzz=loose)
    noise = Noise(rumble_db_spl=30.0, hiss_db=0.0, hum_db_spl=20.0)
    cabin = Cabin(tuple(seats), celsius=21.0, gain_db=0.0, noise=noise, seed=SEED)
    return Place(cabin, tuple(motors), dict(wiring))


def _stands_at(driver: Driver, number: int) -> tuple[float, float, float]:
    """Where a driver is in the room, metres from the left, rear, lower corner."""
    if driver.group == Group.SUB:
        return ((3.72, 5.1, 0.22), (0.5, 5.1, 0.22), (0.5, 0.5, 0.22), (3.72, 0.5, 0.22))[number % 4]
    if driver.side == "both":
        return (2.05, 4.4 if driver.group != Group.REAR else 0.5, 0.8 + (0.1 if driver.kind == Kind.TWEETER else 0.0))
    x, y = STANDS[driver.side]
    if driver.group == Group.REAR:
        y = 0.6
    above = {Kind.TWEETER: 0.14, Kind.MID: 0.07, Kind.WOOFER: -0.3, Kind.SUB: -0.6}
    return x, y, HEIGHT_M + above.get(driver.kind, 0.0)
