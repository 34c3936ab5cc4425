"""Fits of a project: to the target, and of one side to the other."""

import numpy as np
import pytest

from imbrix.core.errors import ConflictError, NotHereError
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.predict.headroom import lifted_db
from imbrix.core.signal.signal import decibels, power_decibels
from imbrix.core.signal.smoothing import smooth_db
from imbrix.core.system.layouts import ready
from imbrix.core.tune.edits import SetBands, SetCrossover, SetTarget
from imbrix.core.tune.tune import Band, Bend, Channel
from imbrix.standins.places.van import SLUG
from imbrix.work.ground.workspace import Workspace
from imbrix.work.predict import fitting
from imbrix.work.predict.scene import acoustic_target, predicted, scene
from imbrix.work.rig import change
from imbrix.work.sound.recorder import Recorder
from imbrix.work.takes.recording import start_sweep
from imbrix.work.tune.revisions import commit, head
from imbrix.work.tune.targets import share_db


def test_a_side_is_fitted_to_what_the_other_does(demo: Workspace) -> None:
    def apart() -> float:
        now = scene(demo, SLUG, spatial=True)
        levels = [
            smooth_db(predicted(demo, now, head(demo, SLUG).tune)[now.ids.index(name)], demo.grid, 6)
            for name in ("mid-l", "mid-r")
        ]
        inside = (demo.grid > 400) & (demo.grid < 5000)
        return float(np.sqrt(np.mean((levels[0] - levels[1])[inside] ** 2)))

    for name in ("mid-l", "mid-r"):
        commit(
            demo, SLUG, [SetCrossover(channel=name, end="high_pass", shape="butterworth", slope_db=12, corner_hz=300)]
        )
    fitting.fit_channels(demo, SLUG, ("mid-l",), FitLimits())
    fitting.fit_channels(demo, SLUG, ("mid-r",), FitLimits(count=10))
    # What one side does of itself: the target knows nothing of it, the other side has to follow.
    own = Band(kind="peaking", frequency_hz=1500, gain_db=4, q=2)
    bands = head(demo, SLUG).tune.channels["mid-l"].bands
    commit(demo, SLUG, [SetBands(channel="mid-l", bands=(*bands, own))])
    to_target = apart()
    made = fitting.fit_channels(demo, SLUG, ("mid-r",), FitLimits(count=10), like="mid-l")
    assert made.head.summary.startswith("Fit Mid R to Mid L: ")
    assert apart() < to_target - 0.5
    with pytest.raises(NotHereError):
        fitting.fit_channels(demo, SLUG, ("mid-r",), FitLimits(), like="no-such-driver")


def test_a_fit_over_places_goes_by_the_mean_of_what_each_of_them_truly_hears(demo: Workspace) -> None:
    spots = {"Left ear": (-0.09, 0.0), "Right ear": (0.09, 0.0), "Middle of the head": (0.0, 0.0)}
    for name in ("Left ear", "Right ear"):
        change.change(demo, {"position": name})
        for channel in ("mid-l", "tweeter-l"):
            recorder = Recorder(demo)
            start_sweep(recorder, SLUG, (channel,), "driver")
            assert recorder.wait(120).stage == "kept"
    commit(
        demo, SLUG, [SetCrossover(channel="mid-l", end="high_pass", shape="butterworth", slope_db=12, corner_hz=300)]
    )
    limits = FitLimits(count=8, worst_db=60.0, low_hz=400, high_hz=8000)
    close = limits.model_copy(update={"worst_db": 1.0})
    before = head(demo, SLUG).tune
    target, _, _ = acoustic_target(demo, SLUG, before, demo.layout(SLUG).driver("mid-l"))
    inside = (demo.grid >= 450) & (demo.grid <= 7000)

    def true(made: fitting.Fitted) -> tuple[float, float]:
        """The rms of the mean of all places about the target, and the highest of one: the stand-in knows them."""
        over = []
        through = demo.predictor_at(48_000).through(made.head.tune, ("mid-l",))[0]
        for spot in spots.values():
            heard = demo.standin.cabin.truth(3, demo.grid, spot) / (20e-6 * 10 ** (112 / 20)) * through
            over.append((smooth_db(heard, demo.grid, 6) + demo.offset_db - target)[inside])
        mean = power_decibels(np.mean(10 ** (np.array(over) / 10), axis=0))
        return float(np.sqrt(np.mean(mean**2))), float(np.max(over))

    at_one = true(fitting.fit_channels(demo, SLUG, ("mid-l",), limits))
    made = fitting.fit_channels(demo, SLUG, ("mid-l",), limits, places=True)
    assert set(made.places) == set(spots)
    assert made.head.summary == f"Fit Mid L over 3 places: {made.bands} bands"
    mean = true(made)
    assert mean[0] < 0.9 * at_one[0]
    worst = true(fitting.fit_channels(demo, SLUG, ("mid-l",), close, places=True))
    assert worst[1] < min(mean[1], at_one[1]) - 0.5
    # What only some hear is said, and not filled.
    assert {one.why for one in made.left if "moves" in one.why} <= {
        f"a dip that moves with the microphone: it is that of {name}" for name in spots
    }


