"""A co-driver's helmet: a three-way capsule in each ear, measured on couplers whose microphones are summed."""

from dataclasses import replace

import numpy as np

from imbrix.core.system.layout import Driver, Group, Kind, Layout
from imbrix.core.system.layouts import THREE, make
from imbrix.standins.cabin import Cabin, DriverModel
from imbrix.standins.noise import Noise
from imbrix.standins.paths import Path, TubePath
from imbrix.standins.places.drawn import furnished
from imbrix.standins.places.place import ListenerSide, Place, Wiring

NAME = "Swift co-driver's helmet"
SLUG = "swift"
SEED = 3302
LEAK_HZ = 170.0
_MODELS: dict[Kind, DriverModel] = {
    # In a closed tube the pressure follows the membrane's travel: flat down to the coupling capacitor.
    Kind.MIDBASS: DriverModel(9.0, 0.6, 1900.0, 2, 96.0, ((1400.0, 2.5, 2.0),), 0.01, 0.008),
    Kind.MID: DriverModel(45.0, 0.6, 6800.0, 2, 95.0, ((2900.0, 5.0, 3.0), (5200.0, -3.0, 3.0)), 0.008, 0.006),
    Kind.TWEETER: DriverModel(620.0, 0.7, 23_000.0, 1, 93.0, ((8300.0, 3.5, 3.5), (13_800.0, -2.5, 4.0)), 0.006, 0.005),
}
_TUBES_M = {Kind.MIDBASS: 0.026, Kind.MID: 0.022, Kind.TWEETER: 0.016}


def layout() -> Layout:
    """Six channels, a low, a mid and a high capsule for each ear."""
    return make([(Group.FRONT, kind, True) for kind in THREE], "right")


def place(wiring: Wiring, seat: ListenerSide) -> Place:
    """The couplers on a bench. The left earpiece does not seal: its bass leaks out."""

    def path(driver: Driver, number: int, drawn: np.random.Generator) -> Path:
        leak = LEAK_HZ if driver.side == "left" else 3.0
        return TubePath(_TUBES_M.get(driver.kind, 0.024) + 0.0004 * number, leak_hz=leak)

    seats, motors = furnished(wiring, SEED, path, 0)
    for output, driver in wiring.items():
        there, known = seats[output - 1], _MODELS.get(driver.kind)
        if there is None or known is None:
            continue
        off = there.driver.sensitivity_db % 1.0 - 0.5  # pieces of one line differ by half a decibel
        seats[output - 1] = replace(there, driver=replace(known, sensitivity_db=known.sensitivity_db + off))
    noise = Noise(rumble_db_spl=24.0, hiss_db=2.0, hum_db_spl=16.0)
    cabin = Cabin(tuple(seats), celsius=23.0, gain_db=0.0, noise=noise, seed=SEED, lead=64)
    return Place(cabin, tuple(motors), dict(wiring))
