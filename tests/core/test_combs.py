"""Combs of a place against the closed form 1 + a exp(-j w t), and fits that leave them alone."""

import numpy as np
import pytest
from known import GRID, own_band, truth, with_reflections

from imbrix.core.evidence.combs import Reflection, comb_db, dips_db, reflections
from imbrix.core.evidence.onset import onset
from imbrix.core.predict.dips import bridge_cancellations, without_dips
from imbrix.core.predict.fit import fit
from imbrix.core.predict.fit_problem import FitLimits
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.signal.signal import decibels, power_decibels
from imbrix.core.signal.smoothing import smooth_power
from imbrix.core.tune.tune import Channel
from imbrix.standins.cabin import Cabin, DriverModel

OVER = np.full(GRID.size, 60.0)
PLAIN = DriverModel(150, 0.7, 9000, 2, 102)
DIPPED = DriverModel(150, 0.7, 9000, 2, 102, ((1100, -5, 2.5), (5400, 4, 4.5)))


def found_in(cabin: Cabin, model: DriverModel) -> tuple[Reflection, ...]:
    response = truth(cabin)
    ends = own_band(model)
    comes = onset(response, GRID, OVER, ends, 1 / speed_of_sound(20.0))
    assert comes is not None
    return reflections(response, GRID, (ends[0], ends[1] * 1.5), comes)


@pytest.mark.parametrize(
    ("under_db", "late_s"), [(-6, 0.5e-3), (-3, 1.2e-3), (-9, 0.3e-3), (-4, 2.5e-3), (-1.4, 0.35e-3)]
)
def test_a_reflection_is_found_with_its_time_and_its_amount(under_db: float, late_s: float) -> None:
    strongest = max(found_in(with_reflections(PLAIN, (under_db, late_s)), PLAIN), key=lambda one: one.amount)
    assert strongest.late_s == pytest.approx(late_s, abs=20e-6)
    assert strongest.amount == pytest.approx(10 ** (under_db / 20), abs=0.08)


@pytest.mark.parametrize("wanted", [((-6, 0.7e-3), (-8, 1.9e-3)), ((-5, 0.5e-3), (-9, 1.3e-3))])
def test_two_reflections_are_two_and_no_more(wanted: tuple[tuple[float, float], ...]) -> None:
    """What one of them looks like is taken away before the next is looked for."""
    found = found_in(with_reflections(PLAIN, *wanted), PLAIN)
    assert len(found) == 2
    for one, (under_db, late_s) in zip(found, wanted, strict=True):
        assert one.late_s == pytest.approx(late_s, abs=10e-6)
        assert one.amount == pytest.approx(10 ** (under_db / 20), abs=0.04)


def test_what_the_driver_does_itself_is_no_reflection() -> None:
    for model in (PLAIN, DIPPED, DriverModel(60, 0.7, 3000, 2, 102, ((700, -4, 2),))):
        assert found_in(with_reflections(model), model) == ()


def test_the_comb_is_the_closed_form() -> None:
    one = Reflection(0.5e-3, 0.6)
    exact = decibels(np.abs(1 + 0.6 * np.exp(-2j * np.pi * GRID * 0.5e-3)))
    assert comb_db((one,), GRID, 96)[GRID < 3000] == pytest.approx(exact[GRID < 3000], abs=0.3)
    dips = dips_db((one,), GRID, 24)
    assert dips.max() == 0
    at = GRID[np.argmin(np.where(GRID < 1500, dips, 0))]
    assert at == pytest.approx(1000, rel=0.01)  # (2k + 1) / (2 tau)
    assert dips_db((), GRID, 6) == pytest.approx(np.zeros(GRID.size))


def lifted(cabin: Cabin, model: DriverModel, clean: DriverModel, count: int, boost_db: float) -> np.ndarray:
    """What a fit of a driver in a place to the clean curve does (n,) in dB, its gain with it."""
    asked = power_decibels(smooth_power(truth(with_reflections(clean)), GRID, 6)) - power_decibels(
        smooth_power(truth(cabin), GRID, 6)
    )
    dips = dips_db(found_in(cabin, model), GRID, 6)
    limits = FitLimits(count=count, boost_db=boost_db, low_hz=250, high_hz=9000)
    found = fit(bridge_cancellations(without_dips(asked, dips, GRID), GRID), GRID, limits, 48_000)
    return found.gain_db + decibels(np.abs(Predictor(GRID, 48_000).channel(Channel(bands=found.bands))))


@pytest.mark.parametrize(
    ("under_db", "late_s", "count", "boost_db"),
    [(-6, 0.5e-3, 6, 6), (-1.4, 0.35e-3, 6, 6), (-6, 0.5e-3, 6, 3), (-3, 1.2e-3, 10, 3), (-4, 2.5e-3, 10, 3)],
)
def test_no_notch_of_a_comb_is_lifted(under_db: float, late_s: float, count: int, boost_db: float) -> None:
    does = lifted(with_reflections(PLAIN, (under_db, late_s)), PLAIN, PLAIN, count, boost_db)
    notches = np.array([(2 * k + 1) / (2 * late_s) for k in range(20)])
    notches = notches[(notches > 300) & (notches < 8500)]
    # The driver alone would ask for nothing: that is what gain and bands together are held against.
    assert np.interp(notches, GRID, does).max() < 1.0


def test_a_dip_of_the_drivers_own_is_mended_beside_a_reflection() -> None:
    does = lifted(with_reflections(DIPPED, (-9, 2.2e-3)), DIPPED, PLAIN, 6, 6.0)
    near, away = np.interp([1100.0, 2400.0], GRID, does)
    assert near - away > 3.0
    assert np.interp(5400.0, GRID, does) - away < -2.0


def test_little_that_is_known_shows_no_reflection() -> None:
    cabin = with_reflections(PLAIN, (-3.0, 1.2e-3))
    response, ends = truth(cabin), own_band(PLAIN)
    comes = onset(response, GRID, OVER, ends, 1 / speed_of_sound(20.0))
    assert comes is not None
    first = int(np.searchsorted(GRID, 1000))
    for points, finds in ((95, False), (400, True)):
        here = np.where((np.arange(GRID.size) >= first) & (np.arange(GRID.size) < first + points), response, np.nan)
        assert bool(reflections(here, GRID, ends, comes)) is finds


def test_where_nothing_is_wanted_no_dip_is_bridged() -> None:
    nothing = np.full(GRID.size, np.nan)
    assert bridge_cancellations(nothing, GRID) is nothing
