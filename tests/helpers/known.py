"""What the stand-ins know of drivers in drawn places, for tests of what is read from their takes."""

import numpy as np
from scipy.signal import butter, sosfreqz

from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import decibels
from imbrix.standins.cabin import Cabin, DriverModel, Seat
from imbrix.standins.paths import ScatteredPath

RATE = 48_000
GRID = log_grid()


def truth(cabin: Cabin, index: int = 0) -> np.ndarray:
    """The response on the grid, from a transform so long that lines between its bins are straight."""
    size = 2**20
    spectrum = np.fft.rfft(cabin.impulse(index), size)
    at = GRID * size / RATE
    below = at.astype(int)
    return spectrum[below] + (at - below) * (spectrum[below + 1] - spectrum[below])


def own_band(model: DriverModel) -> tuple[float, float]:
    """Where a driver's model, its bells aside, is 6 dB down."""
    f = np.geomspace(5, 23_900, 4000)
    ratio = 1j * f / model.resonance_hz
    high = ratio**2 / (1 + ratio / model.resonance_q + ratio**2)
    low = sosfreqz(butter(model.roll_off_order, model.roll_off_hz, fs=RATE, output="sos"), f, fs=RATE)[1]
    level = decibels(np.abs(high * low))
    inside = np.flatnonzero(level >= level.max() - 6)
    return max(float(f[inside[0]]), GRID[0]), min(float(f[inside[-1]]), float(GRID[-1]))


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
