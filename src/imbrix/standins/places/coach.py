"""A coach with a large system: three-way front, two-way centre, passive two-way rear, a sub before and one behind."""

import numpy as np

from imbrix.core.system.layout import Driver, Group, Kind, Layout
from imbrix.core.system.layouts import SUB, THREE, TWO, Way, make
from imbrix.standins import head_unit
from imbrix.standins.cabin import Cabin, Mode
from imbrix.standins.noise import Noise
from imbrix.standins.paths import Path, ScatteredPath
from imbrix.standins.places.drawn import bearing_deg, furnished, reflections
from imbrix.standins.places.place import ListenerSide, Place, Wiring, swapped

NAME = "Plover coach"
SLUG = "plover"
SEED = 4417
_SEATED_M: dict[tuple[Group, Kind], tuple[float, float]] = {
    (Group.FRONT, Kind.MIDBASS): (1.08, 2.05),
    (Group.FRONT, Kind.MID): (0.94, 1.93),
    (Group.FRONT, Kind.TWEETER): (0.90, 1.86),
    (Group.CENTRE, Kind.MIDBASS): (1.36, 1.36),
    (Group.CENTRE, Kind.TWEETER): (1.31, 1.31),
    (Group.REAR, Kind.MIDBASS): (2.35, 2.88),
}
"""Metres to the listener on the near and on the far side."""
_MODES = (
    Mode(29.0, 4.0, -4.0),
    Mode(38.0, 4.5, -3.0),
    Mode(57.0, 5.0, -4.0),
    Mode(83.0, 5.5, -5.0),
    Mode(121.0, 6.0, -6.0),
)


def layout() -> Layout:
    """Twelve channels; the listener sits on the left, and the rear is passive from midbass to tweeter."""
    ways: list[Way] = [SUB, SUB, *((Group.FRONT, kind, True) for kind in THREE)]
    ways += [*((Group.CENTRE, kind, False) for kind in TWO), (Group.REAR, Kind.MIDBASS, True)]
    made = make(ways, "left")
    names = {"sub": "Sub front", "sub-2": "Sub rear", "rear-midbass-l": "Rear L", "rear-midbass-r": "Rear R"}
    drivers = [
        one.model_copy(
            update={
                "name": names.get(one.id, one.name),
                "passive_to": Kind.TWEETER if one.group == Group.REAR else None,
            }
        )
        for one in made.drivers
    ]
    return made.model_copy(update={"drivers": tuple(drivers)})


def place(wiring: Wiring, seat: ListenerSide) -> Place:
    """The coach, its engine idling. Whoever fitted the rear took one side for the other: the pair is swapped."""
    rear = [output for output, one in sorted(wiring.items()) if one.group == Group.REAR and one.side != "both"]
    hung = swapped(wiring, *rear[-2:]) if len(rear) > 1 else dict(wiring)

    def path(driver: Driver, number: int, drawn: np.random.Generator) -> Path:
        if driver.group == Group.SUB:
            distance = (1.45, 4.3, 3.1, 2.2)[number % 4]
        else:
            near, far = _SEATED_M.get((driver.group, driver.kind), (1.2, 2.1))
            distance = (near if driver.side in (seat, "both") else far) + 0.4 * number
        # Large panes and seats all about: more of it, later, duller than in a van.
        return ScatteredPath(distance, reflections(drawn, distance, 14), bearing_deg(driver, seat))

    seats, motors = furnished(hung, SEED, path, len(_MODES))
    noise = Noise(rumble_db_spl=40.0, hiss_db=4.0, engine_db_spl=46.0, firing_hz=23.0)
    cabin = Cabin(tuple(seats), _MODES, celsius=14.0, gain_corner_hz=38.0, gain_db=4.0, noise=noise, seed=SEED)
    return Place(cabin, tuple(motors), hung, head_unit.drawn(SEED, 6))
