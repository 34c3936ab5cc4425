"""A closer look under the main plot: what it shows of the stand-ins, and what it refuses in words."""

import numpy as np
import pytest

from imbrix.core.signal.smoothing import smooth_db
from imbrix.standins.places.van import SLUG
from imbrix.work.ground import places
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import link
from imbrix.work.rig import change, rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import bands, forces, reading, shelf
from imbrix.work.takes.moving import start_moving
from imbrix.work.takes.recording import start_sweep
from imbrix.work.tune import revisions
from imbrix.work.views.closer import EXPLAINS
from imbrix.work.views.draw import draw
from imbrix.work.views.lens import Lens
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View


def look(space: Workspace, below: str, selection: str = "mid-l", **more: object) -> Picture:
    view = View(stage="drivers", selection=selection, below=below, **more)  # type: ignore[arg-type]
    return draw(space, SLUG, view, revisions.head(space, SLUG).tune)


@pytest.mark.parametrize("below", [one for one in EXPLAINS if one not in ("difference", "angles")])
def test_every_closer_look_has_curves_and_a_word_on_what_is_good(demo: Workspace, below: str) -> None:
    picture = look(demo, below)
    assert "Good:" in picture.facts["explains"]
    drawn = [curve for curve in picture.curves if curve.pane in ("lower", "time", "map")]
    assert drawn
    assert all(np.isfinite(curve.values).any() for curve in drawn if curve.role != "edge")
    assert not any(curve.pane == "lower" and curve.values.size != demo.grid.size for curve in drawn)


def test_left_and_right_are_told_apart_in_time(demo: Workspace) -> None:
    sides = look(demo, "impulse").facts["sides"]
    assert sides["name"] == "Mid R"
    # The stand-in's own distances: 1.29 m on the left, 0.86 m on the right, at 19 degrees.
    assert sides["cm"] == pytest.approx(-43, abs=1.5)
    assert sides["samples"] == pytest.approx(sides["ms"] * 48, rel=1e-6)


def test_the_first_reflection_is_that_of_the_cabin(demo: Workspace) -> None:
    found = look(demo, "impulse").facts["gate"]["reflection_ms"]
    ways = [extra for extra, level, _ in demo.standin.cabin.seats[3].path.reflections if level > -18]
    assert found == pytest.approx(min(ways) / 342.6 * 1e3, abs=0.1)


def test_a_gate_takes_the_reflections_out_above_its_lowest_frequency(demo: Workspace) -> None:
    wide = look(demo, "impulse")
    gated = look(demo, "impulse", gate_ms=0.9)
    assert gated.facts["lowest_hz"] == pytest.approx(1111, abs=1)
    curve = next(c.values for c in gated.curves if c.id == "gated")
    whole = next(c.values for c in wide.curves if c.id == "bare-mid-l")
    inside = (demo.grid > 1500) & (demo.grid < 8000)
    ripple = [np.std(np.diff(values[inside], 2)) for values in (curve, whole)]
    assert ripple[0] < ripple[1] / 3
    assert not any(c.id == "gated" for c in wide.curves)


def test_a_long_gate_gives_the_bare_response_back(demo: Workspace) -> None:
    from imbrix.work.views.closer import gated_bare

    one = forces.in_force(demo, SLUG)["tweeter-l"]
    mine, whole = gated_bare(demo, one, 500.0), reading.bare(demo, one)
    inside = (demo.grid > 1000) & (demo.grid < 18_000)
    apart = smooth_db(np.nan_to_num(mine), demo.grid, 12) - smooth_db(np.nan_to_num(whole), demo.grid, 12)
    assert np.abs(apart[inside]).max() < 0.1


def test_distortion_rises_with_level_as_the_stand_in_has_it(demo: Workspace) -> None:
    facts = look(demo, "distortion", selection="sub").facts["distortion"]
    # Second 0.05, third 0.04 of full scale, driven at -24 dBFS: well under one per cent in the sub's band.
    assert facts["worst_percent"] < 3
    clear = next(c.values for c in look(demo, "distortion", selection="sub").curves if c.id == "total")
    assert np.isnan(clear[demo.grid > 400]).all()


