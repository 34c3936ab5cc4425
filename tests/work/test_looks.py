"""Takes beside each other: shown, locked, averaged, aligned, in force by choice; and by angle against the piston."""

import numpy as np
import pytest

from imbrix.core.errors import ConflictError, NotHereError
from imbrix.core.look.directivity import piston
from imbrix.core.signal.signal import decibels
from imbrix.core.signal.smoothing import smooth_db
from imbrix.standins.places import van
from imbrix.standins.practice import Practice
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict.scene import scene
from imbrix.work.rig import change, rig
from imbrix.work.sound.recorder import Recorder
from imbrix.work.state import project
from imbrix.work.takes import forces, looks, reading, rounds, shelf
from imbrix.work.takes.looks import Look
from imbrix.work.takes.moving import start_moving
from imbrix.work.takes.recording import start_sweep
from imbrix.work.tune import revisions
from imbrix.work.views import angles
from imbrix.work.views.draw import draw
from imbrix.work.views.request import View

SLUG = van.SLUG


def record(space: Workspace, channel: str, angle: float | None = None, moving: bool = False) -> int:
    recorder = Recorder(space)
    if moving:
        start_moving(recorder, SLUG, (channel,), "driver")
    else:
        start_sweep(recorder, SLUG, (channel,), "driver", angle=angle)
    ended = recorder.wait(120)
    assert ended.stage == "kept", ended.message
    return ended.take_id or 0


def in_force(space: Workspace, channel: str) -> int:
    return forces.in_force(space, SLUG)[channel].id


def view(space: Workspace, **more: object):  # type: ignore[no-untyped-def]
    wanted = View(stage="drivers", selection="mid-l", **more)  # type: ignore[arg-type]
    return draw(space, SLUG, wanted, revisions.head(space, SLUG).tune)


def test_which_take_counts_is_a_choice_until_a_newer_one_is_made(demo: Workspace) -> None:
    first = in_force(demo, "mid-l")
    second = record(demo, "mid-l")
    assert in_force(demo, "mid-l") == second
    looks.force(demo, SLUG, first)
    assert in_force(demo, "mid-l") == first
    assert scene(demo, SLUG).takes["mid-l"].id == first
    third = record(demo, "mid-l")
    assert in_force(demo, "mid-l") == third
    shelf.discard(demo, SLUG, first, True)
    with pytest.raises(ConflictError, match="set aside"):
        looks.force(demo, SLUG, first)


def test_a_locked_take_stays_in_force_and_cannot_be_set_aside(demo: Workspace) -> None:
    first = in_force(demo, "mid-l")
    looks.give(demo, SLUG, first, Look(locked=True))
    second = record(demo, "mid-l")
    assert in_force(demo, "mid-l") == first
    with pytest.raises(ConflictError, match="locked"):
        shelf.discard(demo, SLUG, first, True)
    with pytest.raises(ConflictError, match="unlock it first"):
        looks.force(demo, SLUG, second)
    looks.give(demo, SLUG, first, Look(locked=False))
    looks.force(demo, SLUG, second)
    assert in_force(demo, "mid-l") == second
    shelf.discard(demo, SLUG, first, True)
    with pytest.raises(ConflictError, match="bring it back"):
        looks.give(demo, SLUG, first, Look(locked=True))


def test_shown_takes_are_drawn_with_their_shift_and_difference(demo: Workspace) -> None:
    first = in_force(demo, "mid-l")
    second = record(demo, "mid-l")
    looks.give(demo, SLUG, first, Look(shown=True, colour=3, offset_db=5.0))
    picture = view(demo, below="difference")
    drawn = {one.id: one for one in picture.curves}
    assert drawn[f"take-{first}"].role == "look-3"
    inside = (demo.grid > 300) & (demo.grid < 5000)
    apart = drawn[f"apart-{first}"].values[inside]
    assert apart == pytest.approx(np.full(apart.size, 5.0), abs=0.3)
    assert drawn[f"apart-{first}"].label == f"take {first} − take {second}"
    looks.give(demo, SLUG, first, Look(shown=False))
    assert f"take-{first}" not in {one.id for one in view(demo).curves}


def test_means_of_places_count_only_when_chosen(demo: Workspace) -> None:
    """Against the stand-in's own impulse responses at both places."""
    first = in_force(demo, "mid-l")
    change.change(demo, {"position": "Left ear"})
    second = record(demo, "mid-l")
    rms = looks.average(demo, SLUG, (first, second), "rms")
    both = looks.average(demo, SLUG, (first, second), "complex")
    assert in_force(demo, "mid-l") == first  # the others were recorded there too
    places = [demo.standin.cabin.truth(3, demo.grid, place) for place in ((0.0, 0.0), (-0.09, 0.0))]
    true = {rms: np.sqrt(np.mean(np.abs(places) ** 2, axis=0)), both: np.abs(np.mean(places, axis=0))}
    inside = (demo.grid > 300) & (demo.grid < 3000)
    for number, wanted in true.items():
        one = shelf.take(demo, SLUG, number)
        mine = smooth_db(np.nan_to_num(reading.bare(demo, one)), demo.grid, 6) + demo.offset_db
        theirs = smooth_db(wanted.astype(complex) / 20e-6, demo.grid, 6) - 24
        assert np.abs(mine - theirs)[inside].max() < 0.6
    looks.force(demo, SLUG, rms)
    force = forces.forces(demo, SLUG)["mid-l"]
    assert (force.take.id, force.moving and force.moving.id) == (first, rms)
    looks.force(demo, SLUG, both)
    assert in_force(demo, "mid-l") == both


