"""Projects, their layouts changed later, and foreign curves."""

import numpy as np
import pytest

from imbrix.core.errors import ConflictError, NotHereError
from imbrix.core.system.layout import Group, Kind, Layout
from imbrix.core.system.layouts import driver, make
from imbrix.core.tune.edits import EDITS
from imbrix.core.tune.tune import neutral
from imbrix.formats.text_curve import read_curve
from imbrix.standins.places.van import SLUG
from imbrix.work.ground import projects
from imbrix.work.ground.workspace import Workspace
from imbrix.work.sound.recorder import Recorder
from imbrix.work.state import project
from imbrix.work.takes import shelf
from imbrix.work.takes.recording import start_sweep
from imbrix.work.tune import revisions
from imbrix.work.views import draw, references
from imbrix.work.views.request import View

FRONT = ((Group.SUB, Kind.SUB, False), (Group.FRONT, Kind.MIDBASS, True), (Group.FRONT, Kind.TWEETER, True))


@pytest.mark.walk
def test_a_new_project_begins_with_cautious_corners(demo: Workspace) -> None:
    slug = projects.begin(demo, "Blue Coupé", make(FRONT))
    assert slug == "blue-coup"
    assert projects.begin(demo, "Blue Coupé", make(FRONT)) == "blue-coup-2"
    tune = revisions.head(demo, slug).tune
    assert tune.channels["tweeter-l"].high_pass.corner_hz == 3500
    assert tune.channels["midbass-l"].high_pass.corner_hz == 80
    shown = project.project_state(demo, slug).model_dump(mode="json")
    assert shown["remarks"] == [{"says": "outputs 6, 7, 8 not used", "bars": False, "ways_out": []}]
    assert shown["takes"] == []
    assert [one.slug for one in projects.projects(demo)][-1] == SLUG
    recorder = Recorder(demo)
    start_sweep(recorder, slug, ("sub",), "driver")
    assert recorder.wait().stage == "kept"
    assert sum(one.purpose == "driver" for one in shelf.takes(demo, SLUG)) == 7


def test_a_layout_that_cannot_be_is_refused_whole(demo: Workspace) -> None:
    many = make((*FRONT, (Group.FRONT, Kind.MID, True), (Group.REAR, Kind.FULL, True)))
    with pytest.raises(ConflictError, match="9 drivers, but the processor has 8 outputs"):
        projects.begin(demo, "Too many", many)
    with pytest.raises(ValueError, match="needs a name"):
        projects.begin(demo, "  ", make(FRONT))
    assert len(projects.projects(demo)) == 1


def test_drivers_go_and_come_back_with_their_takes_and_settings(demo: Workspace) -> None:
    whole = demo.layout(SLUG)
    revisions.commit(demo, SLUG, EDITS.validate_python([{"do": "channel", "channel": "sub", "gain_db": -4}]))
    without = Layout(drivers=tuple(one for one in whole.drivers if one.id != "sub"), seat=whole.seat)
    projects.change_layout(demo, SLUG, without)
    shown = project.project_state(demo, SLUG).model_dump(mode="json")
    assert "sub" not in shown["tune"]["channels"]
    assert "sub" not in shown["drivers"]
    assert sum(one["purpose"] == "driver" for one in shown["takes"]) == 6
    assert "sub" not in [turn["channel"] for turn in shown["round"]["turns"]]
    draw.draw(demo, SLUG, View(stage="voice"), revisions.head(demo, SLUG).tune)
    projects.change_layout(demo, SLUG, whole)
    back = project.project_state(demo, SLUG).model_dump(mode="json")
    assert back["tune"]["channels"]["sub"]["gain_db"] == -4
    assert "sub" in back["drivers"]


def test_a_driver_added_later_is_neutral_and_guarded(demo: Workspace) -> None:
    whole = demo.layout(SLUG)
    more = Layout(drivers=(*whole.drivers, driver(Group.CENTRE, Kind.FULL, "both", 8)), seat=whole.seat)
    projects.change_layout(demo, SLUG, more)
    assert revisions.head(demo, SLUG).tune.channels["centre"] == neutral(more).channels["centre"]
    # Revisions of the old layout are fitted when they are read, and going back to one keeps the new driver safe.
    revisions.restore(demo, SLUG, revisions.revisions(demo, SLUG)[-1].id)
    assert revisions.head(demo, SLUG).tune.channels["centre"] == neutral(more).channels["centre"]
    assert all("centre" in one.tune.channels for one in revisions.revisions(demo, SLUG))


def test_outputs_exchanged_in_the_layout_reach_the_processor(demo: Workspace) -> None:
    whole = demo.layout(SLUG)
    numbers = {"mid-l": 6, "tweeter-l": 4}
    swapped = [one.model_copy(update={"output": numbers.get(one.id, one.output)}) for one in whole.drivers]
    projects.change_layout(demo, SLUG, Layout(drivers=tuple(swapped), seat=whole.seat))
    demo.standin.practice = demo.standin.practice.model_copy(update={"wrong_channel": True})
    recorder = Recorder(demo)
    start_sweep(recorder, SLUG, ("mid-l",), "driver")
    one = shelf.take(demo, SLUG, recorder.wait().take_id)
    assert one.details.agrees.shape_db < 0.1  # the wires are exchanged as well: the right driver is heard again


def test_foreign_curves_are_drawn_aligned_hidden_and_removed(demo: Workspace) -> None:
    curve = read_curve(b"100 60\n1000 62\n8000 58\n")
    one = references.add_text(demo, SLUG, "Sheet of the mid", curve)
    tune = revisions.head(demo, SLUG).tune
    picture = draw.draw(demo, SLUG, View(stage="drivers", selection="mid-l"), tune)
    drawn = {c.id: c.values for c in picture.curves}
    against = drawn["bare-mid-l"]
    assert np.isnan(drawn["reference-1"][demo.grid < 99]).all()
    references.align(demo, SLUG, one, against, 300, 3000)
    inside = (demo.grid >= 300) & (demo.grid <= 3000)
    shifted = references.on_grid(references.references(demo, SLUG)[0])
    assert (shifted - against)[inside].mean() == pytest.approx(0, abs=1e-3)
    for stage in ("seams", "voice", "proof"):
        picture = draw.draw(demo, SLUG, View(stage=stage), tune)
        assert any(c.role == "reference" for c in picture.curves), stage
    references.change(demo, SLUG, one, {"shown": False})
    picture = draw.draw(demo, SLUG, View(stage="voice"), tune)
    assert not any(c.role == "reference" for c in picture.curves)
    with pytest.raises(ConflictError, match="share nothing"):
        references.align(demo, SLUG, one, against, 10_000, 20_000)
    references.remove(demo, SLUG, one)
    for call in (lambda: references.remove(demo, SLUG, one), lambda: references.change(demo, SLUG, one, {})):
        with pytest.raises(NotHereError, match="no reference line 1"):
            call()


def test_an_impulse_becomes_a_reference_line(demo: Workspace) -> None:
    samples = np.zeros(4800)
    samples[100] = 0.5
    references.add_impulse(demo, SLUG, "Wire", samples, 48_000)
    line = references.on_grid(references.references(demo, SLUG)[0])
    inside = (demo.grid > 100) & (demo.grid < 15_000)
    assert line[inside] == pytest.approx(np.full(inside.sum(), 80.0), abs=0.05)
    with pytest.raises(ValueError, match="silent"):
        references.add_impulse(demo, SLUG, "Nothing", np.zeros(480), 48_000)
