"""What Rig shows: what is divided out of every take, or an input as it is."""

import numpy as np

from imbrix.core.signal.signal import decibels
from imbrix.core.tune.tune import Tune
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.known import Scene
from imbrix.work.rig import checked, corrections
from imbrix.work.rig import rig as chosen_rig
from imbrix.work.views import input as one_input
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View


def draw(space: Workspace, slug: str, view: View, tune: Tune, now: Scene, picture: Picture) -> None:
    """What is divided out of every take: the microphone's corrections and the interface's own response."""
    if view.part == "input":
        shown, marked = (view.raw_from, view.raw_to), (view.mark_from, view.mark_to)
        one_input.draw(space, slug, picture, view.take, shown, marked)
        return
    chosen = chosen_rig.rig(space)
    for pointing, wanted in chosen.corrections.items():
        if wanted is not None:
            values = decibels(corrections.on_grid(space, wanted))
            role = "bold-sum" if pointing == chosen.pointing else "reference"
            picture.add(f"microphone-{pointing}", values, role, label=f"microphone, pointing at the {pointing}")
    if chosen.check:
        own = checked.check_curve(space, chosen.check.made, against_reference=False)
        if own is not None:
            picture.add("interface", decibels(own), "interface", label="interface, looped")
    if chosen.level and view.part == "level":
        over = np.full(space.grid.size, np.nan)
        for middle, value in chosen.level.over_noise_db.items():
            centre = float(middle)
            over[(space.grid >= centre / 2**0.5) & (space.grid < centre * 2**0.5)] = value
        picture.add("over-noise", over, "correction", pane="lower", label="signal over noise by octave")
