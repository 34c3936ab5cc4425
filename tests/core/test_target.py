"""How a target is bent, in closed forms."""

import numpy as np
import pytest

from imbrix.core.errors import InvalidError
from imbrix.core.predict.target import TargetCurve, bent
from imbrix.core.signal.grid import log_grid
from imbrix.core.system.layouts import ready
from imbrix.core.tune.apply import apply
from imbrix.core.tune.edits import EDITS, SetTarget
from imbrix.core.tune.models import STOCK
from imbrix.core.tune.tune import Bend, Placement, neutral

GRID = log_grid()


def at(values: np.ndarray, hertz: float) -> float:
    return float(np.interp(np.log2(hertz), np.log2(GRID), values))


def bends(*points: tuple[float, float]) -> tuple[Bend, ...]:
    return tuple(Bend(frequency_hz=hertz, level_db=level) for hertz, level in points)


def test_a_target_that_is_not_bent_stays_as_it_comes() -> None:
    assert bent(Placement(), GRID) == pytest.approx(0)


def test_tilt_turns_about_one_kilohertz() -> None:
    found = bent(Placement(tilt_db=-0.5), GRID)
    assert at(found, 1000) == pytest.approx(0, abs=1e-9)
    assert at(found, 4000) == pytest.approx(-1.0, abs=1e-3)
    assert at(found, 125) == pytest.approx(1.5, abs=1e-3)


def test_half_of_the_bass_lift_is_left_at_its_corner() -> None:
    found = bent(Placement(bass_db=6.0, bass_hz=80.0), GRID)
    assert at(found, 80) == pytest.approx(3.0, abs=1e-2)
    assert at(found, 20) == pytest.approx(6 / (1 + 1 / 16), abs=1e-2)
    assert at(found, 1000) == pytest.approx(0, abs=0.05)
    assert np.all(np.diff(found) < 0)


def test_points_are_gone_through_without_overshoot_and_end_an_octave_farther() -> None:
    found = bent(Placement(bends=bends((2000, 3), (500, -2), (8000, 3))), GRID)
    for hertz, level in ((500, -2), (2000, 3), (8000, 3), (250, 0), (16_000, 0), (60, 0)):
        assert at(found, hertz) == pytest.approx(level, abs=0.02)
    assert found.max() <= 3 + 1e-9
    assert found.min() >= -2 - 1e-9


def test_points_too_near_each_other_are_refused_in_words() -> None:
    with pytest.raises(ValueError, match="third of an octave"):
        EDITS.validate_python([{"do": "target", "bends": [{"frequency_hz": at, "level_db": 1} for at in (1000, 1100)]}])
    with pytest.raises((InvalidError, ValueError), match="third of an octave"):
        Placement(bends=bends((1000, 1), (1200, 1)))
    Placement(bends=bends((1000, 1), (1260, 1)))


def test_what_an_edit_leaves_out_stays() -> None:
    layout = ready("front-3-sub", "left")
    tune = neutral(layout)
    for edit in (
        SetTarget(tilt_db=-0.3),
        SetTarget(bass_db=4),
        SetTarget(bends=bends((3000, 2))),
        SetTarget(level_db=70),
    ):
        tune = apply(tune, [edit], layout, STOCK)
    assert tune.target == Placement(level_db=70, tilt_db=-0.3, bass_db=4, bends=bends((3000, 2)))
    assert apply(tune, [SetTarget(bends=())], layout, STOCK).target.bends == ()


def test_a_curve_of_one_point_is_flat_and_others_are_held_beyond_their_ends() -> None:
    assert TargetCurve("flat", (500.0,), (7.0,)).shape(GRID).tolist() == [0.0] * GRID.size
    slope = TargetCurve("slope", (100.0, 1000.0, 10_000.0), (3.0, 1.0, -2.0)).shape(GRID)
    assert (at(slope, 20), at(slope, 100), at(slope, 1000), at(slope, 20_000)) == pytest.approx((2, 2, 0, -3), abs=1e-3)
    low = TargetCurve("low", (50.0, 500.0), (4.0, 1.0)).shape(GRID)  # 1 kHz lies beyond it: its end counts
    assert at(low, 5000) == pytest.approx(0, abs=1e-9)
