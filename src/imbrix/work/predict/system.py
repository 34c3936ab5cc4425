"""The system of a project as an alignment sees it: bare takes at every place, arrivals, and what voicing will do."""

from dataclasses import replace

from imbrix.core.align.problem import Arrival, System
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.fitting import expected
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import common_clock, scene
from imbrix.work.predict.spots import all_at_spots, require_time
from imbrix.work.takes.reading import arrival, onset_of


def system_of(space: Workspace, slug: str, now: Scene) -> tuple[System, tuple[str, ...]]:
    """The system of a project as an alignment sees it, and the places that it is heard at.

    Raises ConflictError as `require_time` does.
    """
    require_time(now)
    rows, places = all_at_spots(space, now)
    return replace(timed_system(space, slug, now), bare=rows), places


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
