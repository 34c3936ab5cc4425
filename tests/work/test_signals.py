"""Signals that are played for an ear or a check, and written as files: polarity, bursts, noise, tones."""

import numpy as np
import pytest

from imbrix.core.errors import ConflictError
from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.checks import interface, reference
from imbrix.work.ground.workspace import Workspace
from imbrix.work.rig import change
from imbrix.work.sound import signals
from imbrix.work.sound.recorder import Recorder


@pytest.mark.parametrize("channel", ["sub", "midbass-l", "midbass-r", "mid-l", "mid-r", "tweeter-l", "tweeter-r"])
def test_polarity_by_pulse_is_right_for_every_driver(demo: Workspace, channel: str) -> None:
    recorder = Recorder(demo)
    signals.start_polarity(recorder, SLUG, channel)
    found = recorder.wait().result
    output = demo.layout(SLUG).driver(channel).output
    assert found["heard"]
    assert found["positive"] is not demo.standin.cabin.seats[output - 1].wired_backwards
    assert found["sure"] > 0.5


def test_a_pulse_that_is_not_heard_is_said(demo: Workspace) -> None:
    demo.standin.practice = Practice(source_muted=True)
    recorder = Recorder(demo)
    signals.start_polarity(recorder, SLUG, "mid-l")
    assert recorder.wait().result == {"channel": "mid-l", "heard": False}


def test_the_channel_check_lets_the_exchanged_driver_sound(demo: Workspace) -> None:
    for wrong, ear in ((False, "Mid L"), (True, "Tweeter L")):
        demo.standin.practice = Practice(wrong_channel=wrong)
        recorder = Recorder(demo)
        signals.start_burst(recorder, SLUG, "mid-l")
        progress = recorder.wait()
        assert (progress.stage, progress.result) == ("done", {"ear": ear})


def test_signals_play_through_the_chosen_channels_only(demo: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    heard = []
    play = demo.standin.play_and_record
    monkeypatch.setattr(
        demo.standin,
        "play_and_record",
        lambda samples, *more: (
            heard.append([n for n in range(1, 8) if not demo.processor.read(n).channel.muted]),
            play(samples, *more),
        )[1],
    )
    recorder = Recorder(demo)
    signals.start_signal(recorder, SLUG, ("sub",), signals.SignalChoice(kind="pink", seconds=0.3))
    assert recorder.wait().stage == "done"
    signals.start_signal(recorder, SLUG, (), signals.SignalChoice(kind="multitone", seconds=0.3))
    assert recorder.wait().stage == "done"
    assert heard == [[1], list(range(1, 8))]


@pytest.mark.parametrize(
    "kind", ["pink", "pink-apart", "white", "multitone", "sine", "pulses", "centre", "sweep", "linear-sweep"]
)
def test_every_signal_can_be_written_at_any_rate_and_depth(demo: Workspace, kind: str) -> None:
    wanted = signals.SignalChoice(kind=kind, seconds=1.0, level_db=-30, rate=96_000, bits=16)
    samples = signals.samples(demo, wanted)
    assert samples.ndim == 2
    assert samples.shape[1] == 2
    assert np.isfinite(samples).all()
    assert 20 * np.log10(np.abs(samples).max()) < -8
    assert signals.as_wav(demo, wanted)[:4] == b"RIFF"


def test_signals_that_cannot_be_are_refused(demo: Workspace) -> None:
    with pytest.raises(ConflictError, match="no file was brought in"):
        signals.samples(demo, signals.SignalChoice(kind="own"))
    with pytest.raises(ValueError, match="50000 Hz"):
        signals.samples(demo, signals.SignalChoice(rate=50_000))
    with pytest.raises(ValueError, match="does not fit"):
        signals.samples(demo, signals.SignalChoice(kind="sine", hertz=30_000))
    demo.own_signal = (np.sin(np.arange(4800) / 5)[:, None], 48_000)
    own = signals.samples(demo, signals.SignalChoice(kind="own", level_db=-20, rate=96_000))
    assert own.shape == (9600, 2)
    assert np.abs(own).max() == pytest.approx(0.1, rel=0.02)


def test_checks_need_a_sound_card(demo: Workspace) -> None:
    change.change(demo, {"device": "file"})
    for start in (
        lambda r: interface.start_interface_check(r),
        lambda r: reference.start_calibrate(r, 94.0),
        lambda r: signals.start_burst(r, SLUG, "sub"),
        lambda r: signals.start_polarity(r, SLUG, "sub"),
        lambda r: signals.start_signal(r, SLUG, (), signals.SignalChoice()),
    ):
        with pytest.raises(ConflictError, match="with files"):
            start(Recorder(demo))
