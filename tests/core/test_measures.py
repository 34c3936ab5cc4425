"""Figures read off curves, targets and findings, on curves whose figures are known."""

import numpy as np
import pytest

from imbrix.core.evidence.onset import Onset
from imbrix.core.predict.findings import boosts, opposite, reversed_drivers
from imbrix.core.predict.predict import Predictor
from imbrix.core.predict.target import BUILT_IN, TargetCurve
from imbrix.core.signal.grid import log_grid, span_mask
from imbrix.core.signal.measures import deviation, signal_over_noise, usable_band, without_filters
from imbrix.core.tune.tune import Band, Channel, Crossover, neutral
from imbrix.standins.places.van import layout

GRID = log_grid()


def test_deviation_of_known_departures() -> None:
    curve = np.zeros(GRID.size)
    curve[span_mask(GRID, 90, 110)] = 4
    curve[span_mask(GRID, 900, 1100)] = -2
    found = deviation(curve + 10, np.zeros(GRID.size), GRID, 40, 16_000)
    assert found is not None
    assert found.plus + found.minus == pytest.approx(6)
    assert found.plus_minus == pytest.approx(3)
    assert found.worst == pytest.approx(14)
    assert found.mean == pytest.approx(10, abs=0.2)


def test_what_is_not_known_does_not_count_and_nothing_known_gives_nothing() -> None:
    curve = np.where(GRID < 1000, np.nan, 1.0)
    found = deviation(curve, np.zeros(GRID.size), GRID, 20, 20_000)
    assert found is not None
    assert found.rms == pytest.approx(1)
    assert deviation(curve, np.zeros(GRID.size), GRID, 20, 500) is None


@pytest.mark.parametrize(("low", "high"), [(60.0, 2500.0), (300.0, 8000.0)])
def test_the_usable_band_ends_6_db_down(low: float, high: float) -> None:
    """A band of LR24 filters is 6.02 dB down just at its corners."""
    ends = {
        "high_pass": Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=low),
        "low_pass": Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=high),
    }
    found = usable_band(Predictor(GRID, 48_000).channel(Channel(**ends)), GRID)
    assert found == pytest.approx((low, high), rel=0.06)


@pytest.mark.parametrize("end", [0, 1])
def test_a_band_whose_end_moves_by_a_step_of_the_grid_ends_a_step_later(end: int) -> None:
    """Not two steps: each point is looked at, upwards and downwards."""
    first, last, found = 200, 700, []
    for step in range(4):
        inside = np.zeros(GRID.size)
        inside[first - step * (end == 0) : last + step * (end == 1)] = 1.0
        found.append(usable_band(inside.astype(complex), GRID)[end])
    assert np.abs(np.diff(np.log2(found)) * 96) == pytest.approx(1.0)


def test_a_narrow_dip_does_not_end_the_band_but_a_wide_one_does() -> None:
    flat = np.ones(GRID.size, dtype=complex)
    narrow = np.where(span_mask(GRID, 990, 1010), 0.01, flat)
    wide = np.where(span_mask(GRID, 700, 1400), 0.01, flat)
    assert usable_band(narrow, GRID) == (20.0, 20_000.0)
    low, high = usable_band(wide, GRID)
    assert low > 1200 or high < 800


def test_filters_are_divided_out_down_to_40_db_under_their_greatest() -> None:
    filters = np.array([2.0, 2j, 0.0201, 0.0199, 0.0])
    heard = np.array([6.0, 6.0, 0.0201, 0.5, 0.5])
    assert without_filters(heard, filters)[:3] == pytest.approx([3.0, -3j, 1.0])
    assert np.isnan(without_filters(heard, filters)[3:]).all()


def test_signal_over_noise_is_a_difference_of_levels() -> None:
    over = signal_over_noise(np.full(GRID.size, 10 + 0j), np.full(GRID.size, 0.1j), GRID)
    assert over == pytest.approx(np.full(GRID.size, 40.0))


