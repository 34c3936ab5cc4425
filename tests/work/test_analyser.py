"""The live analyser against the stand-ins' truth: what it shows, follows, freezes and refuses."""

import time

import numpy as np
import pytest

from imbrix.core.errors import ConflictError
from imbrix.core.signal.signal import decibels
from imbrix.core.signal.smoothing import smooth_db
from imbrix.core.tune.edits import EDITS
from imbrix.standins.noise import Noise
from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import link
from imbrix.work.rig import change
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import analyser, forces, reading, shelf
from imbrix.work.takes.analyser import LiveChoice
from imbrix.work.tune import revisions
from imbrix.work.views import growing


def until(true, seconds: float = 40.0) -> None:
    deadline = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < deadline, "it did not come about"
        time.sleep(0.01)


def listening(space: Workspace, channels: tuple[str, ...], **choice: object) -> Recorder:
    """The analyser, settled: its delay found, and some frames since."""
    space.pace = 6.0
    recorder = Recorder(space)
    analyser.start(recorder, SLUG, channels, LiveChoice(**choice))  # type: ignore[arg-type]
    until(lambda: (recorder.progress.result or {}).get("settled") or recorder.progress.stage == "refused")
    until(lambda: recorder.progress.averages > 40 or recorder.progress.stage == "refused")
    return recorder


def curve(space: Workspace, recorder: Recorder) -> np.ndarray:
    return next(one.values for one in growing.draw(space, recorder.growing, 6).curves if one.id == "live")


def test_it_shows_the_driver_at_its_true_level_and_arrival(demo: Workspace) -> None:
    recorder = listening(demo, ("mid-r",), seconds=None, follow=False)
    shown = curve(demo, recorder)
    arrival = reading.reading(demo, forces.in_force(demo, SLUG)["mid-r"]).arrival_s
    assert recorder.progress.result["delay_ms"] == pytest.approx(arrival * 1e3, abs=0.1)
    assert recorder.progress.result["coherence"] > 0.9
    recorder.abort()
    assert recorder.wait().stage == "done"
    pascals = demo.standin.cabin.truth(4, demo.grid)
    truth = smooth_db(pascals / 20e-6, demo.grid, 6) - 24
    inside = (demo.grid > 250) & (demo.grid < 8000) & np.isfinite(shown)
    assert inside.sum() > 400
    assert np.sqrt(np.mean((shown - truth)[inside] ** 2)) < 0.7


def test_a_turned_knob_reaches_the_processor_and_the_curve(demo: Workspace) -> None:
    recorder = listening(demo, ("mid-l",), seconds=0.5)
    before = np.nanmean(curve(demo, recorder))
    edit = [{"do": "channel", "channel": "mid-l", "gain_db": -10}]
    revisions.commit(demo, SLUG, EDITS.validate_python(edit))
    until(lambda: demo.processor.read(4).channel.gain_db == -10)
    until(lambda: np.nanmean(curve(demo, recorder)) < before - 8)
    recorder.abort()
    recorder.wait()
    # What was followed stays in the processor: nothing is unsent.
    assert link.unsent(demo, SLUG) == []


def test_without_follow_the_processor_is_left_as_it_was(demo: Workspace) -> None:
    before = [demo.processor.read(output) for output in range(1, 8)]
    recorder = listening(demo, (), follow=False)
    revisions.commit(demo, SLUG, EDITS.validate_python([{"do": "channel", "channel": "mid-l", "gain_db": -10}]))
    count = recorder.progress.averages
    until(lambda: recorder.progress.averages > count + 5)
    assert demo.processor.read(4).channel.gain_db == 0
    recorder.abort()
    recorder.wait()
    assert [demo.processor.read(output) for output in range(1, 8)] == before


def test_a_frozen_curve_is_a_take_with_its_settings(demo: Workspace) -> None:
    recorder = listening(demo, ("mid-r",), seconds=None, size=2**14)
    shown = curve(demo, recorder)
    recorder.asked.add("keep")
    recorder.abort()
    progress = recorder.wait()
    assert progress.stage == "kept"
    one = shelf.take(demo, SLUG, progress.take_id)
    assert (one.purpose, one.method, one.timed, one.details.length) == ("proof", "moving", False, 2**14)
    assert "live analyser" in one.note
    kept = decibels(np.nan_to_num(reading.reading(demo, one).response)) + demo.offset_db
    inside = np.isfinite(shown) & (demo.grid > 400) & (demo.grid < 6000)
    assert np.abs((kept - shown)[inside]).mean() < 2.0


def test_averages_are_reset_on_request(demo: Workspace) -> None:
    recorder = listening(demo, ("mid-r",), seconds=None)
    count = recorder.progress.averages
    recorder.asked.add("reset")
    until(lambda: recorder.progress.averages < count)
    recorder.abort()
    recorder.wait()


