"""Delays by arrival: so that all drivers' sound comes at once."""

from imbrix.core.errors import ConflictError
from imbrix.core.tune.edits import SetDelays
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import scene
from imbrix.work.takes.reading import arrival
from imbrix.work.tune.revisions import Head, commit, head


def align_arrivals(space: Workspace, slug: str) -> Head:
    """Set the delays so that all drivers' direct sound arrives at once: the farthest gets none.

    Raises ConflictError where takes are missing or keep no time.
    """
    on = head(space, slug).id
    now = scene(space, slug)
    lacking = [d.name for d in now.layout.drivers if d.id not in now.ids or not now.takes[d.id].timed]
    if lacking:
        raise ConflictError(f"{', '.join(lacking)}: no take that keeps time, so the arrival is not known")
    clocks = {now.takes[name].clock for name in now.ids}
    if len(clocks) > 1:
        raise ConflictError("the takes keep time by different clocks (loopback, marker): record them alike")
    arrivals = {name: arrival(space, slug, now.takes[name]) for name in now.ids}
    last = max(arrivals.values())
    delays = {name: last - comes for name, comes in arrivals.items()}
    return commit(space, slug, [SetDelays(delays_s=delays)], "Delays set by arrival", on)
