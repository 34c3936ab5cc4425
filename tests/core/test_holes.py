"""Holes that a whole head hears, and corners clear of them: drawn in decibels, and closed forms of two paths."""

import numpy as np
import pytest

from imbrix.core.align.bounds import Known
from imbrix.core.align.corners import corners
from imbrix.core.align.holes import clear_of_holes, left_between, under_trend
from imbrix.core.signal.grid import log_grid
from imbrix.core.system.layouts import ready
from imbrix.core.tune.crossover import alignment

GRID = log_grid(20, 20_000, 96)
NONE = np.zeros(GRID.size)


def hole(hertz: float, deep_db: float, octaves: float = 0.25) -> np.ndarray:
    """A dip of one octave's fraction between its points of half depth."""
    return -deep_db * np.exp(-np.log(2) * (2 * np.log2(GRID / hertz) / octaves) ** 2)


@pytest.mark.parametrize("tilt_db", [0.0, -6.0, 12.0])
def test_a_hole_is_read_off_a_trend_that_falls_or_rises(tilt_db: float) -> None:
    level = tilt_db * np.log2(GRID / 160) + hole(160, 9)
    under = under_trend(10 ** (level / 10), GRID, (50, 2000))
    at = int(np.argmin(under))
    assert GRID[at] == pytest.approx(160, rel=0.03)
    assert under[at] == pytest.approx(-9, abs=0.7)
    assert np.abs(under[(GRID > 300) & (GRID < 1500)]).max() < 0.1
    assert np.all(under[(GRID < 50) | (GRID > 2000)] == 0)


def test_the_first_notch_of_two_paths_is_a_hole_and_their_hills_are_none() -> None:
    delay, strength = 2.5e-3, 0.7  # notches at odd multiples of 1 / (2 * delay) = 200 Hz
    power = np.abs(1 + strength * np.exp(-2j * np.pi * GRID * delay)) ** 2
    under = under_trend(power, GRID, (60, 380))
    assert GRID[np.argmin(under)] == pytest.approx(200, rel=0.01)
    beside = [(200 * 2**low < GRID) & (200 * 2**high > GRID) for low, high in ((-0.75, -0.2), (0.2, 0.75))]
    missed = np.mean([np.median(10 * np.log10(power[one])) for one in beside])
    assert under.min() == pytest.approx(20 * np.log10(0.3) - missed, abs=0.15)
    assert np.all(under[(GRID > 60) & (GRID < 120)] > -0.5)


def test_what_is_left_is_what_two_linkwitz_riley_ways_sum_to() -> None:
    lower, upper = hole(90, 5), hole(160, 8)
    low, high = (
        np.abs(alignment("linkwitz-riley", 24, 120.0, end, GRID)) * 10 ** (one / 20)
        for end, one in (("low_pass", lower), ("high_pass", upper))
    )
    assert left_between(lower, upper, GRID, np.array([120.0]))[0] == pytest.approx(20 * np.log10(low + high), abs=1e-9)


@pytest.mark.parametrize(("of_upper", "at"), [(True, 160.0), (False, 95.0)])
def test_the_way_without_the_hole_plays_in_its_place(of_upper: bool, at: float) -> None:
    mine = hole(at, 9)
    lower, upper = (NONE, mine) if of_upper else (mine, NONE)
    clear = clear_of_holes(lower, upper, GRID, 120.0, (60.0, 400.0))
    assert clear is not None
    assert clear.of_upper == of_upper
    assert clear.hole_hz == pytest.approx(at, rel=0.06)
    assert (clear.hertz > at) if of_upper else (clear.hertz < at)
    assert clear.remains_db < clear.deep_db - 1.5
    # No corner of the range that remains brings the hole back.
    within = left_between(lower, upper, GRID, np.geomspace(clear.least_hz, clear.most_hz, 9)).min(axis=1)
    assert within.min() > -max(clear.remains_db + 0.6, 3.6)
    assert clear.least_hz <= clear.hertz <= clear.most_hz
    assert not clear.least_hz <= 120 <= clear.most_hz


@pytest.mark.parametrize(
    ("lower", "upper", "range_hz"),
    [
        (NONE, NONE, (60.0, 400.0)),
        (NONE, hole(160, 3.5), (60.0, 400.0)),  # voiced away
        (hole(160, 9), hole(160, 9), (60.0, 400.0)),  # nobody plays there
        (NONE, hole(160, 9), (118.0, 122.0)),  # no corner within the range helps
        (NONE, hole(1500, 9), (60.0, 400.0)),  # far above
        (NONE, hole(160, 9), (120.0, 120.0)),
    ],
)
def test_a_corner_stays_where_another_one_wins_nothing(lower, upper, range_hz) -> None:
    assert clear_of_holes(lower, upper, GRID, 120.0, range_hz) is None


