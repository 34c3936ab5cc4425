"""Every kind of driver, every stage, every view: none fails, none loses a take, and none is without a word."""

import itertools
from pathlib import Path
from typing import get_args

import numpy as np
import pytest

from imbrix.core.errors import NotHereError
from imbrix.core.signal.signal import decibels
from imbrix.core.system.layout import Group, Kind
from imbrix.core.system.layouts import CAUTIOUS_CORNER_HZ, READY, make
from imbrix.core.system.remarks import remarks
from imbrix.core.system.work_order import work_order
from imbrix.core.tune.edits import EDITS
from imbrix.core.tune.models import LARGE
from imbrix.formats.text_curve import read_curve
from imbrix.standins.places.van import SLUG
from imbrix.work.ground import projects
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.sound.recorder import Recorder
from imbrix.work.state.project import project_state
from imbrix.work.takes import files, rounds
from imbrix.work.takes.recording import start_sweep
from imbrix.work.tune import revisions
from imbrix.work.views.closer import EXPLAINS
from imbrix.work.views.draw import curve_of, draw
from imbrix.work.views.picture import ticks
from imbrix.work.views.request import Stage, View

STAGES = get_args(Stage)
EVERY_KIND = (
    (Group.SUB, Kind.SUB, False),
    (Group.SUB, Kind.SUB, False),
    (Group.FRONT, Kind.WOOFER, False),
    (Group.FRONT, Kind.MIDBASS, False),
    (Group.FRONT, Kind.MID, False),
    (Group.FRONT, Kind.TWEETER, False),
    (Group.FRONT, Kind.FULL, False),
    (Group.CENTRE, Kind.MIDBASS, False),
    (Group.CENTRE, Kind.TWEETER, False),
    (Group.REAR, Kind.FULL, True),
)


def text(low: float, high: float, level: float = 85.0) -> bytes:
    """A driver's response as text: flat from `low` to `high`, 12 dB an octave beyond, with the phase of 3 ms."""
    hertz = np.geomspace(20, 20_000, 200)
    falls = 12 * np.maximum(0, np.log2(low / hertz)) + 12 * np.maximum(0, np.log2(hertz / high))
    degrees = (-360 * hertz * 0.003 + 180) % 360 - 180
    rows = zip(hertz, level - falls, degrees, strict=True)
    return "\n".join(f"{a:.2f} {b:.2f} {c:.1f}" for a, b, c in rows).encode()


@pytest.fixture
def everything(tmp_path: Path) -> tuple[Workspace, str]:
    space = open_workspace(tmp_path, pace=0)
    return space, projects.begin(space, "Everything", make(EVERY_KIND), "eight-by-twelve")


@pytest.mark.walk
def test_every_kind_is_recorded_judged_and_shown(everything: tuple[Workspace, str]) -> None:
    space, slug = everything
    layout = space.layout(slug)
    recorder = Recorder(space)
    for n, driver in enumerate(layout.drivers, 1):
        start_sweep(recorder, slug, (driver.id,), "driver")
        ended = recorder.wait()
        state = project_state(space, slug)
        assert ended.stage in ("kept", "refused"), driver.id
        if ended.stage == "kept":  # the stand-in's van has no driver on its last output
            assert state.takes[0].id == ended.take_id
            assert state.takes[0].judged
        assert len(state.round.turns) == len(layout.drivers)
        assert n >= len(state.takes)
    assert {one.channel for one in rounds.current(space, slug).turns} == {one.id for one in layout.drivers}


def test_every_stage_draws_every_kind_with_and_without_takes(everything: tuple[Workspace, str]) -> None:
    space, slug = everything
    layout = space.layout(slug)
    for taken in (False, True):
        if taken:
            for driver in layout.drivers:
                files.add_curve(space, slug, driver.id, read_curve(text(100, 5000)), "")
        tune = revisions.head(space, slug).tune
        for stage, driver in itertools.product(STAGES, layout.drivers):
            picture = draw(space, slug, View(stage=stage, selection=driver.id), tune)
            assert all(one.values.dtype.kind == "f" for one in picture.curves)
            if taken and stage == "drivers":
                assert f"bare-{driver.id}" in {one.id for one in picture.curves}
        for seam in layout.seams():
            facts = draw(space, slug, View(stage="seams", seam=seam.id), tune).facts
            assert facts["seam"] == seam.id
        state = project_state(space, slug)
        assert set(state.work_order) == {one.id for one in layout.drivers}
        assert set(state.stages) == set(STAGES)
        assert all(state.stages.values())


@pytest.mark.parametrize("below", sorted(EXPLAINS))
def test_every_view_below_is_drawn_in_every_stage_or_says_what_is_lacking(demo: Workspace, below: str) -> None:
    tune = revisions.head(demo, SLUG).tune
    for stage in ("drivers", "seams", "voice", "proof"):
        view = View(stage=stage, selection="mid-l", below=below, gate_ms=5)
        picture = draw(demo, SLUG, view, tune)
        lower = [one for one in picture.curves if one.pane in ("lower", "time", "map")]
        assert lower or picture.facts.get("lacking") or below in ("difference", "angles"), stage
        assert picture.facts["explains"] == EXPLAINS[below]


