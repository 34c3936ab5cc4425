"""Fits of a project: to the target, and of one side to the other."""

import numpy as np
import pytest

from imbrix.core.errors import NotHereError
from imbrix.core.predict.fit import FitLimits
from imbrix.core.signal.smoothing import smooth_db
from imbrix.core.tune.edits import SetCrossover
from imbrix.standins.places.van import SLUG
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict import fitting
from imbrix.work.predict.scene import predicted, scene
from imbrix.work.tune.revisions import commit, head


def test_a_side_is_fitted_to_what_the_other_does(demo: Workspace) -> None:
    def apart() -> float:
        now = scene(demo, SLUG, spatial=True)
        levels = [
            smooth_db(predicted(demo, now, head(demo, SLUG).tune)[now.ids.index(name)], demo.grid, 6)
            for name in ("mid-l", "mid-r")
        ]
        inside = (demo.grid > 400) & (demo.grid < 5000)
        return float(np.sqrt(np.mean((levels[0] - levels[1])[inside] ** 2)))

    for name in ("mid-l", "mid-r"):
        commit(
            demo, SLUG, [SetCrossover(channel=name, end="high_pass", shape="butterworth", slope_db=12, corner_hz=300)]
        )
    fitting.fit_channels(demo, SLUG, ("mid-l",), FitLimits())
    fitting.fit_channels(demo, SLUG, ("mid-r",), FitLimits(count=10))
    to_target = apart()
    made = fitting.fit_channels(demo, SLUG, ("mid-r",), FitLimits(count=10), like="mid-l")
    assert made.head.summary.startswith("Fit Mid R to Mid L: ")
    assert apart() < to_target
    with pytest.raises(NotHereError):
        fitting.fit_channels(demo, SLUG, ("mid-r",), FitLimits(), like="no-such-driver")