def test_a_corner_that_is_clear_of_a_hole_stays_and_its_range_ends_before_it() -> None:
    clear = clear_of_holes(hole(170, 9), NONE, GRID, 120.0, (60.0, 400.0))
    assert clear is not None
    assert clear.hertz == 120
    assert clear.least_hz == 60
    assert 120 < clear.most_hz < 200
    assert (clear.hole_hz, clear.of_upper) == (pytest.approx(170, rel=0.02), False)
    at_ends = left_between(hole(170, 9), NONE, GRID, np.array([clear.most_hz, clear.most_hz * 1.2])).min(axis=1)
    assert at_ends[0] > -3.6 > at_ends[1]


def test_no_corner_goes_farther_than_it_pays() -> None:
    clear = clear_of_holes(NONE, hole(140, 9, 0.6), GRID, 120.0, (60.0, 2000.0))
    assert clear is not None
    # A little higher less would be left of the hole, but not by what the way there costs.
    assert 140 < clear.hertz < 170
    higher = left_between(NONE, hole(140, 9, 0.6), GRID, np.array([clear.hertz, 180.0])).min(axis=1)
    assert 0.5 < higher[1] - higher[0] < 2


def test_the_reason_is_said_and_what_no_way_may_do_is_kept() -> None:
    layout = ready("four-way", "left")
    bands = {"woofer": (30.0, 600.0), "midbass": (50.0, 3000.0), "mid": (150.0, 8000.0), "tweeter": (900.0, 20_000.0)}

    def found(**holes: np.ndarray):
        known = {
            one.id: Known(bands[one.kind.value], holes_db=holes.get(one.id, holes.get(one.kind.value, NONE)))
            for one in layout.drivers
        }
        return corners(layout, known, grid=GRID)

    assert found()["midbass-l"].high_pass.hertz == 120
    moved = found(midbass=hole(160, 9))
    corner = moved["midbass-l"].high_pass
    assert 160 < corner.hertz < 300
    assert corner.says[0].startswith(f"{corner.hertz:.0f} Hz rather than 120 Hz: over the whole head the midbass has")
    assert "and the woofer plays there" in corner.says[0]
    assert moved["midbass-r"].high_pass == corner == moved["woofer-l"].low_pass
    # What one side lacks the other one plays.
    assert found(**{"midbass-l": hole(160, 9)})["midbass-l"].high_pass.hertz == 120
    # The woofer's own hole ends the range, and this is said.
    kept = found(woofer=hole(170, 9))["midbass-l"].high_pass
    assert (kept.hertz, kept.says[0]) == (120, "120 Hz: where practice begins")
    assert kept.most_hz < 200
    assert "to 170 Hz: beyond, the woofer's hole of" in kept.says[1]
    # A hole that the mid fills, where practice begins with it, is no reason to begin the midbass above it.
    filled = found(midbass=hole(350, 8))
    assert [filled[name].high_pass.hertz for name in ("midbass-l", "mid-l", "tweeter-l")] == [120, 320, 3200]
    # The woofer, which plays from 30 Hz, has an octave too.
    assert found()["midbass-l"].high_pass.least_hz == 60


def test_a_sub_goes_no_higher_for_a_hole_and_none_is_mended_twice() -> None:
    layout = ready("front-3-sub", "left")
    bands = {"sub": (25.0, 300.0), "midbass": (50.0, 3000.0), "mid": (120.0, 8000.0), "tweeter": (900.0, 20_000.0)}
    deep = hole(150, 7)

    def found(of: str) -> tuple[float, float]:
        known = {
            one.id: Known(bands[one.kind.value], holes_db=deep if one.kind.value == of else NONE)
            for one in layout.drivers
        }
        made = corners(layout, known, grid=GRID)
        return made["midbass-l"].high_pass.hertz, made["mid-l"].high_pass.hertz

    assert found("nobody") == (80, 320)
    # By itself the seam of midbass and mid would come down for it; but the sub fills what it can before.
    alone = clear_of_holes(deep, NONE, GRID, 320.0, (190.0, 2000.0))
    assert alone is not None
    assert alone.hertz < 320
    assert found("midbass") == (120, 320)