@pytest.mark.parametrize("ready", READY, ids=lambda one: one.key)
def test_every_ready_system_opens_in_every_stage(tmp_path: Path, ready) -> None:
    space = open_workspace(tmp_path, pace=0)
    layout = make(ready.ways)
    if len(layout.drivers) > LARGE.outputs:
        layout = remarks(layout, LARGE.outputs)[0].ways_out[-1].layout
    slug = projects.begin(space, ready.name, layout, "eight-by-twelve")
    state = project_state(space, slug)
    for stage in STAGES:
        draw(space, slug, View(stage=stage), state.tune)
    for driver in layout.drivers:
        assert state.corners[driver.id].high_pass.hertz >= CAUTIOUS_CORNER_HZ[driver.kind]
        assert state.tune.channels[driver.id].high_pass.corner_hz == CAUTIOUS_CORNER_HZ[driver.kind]


def test_a_corner_to_begin_with_stands_within_what_the_driver_can_do(demo: Workspace) -> None:
    state = project_state(demo, SLUG)
    for name, read in state.drivers.items():
        begin = state.corners[name]
        assert name == "sub" or read.low_hz * 0.95 < begin.high_pass.hertz  # two digits of it
        assert begin.high_pass.hertz < begin.low_pass.hertz <= max(read.high_hz, 20_000)
    # What an experienced tuner would begin with in a three-way system with a sub (common practice, no source).
    for name, least, most in (("midbass-l", 60, 100), ("mid-l", 250, 450), ("tweeter-l", 2200, 3500)):
        assert least < state.corners[name].high_pass.hertz < most, name


@pytest.mark.parametrize(
    ("seat", "order"),
    [
        ("right", ["mid-l", "tweeter-l", "midbass-l", "sub", "mid-r", "tweeter-r", "midbass-r"]),
        ("left", ["mid-r", "tweeter-r", "midbass-r", "sub", "mid-l", "tweeter-l", "midbass-l"]),
    ],
)
def test_the_far_side_is_voiced_first_and_in_it_the_mid(seat: str, order: list[str]) -> None:
    ways = (
        (Group.SUB, Kind.SUB, False),
        (Group.FRONT, Kind.MIDBASS, True),
        (Group.FRONT, Kind.MID, True),
        (Group.FRONT, Kind.TWEETER, True),
    )
    assert list(work_order(make(ways, seat))) == order


def test_what_stands_beside_the_ways_is_voiced_after_those_of_its_side() -> None:
    ways = (
        (Group.FRONT, Kind.MIDBASS, True),
        (Group.FRONT, Kind.TWEETER, True),
        (Group.CENTRE, Kind.FULL, False),
        (Group.REAR, Kind.FULL, True),
    )
    order = work_order(make(ways, "left"))
    assert order[:3] == ("tweeter-r", "midbass-r", "rear-r")
    assert order[3] == "centre"


@pytest.mark.parametrize(
    ("low", "high", "most", "expected"),
    [
        (0, 400, 6, [0, 100, 200, 300, 400]),
        (0, 78.4, 6, [0, 20, 40, 60]),
        (-60, 60, 6, [-50, -25, 0, 25, 50]),
        (0, 1.0, 6, [0, 0.2, 0.4, 0.6, 0.8, 1.0]),
        (3, 3, 6, [3]),
        (0, 59, 4, [0, 20, 40]),
    ],
)
def test_ticks_are_round(low: float, high: float, most: int, expected: list[float]) -> None:
    found = ticks(low, high, most)
    assert found == pytest.approx(expected)
    assert len(found) <= most


def test_maps_have_round_ticks(demo: Workspace) -> None:
    tune = revisions.head(demo, SLUG).tune
    for below in ("waterfall", "spectrogram"):
        facts = draw(demo, SLUG, View(stage="drivers", selection="mid-l", below=below), tune).facts
        steps = np.diff(facts["map"]["ticks"])
        assert steps == pytest.approx(np.full(steps.size, steps[0]))
        assert steps[0] in (2, 5, 10, 20, 25, 50, 100)


def test_a_curve_of_a_view_is_had_by_its_id(demo: Workspace) -> None:
    tune = revisions.commit(
        demo, SLUG, EDITS.validate_python([{"do": "channel", "channel": "sub", "gain_db": -6}])
    ).tune
    view = View(stage="handover")
    values = curve_of(demo, SLUG, view, "tune-sub", tune)
    assert values == pytest.approx(decibels(demo.predictor.channel(tune.channels["sub"])))
    with pytest.raises(NotHereError, match="no curve 'nothing'"):
        curve_of(demo, SLUG, view, "nothing", tune)
    # What the processor does not do yet stands beside it, faintly; once it is sent, nothing does.
    assert {one.id for one in draw(demo, SLUG, view, tune).curves} >= {"tune-sub", "held-sub"}
    from imbrix.work.processor import link

    link.send(demo, SLUG)
    assert not [one.id for one in draw(demo, SLUG, view, tune).curves if one.id.startswith("held")]
