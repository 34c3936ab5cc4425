"""What Seams shows of the whole: both sides, what they add up to, and what they lose to each other in the bass."""

import numpy as np

from imbrix.core.align.problem import TOGETHER_HZ
from imbrix.core.look.phase import wrapped_degrees
from imbrix.core.signal.signal import decibels, power_decibels
from imbrix.core.signal.smoothing import smooth, smooth_power
from imbrix.core.system.layout import SIDES, Side
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import predicted, summed
from imbrix.work.tune.revisions import head
from imbrix.work.tune.targets import placed
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View, level

WHOLE = "whole"
"""The seam that stands for all of them."""


def draw(space: Workspace, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    """Add the target, both sides, their sum, and below 500 Hz what the sum would be in phase; the sum that stands
    faintly, where the tune is a draft."""
    picture.facts["seam"] = WHOLE
    picture.add("target", placed(space, slug, tune), "target", label="target")
    if not now.ids:
        picture.facts["lacking"] = "no driver has a take yet: record them in Drivers first"
        return
    present = head(space, slug).tune
    if present != tune:
        before = summed(now, predicted(space, now, present), present)
        picture.add("present", level(space, before, view), "sum-faint", label="as it stands")
    responses = predicted(space, now, tune)
    sides = {side: {name for name in now.ids if _plays(now, tune, name, side)} for side in SIDES}
    sums = {side: summed(now, responses, tune, names) for side, names in sides.items() if names}
    for side, response in sums.items():
        picture.add(side, level(space, response, view), f"side-{side}", label=side)
    picture.add("sum", level(space, summed(now, responses, tune), view), "sum", label="whole")
    if len(sums) < 2:
        return
    left, right = sums["left"], sums["right"]
    first, second = (smooth_power(one, space.grid, view.smoothing) for one in (left, right))
    heard = (space.grid <= TOGETHER_HZ) & (np.abs(power_decibels(first) - power_decibels(second)) < 25)
    both = power_decibels(smooth_power(left + right, space.grid, view.smoothing)) + space.offset_db
    ideal = decibels(np.sqrt(first) + np.sqrt(second)) + space.offset_db
    picture.add("both", np.where(heard, both, np.nan), "edge", label="left and right")
    picture.add("ideal", np.where(heard, ideal, np.nan), "ideal", label="in phase")
    angle = wrapped_degrees(smooth(right * np.conjugate(left), space.grid, view.smoothing or 24))
    picture.add("phase", np.where(heard, angle, np.nan), "phase", pane="lower")


def _plays(now: Scene, tune: Tune, name: str, side: Side) -> bool:
    return now.layout.driver(name).side == side and tune.audible(name)
