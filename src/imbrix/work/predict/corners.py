"""Corners that make sense for the drivers of a project, by all that is known of them."""

import numpy as np

from imbrix.core.align.corners import Corners, Known, corners
from imbrix.core.signal.grid import span_mask
from imbrix.work.ground.workspace import Workspace
from imbrix.work.impedance import impedance
from imbrix.work.predict.known import Scene
from imbrix.work.takes.harmonics import clean_from
from imbrix.work.takes.reading import band, resonance_of
from imbrix.work.tune.revisions import head
from imbrix.work.tune.targets import placed

BASS_HZ, ABOVE_HZ = (40.0, 60.0), (200.0, 400.0)
"""Where the target's lift of the bass is read, and over what."""


def corners_of(space: Workspace, slug: str, now: Scene) -> dict[str, Corners]:
    """By driver where its crossovers may stand, where they begin, and why. Raises NotHereError."""
    areas = {name: one.area_cm2 for name, one in impedance.about(space, slug).items()}
    known = {}
    for driver in now.layout.drivers:
        one = now.takes.get(driver.id)
        ends = band(space, slug, one) if one else None
        area = areas.get(driver.id)
        known[driver.id] = Known(
            band_hz=ends,
            resonance_hz=resonance_of(space, slug, driver.id),
            area_m2=area / 1e4 if area else None,
            clean_from_hz=clean_from(space, one, ends) if one and ends else None,
        )
    return corners(now.layout, known, _lift_db(space, slug))


def _lift_db(space: Workspace, slug: str) -> float:
    """By how much the target lifts the bass."""
    target = placed(space, slug, head(space, slug).tune)
    bass, above = (float(np.mean(target[span_mask(space.grid, *span)])) for span in (BASS_HZ, ABOVE_HZ))
    return bass - above
