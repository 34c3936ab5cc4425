"""The harmonics of a take: what a sweep shows of distortion."""

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.look.distortion import Distortion, harmonics
from imbrix.core.measure.recording import read_repeats
from imbrix.core.signal.smoothing import smooth_power
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.reading import raw_impulse
from imbrix.work.takes.shelf import Take, arrays

HARMONICS: Drawer[int, Distortion] = Drawer("harmonics", 64, by_take=True)
CLEAN: Drawer[int, tuple[float | None]] = Drawer("clean from", 1024, by_take=True)
CLEAN_RATIO = 0.03
"""Three per cent is where distortion is commonly said to begin to matter (common practice, no source)."""


def harmonics_of(space: Workspace, one: Take) -> Distortion | None:
    """Fundamental and harmonics of a sweep; None of what is none."""
    if one.method not in ("sweep", "file"):
        return None
    try:
        schedule = one.details.schedule(one.rate)
    except InvalidError:  # of a recording from elsewhere the sweep may not be known
        return None

    def read() -> Distortion:
        data, _ = arrays(space, one.id)
        if one.details.quiet_s or one.details.marker:
            looped = one.timed and one.details.clock == "loopback"
            impulse = read_repeats(data["microphone"], data["reference"] if looped else None, schedule).mean
        else:
            impulse = raw_impulse(space, one)
        return harmonics(impulse, schedule.sweep, space.grid)

    return space.memory.of(HARMONICS, one.id, read)


def clean_from(space: Workspace, one: Take, band_hz: tuple[float, float]) -> float | None:
    """From where on, in hertz, the distortion of a take stays below three per cent up to the middle of the band.

    None where that is not known, or where it is below over the whole band and an octave under it.
    """

    def find() -> tuple[float | None]:
        found = harmonics_of(space, one)
        if found is None:
            return (None,)
        total = np.nan_to_num(found.total)
        ratios = smooth_power(total, space.grid, 6) / np.maximum(smooth_power(found.fundamental, space.grid, 6), 1e-30)
        middle = float(np.sqrt(band_hz[0] * band_hz[1]))
        clear = smooth_power(total, space.grid, 6) > 2 * smooth_power(found.noise, space.grid, 6)
        bad = clear & (ratios > CLEAN_RATIO**2) & (space.grid >= band_hz[0] / 2) & (space.grid <= middle)
        return (float(space.grid[np.flatnonzero(bad)[-1]]) if bad.any() else None,)

    return space.memory.of(CLEAN, one.id, find, band_hz)[0]
