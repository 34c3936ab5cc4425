"""Moving microphones, repeats, files, places, rounds, a full disk: every kind of take against the truth."""

import shutil
from pathlib import Path

import numpy as np
import pytest
from sqlalchemy import text

from imbrix.core.errors import ConflictError
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import power_decibels
from imbrix.core.signal.smoothing import smooth, smooth_db
from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.checks import interface, level
from imbrix.work.ground import documents
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.predict import alignment, fitting, offers, scene
from imbrix.work.processor.hold import restore_after_crash
from imbrix.work.rig import change, readiness, rig
from imbrix.work.sound import signals
from imbrix.work.sound.recorder import Progress, Recorder
from imbrix.work.state import project
from imbrix.work.takes import forces, moving, reading, recording, rounds, shelf

GRID = log_grid()


def record(space: Workspace, channel: str, method: str = "sweep", purpose: str = "driver") -> Progress:
    recorder = Recorder(space)
    begin = moving.start_moving if method == "moving" else recording.start_sweep
    begin(recorder, SLUG, (channel,), purpose)
    return recorder.wait(120)


def test_a_hundred_averages_come_within_half_a_decibel_of_the_true_spatial_mean(demo: Workspace) -> None:
    progress = record(demo, "mid-l", "moving")
    assert (progress.stage, progress.averages) == ("kept", 100)
    one = shelf.take(demo, SLUG, progress.take_id)
    assert not one.timed
    assert one.details.averages == 100
    truth = demo.standin.cabin.true_mean(3, GRID) / (20e-6 * 10 ** (112 / 20)) ** 2
    shown = power_decibels(smooth(np.nan_to_num(np.abs(reading.bare(demo, one)) ** 2), GRID, 6))
    error = shown - power_decibels(smooth(truth, GRID, 6))
    inside = (GRID > 150) & (GRID < 10_000)
    assert np.sqrt(np.mean(error[inside] ** 2)) < 0.5
    # One spot is no spatial mean: the moving microphone is worth its while.
    spot = smooth_db(np.nan_to_num(reading.bare(demo, forces.in_force(demo, SLUG)["mid-l"])), GRID, 6)
    assert np.sqrt(np.mean((spot - power_decibels(smooth(truth, GRID, 6)))[inside] ** 2)) > 0.8


def test_voice_uses_the_moving_magnitude_and_the_sweeps_phase_and_seams_one_spot(demo: Workspace) -> None:
    still = forces.in_force(demo, SLUG)["mid-l"]
    record(demo, "mid-l", "moving")
    force = forces.forces(demo, SLUG)["mid-l"]
    assert force.take.id == still.id
    assert force.moving is not None
    joined, spot, moved = forces.joined(demo, force), reading.bare(demo, still), reading.bare(demo, force.moving)
    inside = (GRID > 200) & (GRID < 8000)
    assert np.abs(joined[inside]) == pytest.approx(np.abs(moved[inside]))
    assert np.angle(joined[inside] / spot[inside]) == pytest.approx(0, abs=1e-9)
    row = scene.scene(demo, SLUG, spatial=True).rows[3]
    assert row[inside] == pytest.approx(joined[inside])
    assert scene.scene(demo, SLUG).rows[3][inside] == pytest.approx(spot[inside])
    fitting.fit_channels(demo, SLUG, ("mid-l",), FitLimits(count=4))


@pytest.mark.walk
def test_with_a_moving_take_alone_levels_are_fitted_and_delays_refused(space: Workspace) -> None:
    for channel in ("mid-l", "tweeter-l"):
        assert record(space, channel, "moving").stage == "kept"
    fitting.fit_channels(space, SLUG, ("mid-l",), FitLimits(count=4))
    with pytest.raises(ConflictError, match="keeps no time"):
        offers.offers(space, SLUG, "mid-tweeter-left")


