"""What the stand-ins know of drivers in drawn places, for tests of what is read from their takes."""

import numpy as np

from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import speed_of_sound
from imbrix.standins.cabin import Cabin, DriverModel, Seat
from imbrix.standins.paths import ScatteredPath

GRID = log_grid()


def truth(cabin: Cabin, index: int = 0) -> np.ndarray:
    """The response on the grid."""
    return cabin.truth(index, GRID)


def own_band(model: DriverModel) -> tuple[float, float]:
    """Where a driver's model is 6 dB down, on the grid."""
    low, high = np.clip(model.own_band(), GRID[0], GRID[-1])
    return float(low), float(high)


def with_reflections(
    model: DriverModel, *late: tuple[float, float], distance_m: float = 1.0, backwards: bool = False
) -> Cabin:
    """A driver in an empty space with reflections so many dB under the direct sound and so many seconds after it."""
    speed = speed_of_sound(20.0)
    found = tuple(
        (seconds * speed, under_db + 20 * np.log10((distance_m + seconds * speed) / distance_m), 23_900.0)
        for under_db, seconds in late
    )
    return Cabin((Seat(model, ScatteredPath(distance_m, found), backwards),), gain_db=0.0)