def test_distortion_is_shown_where_the_driver_plays(space: Workspace) -> None:
    """In this place a reflection makes 600 Hz of the left mid faint at one point: that does not end what is shown."""
    places.put(space, SLUG, "drawn-41006")
    recorder = Recorder(space)
    start_sweep(recorder, SLUG, ("mid-l",), "driver")
    assert recorder.wait().stage == "kept"
    low, high = bands.band(space, SLUG, forces.in_force(space, SLUG)["mid-l"])
    noise = next(one.values for one in look(space, "distortion").curves if one.id == "noise")
    shown = space.grid[np.isfinite(noise)]
    assert (shown[0], shown[-1]) == pytest.approx((low, high), rel=0.02)
    assert low < 250


def test_decay_times_are_short_in_a_van_and_longer_in_its_bass(demo: Workspace) -> None:
    known = {round(one["hertz"]): one["t20"] for one in look(demo, "waterfall").facts["decay"] if one["t20"]}
    assert 0.01 < known[1000] < 0.1
    assert known[100] > known[1000]


def test_what_shows_levels_only_says_so(demo: Workspace) -> None:
    recorder = Recorder(demo)
    for name in ("mid-l",):
        shelf.discard(demo, SLUG, forces.in_force(demo, SLUG)[name].id, True)
    start_moving(recorder, SLUG, ("mid-l",), "driver")
    recorder.wait(120)
    assert "shows levels only" in look(demo, "impulse").facts["lacking"]
    assert "no phase" in look(demo, "phase").facts["lacking"]


def test_the_same_looks_serve_seam_voice_and_proof(demo: Workspace) -> None:
    tune = revisions.head(demo, SLUG).tune
    for below in ("phase", "group-delay", "minimum"):
        for view in (
            View(stage="seams", seam="mid-tweeter-left", below=below),
            View(stage="voice", selection="mid-l", below=below),
        ):
            picture = draw(demo, SLUG, view, tune)
            drawn = [one for one in picture.curves if one.pane == "lower"]
            assert drawn
            assert not any(one.id in ("phase", "correction") for one in drawn)
    assert "lacking" in draw(demo, SLUG, View(stage="seams", seam="mid-tweeter-left", below="impulse"), tune).facts
    assert "record" not in draw(demo, SLUG, View(stage="voice", selection="mid-l", below="step"), tune).facts
    recorder = Recorder(demo)
    link.send(demo, SLUG)
    start_sweep(recorder, SLUG, tuple(one.id for one in demo.layout(SLUG).drivers), "proof")
    assert recorder.wait().stage == "kept"
    for below in ("phase", "impulse", "envelope", "waterfall", "spectrogram", "distortion"):
        picture = draw(demo, SLUG, View(stage="proof", below=below), tune)
        assert "lacking" not in picture.facts
        assert any(one.pane in ("lower", "time", "map") for one in picture.curves)
    gate = draw(demo, SLUG, View(stage="proof", below="impulse", gate_ms=3.0), tune)
    assert gate.facts["lowest_hz"] == pytest.approx(333.3, abs=0.1)


def test_the_phase_of_a_predicted_sum_has_its_delay_taken_out(demo: Workspace) -> None:
    view = View(stage="seams", seam="mid-tweeter-left", below="unwrapped", smoothing=3)
    curve = next(one for one in draw(demo, SLUG, view, revisions.head(demo, SLUG).tune).curves if one.id == "phase-sum")
    inside = (demo.grid > 500) & (demo.grid < 8000)
    kept = View(stage="seams", seam="mid-tweeter-left", below="unwrapped", smoothing=3, lens=Lens(unwound=False))
    late = next(one for one in draw(demo, SLUG, kept, revisions.head(demo, SLUG).tune).curves if one.id == "phase-sum")
    assert np.ptp(curve.values[inside]) < 0.2 * np.ptp(late.values[inside])