def test_what_cannot_be_averaged_is_said(demo: Workspace) -> None:
    one = in_force(demo, "mid-l")
    for ids, kind, says in (
        ((one,), "rms", "two to"),
        ((one, in_force(demo, "mid-r")), "rms", "one driver"),
        ((one, 999), "rms", "no take 999"),
    ):
        with pytest.raises((ConflictError, NotHereError), match=says):
            looks.average(demo, SLUG, ids, kind)  # type: ignore[arg-type]
    change.change(demo, {"timing": "none"})
    other = record(demo, "mid-l")
    with pytest.raises(ConflictError, match="one clock"):
        looks.average(demo, SLUG, (one, other), "complex")


def test_levels_are_aligned_over_a_span(demo: Workspace) -> None:
    first = in_force(demo, "mid-l")
    demo.standin.practice = Practice(gain_changed=True)
    record(demo, "mid-l")
    looks.give(demo, SLUG, first, Look(shown=True))
    looks.align(demo, SLUG, "mid-l", 500, 4000)
    assert looks.looks(demo, SLUG)[first].offset_db == pytest.approx(-7.0, abs=0.1)
    with pytest.raises(ConflictError, match=f"take {first}"):
        looks.align(demo, SLUG, "mid-l", 30, 30.2)
    with pytest.raises(NotHereError, match="no take of nobody"):
        looks.align(demo, SLUG, "nobody", 500, 4000)


def test_a_moving_microphone_counts_or_not(demo: Workspace) -> None:
    change.change(demo, {"moving": rig.rig(demo).moving.model_copy(update={"averages": 12, "size": 2**14})})
    moving = record(demo, "mid-l", moving=True)
    assert forces.forces(demo, SLUG)["mid-l"].moving.id == moving  # type: ignore[union-attr]
    looks.without_moving(demo, SLUG, "mid-l", True)
    assert forces.forces(demo, SLUG)["mid-l"].moving is None
    assert project.project_state(demo, SLUG).model_dump(mode="json")["without_moving"] == ["mid-l"]
    looks.without_moving(demo, SLUG, "mid-l", False)
    assert forces.forces(demo, SLUG)["mid-l"].moving is not None


def test_takes_by_angle_follow_the_piston_and_leave_the_axis_alone(demo: Workspace) -> None:
    before = in_force(demo, "mid-l")
    turns = [one.state for one in rounds.current(demo, SLUG).turns]
    for degrees in (20.0, 40.0):
        demo.standin.practice = Practice(turned_deg=degrees)
        record(demo, "mid-l", degrees)
        record(demo, "tweeter-l", degrees)
    assert in_force(demo, "mid-l") == before
    assert [one.state for one in rounds.current(demo, SLUG).turns] == turns
    family = angles.by_angle(demo, SLUG, "mid-l")
    assert list(family) == [0.0, 20.0, 40.0]
    radius = float(np.sqrt(van.MOTORS[3].area / np.pi))
    inside = (demo.grid > 500) & (demo.grid < 3500)
    for degrees in (20.0, 40.0):
        fell = decibels(reading.bare(demo, family[degrees])) - decibels(reading.bare(demo, family[0.0]))
        true = decibels(piston(demo.grid, degrees, radius))
        assert np.abs(fell - true)[inside].max() < 0.3
    picture = view(demo, below="angles")
    assert {"angle-20", "angle-40", "map"} <= {one.id for one in picture.curves}
    drawn = next(one for one in picture.curves if one.id == "map")
    assert drawn.values.size == picture.facts["map"]["rows"] * picture.facts["map"]["columns"]
    assert drawn.x is not None
    assert (drawn.x[0], drawn.x[-1]) == (0, 40)
    assert drawn.values.max() <= 6


def test_the_sum_at_a_seam_is_known_at_angles_that_both_ways_have(demo: Workspace) -> None:
    wanted = View(stage="seams", seam="mid-tweeter-left", below="angles")
    tune = revisions.head(demo, SLUG).tune
    assert "two angles" in draw(demo, SLUG, wanted, tune).facts["lacking"]
    demo.standin.practice = Practice(turned_deg=30.0)
    record(demo, "mid-l", 30.0)
    assert "lacking" in draw(demo, SLUG, wanted, tune).facts
    record(demo, "tweeter-l", 30.0)
    picture = draw(demo, SLUG, wanted, tune)
    assert "lacking" not in picture.facts
    assert "angles_say" not in picture.facts
    curve = next(one.values for one in picture.curves if one.id == "angle-30")
    truth = np.zeros(demo.grid.size, dtype=complex)
    for name, at in (("mid-l", 3), ("tweeter-l", 5)):
        radius = float(np.sqrt(van.MOTORS[at].area / np.pi))
        through = demo.predictor.channels([tune.channels[name]], tune.common)[0]
        truth += demo.standin.cabin.truth(at, demo.grid) * piston(demo.grid, 30.0, radius) * through
    inside = (demo.grid > 400) & (demo.grid < 8000) & np.isfinite(curve)
    true = smooth_db(truth / 20e-6, demo.grid, 6) - 24
    assert np.abs(curve - true)[inside].max() < 0.6


def test_an_angle_can_be_told_afterwards(demo: Workspace) -> None:
    first = in_force(demo, "mid-l")
    second = record(demo, "mid-l")
    shelf.set_angle(demo, SLUG, second, -15.0)
    assert in_force(demo, "mid-l") == first
    assert list(angles.by_angle(demo, SLUG, "mid-l")) == [-15.0, 0.0]
