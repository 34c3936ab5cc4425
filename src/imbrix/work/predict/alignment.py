"""Delays by arrival: so that all drivers' sound comes at once, and rear and centre as they belong to the front."""

import numpy as np

from imbrix.core.align.fill import Fill, fill
from imbrix.core.errors import ConflictError
from imbrix.core.signal.grid import span_mask
from imbrix.core.signal.signal import ComplexArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import Group, Side
from imbrix.core.tune.edits import SetDelays
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import processors
from imbrix.work.ground.memory import Drawer
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import acoustic_target, scene
from imbrix.work.predict.spots import at_a_head, require_time
from imbrix.work.takes.reading import arrival
from imbrix.work.tune.revisions import Head, commit, head

FILLED: Drawer[tuple[object, ...], Fill] = Drawer("rear and centre", 32)
FITTED_SMOOTHING = 3.0
NARROW = 1.05
"""No band is so narrow that no point of the grid lies in it."""
LIFTED_DB = 3.0
"""A dip is lifted by so much at most over what all of a channel needs."""


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
    tune = head(space, slug).tune

    arrivals = {name: arrival(space, slug, now.takes[name]) for name in now.ids}

    def find() -> Fill:
        sums = _as_fitted(space, slug, now, tune)
        return fill(layout, tune, arrivals, processors.model(space, slug), sums, space.grid)

    heard = (now.stamp, tuple(arrivals.values()))
    key = (slug, heard, layout.model_dump_json(), tune.model_dump_json(), processors.key_of(space, slug))
    return space.memory.of(FILLED, key, find)


def _as_fitted(space: Workspace, slug: str, now: Scene, tune: Tune) -> dict[tuple[Group, Side], ComplexArray]:
    """By group and side, what its channels play together (p, n) at the spots of a head, each brought to its
    share of the target as a fit will: peaks go, dips are lifted by a little only."""
    through = space.predictor_at(now.rate).through(tune, now.ids)
    rows = at_a_head(space, slug, now) * through
    found: dict[tuple[Group, Side], ComplexArray] = {}
    for n, name in enumerate(now.ids):
        driver = now.layout.driver(name)
        wanted, low, high = acoustic_target(space, slug, tune, driver)
        lacks = wanted - power_decibels(smooth_power(rows[0, n], space.grid, FITTED_SMOOTHING))
        # Ends may have been crossed, the high-pass over the low-pass: what lies about them counts then.
        inside = span_mask(space.grid, min(low, high) / NARROW, max(low, high) * NARROW)
        lift = np.minimum(lacks, float(np.median(lacks[inside])) + LIFTED_DB)
        key = (driver.group, driver.side)
        found[key] = found.get(key, 0.0) + rows[:, n] * 10 ** (lift / 20)
    return found