def test_a_noisy_place_is_faded_not_drawn_as_if_it_were_true(demo: Workspace) -> None:
    demo.standin.cabin.noise = Noise(rumble_db_spl=85.0)
    recorder = listening(demo, ("tweeter-l",), follow=False)
    drawn = {one.id: one.values for one in growing.draw(demo, recorder.growing, 6).curves}
    recorder.abort()
    recorder.wait()
    bass = demo.grid < 200
    assert np.isnan(drawn["live"][bass]).all()
    assert np.isfinite(drawn["live-unclear"][bass]).any()
    demo.standin.cabin.noise = Noise()


def test_what_cannot_run_is_refused_in_words(demo: Workspace) -> None:
    demo.standin.practice = Practice(loopback_unplugged=True)
    recorder = listening(demo, ("mid-l",))
    assert recorder.wait().cause == "reference"
    assert "reference input is silent" in recorder.progress.message
    demo.standin.practice = Practice()
    change.change(demo, {"reference_input": None})
    with pytest.raises(ConflictError, match="reference input"):
        analyser.start(Recorder(demo), SLUG, (), LiveChoice())
    change.change(demo, {"device": "file"})
    with pytest.raises(ConflictError, match="with files"):
        analyser.start(Recorder(demo), SLUG, (), LiveChoice())
    change.change(demo, {"device": "stand-in"})
    with pytest.raises(ValueError, match="1000 points"):
        analyser.start(Recorder(demo), SLUG, (), LiveChoice(size=1000))


def test_a_knob_under_the_hand_is_heard_before_it_is_kept(demo: Workspace) -> None:
    recorder = listening(demo, ("mid-l",), seconds=0.3)
    before = np.nanmean(curve(demo, recorder))
    recorder.drafts[(SLUG, "")] = revisions.head(demo, SLUG).tune.with_channel("mid-l", gain_db=-12.0)
    until(lambda: demo.processor.read(4).channel.gain_db == -12)
    until(lambda: np.nanmean(curve(demo, recorder)) < before - 9)
    recorder.drafts.clear()  # let go without keeping it
    until(lambda: demo.processor.read(4).channel.gain_db == 0)
    recorder.abort()
    recorder.wait()


def test_below_the_curve_stand_phase_coherence_and_the_running_impulse(demo: Workspace) -> None:
    recorder = listening(demo, ("mid-r",), seconds=None, hold=True, track=True)
    drawn = {one.id: one for one in growing.draw(demo, recorder.growing, 6).curves}
    recorder.abort()
    recorder.wait()
    pascals = demo.standin.cabin.truth(4, demo.grid)
    inside = (demo.grid > 400) & (demo.grid < 3000) & np.isfinite(drawn["live-phase"].values)
    delay = recorder.progress.result["delay_ms"] / 1e3
    arrival = reading.reading(demo, forces.in_force(demo, SLUG)["mid-r"]).arrival_s
    assert delay == pytest.approx(arrival, abs=1e-4)
    true = np.degrees(np.angle(pascals * np.exp(2j * np.pi * demo.grid * delay)))
    apart = (drawn["live-phase"].values - true + 180) % 360 - 180
    assert np.median(np.abs(apart[inside])) < 12
    assert drawn["live-coherence"].values[inside].mean() > 0.9
    impulse = drawn["live-impulse"]
    assert abs(impulse.x[np.argmax(np.abs(impulse.values))]) < 0.1
    assert np.nanmax(drawn["live-held"].values - drawn["live"].values) < 3
    assert np.nanmin(drawn["live-held"].values - drawn["live"].values) > -0.5


def test_three_microphones_show_the_mean_of_their_places(demo: Workspace) -> None:
    recorder = listening(demo, ("tweeter-r",), seconds=None, follow=False, microphones=(2, 3))
    shown = curve(demo, recorder)
    recorder.abort()
    recorder.wait()
    places = ((0.0, 0.0), (-0.09, 0.0), (0.09, 0.0))
    power = np.mean([np.abs(demo.standin.cabin.truth(6, demo.grid, place)) ** 2 for place in places], axis=0)
    truth = smooth_db(np.sqrt(power).astype(complex) / 20e-6, demo.grid, 6) - 24
    inside = (demo.grid > 2000) & (demo.grid < 10_000) & np.isfinite(shown)
    assert inside.sum() > 150
    assert np.sqrt(np.mean((shown - truth)[inside] ** 2)) < 0.8
    with pytest.raises(ConflictError, match="in use already"):
        analyser.start(Recorder(demo), SLUG, (), LiveChoice(microphones=(1,)))
    with pytest.raises(ConflictError, match="no input 9"):
        analyser.start(Recorder(demo), SLUG, (), LiveChoice(microphones=(8,)))


def test_a_frozen_take_knows_all_its_settings(demo: Workspace) -> None:
    recorder = listening(demo, ("mid-r",), seconds=None, frames=60, size=2**13, microphones=(2,))
    recorder.asked.add("keep")
    recorder.abort()
    one = shelf.take(demo, SLUG, recorder.wait().take_id or 0)
    assert one.details.live is not None
    assert (one.details.live["frames"], one.details.live["size"], one.details.live["microphones"]) == (60, 2**13, [2])
    assert one.details.live["delay_ms"] > 1
    assert "60 frames" in one.note
