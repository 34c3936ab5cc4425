"""The places of the microphone at which drivers were recorded: one by one, and all of them at the same place."""

import numpy as np

from imbrix.core.errors import ConflictError
from imbrix.core.signal.signal import ComplexArray
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.rig import rig
from imbrix.work.takes.reading import bare, sick
from imbrix.work.takes.shelf import Take

Spots = dict[str, dict[str, Take]]
"""By driver, and by place of the microphone, a take."""


def spots_of(space: Workspace, now: Scene, timed: bool = False) -> Spots:
    """The take in force of every driver, first, and the newest of every other place; `timed`: the newest there that
    keeps time."""
    found = {name: {take.details.position: take} for name, take in now.takes.items()}
    for one in now.known_takes:  # the newest first
        if one.purpose != "driver" or one.discarded or not one.has_impulse or one.details.angle:
            continue
        mine = found.get(one.channels[0])
        if mine is None or one.details.position in mine or (timed and not one.timed) or sick(space, one):
            continue
        mine[one.details.position] = one
    return found


def all_at_spots(space: Workspace, now: Scene) -> tuple[ComplexArray, tuple[str, ...]]:
    """Bare responses (p, d, n): those in force, and those of every other place at which all drivers were recorded."""
    found = spots_of(space, now, timed=True)
    here, *others = in_common(now, found)
    rows = [np.array([np.nan_to_num(bare(space, found[name][spot])) for name in now.ids]) for spot in others]
    return np.array([now.rows, *rows], dtype=complex), (here, *others)


def at_a_head(space: Workspace, slug: str, now: Scene) -> ComplexArray:
    """Bare responses (p, d, n) at the spots of one head: those in force, and those of every other place within its
    reach at which all drivers were recorded."""
    found = spots_of(space, now, timed=True)
    here, *others = in_common(now, found)
    reach = of_a_head(space, slug, here)
    heard = [now.takes, *({name: found[name][spot] for name in now.ids} for spot in others if spot in reach)]
    return np.array([[np.nan_to_num(bare(space, one[name])) for name in now.ids] for one in heard], dtype=complex)


def of_a_head(space: Workspace, slug: str, here: str) -> set[str]:
    """The places of the microphone, by name, that are of one head with one of them, itself included."""
    return {here, *(one.name for one in rig.near(space, slug, here))}


def in_common(now: Scene, found: Spots) -> tuple[str, ...]:
    """The place of the takes in force, and every other one at which all drivers were recorded by the same clock."""
    first = now.takes[now.ids[0]]
    return (
        first.details.position,
        *(
            spot
            for spot in found[now.ids[0]]
            if spot != first.details.position
            and all(spot in takes and _same_clock(takes[spot].clock, first.clock) for takes in found.values())
        ),
    )


def common_places(space: Workspace, now: Scene) -> int:
    """At how many places every driver of the system was recorded so that they can be fitted together; 0 where the takes
    in force keep no time, or not by one clock."""
    try:
        require_time(now)
    except ConflictError:
        return 0
    return len(in_common(now, spots_of(space, now, timed=True)))


def require_time(now: Scene) -> None:
    """Raise ConflictError where takes are missing, keep no time, or keep it by different clocks."""
    lacking = [one.name for one in now.layout.drivers if one.id not in now.ids]
    if lacking:
        raise ConflictError(f"{', '.join(lacking)}: no take yet; record every driver first")
    late = [now.layout.driver(name).name for name in now.ids if not now.takes[name].timed]
    if late:
        raise ConflictError(f"{', '.join(late)}: the take keeps no time, so that nothing can be aligned with it")
    if len({now.takes[name].clock for name in now.ids}) > 1:
        raise ConflictError("the takes keep time by different clocks (loopback, marker): record them alike")


def _same_clock(one: str, other: str) -> bool:
    """A marker is heard at a place: clocks by one marker at two places are each their own, and each keeps time."""
    return one.split("@")[0] == other.split("@")[0]
