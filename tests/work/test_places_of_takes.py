"""Which place of the microphone leads: takes in force are of one place, whatever was recorded elsewhere afterwards."""

from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.proposals import doubts
from imbrix.work.predict.scene import scene
from imbrix.work.rig import change
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import looks, shelf
from imbrix.work.takes.forces import in_force
from imbrix.work.takes.recording import start_sweep
from imbrix.work.takes.verdicts import troubles_of


def record(space: Workspace, place: str, *channels: str) -> list[int]:
    """A sweep of each at a place, by the ids of their takes."""
    change.change(space, {"position": place})
    made = []
    for channel in channels:
        recorder = Recorder(space)
        start_sweep(recorder, SLUG, (channel,), "driver")
        progress = recorder.wait(60)
        assert progress.stage == "kept"
        made.append(progress.take_id)
    return made


def places(space: Workspace) -> dict[str, str]:
    return {name: one.details.position for name, one in in_force(space, SLUG).items()}


def test_a_second_place_does_not_take_over_and_says_so(demo: Workspace) -> None:
    first = in_force(demo, SLUG)["mid-l"].id
    (there,) = record(demo, "Left ear", "mid-l")
    assert set(places(demo).values()) == {"Middle of the head"}
    (said,) = troubles_of(demo, SLUG)[there]
    assert (said.kind, said.weight) == ("elsewhere", "note")
    assert said.says == "Recorded at Left ear; what counts was recorded at Middle of the head"
    # All of them once more there: the first of the rig's places leads. Another take there is the one that counts.
    record(demo, "Left ear", *(one.id for one in demo.layout(SLUG).drivers))
    assert set(places(demo).values()) == {"Middle of the head"}
    (again,) = record(demo, "Middle of the head", "mid-l")
    assert in_force(demo, SLUG)["mid-l"].id == again != first
    assert "elsewhere" not in [one.kind for one in troubles_of(demo, SLUG)[again]]


def test_the_place_with_most_drivers_leads_and_a_person_has_the_last_word(demo: Workspace) -> None:
    (there,) = record(demo, "Leaning forward", "sub")
    for name in ("sub", "mid-l"):
        for one in shelf.takes(demo, SLUG):
            if one.channels == (name,) and one.purpose == "driver" and one.id != there:
                shelf.discard(demo, SLUG, one.id, True)
    # Neither has a take with the others: the sub's of another place counts, for want of a better one.
    assert places(demo)["sub"] == "Leaning forward"
    (beside,) = record(demo, "Left ear", "mid-r")
    looks.force(demo, SLUG, beside)
    assert places(demo)["mid-r"] == "Left ear"
    record(demo, "Middle of the head", "mid-l")
    (said,) = [one for one in doubts(demo, SLUG, scene(demo, SLUG)) if "farther away" in one]
    assert said.startswith("Sub, Mid R: what counts was not recorded at Middle of the head")


def test_a_doubted_take_at_a_further_place_is_named_before_it_is_aligned_over(demo: Workspace) -> None:
    record(demo, "Left ear", *(one.id for one in demo.layout(SLUG).drivers))
    assert not [one for one in doubts(demo, SLUG, scene(demo, SLUG)) if "Left ear" in one]
    demo.standin.practice = Practice(door=True)
    record(demo, "Left ear", "mid-r")
    demo.standin.practice = Practice()
    (said,) = [one for one in doubts(demo, SLUG, scene(demo, SLUG)) if "Left ear" in one]
    assert said == "Mid R: the take at Left ear is doubted; record it there once more"
    record(demo, "Left ear", "mid-r")
    assert not [one for one in doubts(demo, SLUG, scene(demo, SLUG)) if "Left ear" in one]
