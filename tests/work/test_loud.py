"""How loud the source gets, with the stand-in's knob turned while it is heard, and the sensitivity that follows."""

import time
from collections.abc import Callable

import numpy as np
import pytest

from imbrix.core.errors import ConflictError
from imbrix.core.tune.routing import input_of
from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.ground.workspace import Workspace
from imbrix.work.sound.recorder import Recorder
from imbrix.work.source import ends, loud, undo
from imbrix.work.state.source import source_state
from imbrix.work.tune import revisions


def until(true: Callable[[], object], seconds: float = 60.0) -> None:
    deadline = time.monotonic() + seconds
    while not true():
        assert time.monotonic() < deadline, "it did not come about"
        time.sleep(0.01)


def turned_up(space: Workspace, recorder: Recorder, volumes: range) -> list[dict]:
    """Turn the knob, waiting at each step until it was heard; what is told of the wires at last."""

    for volume in volumes:
        begun = recorder.progress.averages
        space.standin.practice = space.standin.practice.model_copy(update={"source_volume": volume})
        # What was made before the knob was turned, a window that moves, and two that are steady.
        until(lambda since=begun: recorder.progress.averages > since + 2 * 48_000)
    return list((recorder.progress.result or {})["wires"])


def heard(space: Workspace, hertz: int = 1000, last: int = 36) -> list[dict]:
    space.pace = 30.0
    recorder = Recorder(space)
    space.standin.practice = Practice(source_volume=19)
    loud.start(recorder, SLUG, (1, 2), hertz)
    until(lambda: (recorder.progress.result or {}).get("wires"))
    told = turned_up(space, recorder, range(20, last))
    recorder.abort()
    assert recorder.wait().stage == "done"
    return told


@pytest.mark.walk
def test_the_highest_clean_level_is_found_while_the_knob_is_turned(demo: Workspace) -> None:
    told = heard(demo)
    unit = demo.standin.stands.head_unit
    kept = loud.known(demo, SLUG)
    for number, one in kept.items():
        # Its amplifier bends from 0.6 of full scale on: a little above, distortion is a percent.
        assert -4.6 < one.clean_db < -1.5, number
        assert one.over_db is not None
        assert one.clean_db < one.over_db < one.clean_db + 1.6
        assert one.hertz == pytest.approx(1000 * (1 + unit.ppm * 1e-6), rel=1e-3)
    assert any(one["distorts"] for one in told)
    at = np.array([1000.0])
    truth = [20 * np.log10(np.abs(unit.truth(number, at)[0])) for number in (1, 2)]
    assert kept[2].differs_db == pytest.approx(truth[1] - truth[0], abs=0.2)
    assert kept[1].differs_db is None


@pytest.mark.walk
def test_the_sensitivity_leaves_headroom_for_the_loudest_and_shifts_all_alike(demo: Workspace) -> None:
    with pytest.raises(ConflictError, match="turn it up first"):
        loud.sensitivity(demo, SLUG)
    heard(demo)
    loudest = max(one.clean_db for one in loud.known(demo, SLUG).values())
    edits = loud.sensitivity(demo, SLUG, headroom_db=6.0)
    revisions.commit(demo, SLUG, edits, "Sensitivity")
    tune = revisions.head(demo, SLUG).tune
    gains = [input_of(tune, number).gain_db for number in range(1, 5)]
    assert gains == pytest.approx([-6.0 - loudest] * len(gains), abs=0.06)
    # Set once, nothing is left to do; an input that takes 4 dB more wants 4 dB more.
    assert all(one.gain_db == pytest.approx(gains[0], abs=0.06) for one in loud.sensitivity(demo, SLUG, 6.0))
    assert loud.sensitivity(demo, SLUG, 6.0, takes_db=4.0)[0].gain_db == pytest.approx(gains[0] + 4.0, abs=0.1)
    state = source_state(demo, SLUG)
    assert [one.number for one in state.loud] == [1, 2]
    loud.forget(demo, SLUG)
    assert source_state(demo, SLUG).loud == []


def test_a_feed_that_never_distorted_says_so(demo: Workspace) -> None:
    heard(demo, last=24)
    kept = loud.known(demo, SLUG)
    assert kept[1].over_db is None
    assert any("did not distort as loud as it was" in one for one in source_state(demo, SLUG).loud_says)


def at_ends(space: Workspace, recorder: Recorder) -> None:
    for end, fader, balance in (("front", -10, 0), ("rear", 10, 0), ("left", 0, -10), ("right", 0, 10)):
        turned = {"source_fader": fader, "source_balance": balance}
        begun = recorder.progress.averages
        space.standin.practice = space.standin.practice.model_copy(update=turned)
        until(lambda since=begun: recorder.progress.averages > since + 2 * 48_000)
        loud.note_end(recorder, end)
        until(lambda e=end: e in (recorder.progress.result or {}).get("ends", []))


@pytest.mark.parametrize("exchanged", [False, True])
def test_the_knobs_tell_which_wire_is_which(demo: Workspace, exchanged: bool) -> None:
    demo.pace = 30.0
    demo.standin.practice = Practice(source_volume=24, front_and_rear_exchanged=exchanged)
    for pair in ((1, 3), (2, 4)):
        recorder = Recorder(demo)
        loud.start(recorder, SLUG, pair)
        until(lambda r=recorder: (r.progress.result or {}).get("wires"))
        at_ends(demo, recorder)
        recorder.abort()
        recorder.wait()
    found = ends.found(demo, SLUG)
    truth = {1: "front", 2: "front", 3: "rear", 4: "rear"}
    if exchanged:
        truth = {1: "rear", 2: "rear", 3: "front", 4: "front"}
    assert {number: str(one.group) for number, one in found.items()} == truth
    assert {number: one.side for number, one in found.items()} == {1: "left", 2: "right", 3: "left", 4: "right"}
    said = source_state(demo, SLUG).ends_say
    assert any("as it should be" in one for one in said) is not exchanged
    assert any("its wire is rear left" in one for one in said) is exchanged
    assert source_state(demo, SLUG).exchanged == ((1, 3) if exchanged else None)
    while source_state(demo, SLUG).exchanged:
        revisions.commit(demo, SLUG, undo.put_right(demo, SLUG), "Put right")
    assert all("as it should be" in one for one in source_state(demo, SLUG).ends_say)


def test_a_knob_is_noted_only_while_somebody_listens(demo: Workspace) -> None:
    with pytest.raises(ConflictError, match="nobody listens"):
        loud.note_end(Recorder(demo), "front")