@pytest.mark.walk
def test_space_ends_a_moving_take_and_keeps_what_is_enough(demo: Workspace) -> None:
    for pace, stage in ((30.0, "kept"), (0.5, "aborted")):
        demo.pace = pace
        recorder = Recorder(demo)
        moving.start_moving(recorder, SLUG, ("mid-l",), "driver")
        least = 20 if stage == "kept" else 0
        while recorder.progress.averages < least:
            pass
        recorder.abort()
        progress = recorder.wait()
        assert progress.stage == stage
        if stage == "kept":
            assert 20 <= shelf.take(demo, SLUG, progress.take_id).details.averages < 100
            assert "are kept" in progress.message


def test_a_muted_moving_take_is_refused(demo: Workspace) -> None:
    demo.standin.practice = Practice(source_muted=True)
    progress = record(demo, "mid-l", "moving")
    assert progress.cause == "muted"


def test_repeats_tell_how_far_they_agree_and_lower_the_noise(demo: Workspace) -> None:
    first = forces.in_force(demo, SLUG)["mid-l"]
    change.change(demo, {"sweep": {**rig.rig(demo).sweep.model_dump(), "repeats": 4, "length": 2**16}})
    one = shelf.take(demo, SLUG, record(demo, "mid-l").take_id)
    assert one.details.repeats == 4
    assert one.details.evidence.repeat_db < -30
    gained = reading.reading(demo, one).over_noise_db - reading.reading(demo, first).over_noise_db
    # Half the length, four times: twice the energy of the single sweep, 3 dB. So wide a band that its noise is known.
    assert np.median(gained[(GRID > 300) & (GRID < 8000)]) == pytest.approx(3.0, abs=1.0)


@pytest.mark.walk
def test_a_take_by_marker_reads_the_same_after_a_restart(demo: Workspace, tmp_path) -> None:
    change.change(demo, {"timing": "marker", "anchor": "mid-r"})
    demo.standin.practice = Practice(clock_drift=True)
    one = shelf.take(demo, SLUG, record(demo, "mid-l").take_id)
    first = reading.reading(demo, one)
    again = open_workspace(tmp_path / "demo", pace=0)
    second = reading.reading(again, shelf.take(again, SLUG, one.id))
    assert second.arrival_s == pytest.approx(first.arrival_s, abs=2e-7)
    known = np.isfinite(first.response) & np.isfinite(second.response)
    assert second.response[known] == pytest.approx(first.response[known], rel=1e-3)
    # By another clock than the others: a delay between them cannot be judged.
    assert offers.untimed(scene.scene(demo, SLUG), demo.layout(SLUG).seam("mid-tweeter-left"))
    with pytest.raises(ConflictError, match="different clocks"):
        alignment.align_arrivals(demo, SLUG)


def test_a_marker_without_an_anchor_is_asked_for(demo: Workspace) -> None:
    change.change(demo, {"timing": "marker", "anchor": ""})
    with pytest.raises(ConflictError, match="no anchor driver is chosen"):
        record(demo, "mid-l")
    takes_part = next(one for one in readiness.ready_line(demo) if one.key == "takes")
    assert takes_part.state == "missing"