def test_one_place_is_not_several(demo: Workspace) -> None:
    with pytest.raises(ConflictError, match="one place of the microphone"):
        fitting.fit_channels(demo, SLUG, ("mid-l",), FitLimits(), places=True)
    with pytest.raises(ConflictError, match="one place of the microphone"):
        fitting.fit_common(demo, SLUG, FitLimits(), places=True)


@pytest.mark.walk
def test_all_channels_are_fitted_over_the_places_that_all_were_recorded_at(demo: Workspace) -> None:
    change.change(demo, {"position": "Left ear"})
    for driver in demo.layout(SLUG).drivers:
        recorder = Recorder(demo)
        start_sweep(recorder, SLUG, (driver.id,), "driver")
        assert recorder.wait(120).stage == "kept"
    alone = fitting.fit_common(demo, SLUG, FitLimits())
    both = fitting.fit_common(demo, SLUG, FitLimits(), places=True)
    assert alone.places == ()
    assert set(both.places) == {"Middle of the head", "Left ear"}
    assert both.head.tune.common != alone.head.tune.common


def test_what_channels_lift_counts_where_all_are_fitted(demo: Workspace) -> None:
    limits = FitLimits(cut_db=0)
    predictor = demo.predictor_at(48_000)
    alone = fitting.fit_common(demo, SLUG, limits).head
    levels = decibels(predictor.channel(Channel(bands=alone.tune.common)))
    top = Band(frequency_hz=float(demo.grid[np.argmax(levels)]), gain_db=2, q=2)
    assert levels.max() > 2
    commit(demo, SLUG, [SetBands(channel=name, bands=(top,)) for name in alone.tune.channels], "Lift all", alone.id)
    # The whole lacks as much there as before.
    more = tuple(Bend(frequency_hz=top.frequency_hz * by, level_db=db) for by, db in ((0.5, 0), (1, 2), (2, 0)))
    commit(demo, SLUG, [SetTarget(bends=more)], "Want more", head(demo, SLUG).id)
    tune = fitting.fit_common(demo, SLUG, limits).head.tune
    both = decibels(predictor.channel(Channel(bands=tune.common))) + lifted_db(tune, predictor)
    assert both.max() < 3.2


def test_what_stands_beside_the_front_aims_below_one_of_its_sides() -> None:
    layout = ready("whole-car", "left")
    shares = {one.id: share_db(layout, one) for one in layout.drivers}
    assert shares["mid-l"] == -6  # two alike in phase make the whole
    assert shares["rear-tweeter-l"] == -12
    assert shares["centre-tweeter"] == -9
    assert shares["sub"] == pytest.approx(-6.02, abs=0.01)
