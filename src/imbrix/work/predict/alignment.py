"""Delays by arrival: so that all drivers' sound comes at once."""

from imbrix.core.tune.edits import SetDelays
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import scene
from imbrix.work.predict.system import require_time
from imbrix.work.takes.reading import arrival
from imbrix.work.tune.revisions import Head, commit, head


def align_arrivals(space: Workspace, slug: str) -> Head:
    """Set the delays so that all drivers' direct sound arrives at once: the farthest gets none.

    Raises ConflictError where takes are missing, keep no time, or keep it by different clocks.
    """
    on = head(space, slug).id
    now = scene(space, slug)
    require_time(now)
    arrivals = {name: arrival(space, slug, now.takes[name]) for name in now.ids}
    last = max(arrivals.values())
    delays = {name: last - comes for name, comes in arrivals.items()}
    return commit(space, slug, [SetDelays(delays_s=delays)], "Delays set by arrival", on)
