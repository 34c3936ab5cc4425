"""The browser's microphone: samples there and back without a gap, or the take says where it was; and a job with it."""

import numpy as np
import pytest

from imbrix.core.errors import ConflictError, DeviceLostError, InvalidError
from imbrix.core.signal.signal import Sided
from imbrix.devices import browser
from imbrix.devices.browser import BrowserSound, Gap
from imbrix.standins.places import van
from imbrix.standins.practice import Practice
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import change, devices, readiness, rig
from imbrix.work.sound.recorder import Progress, Recorder
from imbrix.work.takes import reading, shelf
from imbrix.work.takes.recording import on_second_output, start_sweep
from tests.helpers.window import BLOCK, PretendedWindow, open_window

SLUG = van.SLUG
NOISE = np.random.default_rng(1).uniform(-0.5, 0.5, 200_001)


def record(space: Workspace, channel: str) -> Progress:
    recorder = Recorder(space)
    start_sweep(recorder, SLUG, (channel,), "driver")
    return recorder.wait()


def test_what_is_heard_is_what_was_played_frame_by_frame() -> None:
    sound = BrowserSound()
    window = PretendedWindow(sound, inputs=2)
    heard = np.concatenate(list(sound.play_and_record(NOISE, None)))
    assert heard.shape == (NOISE.size, 2)
    assert heard[:, 1] == pytest.approx(NOISE, abs=1e-7)
    assert [one["kind"] for one in window.said] == ["begin", "stop"]
    # A second run begins anew; what is late of the first is not taken for the second's.
    sound.window.heard(browser.HEAD.pack(1, 0) + bytes(8))
    assert np.concatenate(list(sound.play_and_record(NOISE[:5000], None)))[:, 0] == pytest.approx(
        NOISE[:5000], abs=1e-7
    )


def test_left_and_right_are_played_apart_and_one_output_alone() -> None:
    sent: list[np.ndarray] = []
    sound = BrowserSound()
    window = PretendedWindow(sound)
    sound.window.send = lambda message: (
        sent.append(np.frombuffer(message, "<f4", offset=8).reshape(-1, 2)) if isinstance(message, bytes) else None,
        window.take(message),
    )
    both = Sided(np.stack((NOISE[:3000], -NOISE[:3000]), axis=1), 3000)
    for output, columns in ((None, (1, -1)), (0, (0, 0)), (1, (0, 0))):
        sent.clear()
        list(sound.play_and_record(both, output))
        played = np.concatenate(sent)
        if output is None:
            assert played == pytest.approx(NOISE[:3000, None] * columns, abs=1e-7)
        else:
            assert not played[:, 1 - output].any()


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (
            lambda first, heard: (first + 480, heard) if first else (first, heard),
            r"lost 10.0 ms of what it recorded at",
        ),
        (
            lambda first, heard: Gap(of="played", at=4800, frames=96) if first else (first, heard),
            r"2.0 ms of .* played",
        ),
        (lambda first, heard: Gap(of="recorded", frames=48) if first else (first, heard), r"1.0 ms of .* recorded:"),
        (lambda first, heard: "unplugged" if first else (first, heard), "unplugged"),
        (lambda first, heard: "closed" if first else (first, heard), "window that held the microphone was closed"),
    ],
)
def test_a_gap_or_a_loss_ends_the_take_with_where_it_was(change, says: str) -> None:
    sound = BrowserSound()
    PretendedWindow(sound, change=change)
    with pytest.raises(DeviceLostError, match=says):
        list(sound.play_and_record(NOISE, None))


