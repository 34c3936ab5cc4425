"""Corners that make sense for the drivers of a project, by all that is known of them."""

import numpy as np

from imbrix.core.align.bounds import Known
from imbrix.core.align.corners import Corners, corners
from imbrix.core.align.holes import under_trend
from imbrix.core.signal.grid import span_mask
from imbrix.core.signal.signal import FloatArray
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import Driver
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance import impedance
from imbrix.work.predict.known import Scene
from imbrix.work.predict.spots import of_a_head, spots_of
from imbrix.work.takes.bands import band
from imbrix.work.takes.forces import joined
from imbrix.work.takes.harmonics import clean_from
from imbrix.work.takes.reading import bare, resonance_of
from imbrix.work.takes.shelf import Take
from imbrix.work.tune.revisions import head
from imbrix.work.tune.targets import placed

BASS_HZ, ABOVE_HZ = (40.0, 60.0), (200.0, 400.0)
"""Where the target's lift of the bass is read, and over what."""
SMOOTHING = 6.0
STILL_HZ = 400.0
"""Up to here one spot tells what a head hears: its reach is a quarter of a wave."""
HOLES: Drawer[tuple[object, ...], FloatArray] = Drawer("holes", 64)


def corners_of(space: Workspace, slug: str, now: Scene) -> dict[str, Corners]:
    """By driver where its crossovers may stand, where they begin, and why. Raises NotHereError."""
    areas = {name: one.area_cm2 for name, one in impedance.about(space, slug).items()}
    known = {}
    spots = spots_of(space, now)
    for driver in now.layout.drivers:
        one = now.takes.get(driver.id)
        ends = band(space, slug, one, now.forces) if one else None
        area = areas.get(driver.id)
        known[driver.id] = Known(
            band_hz=ends,
            resonance_hz=resonance_of(space, slug, driver.id),
            area_m2=area / 1e4 if area else None,
            clean_from_hz=clean_from(space, one, ends) if one and ends else None,
            holes_db=_holes(space, slug, now, driver, spots[driver.id], ends) if one and ends else None,
        )
    return corners(now.layout, known, _lift_db(space, slug), space.grid)


def _holes(
    space: Workspace, slug: str, now: Scene, driver: Driver, spots: dict[str, Take], band_hz: tuple[float, float]
) -> FloatArray:
    """By how much a driver plays less than its trend (n,) in dB over a whole head, as its takes show."""
    force = now.forces[driver.id]
    reach = of_a_head(space, slug, force.take.details.position)
    heard = [one for spot, one in spots.items() if spot in reach]

    def find() -> FloatArray:
        rows = [joined(space, force)] if force.moving is not None else [bare(space, one) for one in heard]
        power = np.mean([smooth_power(np.nan_to_num(one), space.grid, SMOOTHING) for one in rows], axis=0)
        under = under_trend(power, space.grid, band_hz)
        return np.where(space.grid <= STILL_HZ, under, 0.0) if len(rows) == 1 and force.moving is None else under

    takes = tuple((one.id, one.details.correction) for one in (*heard, *([force.moving] if force.moving else [])))
    return space.memory.of(HOLES, (slug, driver.id, takes, band_hz), find)


def _lift_db(space: Workspace, slug: str) -> float:
    """By how much the target lifts the bass."""
    target = placed(space, slug, head(space, slug).tune)
    bass, above = (float(np.mean(target[span_mask(space.grid, *span)])) for span in (BASS_HZ, ABOVE_HZ))
    return bass - above
