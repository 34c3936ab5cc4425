"""The image in a project: which answers still hold, what mends it, and what of the processor it needs."""

import numpy as np
import pytest

from imbrix.core.errors import ConflictError, InvalidError, NotHereError
from imbrix.core.tune.edits import EDITS, Edit
from imbrix.core.tune.tune import Band
from imbrix.standins.places.van import SLUG
from imbrix.work.ground.workspace import Workspace
from imbrix.work.image import answers, playing
from imbrix.work.image.bands import OCTAVES_HZ, images, mids
from imbrix.work.image.mending import Mending, mendings
from imbrix.work.image.playing import Play
from imbrix.work.predict.scene import predicted, scene
from imbrix.work.rig import change
from imbrix.work.sound.recorder import Recorder
from imbrix.work.tune.revisions import commit, draft, head

CORNERS = (
    ("midbass", "low_pass", 320.0),
    ("mid", "high_pass", 320.0),
    ("mid", "low_pass", 3200.0),
    ("tweeter", "high_pass", 3200.0),
)


def made(space: Workspace, *values: dict) -> None:
    commit(space, SLUG, EDITS.validate_python(list(values)))


@pytest.fixture
def crossed(demo: Workspace) -> Workspace:
    """The demo, crossed over by common practice."""
    made(
        demo,
        *(
            {
                "do": "crossover",
                "channel": f"{way}-{side}",
                "end": end,
                "shape": "linkwitz-riley",
                "slope_db": 24,
                "corner_hz": hz,
            }
            for way, end, hz in CORNERS
            for side in ("l", "r")
        ),
    )
    return demo


def heard(space: Workspace, **places: float | tuple[float, float]) -> None:
    """Answers by band: `_500=0.2`; bands that are not named stand in the centre."""
    for hz in OCTAVES_HZ:
        at = places.get(f"_{hz:.0f}", 0.0)
        both = at if isinstance(at, tuple) else (at, at)
        answers.keep(space, SLUG, both, far=False, high=False, hz=hz, octaves=1.0)


def only(space: Workspace) -> Mending:
    found = mendings(space, SLUG)
    assert len(found) == 1
    return found[0]


def ratio_db(space: Workspace, edits: tuple[Edit, ...], hz: float) -> float:
    """By how much edits make left louder over right at a frequency, as predicted."""
    at, tune = scene(space, SLUG), head(space, SLUG).tune
    levels = []
    for one in (tune, draft(space, SLUG, tune, edits)):
        rows = predicted(space, at, one)
        n = int(np.argmin(np.abs(space.grid - hz)))
        left, right = (
            np.abs(sum(rows[k, n] for k, name in enumerate(at.ids) if name.endswith(side))) for side in ("-l", "-r")
        )
        levels.append(20 * np.log10(left / right))
    return float(levels[1] - levels[0])


def test_a_band_off_the_centre_is_evened_out_by_opposite_bells(crossed: Workspace) -> None:
    heard(crossed, _1000=0.4)
    one = only(crossed)
    assert one.title == "Even out the level of both sides"
    assert ratio_db(crossed, one.edits, 1000.0) > 2  # it stands on the right: left is made louder
    assert abs(ratio_db(crossed, one.edits, 8000.0)) < 0.2
    channels = {edit.channel for edit in one.edits}
    assert channels == {"mid-l", "mid-r"}
    assert max(map(abs, one.expected[3])) < 0.15


def test_a_way_that_leans_as_a_whole_is_given_another_gain(crossed: Workspace) -> None:
    heard(crossed, _4000=-0.4, _8000=-0.45)
    one = only(crossed)
    assert "Tweeter L by -" in one.says
    assert ratio_db(crossed, one.edits, 6000.0) < -2