def test_the_processor_changes_over_to_the_anchor_and_back(demo: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    change.change(demo, {"timing": "marker", "anchor": "mid-r"})
    written = []
    write = demo.processor.write
    monkeypatch.setattr(
        demo.processor, "write", lambda out, reg: (written.append((out, reg.channel.muted)), write(out, reg))[1]
    )
    record(demo, "tweeter-l")
    audible = [out for out, muted in written if not muted]
    assert audible == [5, 6, 5]


def test_takes_at_another_place_say_where_and_are_held_against_those_of_that_place(demo: Workspace) -> None:
    change.change(demo, {"position": "Left ear"})
    one = shelf.take(demo, SLUG, record(demo, "tweeter-l").take_id)
    assert one.details.position == "Left ear"
    assert one.details.agrees is None
    again = shelf.take(demo, SLUG, record(demo, "tweeter-l").take_id)
    assert again.details.agrees.shape_db < 0.7
    chosen = rig.rig(demo)
    change.change(demo, {"positions": [p.model_dump() for p in chosen.positions if p.name != "Left ear"]})
    assert rig.rig(demo).position == "Middle of the head"


def test_with_files_the_processor_is_set_and_the_recording_waited_for(demo: Workspace) -> None:
    change.change(demo, {"device": "file"})
    parts = recording.schedule(demo, SLUG)
    recorder = Recorder(demo)
    recording.start_sweep(recorder, SLUG, ("mid-l",), "driver")
    while recorder.progress.stage != "waiting":
        pass
    assert [demo.processor.read(output).channel.muted for output in range(1, 8)] == [True] * 3 + [False] + [True] * 3
    heard = np.concatenate(list(demo.standin.play_and_record(parts.samples())))
    recording.bring(recorder, heard)
    progress = recorder.wait()
    assert progress.stage == "kept"
    one = shelf.take(demo, SLUG, progress.take_id)
    assert one.timed
    assert one.details.device == "file"
    assert all(demo.processor.read(output).channel.muted for output in range(1, 8))
    with pytest.raises(ConflictError, match="press Record first"):
        recording.bring(recorder, heard)
    with pytest.raises(ConflictError, match="needs a sound card"):
        record(demo, "mid-l", "moving")
    recorder = Recorder(demo)
    recording.start_sweep(recorder, SLUG, ("mid-l",), "driver")
    recording_stage = recorder.progress.stage
    recorder.abort()
    assert recorder.wait().stage == "aborted"
    assert recording_stage in ("playing", "waiting")


@pytest.mark.parametrize("early_s", [3.7, -0.3])
@pytest.mark.parametrize("timing", ["loopback", "marker", "none"])
def test_a_recorder_that_was_started_by_hand_may_run_early_or_late(
    demo: Workspace, early_s: float, timing: str
) -> None:
    change.change(demo, {"device": "file", "timing": timing, "anchor": "mid-l"})
    recorder = Recorder(demo)
    recording.start_sweep(recorder, SLUG, ("mid-l",), "driver")
    while recorder.progress.stage != "waiting":
        pass
    heard = np.concatenate(list(demo.standin.play_and_record(recording.schedule(demo, SLUG).samples())))[:, :2]
    shift = round(early_s * 48_000)
    noise = 1e-4 * np.random.default_rng(0).standard_normal((max(shift, 0), 2)) * [1, 0]
    recording.bring(recorder, np.concatenate((noise, heard))[max(-shift, 0) :])
    progress = recorder.wait()
    assert progress.stage == "kept", progress.message
    one = shelf.take(demo, SLUG, progress.take_id)
    assert one.details.agrees.shape_db < 0.2
    if timing == "loopback":
        assert one.details.agrees.later_us == pytest.approx(0, abs=5)


def test_nothing_louder_than_what_was_set_is_ever_played(demo: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    """Peaks of every sound that the rig makes by itself; noise may peak 14.5 dB over its rms value."""
    peaks = []
    play = demo.standin.play_and_record

    def listened(samples, *more):
        peaks.append(20 * np.log10(np.abs(samples[0 : 10 * 48_000]).max() + 1e-9))
        muted = all(demo.processor.read(output).channel.muted for output in range(1, 9))
        loud.append((peaks[-1], muted))
        return play(samples, *more)

    loud: list[tuple[float, bool]] = []
    monkeypatch.setattr(demo.standin, "play_and_record", listened)
    for start in (
        lambda r: signals.start_polarity(r, SLUG, "tweeter-l"),
        lambda r: signals.start_burst(r, SLUG, "tweeter-l"),
        lambda r: level.start_level(r, SLUG, "tweeter-l"),
        lambda r: recording.start_sweep(r, SLUG, ("tweeter-l",), "driver"),
    ):
        recorder = Recorder(demo)
        start(recorder)
        recorder.wait()
    assert max(peak for peak, _ in loud) < -24 + 14.5
    loud.clear()
    demo.standin.practice = Practice(plugged="loop")
    recorder = Recorder(demo)
    interface.start_interface_check(recorder)
    assert recorder.wait().stage == "done"
    assert all(muted for _, muted in loud)
    assert max(peak for peak, _ in loud) <= -23.9


def test_a_countdown_counts_and_can_be_stopped(demo: Workspace) -> None:
    change.change(demo, {"sweep": {**rig.rig(demo).sweep.model_dump(), "countdown_s": 3}})
    demo.pace = 20.0
    recorder = Recorder(demo)
    recording.start_sweep(recorder, SLUG, ("sub",), "driver")
    seen = set()
    while recorder.progress.stage in ("playing", "countdown") and recorder.progress.done == 0:
        seen.add(recorder.progress.seconds_left)
    recorder.abort()
    assert recorder.wait().stage == "aborted"
    assert {1.0, 2.0, 3.0} <= seen


def test_the_round_is_ordered_harmless_first_and_survives(demo: Workspace, tmp_path) -> None:
    now = rounds.current(demo, SLUG)
    assert now.turns[0].channel == "mid-l"
    assert {turn.state for turn in now.turns} == {"waiting"}
    turned = now.model_copy(update={"turns": tuple(reversed(now.turns)), "method": "moving"})
    rounds.arrange(demo, SLUG, turned)
    taken = record(demo, "sub").take_id
    kept = rounds.current(open_workspace(tmp_path / "demo", pace=0), SLUG)
    assert [turn.channel for turn in kept.turns] == [turn.channel for turn in turned.turns]
    assert [turn.take_id for turn in kept.turns if turn.state == "done"] == [taken]
    assert kept.method == "moving"
    with pytest.raises(ValueError, match="every driver of the system once"):
        rounds.arrange(demo, SLUG, now.model_copy(update={"turns": now.turns[1:]}))
    assert {turn.state for turn in rounds.restart(demo, SLUG).turns} == {"waiting"}


def test_what_the_processor_held_comes_back_after_a_crash(demo: Workspace, tmp_path) -> None:
    before = {output: demo.processor.read(output).with_mute(output != 3) for output in range(1, 8)}
    for output, register in before.items():
        demo.processor.write(output, register)
    recorder = Recorder(demo)
    demo.pace = 1.0
    recording.start_sweep(recorder, SLUG, ("sub",), "driver")
    while not documents.read(demo, "journal"):
        pass
    # As if the power went here: another workspace opens the same folder, its processor all mute.
    again = open_workspace(tmp_path / "demo", pace=0)
    assert restore_after_crash(again)
    assert {output: again.processor.read(output) for output in range(1, 8)} == before
    assert "stopped in the middle" in project.project_state(again, SLUG).model_dump(mode="json")["notice"]
    assert not restore_after_crash(again)
    recorder.abort()
    recorder.wait()


def test_a_full_disk_drops_the_take_and_says_so(demo: Workspace) -> None:
    count = len(shelf.takes(demo, SLUG))
    with demo.session() as session:
        pages = session.scalar(text("PRAGMA page_count"))
    with demo.sessions() as session:
        session.execute(text(f"PRAGMA max_page_count={pages + 12}"))
        session.commit()
    progress = record(demo, "sub")
    assert (progress.stage, progress.cause) == ("refused", "disk")
    assert "the disk is full" in progress.message
    with demo.sessions() as session:
        session.execute(text("PRAGMA max_page_count=1073741823"))
        session.commit()
    assert len(shelf.takes(demo, SLUG)) == count
    assert record(demo, "sub").stage == "kept"


def test_a_take_that_was_cut_off_while_it_was_computed_is_named(
    demo: Workspace, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    seen: list[str] = []

    def killed(*_more: object, **_named: object) -> int:
        assert documents.read(demo, "journal") is None  # the processor is put back already
        shutil.copytree(tmp_path / "demo", tmp_path / "then")
        again = open_workspace(tmp_path / "then", pace=0)
        assert not restore_after_crash(again)
        seen.append(again.notice)
        again.close()
        raise KeyError("never kept")

    monkeypatch.setattr(recording, "keep_sweep", killed)
    assert record(demo, "mid-l").stage == "refused"
    assert seen == [
        "The server was stopped while a take of Mid L was being computed: it was dropped. Record it once more."
    ]
    # One that came to its end, whichever, is not spoken of.
    demo.notice = ""
    assert not restore_after_crash(demo)
    assert demo.notice == ""
