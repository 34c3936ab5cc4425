"""The range of what is shown: what other takes and places show lies within it, and its figures are theirs."""

import shutil
from collections.abc import Iterator
from dataclasses import replace
from pathlib import Path

import numpy as np
import pytest

from imbrix.core.predict.seam import loss
from imbrix.core.signal.signal import FloatArray, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.tune.edits import SetCrossover
from imbrix.standins.places.van import SLUG
from imbrix.work.ground.workspace import Workspace, open_workspace
from imbrix.work.predict.offers import two_sides
from imbrix.work.predict.scene import scene
from imbrix.work.predict.spots import all_at_spots
from imbrix.work.sound.recorder import Recorder
from imbrix.work.source.recording import start as start_feed
from imbrix.work.takes.series import start_series
from imbrix.work.tune.revisions import commit, head
from imbrix.work.views.draw import draw
from imbrix.work.views.picture import Picture
from imbrix.work.views.request import View
from tests.helpers.computed import Computed


def record_all(space: Workspace, place: str = "") -> None:
    recorder = Recorder(space)
    start_series(recorder, SLUG, tuple(one.id for one in space.layout(SLUG).drivers), place=place)
    assert recorder.wait(120).stage == "kept"


def cross(space: Workspace) -> None:
    corners = {"midbass-l": 80.0, "mid-l": 320.0, "tweeter-l": 3000.0}
    edits = [SetCrossover(channel=name, end="high_pass", corner_hz=hertz) for name, hertz in corners.items()]
    commit(space, SLUG, edits, "crossed over", head(space, SLUG).id)


@pytest.fixture(scope="module")
def twice(demo_folder: Path, computed: Computed, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Workspace]:
    """The demo crossed over, all its drivers recorded at the left ear too: to be looked at, not to be changed."""
    folder = tmp_path_factory.mktemp("twice") / "demo"
    shutil.copytree(demo_folder, folder)
    made = open_workspace(folder, pace=0)
    computed.begin(made)
    cross(made)
    record_all(made, "Left ear")
    yield made
    made.close()


def shown(space: Workspace, **wanted: object) -> Picture:
    view = View(stage=wanted.pop("stage"), ranged=True, **wanted)  # type: ignore[arg-type]
    return draw(space, SLUG, view, head(space, SLUG).tune)


def curves(picture: Picture) -> dict[str, FloatArray]:
    return {one.id: one.values for one in picture.curves if one.pane == "main"}


def test_from_one_place_no_range_is_known_and_it_says_what_gives_one(demo: Workspace) -> None:
    for stage, says in (("drivers", "one take of each"), ("voice", "one place"), ("seams", "one place")):
        picture = shown(demo, stage=stage)
        assert says in picture.facts["ranges"]["says"]
        assert not [one for one in picture.curves if one.role.startswith("range-")]


@pytest.mark.walk
def test_what_a_further_place_shows_lies_in_the_range(twice: Workspace) -> None:
    tune = head(twice, SLUG).tune
    picture = shown(twice, stage="seams", seam="mid-tweeter-left")
    found = curves(picture)
    now = scene(twice, SLUG)
    rows, places = all_at_spots(twice, now)
    assert places == ("Middle of the head", "Left ear")
    lost, sums = [], []
    for row in rows:
        sides = two_sides(twice, replace(now, rows=row), now.layout.seam("mid-tweeter-left"), tune)
        assert sides is not None
        one = loss(*sides, twice.grid, 6.0)
        assert one is not None
        lost.append(one.mean)
        sums.append(power_decibels(smooth_power(sides[0] + sides[1], twice.grid, 6.0)) + twice.offset_db)
    ranges = picture.facts["ranges"]
    assert ranges["loss"] == pytest.approx((min(lost), max(lost)), abs=1e-6)
    assert ranges["says"] == "shaded: 2 places"
    assert found["sum:least"] == pytest.approx(np.min(sums, axis=0), abs=1e-6)
    assert found["sum:most"] == pytest.approx(np.max(sums, axis=0), abs=1e-6)
    assert (found["sum:most"] - found["sum:least"]).max() > 1.0


@pytest.mark.walk
def test_voice_and_proof_tell_plus_minus_of_every_place(twice: Workspace) -> None:
    picture = shown(twice, stage="voice")
    least, most = picture.facts["ranges"]["plus_minus"]
    assert least <= picture.facts["deviation"]["plus_minus"] <= most
    assert most > least
    assert {"corrected:least", "corrected:most"} <= curves(picture).keys()
    one = shown(twice, stage="voice", selection="mid-l")
    assert {"corrected:least", "corrected:most"} <= curves(one).keys()
    assert "predicted:least" in curves(shown(twice, stage="proof"))


@pytest.mark.walk
def test_in_drivers_repeats_count_wherever_they_were_made(demo: Workspace) -> None:
    record_all(demo)  # once more, at the same place
    recorder = Recorder(demo)
    start_feed(recorder, SLUG, (1, 2))  # what is no take of a driver is no matter
    assert recorder.wait(120).stage == "kept"
    found = curves(shown(demo, stage="drivers", selection="mid-l"))
    inside = (demo.grid > 300) & (demo.grid < 5000)
    again = (found["bare-mid-l:most"] - found["bare-mid-l:least"])[inside]
    assert 0 < again.max() < 0.5  # noise is all that differs
    record_all(demo, "Right ear")
    picture = shown(demo, stage="drivers", selection="mid-l")
    found = curves(picture)
    assert (found["bare-mid-l:most"] - found["bare-mid-l:least"])[inside].max() > 2.0
    assert picture.facts["ranges"]["says"] == "shaded: up to 3 takes of each driver"
    # Sums know no repeats: what two takes of one spot differ by is in no place.
    assert shown(demo, stage="voice").facts["ranges"]["says"] == "shaded: 2 places"


def test_it_is_drawn_on_demand_only(twice: Workspace) -> None:
    plain = draw(twice, SLUG, View(stage="voice"), head(twice, SLUG).tune)
    assert "ranges" not in plain.facts
    assert not [one for one in plain.curves if one.role.startswith("range-")]