def test_a_window_that_falls_silent_is_not_waited_for_for_ever(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(browser, "SILENT_S", 0.05)
    sound = BrowserSound()
    PretendedWindow(sound, change=lambda first, heard: None if first else (first, heard))
    with pytest.raises(DeviceLostError, match="stopped its sound"):
        list(sound.play_and_record(NOISE, None))


def test_what_makes_no_sense_is_passed_over() -> None:
    sound = BrowserSound()
    PretendedWindow(sound, inputs=2)
    for block in (b"", b"123", bytes(8 + 4), browser.HEAD.pack(99, 0) + bytes(16)):
        sound.window.heard(block)
    sound.window.missing(3, Gap(of="played", frames=1))
    sound.window.ended(3)
    assert sum(block.shape[0] for block in sound.play_and_record(NOISE[:9000], None)) == 9000


def test_one_window_holds_the_microphone() -> None:
    sound = BrowserSound()
    first = PretendedWindow(sound)
    second = PretendedWindow(sound)
    assert first.said == [{"kind": "taken"}]
    playing = sound.play_and_record(NOISE, None)
    next(playing)
    with pytest.raises(ConflictError, match="another window is recording"):
        PretendedWindow(sound)
    playing.close()
    sound.close(first.window)  # it no longer holds anything
    assert sound.opened is not None
    sound.close(second.window)
    assert sound.opened is None
    with pytest.raises(DeviceLostError, match="no window has its microphone open"):
        list(sound.play_and_record(NOISE, None))


@pytest.mark.walk
def test_delays_by_marker_are_right_by_clocks_of_their_own(demo: Workspace) -> None:
    """Fifty parts in a million apart, some thirty decibels over noise: within ten microseconds."""
    looped = {}
    for channel in ("midbass-l", "tweeter-l"):
        taken = shelf.take(demo, SLUG, record(demo, channel).take_id)
        looped[channel] = reading.reading(demo, taken).arrival_s
    open_window(demo)
    assert rig.rig(demo).timing == "marker"  # one input has no room for a loopback
    change.change(demo, {"anchor": "mid-r"})
    demo.standin.practice = Practice(clock_drift=True)
    marked = {}
    for channel in looped:
        progress = record(demo, channel)
        assert progress.stage == "kept", progress.message
        taken = shelf.take(demo, SLUG, progress.take_id)
        assert taken.details.device == "browser"
        assert taken.details.evidence.drift_ppm == pytest.approx(50, abs=1)
        marked[channel] = reading.reading(demo, taken).arrival_s
    apart = {name: found["tweeter-l"] - found["midbass-l"] for name, found in (("m", marked), ("l", looped))}
    assert apart["m"] == pytest.approx(apart["l"], abs=10e-6)


@pytest.mark.walk
def test_the_marker_comes_on_the_second_output_where_nothing_changes_over(demo: Workspace) -> None:
    """As in a car without a link to its processor: the first output goes to the driver, the second to the anchor."""
    looped = {}
    for channel in ("midbass-l", "tweeter-l"):
        taken = shelf.take(demo, SLUG, record(demo, channel).take_id)
        looped[channel] = reading.reading(demo, taken).arrival_s
    window = open_window(demo)
    change.change(demo, {"anchor": "mid-r", "marker_output": "second"})
    marked = {}
    for channel in looped:
        window.said.clear()
        progress = record(demo, channel)
        assert progress.stage == "kept", progress.message
        assert [one["kind"] for one in window.said] == ["begin", "stop"]
        marked[channel] = reading.reading(demo, shelf.take(demo, SLUG, progress.take_id)).arrival_s
    assert marked["tweeter-l"] - marked["midbass-l"] == pytest.approx(
        looped["tweeter-l"] - looped["midbass-l"], abs=10e-6
    )
    # On one output alone there is no second one.
    change.change(demo, {"output": 0})
    progress = record(demo, "midbass-l")
    assert progress.stage == "refused"
    assert "play on all of its outputs" in progress.message
    # Of the stand-in nothing is wired so: its processor changes over.
    change.change(demo, {"device": "stand-in", "timing": "marker", "anchor": "mid-r"})
    assert not on_second_output(demo)


def test_the_rig_says_what_is_wrong_with_the_window(demo: Workspace) -> None:
    window = open_window(demo)
    change.change(demo, {"anchor": "mid-r"})
    device = next(one for one in readiness.ready_line(demo) if one.key == "device")
    assert (device.state, device.says) == ("set", "Browser: Tabletop, 48 kHz")
    check = next(one for one in readiness.ready_line(demo) if one.key == "check")
    assert (check.state, check.says) == ("set", "a microphone alone has no loop")
    with pytest.raises(InvalidError, match="does not run at 192000 Hz"):
        change.change(demo, {"rate": 192_000})
    change.change(demo, {"rate": 96_000})
    assert "open at 48000 Hz, but the rig says 96000 Hz" in devices.trouble(demo)
    change.change(demo, {"rate": 48_000})
    demo.browser.close(window.window)
    assert "no window has its microphone open" in devices.trouble(demo)
    with pytest.raises(ConflictError, match="no window has its microphone open"):
        record(demo, "mid-l")
    open_window(demo, processing=("echo cancelling", "automatic gain"))
    device = next(one for one in readiness.ready_line(demo) if one.key == "device")
    assert device.state == "stale"
    assert "does not put off echo cancelling and automatic gain" in device.says
    PretendedWindow(demo.browser, demo.standin, inputs=2)
    assert "had 1 inputs and now has 2" in devices.trouble(demo)
    change.change(demo, {"anchor": ""})
    change.change(demo, {"device": "stand-in"})
    assert rig.rig(demo).timing == "loopback"


def test_a_take_that_is_cut_off_says_why_and_leaves_nothing(demo: Workspace) -> None:
    before = {one.id for one in shelf.takes(demo, SLUG)}
    open_window(demo, change=lambda first, heard: "muted" if first > 10 * BLOCK else (first, heard))
    change.change(demo, {"anchor": "mid-r"})
    ended = record(demo, "mid-l")
    assert (ended.stage, ended.cause) == ("refused", "device")
    assert "the browser muted its microphone" in ended.message
    assert {one.id for one in shelf.takes(demo, SLUG)} == before
