"""Jobs end in a value or in a reason; the processor is borrowed, put back, and its slots hold no take's muting."""

import sys
import threading
import time
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from imbrix.core.errors import ConflictError, NotHereError, StaleError
from imbrix.core.tune.edits import EDITS
from imbrix.core.tune.tune import measuring
from imbrix.standins.places.van import SLUG
from imbrix.work.ground import documents, projects
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import hold, link, slots
from imbrix.work.rig import change
from imbrix.work.sound import level_log
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import analyser, listening, recording, rounds, shelf
from imbrix.work.takes.listening import Listen
from imbrix.work.tune import revisions
from tests.work.test_rig import FakeCards, card


def edits(*values: dict):
    return EDITS.validate_python(list(values))


def gain(space: Workspace, db: float) -> None:
    revisions.commit(space, SLUG, edits({"do": "channel", "channel": "sub", "gain_db": db}))


def held(space: Workspace) -> list[float]:
    return [space.processor.read(output).channel.gain_db for output in range(1, 8)]


def test_a_job_that_ends_badly_says_why_to_whoever_waits(demo: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    recorder = Recorder(demo)
    recording.start_sweep(recorder, SLUG, ("sub",), "driver")
    assert recorder.finished().take_id == 15

    def silent(samples, *_more):
        yield np.zeros((samples.size, 6))

    monkeypatch.setattr(demo.standin, "play_and_record", silent)
    recording.start_sweep(recorder, SLUG, ("sub",), "driver")
    with pytest.raises(ConflictError, match="Not kept: "):
        recorder.finished()
    assert recorder.growing is None


def test_a_bug_in_a_job_is_logged_and_told_and_frees_the_device(
    demo: Workspace, caplog: pytest.LogCaptureFixture
) -> None:
    recorder = Recorder(demo)

    def broken() -> None:
        raise RuntimeError("inside the job")

    recorder.start("take", broken, project=SLUG)
    ended = recorder.wait()
    assert (ended.stage, ended.cause) == ("refused", "failed")
    assert "inside the job" in caplog.text
    recording.start_sweep(recorder, SLUG, ("sub",), "driver")
    assert recorder.finished().stage == "kept"


def test_while_something_runs_nothing_else_begins_and_each_says_so(demo: Workspace) -> None:
    recorder = Recorder(demo)
    gate = threading.Event()
    recorder.start("signal", lambda: gate.wait(30), project=SLUG)
    refused = [
        lambda: recording.start_sweep(recorder, SLUG, ("sub",), "driver"),
        lambda: analyser.start(recorder, SLUG, (), analyser.LiveChoice()),
        lambda: listening.start(recorder, SLUG, Listen(log=True)),
        lambda: link.send(demo, SLUG),
        lambda: link.make_neutral(demo, SLUG),
        lambda: slots.store(demo, SLUG, 1, "x"),
        lambda: slots.recall(demo, SLUG, 1),
        lambda: change.change(demo, {"rate": 96_000}),
        lambda: projects.change_layout(demo, SLUG, demo.layout(SLUG)),
    ]
    before = revisions.head(demo, SLUG).number
    for one in refused:
        with pytest.raises(ConflictError, match=r"record|running"):
            one()
    change.change(demo, {"timing": "none"})  # what needs no device may be set meanwhile
    gain(demo, -2)
    gate.set()
    assert recorder.wait().stage == "playing"
    assert revisions.head(demo, SLUG).number == before + 1
    assert demo.processor.slot_names() == {}
    assert level_log.logs(demo) == []


def test_what_the_processor_held_comes_back_whatever_happens(demo: Workspace) -> None:
    gain(demo, -4)
    link.send(demo, SLUG)
    before = held(demo)
    layout = demo.layout(SLUG)
    through = measuring(revisions.head(demo, SLUG).tune.with_channel("sub", gain_db=-20.0), layout, {"sub"})

    def fail_in_the_middle() -> None:
        with hold.measuring_through(demo, SLUG, through):
            assert held(demo) != before
            assert documents.read(demo, "journal") is not None
            raise ZeroDivisionError

    with pytest.raises(ZeroDivisionError):
        fail_in_the_middle()
    assert held(demo) == before
    assert documents.read(demo, "journal") is None
    with hold.silenced(demo):
        assert all(demo.processor.read(output).channel.muted for output in range(1, 9))
    assert not demo.processor.read(layout.driver("sub").output).channel.muted
    assert not hold.restore_after_crash(demo)


def test_neutral_is_all_or_nothing(demo: Workspace) -> None:
    gain(demo, -4)
    link.send(demo, SLUG)
    made = link.make_neutral(demo, SLUG)
    assert made.tune.channels["sub"].gain_db == 0
    assert all(demo.processor.read(one.output).channel.muted for one in demo.layout(SLUG).drivers)
    assert {one.what for one in link.unsent(demo, SLUG)} == {"sound"}


def test_undo_is_guarded_by_what_the_window_knows(demo: Workspace) -> None:
    first = revisions.head(demo, SLUG).id
    gain(demo, -1)
    second = revisions.head(demo, SLUG).id
    with pytest.raises(StaleError) as late:
        revisions.undo(demo, SLUG, on=first)
    assert late.value.changed == ("Sub: gain -1.0 dB",)
    assert revisions.undo(demo, SLUG, on=second).id == first
    with pytest.raises(StaleError):
        revisions.redo(demo, SLUG, on=second)
    assert revisions.redo(demo, SLUG, on=first).id == second
    with pytest.raises(NotHereError, match="no revision 99"):
        revisions.commit(demo, SLUG, edits({"do": "neutral"}), on=99)


def test_commits_at_once_make_one_revision_each(demo: Workspace) -> None:
    before = revisions.head(demo, SLUG).number
    names = [one.id for one in demo.layout(SLUG).drivers]

    def one(name: str) -> None:
        revisions.commit(demo, SLUG, edits({"do": "channel", "channel": name, "gain_db": -3}))

    with ThreadPoolExecutor(len(names)) as pool:
        list(pool.map(one, names))
    now = revisions.head(demo, SLUG)
    assert now.number == before + len(names)
    assert {channel.gain_db for channel in now.tune.channels.values()} == {-3.0}


def test_rounds_and_takes_kept_at_once_all_count(demo: Workspace) -> None:
    rounds.restart(demo, SLUG)
    names = [one.id for one in demo.layout(SLUG).drivers]
    with ThreadPoolExecutor(len(names)) as pool:
        list(pool.map(lambda pair: rounds.made(demo, SLUG, pair[1], pair[0]), enumerate(names)))
    turns = {one.channel: one for one in rounds.current(demo, SLUG).turns}
    assert {name: turns[name].take_id for name in names} == {name: n for n, name in enumerate(names)}
    assert {one.state for one in turns.values()} == {"done"}


def test_the_stand_ins_pace_does_not_hold_a_real_card_back(demo: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setitem(sys.modules, "sounddevice", FakeCards([card("Blue box")]))
    change.change(demo, {"device": "card:Blue box"})
    demo.pace = 0.001  # the stand-in would take hours
    recorder = Recorder(demo)
    began = time.monotonic()
    recorder.start("signal", lambda: recorder.play(np.zeros(48_000)) and None, project=SLUG)
    recorder.wait(120)
    assert time.monotonic() - began < 120
    assert recorder.progress.done == 1.0


def test_two_logs_of_one_second_have_names_of_their_own(demo: Workspace) -> None:
    made = [level_log.LevelLog(demo, None) for _ in range(3)]
    for one in made:
        one.feed(np.ones(48_000) * 0.1)
        one.close()
    assert len({one.path for one in made}) == 3
    assert len(level_log.logs(demo)) == 3
    assert level_log.log_file(demo, level_log.logs(demo)[0]).read_text().count("\n") == 2


def test_a_take_carries_its_project_and_the_version_grows(demo: Workspace) -> None:
    recorder = Recorder(demo)
    version = demo.version
    recording.start_sweep(recorder, SLUG, ("mid-l",), "driver")
    ended = recorder.finished()
    assert ended.project == SLUG
    assert demo.version > version
    assert shelf.take(demo, SLUG, ended.take_id).channels == ("mid-l",)
    version = demo.version
    demo.layout(SLUG)
    shelf.takes(demo, SLUG)
    assert demo.version == version  # looking changes nothing
    link.send(demo, SLUG)
    assert demo.version > version
