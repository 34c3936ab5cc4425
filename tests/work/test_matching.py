"""Left against right as a moving microphone hears each, and what brings both together, against the place itself."""

import numpy as np
import pytest

from imbrix.core.errors import ConflictError
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.signal import power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.tune.edits import SetBands, SetChannel, SetCrossover, SetDelays
from imbrix.core.tune.tune import Band
from imbrix.standins.cabin import tour
from imbrix.standins.places.van import SLUG
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict import matching
from imbrix.work.processor.link import send
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes.moving import start_moving
from imbrix.work.tune.revisions import commit, head

ODD = (
    Band(frequency_hz=420, gain_db=5, q=3),
    Band(frequency_hz=1800, gain_db=-5, q=2),
)
"""What is done to the left side, so that there is something to be found."""


def tell_apart(space: Workspace) -> None:
    """Corners that a person would set, and the left side made another than the right."""
    corners = {"midbass": (80, 320), "mid": (320, 3000), "tweeter": (3000, None)}
    edits = []
    for kind, (low, high) in corners.items():
        edits.append(SetCrossover(channel=f"{kind}-l", end="high_pass", corner_hz=low))
        if high:
            edits.append(SetCrossover(channel=f"{kind}-l", end="low_pass", corner_hz=high))
    edits += [SetBands(channel=f"{kind}-l", bands=ODD) for kind in corners]
    commit(space, SLUG, edits, "Told apart", head(space, SLUG).id)
    send(space, SLUG)


def heard(space: Workspace, side: str) -> None:
    recorder = Recorder(space)
    start_moving(recorder, SLUG, matching.channels_of(space.layout(SLUG))[side], "proof")
    ended = recorder.wait(300)
    assert ended.stage == "kept", ended.message


def truth_db(space: Workspace) -> float:
    """How far the sides are apart over a head that moves, as the place itself knows it."""
    layout, tune = space.layout(SLUG), head(space, SLUG).tune
    ids = [one.id for one in layout.drivers]
    through = Predictor(space.grid, 48_000).through(tune, ids)
    levels = []
    for names in matching.channels_of(layout).values():
        rows = [ids.index(name) for name in names]
        powers = []
        for spot in tour():
            curves = np.array([space.standin.cabin.truth(one.output - 1, space.grid, spot) for one in layout.drivers])
            powers.append(smooth_power((curves * through)[rows].sum(axis=0), space.grid, 6))
        levels.append(power_decibels(np.mean(powers, axis=0)))
    return matching.apart_db(space, levels[0] - levels[1])


@pytest.mark.walk
def test_sides_that_differ_are_found_and_brought_together(demo: Workspace) -> None:
    with pytest.raises(ConflictError, match="record both sides"):
        matching.matched(demo, SLUG)
    tell_apart(demo)
    before = truth_db(demo)
    assert before > 1.5
    heard(demo, "left")
    with pytest.raises(ConflictError, match="record both sides"):
        matching.matched(demo, SLUG)
    heard(demo, "right")
    found = matching.matched(demo, SLUG)
    assert found.before_db == pytest.approx(before, abs=0.4)
    tune = head(demo, SLUG).tune
    matching.match_sides(demo, SLUG)
    after = truth_db(demo)
    assert after < 0.75 * before
    assert found.after_db == pytest.approx(after, abs=0.5)
    now = head(demo, SLUG).tune
    # Half on each side, and nothing where a driver lets nothing pass.
    for name in ("mid-l", "mid-r"):
        assert len(now.channels[name].bands) > len(tune.channels[name].bands)
    assert all(one.frequency_hz > 1000 for one in now.channels["tweeter-r"].bands)
    left, right = (now.channels[f"mid-{side}"].bands[-1].gain_db for side in "lr")
    assert left == pytest.approx(-right)
    assert now.channels["sub"] == tune.channels["sub"]


@pytest.mark.walk
def test_recordings_hold_until_what_they_went_through_differs(demo: Workspace) -> None:
    tell_apart(demo)
    for side in ("left", "right"):
        heard(demo, side)
    now = head(demo, SLUG)
    assert matching.sides(demo, SLUG, now.tune).both
    common = SetBands(channel=None, bands=(Band(frequency_hz=100, gain_db=-3),))
    now = commit(demo, SLUG, [common], "Common", now.id)
    assert matching.sides(demo, SLUG, now.tune).both  # the same on both sides
    now = commit(demo, SLUG, [SetChannel(channel="mid-l", gain_db=-2)], "Gain", now.id)
    known = matching.sides(demo, SLUG, now.tune)
    assert not known.both
    assert known.rounds == {"left": 1, "right": 1}
    now = commit(demo, SLUG, [SetDelays(delays_s={"mid-l": 0.002})], "Delay", now.id)
    assert matching.sides(demo, SLUG, now.tune).rounds["left"] == 0


@pytest.mark.walk
def test_where_no_band_is_free_it_says_so(demo: Workspace) -> None:
    tell_apart(demo)
    for side in ("left", "right"):
        heard(demo, side)
    now = head(demo, SLUG)
    known = matching.sides(demo, SLUG, now.tune)
    assert matching.room(2, now.tune, known) == 0
    most = demo.processor.limits.bands
    filled = tuple(Band(frequency_hz=100 + n, gain_db=-0.5) for n in range(most))
    commit(demo, SLUG, [SetBands(channel=None, bands=filled[: most - 2])], "Full", now.id)
    with pytest.raises(ConflictError, match="no band left"):
        matching.matched(demo, SLUG)
