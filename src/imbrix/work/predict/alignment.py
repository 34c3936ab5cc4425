"""Delays by arrival: so that all drivers' sound comes at once, and rear and centre as they belong to the front."""

from imbrix.core.align.fill import Fill, fill
from imbrix.core.errors import ConflictError
from imbrix.core.system.layout import Group
from imbrix.core.tune.edits import SetDelays
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import scene
from imbrix.work.predict.spots import require_time
from imbrix.work.takes.reading import arrival
from imbrix.work.tune.revisions import Head, commit, head


def align_arrivals(space: Workspace, slug: str) -> Head:
    """Set the delays so that all drivers' direct sound arrives at once: the farthest gets none.

    Raises ConflictError where takes are missing, keep no time, or keep it by different clocks.
    """
    on = head(space, slug).id
    now = scene(space, slug)
    require_time(now)
    tune, rate = head(space, slug).tune, processors.model(space, slug).rate
    arrivals = {name: arrival(space, slug, now.takes[name]) + tune.channels[name].tap_delay / rate for name in now.ids}
    last = max(arrivals.values())
    delays = {name: last - comes for name, comes in arrivals.items()}
    return commit(space, slug, [SetDelays(delays_s=delays)], "Delays set by arrival", on)


def filled(space: Workspace, slug: str) -> Fill:
    """What sets the delays of rear and centre against the front as it stands. Nothing is kept.

    Raises ConflictError where the system has neither beside a front, and as `align_arrivals` does.
    """
    layout = space.layout(slug)
    if not {one.group for one in layout.drivers} & {Group.REAR, Group.CENTRE} - {layout.main}:
        raise ConflictError("this system has no rear and no centre beside its front")
    now = scene(space, slug)
    require_time(now)
    arrivals = {name: arrival(space, slug, now.takes[name]) for name in now.ids}
    return fill(layout, head(space, slug).tune, arrivals, processors.model(space, slug))
