"""Recording with the stand-ins: kept, refused, stopped; bare whatever it was taken through; truth compared."""

import time

import numpy as np
import pytest

from imbrix.core.edits import EDITS
from imbrix.core.grid import log_grid
from imbrix.core.smoothing import smooth_db
from imbrix.standins.wren import SLUG
from imbrix.work import fitting, forces, link, seams, state, takes, tuning
from imbrix.work.desk import ConflictError, Desk
from imbrix.work.player import Progress, Recorder
from imbrix.work.recording import start_sweep

GRID = log_grid()


def record(desk: Desk, channels: tuple[str, ...], purpose: str = "driver") -> Progress:
    recorder = Recorder(desk)
    start_sweep(recorder, SLUG, channels, purpose)
    return recorder.wait()


def test_a_take_shows_the_bare_driver_as_the_cabin_knows_it(demo: Desk) -> None:
    for name, one in forces.in_force(demo, SLUG).items():
        low, high = takes.band(demo, one)
        inside = (max(low, 30) <= GRID) & (min(high, 18_000) >= GRID)
        output = demo.layout(SLUG).driver(name).output
        full_scale = 20e-6 * 10 ** (112 / 20)
        truth = demo.interface.cabin.truth(output - 1, GRID) / full_scale
        error = smooth_db(np.nan_to_num(takes.bare(demo, one)), GRID, 12) - smooth_db(truth, GRID, 12)
        assert np.abs(error[inside]).max() < 0.3, name


def test_a_take_is_bare_whatever_the_tune_says_and_the_processor_comes_back(demo: Desk) -> None:
    first = takes.bare(demo, forces.in_force(demo, SLUG)["mid-l"])
    edits = [
        {"do": "crossover", "channel": "mid-l", "end": "high_pass", "corner_hz": 400},
        {"do": "channel", "channel": "mid-l", "gain_db": -9, "inverted": True},
    ]
    tuning.commit(demo, SLUG, EDITS.validate_python(edits))
    link.send(demo, SLUG)
    before = [demo.processor.read(output) for output in range(1, 9)]
    assert record(demo, ("mid-l",)).stage == "kept"
    assert [demo.processor.read(output) for output in range(1, 9)] == before
    again = takes.bare(demo, forces.in_force(demo, SLUG)["mid-l"])
    inside = (GRID > 200) & (GRID < 9000)
    apart = smooth_db(np.nan_to_num(again), GRID, 12) - smooth_db(np.nan_to_num(first), GRID, 12)
    assert np.abs(apart[inside]).max() < 0.3


def test_the_tweeter_is_never_recorded_without_its_guard(demo: Desk, monkeypatch: pytest.MonkeyPatch) -> None:
    heard = []
    play = demo.interface.play_and_record
    monkeypatch.setattr(
        demo.interface,
        "play_and_record",
        lambda samples, *more: (
            heard.append([demo.processor.read(o).channel for o in range(1, 8)]),
            play(samples, *more),
        )[1],
    )
    record(demo, ("tweeter-r",))
    (channels,) = heard
    assert [channel.muted for channel in channels] == [True] * 6 + [False]
    assert channels[6].high_pass.corner_hz == 1000


def test_a_microphone_that_hears_nothing_is_refused_and_nothing_is_kept(demo: Desk) -> None:
    count = len(takes.takes(demo, SLUG))
    demo.interface.model.microphone_connected = False
    progress = record(demo, ("sub",))
    assert progress.stage == "refused"
    assert "hears nothing" in progress.message
    assert len(takes.takes(demo, SLUG)) == count
    assert not demo.device.locked()


def test_clipping_stops_the_take_and_says_when(demo: Desk) -> None:
    demo.interface.model.gain_db = 40.0
    progress = record(demo, ("sub",))
    assert progress.stage == "refused"
    assert "clips at" in progress.message
    assert progress.done < 1


def test_a_take_can_be_stopped(demo: Desk) -> None:
    demo.pace = 1.0
    count = len(takes.takes(demo, SLUG))
    recorder = Recorder(demo)
    start_sweep(recorder, SLUG, ("sub",), "driver")
    with pytest.raises(ConflictError, match="already"):
        start_sweep(recorder, SLUG, ("sub",), "driver")
    with pytest.raises(ConflictError, match="being recorded"):
        link.send(demo, SLUG)
    begun = time.monotonic()
    recorder.abort()
    assert recorder.wait().stage == "aborted"
    assert time.monotonic() - begun < 1.5
    assert len(takes.takes(demo, SLUG)) == count


def test_without_loopback_a_take_keeps_no_time_and_no_delay_is_searched(demo: Desk) -> None:
    demo.interface.model.loopback_connected = False
    assert record(demo, ("mid-l",)).stage == "kept"
    assert not forces.in_force(demo, SLUG)["mid-l"].timed
    with pytest.raises(ConflictError, match="keeps no time"):
        seams.offers(demo, SLUG, "mid-tweeter-left")
    with pytest.raises(ConflictError, match="Mid L"):
        seams.align_arrivals(demo, SLUG)


def test_a_discarded_take_gives_way_to_the_one_before_and_comes_back(demo: Desk) -> None:
    first = forces.in_force(demo, SLUG)["sub"].id
    second = record(demo, ("sub",)).take_id
    assert forces.in_force(demo, SLUG)["sub"].id == second
    takes.discard(demo, SLUG, second, True)
    assert forces.in_force(demo, SLUG)["sub"].id == first
    takes.discard(demo, SLUG, second, False)
    assert forces.in_force(demo, SLUG)["sub"].id == second


def test_the_driver_wired_backwards_is_found(demo: Desk) -> None:
    found = [one for one in state.project_state(demo, SLUG)["findings"] if one["kind"] == "reversed"]
    assert [one["about"] for one in found] == ["midbass-r"]
    assert demo.interface.cabin.seats[2].wired_backwards


def test_arrivals_are_aligned_within_a_sample(demo: Desk) -> None:
    tuning_head = seams.align_arrivals(demo, SLUG)
    in_force = forces.in_force(demo, SLUG)
    total = [takes.reading(demo, in_force[n]).arrival_s + c.delay_s for n, c in tuning_head.tune.channels.items()]
    assert max(total) - min(total) < 1.05 / 48_000


def test_fits_need_a_take_and_keep_the_processors_bands(desk: Desk, demo: Desk) -> None:
    with pytest.raises(ConflictError, match="no take yet"):
        fitting.fit_channels(desk, SLUG, ("sub",), fitting.FitLimits())
    with pytest.raises(ConflictError, match="no take yet"):
        fitting.fit_common(desk, SLUG, fitting.FitLimits())
    edits = [{"do": "crossover", "channel": "mid-l", "end": "high_pass", "corner_hz": 300}]
    tuning.commit(demo, SLUG, EDITS.validate_python(edits))
    fitting.fit_channels(demo, SLUG, ("mid-l", "mid-r"), fitting.FitLimits(count=31))
    tune = tuning.head(demo, SLUG).tune
    assert tune.channels["mid-l"].bands == tune.channels["mid-r"].bands
    assert 0 < len(tune.channels["mid-l"].bands) <= 12
    fitting.fit_common(demo, SLUG, fitting.FitLimits(count=31))
    assert not demo.processor.limits.refusals(tuning.head(demo, SLUG).tune, demo.layout(SLUG))
