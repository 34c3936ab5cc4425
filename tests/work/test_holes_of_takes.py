"""Corners by what takes show of holes, against what the place knows of itself."""

from pathlib import Path

import numpy as np
import pytest

from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.system.layouts import ready
from imbrix.standins.cabin import tour
from imbrix.work.ground import places
from imbrix.work.ground.projects import create_project
from imbrix.work.ground.workspace import open_workspace
from imbrix.work.predict.corners import corners_of
from imbrix.work.predict.scene import scene
from imbrix.work.rig import change
from imbrix.work.takes.moving import start_moving
from imbrix.work.takes.recording import start_sweep
from tests.helpers.job import run

SLUG = "four"
CHANNELS = ("woofer-l", "woofer-r", "midbass-l", "midbass-r")


@pytest.mark.walk
def test_a_hole_that_the_whole_head_hears_moves_the_corner_whatever_it_was_recorded_by(tmp_path: Path) -> None:
    """In the vehicle of this number both midbasses are gone at 160 Hz, as the place itself knows, the woofers not."""
    space = open_workspace(tmp_path / "data", pace=0)
    create_project(space, SLUG, "Four", ready("four-way", "right"))
    places.put(space, SLUG, "drawn-9300")
    place = places.place(space, SLUG)
    assert place is not None
    outputs = {one.id: one.output - 1 for one in space.layout(SLUG).drivers}

    def truth(channel: str, hertz: float) -> float:
        heard = [smooth_power(place.cabin.truth(outputs[channel], space.grid, spot), space.grid, 6) for spot in tour()]
        return float(10 * np.log10(np.mean(heard, axis=0)[np.argmin(np.abs(space.grid - hertz))]))

    for channel in CHANNELS[2:]:
        assert truth(channel, 160) < min(truth(channel, 120), truth(channel, 230)) - 6
    for channel in CHANNELS[:2]:
        assert truth(channel, 160) > min(truth(channel, 120), truth(channel, 230)) - 2

    def corner() -> tuple[float, str]:
        found = corners_of(space, SLUG, scene(space, SLUG))["midbass-l"].high_pass
        return found.hertz, found.says[0]

    assert corner()[0] == 120
    for spot in ("Middle of the head", "Left ear"):
        change.change(space, {"position": spot})
        for channel in CHANNELS:
            assert run(space, start_sweep, SLUG, (channel,), "driver").stage == "kept"
        hertz, says = corner()
        assert 160 < hertz < 260
        assert "the midbass has a hole of" in says
        assert "Hz, and the woofer plays there" in says
    for channel in CHANNELS:
        assert run(space, start_moving, SLUG, (channel,), "driver").stage == "kept"
    assert corner()[0] == pytest.approx(hertz, rel=0.15)
    space.close()