def test_cycles_gate_the_treble_more_than_the_bass(demo: Workspace) -> None:
    few = next(one for one in look(demo, "impulse", lens=Lens(cycles=5)).curves if one.id == "gated")
    whole = next(one.values for one in look(demo, "impulse").curves if one.id == "bare-mid-l")
    high, low = (demo.grid > 3000) & (demo.grid < 9000), (demo.grid > 150) & (demo.grid < 300)
    assert few.label == "5 cycles"
    assert np.std(np.diff(few.values[high], 2)) < np.std(np.diff(whole[high], 2)) / 2
    assert np.abs(few.values[low] - whole[low]).mean() < 3


def test_distortion_reads_alike_in_every_unit_and_beside_a_louder_take(demo: Workspace) -> None:
    def total(unit: str, **more: object) -> tuple[np.ndarray, Picture]:
        picture = look(demo, "distortion", selection="sub", lens=Lens(unit=unit), **more)  # type: ignore[arg-type]
        return next(one.values for one in picture.curves if one.id == "total"), picture

    relative, _ = total("db")
    percent, _ = total("percent")
    spl, picture = total("spl")
    known = np.isfinite(relative)
    assert percent[known] == pytest.approx(100 * 10 ** (relative[known] / 20))
    own = next(one.values for one in picture.curves if one.id == "fundamental")
    assert spl[known] - own[known] == pytest.approx(relative[known])
    bare_level = next(one.values for one in picture.curves if one.id == "bare-sub")
    at = np.argmin(np.abs(demo.grid - 60))
    assert own[at] == pytest.approx(bare_level[at], abs=1.0)  # at -24 dBFS of drive, as the main curve is

    made = []
    for drive in (-14.0, -6.0):
        change.change(demo, {"sweep": rig.rig(demo).sweep.model_copy(update={"level_db": drive})})
        recorder = Recorder(demo)
        start_sweep(recorder, SLUG, ("sub",), "driver")
        made.append(recorder.wait().take_id)
    louder, picture = total("db", take=made[0])
    facts = picture.facts["distortion"]
    assert (facts["drive_dbfs"], facts["other"]["drive_dbfs"]) == (-6.0, -14.0)
    softer = next(one.values for one in picture.curves if one.id == "total-other")
    # The stand-in's second harmonic grows with the drive (closed form of its square): 8 dB louder, 8 dB more of it.
    both = np.isfinite(louder) & np.isfinite(softer) & (demo.grid > 30) & (demo.grid < 150)
    assert both.sum() > 20
    assert np.median((louder - softer)[both]) == pytest.approx(8, abs=2)


def test_a_decay_is_shown_over_the_time_and_window_asked_for(demo: Workspace) -> None:
    usual = look(demo, "waterfall").facts["map"]
    assert (usual["span_ms"], usual["window_ms"]) == (400, 300)
    room = look(demo, "waterfall", lens=Lens(room=True)).facts["map"]
    assert (room["span_ms"], room["window_ms"]) == (1000, 500)
    own = look(demo, "waterfall", lens=Lens(decay_ms=120, window_ms=50, rise_ms=5))
    assert own.facts["map"]["window_ms"] == 50
    assert max(next(one.x for one in own.curves if one.id == "map")) == pytest.approx(120)


def test_where_there_is_nothing_to_look_at_it_is_said(demo: Workspace, space: Workspace) -> None:
    for view in (
        View(stage="drivers", selection="mid-l", below="phase"),
        View(stage="seams", seam="mid-tweeter-left", below="impulse"),
        View(stage="voice", selection="mid-l", below="step"),
        View(stage="proof", below="waterfall"),
    ):
        assert "record" in draw(space, SLUG, view, revisions.head(space, SLUG).tune).facts["lacking"]
    whole = draw(demo, SLUG, View(stage="voice", below="group-delay"), revisions.head(demo, SLUG).tune)
    assert [one.label for one in whole.curves if one.pane == "lower"] == ["all channels"]
