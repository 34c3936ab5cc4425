"""A closer look under the main plot: what it shows of the stand-ins, and what it refuses in words."""

import numpy as np
import pytest

from imbrix.core.smoothing import smooth_db
from imbrix.standins.wren import SLUG
from imbrix.work import takes, tuning
from imbrix.work.closer import EXPLAINS
from imbrix.work.desk import Desk
from imbrix.work.picture import Picture
from imbrix.work.player import Recorder
from imbrix.work.recording import start_moving
from imbrix.work.views import View, draw


def look(desk: Desk, below: str, selection: str = "mid-l", **more: object) -> Picture:
    view = View(stage="drivers", selection=selection, below=below, **more)  # type: ignore[arg-type]
    return draw(desk, SLUG, view, tuning.head(desk, SLUG).tune)


@pytest.mark.parametrize("below", list(EXPLAINS))
def test_every_closer_look_has_curves_and_a_word_on_what_is_good(demo: Desk, below: str) -> None:
    picture = look(demo, below)
    assert "Good:" in picture.facts["explains"]
    drawn = [curve for curve in picture.curves if curve.pane in ("lower", "time", "map")]
    assert drawn
    assert all(np.isfinite(curve.values).any() for curve in drawn if curve.role != "edge")
    assert not any(curve.pane == "lower" and curve.values.size != demo.grid.size for curve in drawn)


def test_left_and_right_are_told_apart_in_time(demo: Desk) -> None:
    sides = look(demo, "impulse").facts["sides"]
    assert sides["name"] == "Mid R"
    # The stand-in's own distances: 1.29 m on the left, 0.86 m on the right, at 19 degrees.
    assert sides["cm"] == pytest.approx(-43, abs=1.5)
    assert sides["samples"] == pytest.approx(sides["ms"] * 48, rel=1e-6)


def test_the_first_reflection_is_that_of_the_cabin(demo: Desk) -> None:
    found = look(demo, "impulse").facts["gate"]["reflection_ms"]
    ways = [extra for extra, level, _ in demo.standin.cabin.seats[3].path.reflections if level > -18]
    assert found == pytest.approx(min(ways) / 342.6 * 1e3, abs=0.1)


def test_a_gate_takes_the_reflections_out_above_its_lowest_frequency(demo: Desk) -> None:
    wide = look(demo, "impulse")
    gated = look(demo, "impulse", gate_ms=0.9)
    assert gated.facts["lowest_hz"] == pytest.approx(1111, abs=1)
    curve = next(c.values for c in gated.curves if c.id == "gated")
    whole = next(c.values for c in wide.curves if c.id == "bare-mid-l")
    inside = (demo.grid > 1500) & (demo.grid < 8000)
    ripple = [np.std(np.diff(values[inside], 2)) for values in (curve, whole)]
    assert ripple[0] < ripple[1] / 3
    assert not any(c.id == "gated" for c in wide.curves)


def test_a_long_gate_gives_the_bare_response_back(demo: Desk) -> None:
    from imbrix.work.closer import gated_bare

    one = takes.in_force(demo, SLUG)["tweeter-l"]
    mine, whole = gated_bare(demo, one, 500.0), takes.bare(demo, one)
    inside = (demo.grid > 1000) & (demo.grid < 18_000)
    apart = smooth_db(np.nan_to_num(mine), demo.grid, 12) - smooth_db(np.nan_to_num(whole), demo.grid, 12)
    assert np.abs(apart[inside]).max() < 0.1


def test_distortion_rises_with_level_as_the_stand_in_has_it(demo: Desk) -> None:
    facts = look(demo, "distortion", selection="sub").facts["distortion"]
    # Second 0.05, third 0.04 of full scale, driven at -24 dBFS: well under one per cent in the sub's band.
    assert facts["worst_percent"] < 3
    clear = next(c.values for c in look(demo, "distortion", selection="sub").curves if c.id == "total")
    assert np.isnan(clear[demo.grid > 400]).all()


def test_decay_times_are_short_in_a_van_and_longer_in_its_bass(demo: Desk) -> None:
    known = {round(one["hertz"]): one["t20"] for one in look(demo, "waterfall").facts["decay"] if one["t20"]}
    assert 0.01 < known[1000] < 0.1
    assert known[100] > known[1000]


def test_what_shows_levels_only_says_so(demo: Desk) -> None:
    recorder = Recorder(demo)
    for name in ("mid-l",):
        takes.discard(demo, SLUG, takes.in_force(demo, SLUG)[name].id, True)
    start_moving(recorder, SLUG, ("mid-l",), "driver")
    recorder.wait(120)
    assert "shows levels only" in look(demo, "impulse").facts["lacking"]
    assert "no phase" in look(demo, "phase").facts["lacking"]
