"""The change-over between both sources through the stand-ins: tried, told in words, brought to one level."""

import pytest

from imbrix.core.errors import ConflictError
from imbrix.core.tune.edits import SetChannel, SetSecond
from imbrix.core.tune.models import SMALL
from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.ground import processors
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import by_hand, typed
from imbrix.work.processor.link import read_back, send, unsent
from imbrix.work.sound.recorder import Progress, Recorder
from imbrix.work.source import switching
from imbrix.work.takes.recording import start_sweep
from imbrix.work.tune.revisions import commit, head


def set_up(space: Workspace, *edits: object) -> None:
    commit(space, SLUG, list(edits), "set", head(space, SLUG).id)  # type: ignore[arg-type]
    send(space, SLUG)


def tried(space: Workspace) -> Progress:
    recorder = Recorder(space)
    switching.start(recorder, SLUG)
    ended = recorder.wait(120)
    assert ended.stage == "done", ended.message
    return ended


@pytest.mark.walk
def test_it_takes_over_lets_go_and_is_brought_to_the_level_of_the_wires(demo: Workspace) -> None:
    set_up(demo, SetSecond(priority="before", hold_s=1.0))
    said = {one.what: one.after for one in unsent(demo, SLUG)}
    assert said == {}
    assert read_back(demo, SLUG, head(demo, SLUG).tune).second == head(demo, SLUG).tune.second
    tried(demo)
    found = switching.tried(demo, SLUG)
    assert found is not None
    assert found.went.back_s == pytest.approx(1.0, abs=0.15)
    assert found.went.leaks_db is None
    takes, back, louder = switching.says(demo, SLUG)
    assert takes.startswith("the second source takes over")
    assert back in [f"the wires are back after {seconds} s" for seconds in ("0.9", "1.0", "1.1")]
    assert "than the wires, as both volumes stood" in louder
    set_up(demo, *switching.alike(demo, SLUG))
    assert switching.louder_db(demo, SLUG) == pytest.approx(0.0, abs=0.06)
    tried(demo)
    assert switching.louder_db(demo, SLUG) == pytest.approx(0.0, abs=0.3)
    assert len(switching.says(demo, SLUG)) == 2


@pytest.mark.walk
def test_after_the_wires_the_story_goes_the_other_way_round(demo: Workspace) -> None:
    set_up(demo, SetSecond(priority="after", hold_s=1.5))
    tried(demo)
    found = switching.tried(demo, SLUG)
    assert found is not None
    assert (found.went.first, found.went.leaks_db) == ("wires", None)
    assert found.went.back_s == pytest.approx(1.5, abs=0.15)
    # Set otherwise, it was never tried.
    set_up(demo, SetSecond(hold_s=4.0))
    assert switching.tried(demo, SLUG) is None
    with pytest.raises(ConflictError, match="try the change-over first"):
        switching.alike(demo, SLUG)


@pytest.mark.walk
def test_a_cable_that_is_out_and_a_threshold_that_is_too_high_are_told(demo: Workspace) -> None:
    set_up(demo, SetSecond(priority="before", hold_s=0.5))
    demo.standin.practice = Practice(second_unplugged=True)
    tried(demo)
    (said,) = switching.says(demo, SLUG)
    assert (
        said
        == "the second source did not take over: nothing played there, nothing is connected, or it stays under -60 dBFS"
    )
    demo.standin.practice = Practice(second_volume=10)
    set_up(demo, SetSecond(over_dbfs=-20.0))
    tried(demo)
    assert "stays under -20 dBFS" in switching.says(demo, SLUG)[0]


def test_what_is_missing_is_said_before_anything_plays(demo: Workspace) -> None:
    def refused() -> str:
        with pytest.raises(ConflictError) as error:
            switching.start(Recorder(demo), SLUG)
        return str(error.value)

    assert "never heard" in refused()
    commit(demo, SLUG, [SetSecond(priority="before")], "set", head(demo, SLUG).id)
    assert [(one.channel, one.what) for one in unsent(demo, SLUG) if one.channel == "Second source"] != []
    assert "send first" in refused()
    mute = [SetChannel(channel=one.id, muted=True) for one in demo.layout(SLUG).drivers]
    set_up(demo, *mute)
    assert "every channel is muted" in refused()
    processors.give(demo, SLUG, SMALL)
    assert "has no second source" in refused()


def test_a_take_is_made_with_the_second_source_shut_out(demo: Workspace) -> None:
    set_up(demo, SetSecond(priority="before"))
    held = []
    recorder = Recorder(demo)
    processor = processors.processor(demo, SLUG)
    write = processor.write_second
    processor.write_second = lambda wanted: (held.append(wanted.priority), write(wanted))[1]  # type: ignore[method-assign]
    start_sweep(recorder, SLUG, ("mid-l",), "driver")
    recorder.wait(60)
    assert held == ["never", "before"]


def test_typed_by_hand_it_comes_with_the_inputs_and_is_taken_back_in_words(demo: Workspace) -> None:
    by_hand.begin(demo, SLUG, True)
    edits = [SetChannel(channel="sub", gain_db=-3.0), SetSecond(priority="before", gain_db=-2.0)]
    commit(demo, SLUG, edits, "set", head(demo, SLUG).id)
    rows = typed.left(demo, SLUG)
    assert rows is not None
    told = [(one.channel, one.what, one.before, one.after) for one in rows]
    assert told[:2] == [
        ("Second source", "priority", "never", "before the wires"),
        ("Second source", "gain", "none", "-2.0 dB"),
    ]
    assert ("Sub", "gain", "+0.0 dB", "-3.0 dB") in told
    for one in rows:
        by_hand.tick(demo, SLUG, one.channel, one.what, one.after)
    assert typed.left(demo, SLUG) == []
    commit(demo, SLUG, [SetSecond(priority="never")], "off", head(demo, SLUG).id)
    back = {(one.what, one.after) for one in typed.left(demo, SLUG) or []}
    assert ("priority", "never") in back
