"""A series of takes: several drivers by one press; what is kept stays kept, whatever comes after it."""

from collections.abc import Iterator

import pytest

from imbrix.core.errors import ConflictError, GapError, ImbrixError
from imbrix.core.signal.signal import FloatArray
from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.ground import documents
from imbrix.work.ground.workspace import Workspace
from imbrix.work.processor import by_hand
from imbrix.work.processor.hold import TAKING, restore_after_crash
from imbrix.work.rig import change, rig
from imbrix.work.sound.recorder import Progress, Recorder
from imbrix.work.takes import rounds, shelf
from imbrix.work.takes.moving import moving_take
from imbrix.work.takes.series import start_series

THREE = ("mid-l", "sub", "tweeter-r")


class Watched(Recorder):
    """A recorder that does something the first time it tells of a take of a series, by its number."""

    def __init__(self, space: Workspace, turn: int, does: object) -> None:
        super().__init__(space)
        self._at, self._does = turn, does

    def say(self, **values: object) -> None:
        super().say(**values)
        if self.progress.turn == self._at and self._does and self.progress.done > 0.2:
            does, self._does = self._does, None
            does(self)


def ended(recorder: Recorder, *channels: str, **wanted: object) -> Progress:
    start_series(recorder, SLUG, channels, **wanted)
    return recorder.wait(120)


def recorded(space: Workspace) -> list[tuple[str, ...]]:
    """The channels of all takes, the oldest first."""
    return [one.channels for one in reversed(shelf.takes(space, SLUG))]


@pytest.mark.walk
def test_all_are_recorded_in_their_order_at_a_place_and_the_rig_stays_where_it_was(space: Workspace) -> None:
    progress = ended(Recorder(space), *THREE, place="Left ear", note="windows shut")
    assert (progress.stage, progress.turn, progress.turns, progress.message) == ("kept", 3, 3, "")
    takes = list(reversed(shelf.takes(space, SLUG)))
    assert [one.channels for one in takes] == [(name,) for name in THREE]
    assert progress.take_id == takes[-1].id
    assert {(one.details.position, one.note, one.timed) for one in takes} == {("Left ear", "windows shut", True)}
    assert rig.rig(space).position == "Middle of the head"
    # The microphone was there indeed: nine centimetres nearer to what stands at the left.
    ended(Recorder(space), "mid-l")
    now = shelf.takes(space, SLUG)[0]
    assert now.details.position == "Middle of the head"
    there, here = takes[0].details.evidence, now.details.evidence
    assert there is not None
    assert here is not None
    assert there.arrival_ms < here.arrival_ms - 0.05


@pytest.mark.walk
def test_a_moving_microphone_hears_them_all_too(space: Workspace) -> None:
    progress = ended(Recorder(space), "mid-l", "mid-r", make=moving_take, kind="moving")
    assert (progress.kind, progress.stage, progress.averages) == ("moving", "kept", 100)
    assert [one.method for one in shelf.takes(space, SLUG)] == ["moving", "moving"]


def test_what_was_kept_stays_when_it_is_stopped_or_something_fails(space: Workspace) -> None:
    stops = Watched(space, 2, lambda recorder: recorder.abort(SLUG))
    progress = ended(stops, *THREE)
    assert (progress.stage, progress.message) == ("kept", "Stopped at Sub. 1 of 3 drivers are kept.")
    assert recorded(space) == [("mid-l",)]

    def mute(_recorder: Recorder) -> None:
        space.standin.practice = Practice(source_muted=True)

    progress = ended(Watched(space, 1, mute), *THREE)
    assert progress.stage == "refused"
    assert progress.message.startswith("Not kept: Sub, Tweeter R: ")
    assert progress.message.endswith("; 1 of 3 drivers are kept.")
    assert recorded(space) == [("mid-l",), ("mid-l",)]
    first = Watched(space, 1, lambda recorder: recorder.abort(SLUG))
    assert ended(first, *THREE).stage == "aborted"


def test_one_driver_that_is_mute_does_not_stop_the_row(space: Workspace) -> None:
    """A tweeter without a wire is its own matter: the others are recorded, and it is told."""
    for turn in (1, 3):

        class Mutes(Recorder):
            """The source is mute for as long as one turn lasts."""

            def next_turn(self, channels: tuple[str, ...]) -> None:
                super().next_turn(channels)
                space.standin.practice = Practice(source_muted=self.progress.turn == turn)  # noqa: B023

        progress = ended(Mutes(space), *THREE)
        mute = ("Mid L", "", "Tweeter R")[turn - 1]
        assert progress.stage == "kept"
        assert progress.message.startswith(f"{mute}: the microphone hears the room")
        assert progress.message.endswith("2 of 3 drivers are kept.")
    assert recorded(space) == [("sub",), ("tweeter-r",), ("mid-l",), ("sub",)]


