"""The system of a project as an alignment sees it: bare takes at every place, arrivals, and what voicing will do."""

from dataclasses import replace

import numpy as np

from imbrix.core.align.problem import Arrival, System
from imbrix.core.errors import ConflictError
from imbrix.core.signal.signal import ComplexArray
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.fitting import expected
from imbrix.work.predict.scene import Scene, common_clock, scene
from imbrix.work.takes.reading import arrival, bare, onset_of, sick
from imbrix.work.takes.shelf import Take


def system_of(space: Workspace, slug: str, now: Scene) -> tuple[System, tuple[str, ...]]:
    """The system of a project as an alignment sees it, and the places that it is heard at.

    Raises ConflictError as `require_time` does.
    """
    require_time(now)
    rows, places = _at_places(space, now)
    return replace(timed_system(space, slug, now), bare=rows), places


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


def timed_system(space: Workspace, slug: str, now: Scene) -> System:
    """The system of the drivers whose takes keep time by the clock that most of them do, at the place of these."""
    clock = common_clock(now.takes.values())
    ids = tuple(name for name in now.ids if now.takes[name].timed and now.takes[name].clock == clock)
    arrivals = {}
    for name in ids:
        found = onset_of(space, slug, now.takes[name])
        likely = found is not None and found.likely
        seconds = arrival(space, slug, now.takes[name])
        arrivals[name] = Arrival(seconds, found.polarity if likely and found is not None else 0)
    wide = scene(space, slug, spatial=True)
    return System(
        layout=now.layout,
        ids=ids,
        bare=now.rows[None, [now.ids.index(name) for name in ids]],
        predictor=space.predictor_at(now.rate),
        arrivals=arrivals,
        limits=processors.model(space, slug),
        expects=lambda tune: expected(space, slug, wide, tune),
    )


def _at_places(space: Workspace, now: Scene) -> tuple[ComplexArray, tuple[str, ...]]:
    """Bare responses (p, d, n): those in force, and those of every other place at which all drivers were recorded."""
    here = now.takes[now.ids[0]].details.position
    at: dict[str, dict[str, Take]] = {}
    for one in now.known_takes:  # the newest first
        usable = (
            one.purpose == "driver" and one.timed and one.has_impulse and not one.discarded and not one.details.angle
        )
        if usable and one.channels[0] in now.ids and not sick(space, one):
            at.setdefault(one.details.position, {}).setdefault(one.channels[0], one)
    clock = now.takes[now.ids[0]].clock
    others = {
        name: takes
        for name, takes in at.items()
        if name != here and set(takes) == set(now.ids) and all(_same_clock(one.clock, clock) for one in takes.values())
    }
    rows = [now.rows, *([np.nan_to_num(bare(space, takes[name])) for name in now.ids] for takes in others.values())]
    return np.array(rows, dtype=complex), (here, *others)


def _same_clock(one: str, other: str) -> bool:
    """A marker is heard at a place: clocks by one marker at two places are each their own, and each keeps time."""
    return one.split("@")[0] == other.split("@")[0]