def test_targets_are_zero_at_1_khz_and_do_not_overshoot() -> None:
    for curve in BUILT_IN.values():
        shape = curve.shape(GRID)
        assert shape[np.argmin(np.abs(GRID - 1000))] == pytest.approx(0, abs=1e-9)
        assert np.abs(np.diff(shape)).max() < 0.2
    assert not BUILT_IN["flat"].shape(GRID).any()
    warm = BUILT_IN["warm"].shape(GRID)
    assert (np.diff(warm) <= 1e-9).all()


def test_a_target_passes_through_its_points_and_holds_its_ends() -> None:
    curve = TargetCurve("own", (100.0, 1000.0, 5000.0), (6.0, 0.0, -4.0))
    assert curve.shape(np.array([20.0, 100, 1000, 5000, 20_000])) == pytest.approx([6, 6, 0, -4, -4])


def wobbly(seed: int, inverted: bool, late: float) -> np.ndarray:
    random = np.random.default_rng(seed)
    phase = np.cumsum(random.standard_normal(GRID.size)) * 0.03
    return (-1 if inverted else 1) * np.exp(1j * phase - 2j * np.pi * GRID * late)


@pytest.mark.parametrize("inverted", [False, True])
@pytest.mark.parametrize("late", [-0.0021, 0.0, 0.0013])
def test_opposite_movement_is_told_whatever_the_delay(inverted: bool, late: float) -> None:
    inside = span_mask(GRID, 60, 360)
    found, sure = opposite(wobbly(1, False, 0)[inside], wobbly(2, inverted, late)[inside], GRID[inside])
    assert found is inverted
    assert sure > 0.05


def test_of_two_that_never_sound_together_there_is_no_telling() -> None:
    low = np.where(GRID < 300, 1.0 + 0j, 0)
    assert opposite(low, 1.0 - np.abs(low) + 0j, GRID) == (False, 0.0)


def test_the_one_that_starts_backwards_is_named_and_the_remedy_silences_the_finding() -> None:
    wren = layout()
    bare = {"midbass-l": wobbly(1, False, 0.004), "midbass-r": wobbly(2, True, 0.003)}
    bands = dict.fromkeys(bare, (60.0, 2400.0))
    onsets = {"midbass-l": Onset(0.004, 1e-5, 1, 0.9), "midbass-r": Onset(0.003, 1e-5, -1, 0.8)}
    tune = neutral(wren)
    (found,) = reversed_drivers(wren, tune, bare, bands, onsets, GRID)
    assert found.about == "midbass-r"
    assert found.action == "Invert Midbass R"
    cured = tune.with_channel("midbass-r", inverted=found.remedy[0].inverted)
    assert reversed_drivers(wren, cured, bare, bands, onsets, GRID) == []
    # Without sure onsets the phase between the two decides; which of them it is, nobody knows then.
    (found,) = reversed_drivers(wren, tune, bare, bands, {}, GRID)
    assert found.about in bare
    # Where all others move backwards too, the microphone does: the one that differs from them is named.
    others = {name: Onset(0.003, 1e-5, -1, 0.8) for name in ("sub", "mid-l", "mid-r")}
    (found,) = reversed_drivers(wren, tune, bare, bands, {**onsets, **others}, GRID)
    assert found.about == "midbass-l"


def test_more_than_4_db_of_boost_is_a_finding() -> None:
    """Common practice, no source: 3 to 4 dB of boost at most, more than 9 dB is a fault elsewhere."""
    wren = layout()
    tune = neutral(wren).with_channel(
        "mid-l",
        bands=(
            Band(frequency_hz=500, gain_db=5),
            Band(frequency_hz=900, gain_db=-10),
            Band(frequency_hz=90, gain_db=4),
        ),
    )
    assert [one.kind for one in boosts(wren, tune)] == ["boost", "correction"]
