"""Recording with the stand-ins: kept, refused, stopped; bare whatever it was taken through; truth compared."""

import time

import numpy as np
import pytest

from imbrix.core.errors import ConflictError
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.smoothing import smooth_db
from imbrix.core.tune.edits import EDITS
from imbrix.standins.places.van import SLUG
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict import alignment, fitting, offers
from imbrix.work.processor import link
from imbrix.work.sound.recorder import Progress, Recorder
from imbrix.work.state import project
from imbrix.work.takes import bands, forces, reading, shelf
from imbrix.work.takes.recording import start_sweep
from imbrix.work.tune import revisions

GRID = log_grid()


def record(space: Workspace, channels: tuple[str, ...], purpose: str = "driver") -> Progress:
    recorder = Recorder(space)
    start_sweep(recorder, SLUG, channels, purpose)
    return recorder.wait()


def test_a_take_shows_the_bare_driver_as_the_cabin_knows_it(demo: Workspace) -> None:
    for name, one in forces.in_force(demo, SLUG).items():
        low, high = bands.band(demo, SLUG, one)
        inside = (max(low, 30) <= GRID) & (min(high, 18_000) >= GRID)
        inside &= reading.reading(demo, one).over_noise_db > 30  # a tweeter's end is behind its guard, near the noise
        output = demo.layout(SLUG).driver(name).output
        full_scale = 20e-6 * 10 ** (112 / 20)
        truth = demo.interface.cabin.truth(output - 1, GRID) / full_scale
        error = smooth_db(np.nan_to_num(reading.bare(demo, one)), GRID, 12) - smooth_db(truth, GRID, 12)
        assert np.abs(error[inside]).max() < 0.3, name


def test_a_take_is_bare_whatever_the_tune_says_and_the_processor_comes_back(demo: Workspace) -> None:
    first = reading.bare(demo, forces.in_force(demo, SLUG)["mid-l"])
    edits = [
        {"do": "crossover", "channel": "mid-l", "end": "high_pass", "corner_hz": 400},
        {"do": "channel", "channel": "mid-l", "gain_db": -9, "inverted": True},
    ]
    revisions.commit(demo, SLUG, EDITS.validate_python(edits))
    link.send(demo, SLUG)
    before = [demo.processor.read(output) for output in range(1, 9)]
    assert record(demo, ("mid-l",)).stage == "kept"
    assert [demo.processor.read(output) for output in range(1, 9)] == before
    again = reading.bare(demo, forces.in_force(demo, SLUG)["mid-l"])
    inside = (GRID > 200) & (GRID < 9000)
    apart = smooth_db(np.nan_to_num(again), GRID, 12) - smooth_db(np.nan_to_num(first), GRID, 12)
    assert np.abs(apart[inside]).max() < 0.3


def test_the_tweeter_is_never_recorded_without_its_guard(demo: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
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


def test_a_microphone_that_hears_nothing_is_refused_and_nothing_is_kept(demo: Workspace) -> None:
    count = len(shelf.takes(demo, SLUG))
    demo.interface.model.microphone_connected = False
    progress = record(demo, ("sub",))
    assert progress.stage == "refused"
    assert "hears nothing" in progress.message
    assert len(shelf.takes(demo, SLUG)) == count
    assert not demo.device.locked()


def test_clipping_stops_the_take_and_says_when(demo: Workspace) -> None:
    demo.interface.model.gain_db = 40.0
    progress = record(demo, ("sub",))
    assert progress.stage == "refused"
    assert "clips at" in progress.message
    assert progress.done < 1


def test_a_take_can_be_stopped(demo: Workspace) -> None:
    demo.pace = 1.0
    count = len(shelf.takes(demo, SLUG))
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
    assert len(shelf.takes(demo, SLUG)) == count


def test_without_loopback_a_take_keeps_no_time_and_no_delay_is_searched(demo: Workspace) -> None:
    demo.interface.model.loopback_connected = False
    assert record(demo, ("mid-l",)).stage == "kept"
    assert not forces.in_force(demo, SLUG)["mid-l"].timed
    with pytest.raises(ConflictError, match="keeps no time"):
        offers.offers(demo, SLUG, "mid-tweeter-left")
    with pytest.raises(ConflictError, match="Mid L"):
        alignment.align_arrivals(demo, SLUG)


def test_a_discarded_take_gives_way_to_the_one_before_and_comes_back(demo: Workspace) -> None:
    first = forces.in_force(demo, SLUG)["sub"].id
    second = record(demo, ("sub",)).take_id
    assert forces.in_force(demo, SLUG)["sub"].id == second
    shelf.discard(demo, SLUG, second, True)
    assert forces.in_force(demo, SLUG)["sub"].id == first
    shelf.discard(demo, SLUG, second, False)
    assert forces.in_force(demo, SLUG)["sub"].id == second


def test_the_driver_wired_backwards_is_found(demo: Workspace) -> None:
    found = [
        one
        for one in project.project_state(demo, SLUG).model_dump(mode="json")["findings"]
        if one["kind"] == "reversed"
    ]
    assert [one["about"] for one in found] == ["midbass-r"]
    assert demo.interface.cabin.seats[2].wired_backwards


def test_arrivals_are_aligned_within_a_sample(demo: Workspace) -> None:
    tuning_head = alignment.align_arrivals(demo, SLUG)
    in_force = forces.in_force(demo, SLUG)
    channels = tuning_head.tune.channels
    total = [reading.arrival(demo, SLUG, in_force[n]) + c.delay_s for n, c in channels.items()]
    assert max(total) - min(total) < 1.05 / 48_000
    # The stand-in knows the ways: the direct sounds arrive at once within 30 us, the sub's within a tenth of a ms.
    cabin = demo.standin.cabin
    true = {
        one.id: cabin.seat(one.output - 1).path.distance_m / speed_of_sound(cabin.celsius) + channels[one.id].delay_s
        for one in demo.layout(SLUG).drivers
    }
    middle = np.median(list(true.values()))
    assert all(abs(at - middle) < (1e-4 if name == "sub" else 3e-5) for name, at in true.items())


def test_fits_need_a_take_and_keep_the_processors_bands(space: Workspace, demo: Workspace) -> None:
    with pytest.raises(ConflictError, match="no take yet"):
        fitting.fit_channels(space, SLUG, ("sub",), fitting.FitLimits())
    with pytest.raises(ConflictError, match="no take yet"):
        fitting.fit_common(space, SLUG, fitting.FitLimits())
    edits = [{"do": "crossover", "channel": "mid-l", "end": "high_pass", "corner_hz": 300}]
    revisions.commit(demo, SLUG, EDITS.validate_python(edits))
    fitting.fit_channels(demo, SLUG, ("mid-l", "mid-r"), fitting.FitLimits(count=31))
    tune = revisions.head(demo, SLUG).tune
    assert tune.channels["mid-l"].bands == tune.channels["mid-r"].bands
    assert 0 < len(tune.channels["mid-l"].bands) <= 12
    fitting.fit_common(demo, SLUG, fitting.FitLimits(count=31))
    assert not demo.processor.limits.refusals(revisions.head(demo, SLUG).tune, demo.layout(SLUG))
