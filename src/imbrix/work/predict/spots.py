"""The places of the microphone at which drivers were recorded: one by one, and all of them at the same place."""

import numpy as np

from imbrix.core.signal.signal import ComplexArray
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import Scene
from imbrix.work.takes.reading import bare, sick
from imbrix.work.takes.shelf import Take


def at_spots(space: Workspace, now: Scene, name: str, timed: bool = False) -> dict[str, Take]:
    """By place the take of a driver: the one in force, first, and the newest of every other place; `timed`: the newest
    there that keeps time."""
    force = now.takes[name]
    found = {force.details.position: force}
    for one in now.known_takes:  # the newest first
        usable = one.purpose == "driver" and one.has_impulse and not one.discarded and not one.details.angle
        usable = usable and (one.timed or not timed)
        if usable and one.channels[0] == name and one.details.position not in found and not sick(space, one):
            found[one.details.position] = one
    return found


def all_at_spots(space: Workspace, now: Scene) -> tuple[ComplexArray, tuple[str, ...]]:
    """Bare responses (p, d, n): those in force, and those of every other place at which all drivers were recorded."""
    here, clock = now.takes[now.ids[0]].details.position, now.takes[now.ids[0]].clock
    by_driver = {name: at_spots(space, now, name, timed=True) for name in now.ids}
    others = [
        spot
        for spot in by_driver[now.ids[0]]
        if spot != here and all(spot in takes and _same_clock(takes[spot].clock, clock) for takes in by_driver.values())
    ]
    rows = [np.array([np.nan_to_num(bare(space, by_driver[name][spot])) for name in now.ids]) for spot in others]
    return np.array([now.rows, *rows], dtype=complex), (here, *others)


def _same_clock(one: str, other: str) -> bool:
    """A marker is heard at a place: clocks by one marker at two places are each their own, and each keeps time."""
    return one.split("@")[0] == other.split("@")[0]
