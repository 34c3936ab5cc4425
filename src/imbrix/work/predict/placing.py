"""Placing the target: where the far side's mid needs no gain, for it sets the level of the whole."""

import numpy as np

from imbrix.core.plan.situation import Placing
from imbrix.core.signal.measures import Deviation, deviation
from imbrix.core.signal.signal import power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.work_order import work_order
from imbrix.core.tune.edits import SetTarget
from imbrix.core.tune.tune import Tune
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.asked import FIT_SMOOTHING
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import acoustic_target, predicted

MOST_GAIN_DB = 3.0
"""No channel is asked for more gain than this by where the target stands (common practice, no source): more costs
headroom, and a processor has little more to give."""


def placing(space: Workspace, slug: str, now: Scene, tune: Tune) -> Placing | None:
    """Where the target belongs; None before anything was recorded.

    No channel needs more than 3 dB of gain then: a weak driver brings all down.
    """
    order = [name for name in work_order(now.layout) if name in now.ids]
    if not order:
        return None
    strays = {name: found for name in order if (found := _strays(space, slug, now, tune, name)) is not None}
    first = order[0]
    if first not in strays:
        return None
    most = min(MOST_GAIN_DB, processors.model(space, slug).gain_db.most)
    level = round(min(strays[first].mean, *(one.mean + most for one in strays.values())) + tune.target.level_db, 1)
    return Placing(
        channel=first,
        off_db=tune.target.level_db - level,
        highest_db=max(0.0, strays[first].plus),
        lowest_db=max(0.0, strays[first].minus),
        edits=(SetTarget(level_db=level),),
    )


def _strays(space: Workspace, slug: str, now: Scene, tune: Tune, name: str) -> Deviation | None:
    """How a channel without gain and correction strays from its share of the target, between its corners."""
    plain = tune.with_channel(name, gain_db=0.0, bands=()).model_copy(update={"common": ()})
    row = now.ids.index(name)
    wanted, low, high = acoustic_target(space, slug, tune, now.layout.driver(name))
    power = smooth_power(predicted(space, now, plain)[row], space.grid, FIT_SMOOTHING)
    values = np.where(now.known[row], power_decibels(power) + space.offset_db, np.nan)
    return deviation(values, wanted, space.grid, low, high)
