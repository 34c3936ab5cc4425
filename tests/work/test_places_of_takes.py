"""Which place of the microphone leads: takes in force are of one place, whatever was recorded elsewhere afterwards."""

import numpy as np
import pytest

from imbrix.core.signal.smoothing import smooth_power
from imbrix.standins.places.van import SLUG
from imbrix.standins.practice import Practice
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.proposals import doubts
from imbrix.work.predict.scene import predicted, scene, whole_power
from imbrix.work.rig import change
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes import looks, shelf
from imbrix.work.takes.forces import in_force
from imbrix.work.takes.moving import start_moving
from imbrix.work.takes.reading import bare
from imbrix.work.takes.recording import start_sweep
from imbrix.work.takes.verdicts import troubles_of
from imbrix.work.tune.revisions import head


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


@pytest.mark.walk
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


@pytest.mark.walk
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


@pytest.mark.walk
def test_the_spots_of_a_head_tell_what_of_left_and_right_it_keeps(demo: Workspace) -> None:
    names = tuple(one.id for one in demo.layout(SLUG).drivers)
    sides = {"mid-l", "mid-r"}
    record(demo, "Left ear", *names)
    assert scene(demo, SLUG, spatial=True).spots is None  # nothing was heard by a moving microphone
    recorder = Recorder(demo)
    start_moving(recorder, SLUG, ("mid-l",), "driver")
    assert recorder.wait(120).stage == "kept"
    now = scene(demo, SLUG, spatial=True)
    assert now.spots is not None
    assert len(now.spots) == 2
    at = now.index("mid-l")
    for n, place in enumerate(("Middle of the head", "Left ear")):
        take = next(
            one
            for one in now.known_takes
            if one.channels == ("mid-l",) and one.has_impulse and one.details.position == place
        )
        known = np.isfinite(bare(demo, take)) & (now.rows[at] != 0)
        assert (now.spots[n] * now.rows)[at][known] == pytest.approx(bare(demo, take)[known], rel=1e-6)
    # What both sides make of each other is the mean of what these spots hear, not what one of them does.
    tune = head(demo, SLUG).tune
    responses = predicted(demo, now, tune)
    rows = [now.index(name) for name in sorted(sides)]
    apart = np.array([smooth_power(responses[n], demo.grid, 6) for n in rows]).sum(axis=0)
    heard = now.spots[:, rows] * responses[rows]
    ratio = smooth_power(heard.sum(axis=1), demo.grid, 6).mean(axis=0)
    ratio /= smooth_power(heard, demo.grid, 6).mean(axis=0).sum(axis=0)
    whole = whole_power(now, demo.grid, responses, tune, 6, sides)

    def kept(low_hz: float, high_hz: float) -> float:
        part = (demo.grid > low_hz) & (demo.grid < high_hz) & (ratio != 1)
        return float(np.median((whole[part] / apart[part] - 1) / (ratio[part] - 1)))

    assert kept(300, 400) == pytest.approx(np.exp(-((350 / 1400) ** 2)), abs=0.02)
    assert kept(6000, 20000) == pytest.approx(0, abs=0.01)