def test_what_falls_in_two_gets_a_pair_of_all_passes_in_every_way_that_plays_there(crossed: Workspace) -> None:
    heard(crossed, _500=(-1.0, 1.0))
    one = mendings(crossed, SLUG)[0]
    assert one.title.startswith("Bring both sides in phase near ")
    after = draft(crossed, SLUG, head(crossed, SLUG).tune, one.edits)
    left, right = after.channels["mid-l"].all_passes, after.channels["mid-r"].all_passes
    assert left[0].q == right[0].q
    assert left[0].frequency_hz != right[0].frequency_hz
    # Both ways of a seam turn alike about it, so that the seam stays as it is.
    about = tuple(band for band in left if 320 / 1.5 < band.frequency_hz < 320 * 1.5)
    assert after.channels["midbass-l"].all_passes == about
    assert not after.channels["tweeter-l"].all_passes
    # Taken and heard again in two, the pair is replaced rather than stacked.
    commit(crossed, SLUG, one.edits)
    heard(crossed, _500=(-0.2, 1.0))
    again = mendings(crossed, SLUG)[0]
    later = draft(crossed, SLUG, head(crossed, SLUG).tune, again.edits)
    assert len(later.channels["mid-l"].all_passes) <= 2
    assert later.channels["mid-l"].all_passes != left


def test_all_passes_of_the_alignment_stay_where_they_are(crossed: Workspace) -> None:
    # One a side, of one Q, as a search may set them: they look like a pair, and are none.
    for channel, hz in (("mid-l", 700.0), ("mid-r", 900.0)):
        band = {"kind": "all_pass", "frequency_hz": hz, "q": 1.4}
        made(crossed, {"do": "bands", "channel": channel, "bands": [band]})
    heard(crossed, _500=(-1.0, 1.0))
    one = mendings(crossed, SLUG)[0]
    assert "take the place" not in one.says
    after = draft(crossed, SLUG, head(crossed, SLUG).tune, one.edits)
    for channel, hz in (("mid-l", 700.0), ("mid-r", 900.0)):
        assert hz in {band.frequency_hz for band in after.channels[channel].all_passes}


def test_where_no_band_is_free_a_weak_common_one_gives_way(crossed: Workspace) -> None:
    common = [{"frequency_hz": 60.0 * 1.5**n, "gain_db": -1.0 - n, "q": 1.0} for n in range(12)]
    made(crossed, {"do": "bands", "channel": None, "bands": common})
    heard(crossed, _1000=0.4)
    one = only(crossed)
    assert not one.lacks
    assert "It takes the room of bands common to all: -1.0 dB at 60 Hz" in one.says
    after = draft(crossed, SLUG, head(crossed, SLUG).tune, one.edits)
    assert len(after.common) == 11
    assert Band(frequency_hz=60.0, gain_db=-1.0, q=1.0) not in after.common


def test_an_answer_holds_while_its_band_sounds_alike(crossed: Workspace) -> None:
    heard(crossed, _1000=0.4)
    states = {one.hz: one for one in images(crossed, SLUG)}
    assert states[1000.0].means is not None
    made(crossed, {"do": "channel", "channel": "tweeter-l", "gain_db": -6})
    states = {one.hz: one for one in images(crossed, SLUG)}
    assert states[8000.0].means is None
    assert states[8000.0].was is not None
    assert states[500.0].means is not None
    # What is common to both sides changes nothing between them.
    band = {"frequency_hz": 500.0, "gain_db": -6.0, "q": 1.0}
    made(crossed, {"do": "band", "channel": None, "index": 0, "band": band})
    assert {one.hz: one for one in images(crossed, SLUG)}[500.0].means is not None


def test_bands_are_those_of_the_standard() -> None:
    assert mids(1.0) == (125.0, 250.0, 500.0, 1000.0, 2000.0, 4000.0, 8000.0)
    thirds = mids(1 / 3)  # nominal mid-bands, ISO 266
    assert thirds[:4] == (100.0, 125.0, 160.0, 200.0)
    assert thirds[-1] == 10_000.0


def test_what_cannot_be_played_is_refused(demo: Workspace) -> None:
    recorder = Recorder(demo)
    with pytest.raises(ConflictError, match="send it before"):
        playing.start(recorder, SLUG, Play(hz=500.0))
    with pytest.raises(NotHereError):
        playing.start(recorder, "nowhere", Play(hz=500.0))
    change.change(demo, {"device": "file"})
    with pytest.raises(ConflictError, match="with files"):
        playing.start(recorder, SLUG, Play(hz=500.0))
    with pytest.raises(ValueError, match="less than or equal to 1"):
        answers.keep(demo, SLUG, (0.0, 3.0), far=False, high=False, hz=500.0, octaves=1.0)
    assert issubclass(InvalidError, ValueError)
