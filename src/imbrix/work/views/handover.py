"""What Handover shows: what each channel of the processor should do, and faintly what it does where that differs.

With a fixed-point format as the part it shows what rounding the coefficients does.
"""

import numpy as np

from imbrix.core.errors import InvalidError
from imbrix.core.signal.signal import decibels
from imbrix.core.tune.fixed_point import Format, error_db, rounded
from imbrix.core.tune.lower import lower
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.processor.link import read_back
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View


def draw(space: Workspace, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    if view.part:
        _rounding(space, Format.read(view.part), tune, now, picture)
        return
    held = read_back(space, slug, tune)
    predictor = space.predictor_at(now.rate)
    for driver in now.layout.drivers:
        wanted = decibels(predictor.through(tune, [driver.id])[0])
        picture.add(f"tune-{driver.id}", wanted, "plain", label=driver.name, channel=driver.id)
        has = decibels(predictor.through(held, [driver.id])[0])
        if not np.allclose(has, wanted, atol=0.01):
            picture.add(f"held-{driver.id}", has, "faint", channel=driver.id)


def _rounding(space: Workspace, fixed: Format, tune: Tune, now: Scene, picture: Picture) -> None:
    """By how much each output would be louder in fixed point; none for an output that the format cannot hold."""
    for driver in now.layout.drivers:
        exact = lower(tune.channels[driver.id], tune.common, now.rate).sos
        try:
            away = error_db(exact, rounded(exact, fixed), space.grid, now.rate)
        except InvalidError:
            continue
        picture.add(f"rounded-{driver.id}", away, "plain", label=driver.name, channel=driver.id)
