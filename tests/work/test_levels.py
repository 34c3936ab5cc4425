"""Level test, calibrator and level meter: what a level reads in decibels, and when that is out of date."""

import pytest

from imbrix.core.errors import ConflictError
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import decibels
from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.checks import level, reference
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import change, readiness, rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import reading, shelf
from imbrix.work.takes.recording import start_sweep
from tests.helpers.job import run

GRID = log_grid()


def test_the_level_test_tells_peak_noise_and_signal_over_noise(demo: Workspace) -> None:
    assert run(demo, level.start_level, SLUG, "mid-l").stage == "done"
    found = rig.rig(demo).level
    assert -30 < found.peak_dbfs < -15
    assert found.noise_dbfs == pytest.approx(-74, abs=1.5)
    assert found.over_noise_db["1000"] > 35 > found.over_noise_db["63"]
    # A weighting hardly counts the rumble, which most of this quiet is.
    assert 15 < found.quiet_db_a < 112 + found.noise_dbfs - 5
    assert level.level_advice(found.model_copy(update={"peak_dbfs": -18.0})) == ""
    assert "raise" in level.level_advice(found.model_copy(update={"peak_dbfs": -40.0}))
    assert "lower" in level.level_advice(found.model_copy(update={"peak_dbfs": -3.0}))


@pytest.mark.parametrize("level", [94.0, 114.0])
@pytest.mark.parametrize("gain_db", [0.0, -11.0])
def test_after_calibration_levels_are_true_within_two_tenths(demo: Workspace, level: float, gain_db: float) -> None:
    demo.standin.model.gain_db = gain_db
    demo.standin.practice = Practice(plugged=f"calibrator-{level:.0f}")
    progress = run(demo, reference.start_calibrate, level)
    if level - 112 + gain_db > -3.02:  # the calibrator itself would clip
        assert progress.cause == "clipped"
        return
    assert progress.stage == "done"
    truth = demo.standin.full_scale_db_spl
    assert rig.rig(demo).reference.full_scale_db_spl == pytest.approx(truth, abs=0.2)
    demo.standin.practice = Practice()
    one = shelf.take(demo, SLUG, run(demo, start_sweep, SLUG, ("mid-r",), "driver").take_id)
    inside = (GRID > 300) & (GRID < 5000)
    pascals = demo.standin.cabin.truth(4, GRID[inside])
    shown = decibels(reading.bare(demo, one)[inside]) + demo.offset_db
    spl = decibels(pascals / 20e-6) - 24
    assert (shown - spl).mean() == pytest.approx(0, abs=0.2)


def test_no_calibrator_is_told_and_wrong_levels_are_refused(demo: Workspace) -> None:
    progress = run(demo, reference.start_calibrate, 94.0)
    assert progress.cause == "calibrator"
    assert "no tone stands out" in progress.message
    with pytest.raises(ValueError, match="94 or 114"):
        reference.start_calibrate(Recorder(demo), 100.0)


@pytest.mark.walk
def test_a_level_meter_gives_the_same_reference(demo: Workspace) -> None:
    recorder = Recorder(demo)
    reference.start_by_meter(recorder, SLUG, "mid-r")
    progress = recorder.wait()
    result = progress.result
    reference.by_meter(recorder, result["meter_db_c"])
    assert rig.rig(demo).reference.full_scale_db_spl == pytest.approx(demo.standin.full_scale_db_spl, abs=0.2)
    assert "level meter" in rig.rig(demo).reference.how
    with pytest.raises(ConflictError, match="play the pink noise first"):
        reference.by_meter(Recorder(demo), 80.0)


def test_another_microphone_or_input_makes_the_reference_stale(demo: Workspace) -> None:
    change.change(demo, {"pointing": "source"})
    assert "another microphone or correction" in readiness.stale(demo)["reference"]
    change.change(demo, {"pointing": "ceiling"})
    assert not readiness.stale(demo)
