"""The usable band of a driver: what its takes in force and those of the same driver on the other side show together.

What a place does to one take it does otherwise to the next: the mean of two sides, or of a fixed and a moving
microphone, is off by less than either.
"""

from collections.abc import Mapping

from imbrix.core.evidence.band import DriverBand, together
from imbrix.core.system.layout import Layout
from imbrix.work.ground.workspace import Workspace
from imbrix.work.takes.forces import Force, forces
from imbrix.work.takes.reading import band_shown
from imbrix.work.takes.shelf import Take


def driver_band_of(space: Workspace, slug: str, one: Take, counting: Mapping[str, Force] | None = None) -> DriverBand:
    """The band that a driver plays of itself, and how sure its ends are; by its impedance too, where that was taken.

    Parameters
    ----------
    one : Take
        A take of the driver; it need not be in force.
    counting : mapping of str to Force, optional
        The takes that count by driver, where they are known already.
    """
    counting = forces(space, slug) if counting is None else counting
    mine = band_shown(space, slug, one)
    others = _others(space.layout(slug), one, counting).values()
    return together(mine, [band_shown(space, slug, each) for each in others])


def band(space: Workspace, slug: str, one: Take, counting: Mapping[str, Force] | None = None) -> tuple[float, float]:
    """The ends of `driver_band_of` in hertz."""
    return driver_band_of(space, slug, one, counting).ends_hz


def _others(layout: Layout, one: Take, counting: Mapping[str, Force]) -> dict[int, Take]:
    """What else shows this driver, by its number: its takes in force, and those of its like on the other side."""
    driver = layout.driver(one.channels[0])
    here = [driver] if driver.side == "both" else [each for each in layout.alike(driver) if each.side != "both"]
    found = [counting[each.id] for each in here if each.id in counting]
    counts = [each for force in found for each in (force.take, force.moving)]
    return {each.id: each for each in counts if each is not None and each.id != one.id}
