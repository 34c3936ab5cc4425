"""Left against right under the main plot: of a way, or of all that plays in front."""

import numpy as np

from imbrix.core.signal.signal import ComplexArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layout import SIDES
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.predict.scene import summed
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View

ONE_SIDED = "this has no other side to be held against"
UNDER_DB = 20.0
"""What lies so far under the loudest of its side is no part of the image."""


def add(space: Workspace, now: Scene, responses: ComplexArray, tune: Tune, view: View, picture: Picture) -> None:
    """Add left over right (n,) in dB where both sides play; the facts say where there are no two."""
    picture.facts.pop("lacking", None)
    sums = []
    for side in SIDES:
        names = {name for name in now.ids if now.layout.driver(name).side == side and _meant(now, tune, view, name)}
        if not names:
            picture.facts["lacking"] = ONE_SIDED
            return
        sums.append(smooth_power(summed(now, responses, tune, names), space.grid, view.smoothing))
    levels = [power_decibels(one) for one in sums]
    heard = np.all([one > one.max() - UNDER_DB for one in levels], axis=0)
    picture.add("sides", np.where(heard, levels[0] - levels[1], np.nan), "difference", pane="lower")


def _meant(now: Scene, tune: Tune, view: View, name: str) -> bool:
    """Whether a channel is looked at: the way that is selected, else all that plays in front."""
    driver = now.layout.driver(name)
    if view.selection:
        chosen = now.layout.driver(view.selection)
        return (driver.kind, driver.group) == (chosen.kind, chosen.group)
    return driver.group == now.layout.main and tune.audible(name)