def test_what_passed_by_is_recorded_once_more_and_told_of(space: Workspace) -> None:
    space.standin.practice = Practice(door=True)

    class Quiet(Recorder):
        def say(self, **values: object) -> None:
            if "once more" in str(values.get("message")):
                space.standin.practice = Practice()
            super().say(**values)

    progress = ended(Quiet(space), *THREE)
    assert (progress.stage, progress.turn) == ("kept", 3)
    assert progress.message == "Mid L: recorded once more, since something passed by or was lost."
    assert progress.result is not None
    assert not progress.result["doubt"]
    assert recorded(space) == [("mid-l",), ("mid-l",), ("sub",), ("tweeter-r",)]


def test_a_doubtful_take_counts_where_its_second_one_is_stopped(space: Workspace) -> None:
    space.standin.practice = Practice(door=True)

    class Stops(Recorder):
        def say(self, **values: object) -> None:
            super().say(**values)
            if "once more" in str(values.get("message")):
                self.abort(SLUG)

    progress = ended(Stops(space), *THREE)
    assert (progress.stage, progress.message) == ("kept", "Stopped at Mid L. 1 of 3 drivers are kept.")
    assert recorded(space) == [("mid-l",)]


def test_without_names_those_that_wait_are_recorded(space: Workspace) -> None:
    now = rounds.current(space, SLUG)
    skipped = [turn.channel for turn in now.turns if turn.channel not in THREE]
    turns = tuple(
        turn.model_copy(update={"state": "skipped"}) if turn.channel in skipped else turn for turn in now.turns
    )
    rounds.arrange(space, SLUG, now.model_copy(update={"turns": turns}))
    ended(Recorder(space), "mid-l")
    assert rounds.waiting(rounds.current(space, SLUG)) == ("sub", "tweeter-r")
    ended(Recorder(space))
    assert recorded(space) == [("mid-l",), ("sub",), ("tweeter-r",)]
    # Where none waits any more, all but the skipped go again.
    assert set(rounds.waiting(rounds.current(space, SLUG))) == set(THREE)


def test_a_marker_is_heard_at_the_place_of_the_series(demo: Workspace) -> None:
    change.change(demo, {"timing": "marker", "anchor": "mid-r"})
    assert ended(Recorder(demo), "mid-l", place="Left ear").stage == "kept"
    newest = shelf.takes(demo, SLUG)[0]
    assert (newest.details.position, newest.clock) == ("Left ear", "marker:mid-r@Left ear")


def test_a_gap_is_passed_over_once(space: Workspace, monkeypatch: pytest.MonkeyPatch) -> None:
    plays, gaps = space.standin.play_and_record, [GapError("2.0 ms were lost"), None, GapError("2.0 ms were lost")]

    def with_gaps(*wanted: object) -> Iterator[FloatArray]:
        error = gaps.pop(0) if gaps else None
        if error is not None:
            raise error
        return plays(*wanted)  # type: ignore[arg-type]

    monkeypatch.setattr(space.standin, "play_and_record", with_gaps)
    progress = ended(Recorder(space), "mid-l", "mid-r")
    assert (progress.stage, progress.message) == (
        "kept",
        "Mid L, Mid R: recorded once more, since something passed by or was lost.",
    )
    assert recorded(space) == [("mid-l",), ("mid-r",)]
    gaps += [None, GapError("2.0 ms were lost"), GapError("3.0 ms were lost")]
    progress = ended(Recorder(space), "mid-l", "mid-r")
    assert (progress.stage, progress.cause) == ("refused", "device")
    assert "3.0 ms were lost" in progress.message
    assert recorded(space) == [("mid-l",), ("mid-r",), ("mid-l",)]


@pytest.mark.walk
def test_a_door_that_slams_in_every_take_is_no_reason_to_record_for_ever(space: Workspace) -> None:
    space.standin.practice = Practice(door=True)
    progress = ended(Recorder(space), "mid-l", "mid-r")
    assert progress.stage == "kept"
    assert progress.result is not None
    assert progress.result["doubt"]
    assert recorded(space) == [("mid-l",), ("mid-l",), ("mid-r",), ("mid-r",)]


def test_a_kill_names_the_driver_whose_turn_it_was(space: Workspace) -> None:
    seen = []
    ended(Watched(space, 2, lambda _recorder: seen.append(documents.read(space, TAKING))), *THREE)
    assert [one["channels"] for one in seen if one] == [["sub"]]
    documents.write(space, TAKING, seen[0])
    restore_after_crash(space)
    assert "a take of Sub was being computed" in space.notice


@pytest.mark.parametrize(
    ("channels", "place", "why"),
    [
        (("mid-l", "mid-l"), "", "once"),
        (("mid-l", "nobody"), "", "nobody"),
        (("mid-l",), "On the roof", "no position 'On the roof'"),
    ],
)
def test_what_cannot_be_begun_is_refused_before_anything_plays(
    space: Workspace, channels: tuple[str, ...], place: str, why: str
) -> None:
    recorder = Recorder(space)
    with pytest.raises(ImbrixError, match=why):
        start_series(recorder, SLUG, channels, place=place)
    assert recorder.progress.stage == "idle"


def test_a_processor_that_is_typed_by_hand_changes_no_drivers(space: Workspace) -> None:
    by_hand.begin(space, SLUG, True)
    with pytest.raises(ConflictError, match="typed by hand"):
        start_series(Recorder(space), SLUG, THREE)
