"""The fit: known bands recovered, limits kept, closed forms, and scipy's optimisers as outside judges."""

import itertools

import numpy as np
import pytest
from scipy.optimize import approx_fprime, minimize_scalar
from scipy.signal import sosfreqz

from imbrix.core.predict.dips import bridge_cancellations, part_filled
from imbrix.core.predict.fit import Fit, fit
from imbrix.core.predict.fit_problem import OVER_WEIGHT, FitLimits, FitProblem, Weight
from imbrix.core.signal.grid import log_grid
from imbrix.core.tune.biquad import peaking

RATE = 48_000
GRID = log_grid()
ONES = np.ones(GRID.size)


def drawn(bands: list[tuple[float, float, float]], gain: float = 0.0) -> np.ndarray:
    sos = np.array([peaking(f, g, q, RATE) for f, g, q in bands])
    return gain + 20 * np.log10(np.abs(sosfreqz(sos, worN=GRID, fs=RATE)[1]))


def drawn_of(found: Fit) -> np.ndarray:
    return drawn([(one.frequency_hz, one.gain_db, one.q) for one in found.bands])


def test_the_closed_form_of_the_bell_is_the_digital_filter() -> None:
    bands = [(60.0, 5.0, 0.7), (1200.0, -9.0, 5.0), (15_000.0, 4.0, 2.0)]
    problem = FitProblem(np.zeros(GRID.size), GRID, FitLimits(), RATE)
    x = np.array([0.0, *[b[1] for b in bands], *np.log([b[0] for b in bands]), *np.log([b[2] for b in bands])])
    at = np.isin(GRID, problem.frequencies)
    assert problem.bands_db(x) == pytest.approx(drawn(bands)[at], abs=1e-9)


def test_the_jacobian_agrees_with_finite_differences() -> None:
    random = np.random.default_rng(8)
    problem = FitProblem(random.standard_normal(GRID.size) * 3, GRID, FitLimits(boost_db=2), RATE)
    x = np.array([-1.0, 3.0, -6.0, np.log(150), np.log(4000), np.log(0.9), np.log(3)])
    numeric = approx_fprime(x, problem.residuals, 1e-7)
    assert problem.jacobian(x) == pytest.approx(numeric, abs=2e-6)


def test_the_jacobian_agrees_with_places_and_weights_too() -> None:
    random = np.random.default_rng(9)
    wanted = random.standard_normal(GRID.size) * 3
    limits = FitLimits(boost_db=2, worst_db=1, weights=(Weight(low_hz=200, high_hz=900, weight=3),))
    problem = FitProblem(wanted, GRID, limits, RATE, wanted - 2 * random.random(GRID.size))
    x = np.array([1.0, 3.0, -6.0, np.log(150), np.log(4000), np.log(0.9), np.log(3)])
    numeric = approx_fprime(x, problem.residuals, 1e-7)
    assert np.abs(problem.residuals(x)[-problem.wanted.size :]).max() > 0.01  # the worst place has its say
    assert problem.jacobian(x) == pytest.approx(numeric, abs=2e-6)


def test_no_place_is_left_to_stand_far_over_what_is_wanted() -> None:
    # One of five places has a peak of 12 dB that the others do not hear; in the mean it is 2.4 dB.
    loud = drawn([(1000, -12, 2.0)])
    wanted, least = loud / 5, loud
    peak = [
        float((found.gain_db + drawn_of(found) - least).max())
        for found in (fit(wanted, GRID, FitLimits(count=3, worst_db=worst), RATE, least) for worst in (60.0, 6.0, 3.0))
    ]
    assert peak[0] > 9
    assert peak[1] < 6.3
    assert peak[2] < 3.5


def test_a_span_counts_as_much_as_its_weight() -> None:
    # One bell for two troubles: it goes where the weight is.
    wanted = drawn([(100, -6, 2.0), (3000, -6, 2.0)])
    for low, high in ((50.0, 200.0), (1500.0, 6000.0)):
        weight = Weight(low_hz=low, high_hz=high, weight=10)
        found = fit(wanted, GRID, FitLimits(count=1, weights=(weight,)), RATE)
        assert low < found.bands[0].frequency_hz < high
    nothing = Weight(low_hz=1000, high_hz=20_000, weight=0)
    found = fit(wanted, GRID, FitLimits(count=2, weights=(nothing,)), RATE)
    inside = GRID < 1000
    assert np.abs(found.gain_db + drawn_of(found) - wanted)[inside].max() < 0.1
    assert np.abs(found.gain_db + drawn_of(found) - wanted)[~inside].max() > 1.5
    with pytest.raises(ValueError, match="nothing that counts"):
        fit(wanted, GRID, FitLimits(weights=(Weight(low_hz=1, high_hz=100_000, weight=0),)), RATE)


def test_the_best_gain_is_the_one_that_costs_least() -> None:
    """Against a search by scipy, where a place that stands too high has its say and where none does."""
    random = np.random.default_rng(5)
    wanted = random.standard_normal(GRID.size) * 3
    limits = FitLimits(worst_db=1, weights=(Weight(low_hz=200, high_hz=900, weight=3),))
    for least in (None, wanted - 4 * random.random(GRID.size)):
        problem = FitProblem(wanted, GRID, limits, RATE, least)
        bells = 2 * np.sin(np.log(problem.frequencies))

        def cost(gain: float, problem: FitProblem = problem, bells: np.ndarray = bells) -> float:
            over = 0.0 if problem.highest is None else np.maximum(gain + bells - problem.highest, 0) * OVER_WEIGHT
            return float(np.sum(problem.shares * (problem.wanted - bells - gain) ** 2) + np.sum(over**2))

        best = minimize_scalar(cost, bounds=(-30, 6), method="bounded", options={"xatol": 1e-6}).x
        assert problem.best_gain(bells) == pytest.approx(best, abs=1e-3)
    quiet = FitProblem(wanted - 100, GRID, limits, RATE)
    assert quiet.best_gain(np.zeros(quiet.frequencies.size)) == limits.least_gain_db


def test_known_bands_and_gain_are_recovered() -> None:
    bands = [(90.0, -6.0, 2.0), (700.0, 2.5, 1.0), (2500.0, -8.0, 4.0), (9000.0, -3.0, 1.2)]
    found = fit(drawn(bands, -4.0), GRID, FitLimits(count=4), RATE)
    assert found.residual_db < 0.02
    assert found.gain_db == pytest.approx(-4, abs=0.02)
    for band, (hertz, gain, q) in zip(found.bands, bands, strict=True):
        assert band.frequency_hz == pytest.approx(hertz, rel=0.01)
        assert band.gain_db == pytest.approx(gain, abs=0.05)
        assert band.q == pytest.approx(q, rel=0.02)


@pytest.mark.parametrize("seed", range(4))
def test_limits_are_kept(seed: float) -> None:
    random = np.random.default_rng(seed)
    wanted = np.cumsum(random.standard_normal(GRID.size)) * 0.5
    limits = FitLimits(count=8, boost_db=2, cut_db=7, least_q=0.8, most_q=5, low_hz=80, high_hz=9000, most_gain_db=0)
    found = fit(wanted, GRID, limits, RATE)
    assert len(found.bands) <= 8
    assert found.gain_db <= 1e-6
    assert found.boost_db <= 2.02
    for band in found.bands:
        assert -7.0001 <= band.gain_db <= 2.0001
        assert 0.7999 <= band.q <= 5.0001
        assert 79.9 <= band.frequency_hz <= 9001


@pytest.mark.parametrize("seed", range(4))
def test_what_others_lift_counts_towards_the_limit_of_boost(seed: int) -> None:
    random = np.random.default_rng(seed)
    lifted = np.maximum(drawn([(400, random.uniform(1, 4), 2), (3000, random.uniform(1, 4), 2)]), 0)
    wanted = drawn([(380, 3, 1.5), (3200, 3, 1.5), (100, 2.5, 2), (800, -4, 2), (9000, -3, 1)])
    limits = FitLimits(count=8)
    alone = drawn_of(fit(wanted, GRID, limits, RATE, thorough=True))
    assert (alone + lifted).max() > 4
    found = fit(wanted, GRID, limits, RATE, thorough=True, lifted_db=lifted)
    assert (drawn_of(found) - np.maximum(3 - lifted, 0)).max() < 0.15
    assert found.residual_db < 0.5  # the gain comes down, and the rest is cut


def test_bells_that_do_nothing_are_spared() -> None:
    bands = [(90.0, -6.0, 2.0), (700.0, 2.5, 1.0), (2500.0, -8.0, 4.0)]
    for thorough in (False, True):
        found = fit(drawn(bands, -2.0), GRID, FitLimits(count=10, low_hz=40, high_hz=16_000), RATE, thorough=thorough)
        alone = fit(drawn(bands, -2.0), GRID, FitLimits(count=3, low_hz=40, high_hz=16_000), RATE, thorough=thorough)
        assert found.residual_db <= 1.02 * alone.residual_db + 1e-3
        assert len(found.bands) < 8


def test_more_bands_never_fit_worse() -> None:
    wanted = drawn([(70, -5, 3), (300, -4, 2), (900, 2, 2), (2000, -6, 6), (5000, -3, 1), (11_000, -5, 3)])
    residuals = [fit(wanted, GRID, FitLimits(count=count), RATE).residual_db for count in (0, 1, 2, 4, 6)]
    assert all(a >= b - 0.01 for a, b in itertools.pairwise(residuals))
    assert residuals[-1] < 0.1


def test_a_cancellation_is_not_boosted() -> None:
    wanted = drawn([(500, -5, 1.5)])
    hole = 14 * np.exp(-((np.log2(GRID / 1500) / 0.05) ** 2))
    bridged = bridge_cancellations(wanted + hole, GRID)
    assert bridged == pytest.approx(wanted, abs=1.5)
    found = fit(bridged, GRID, FitLimits(count=2, boost_db=12, most_q=20), RATE)
    assert all(band.gain_db < 1.5 for band in found.bands)
    unbridged = fit(wanted + hole, GRID, FitLimits(count=2, boost_db=12, most_q=20), RATE)
    assert max(band.gain_db for band in unbridged.bands) > 8


def test_a_dip_of_the_whole_place_is_filled_as_far_as_boost_may_go() -> None:
    wanted = drawn([(500, -5, 1.5)])
    for deep in (14.0, 6.0):
        hole = deep * np.exp(-((np.log2(GRID / 1500) / 0.05) ** 2))
        filled = part_filled(wanted + hole, GRID, 3)
        at = np.argmax(hole)
        assert filled[at] - wanted[at] == pytest.approx(3, abs=1)
        assert filled[at] == pytest.approx(bridge_cancellations(wanted + hole, GRID)[at] + 3)
        assert (filled <= wanted + hole).all()
    shallow = 2 * np.exp(-((np.log2(GRID / 1500) / 0.05) ** 2))
    assert part_filled(wanted + shallow, GRID, 3) == pytest.approx(wanted + shallow)


def test_what_is_not_known_is_left_out() -> None:
    wanted = drawn([(500, -5, 1.5)])
    wanted[GRID < 200] = np.nan
    assert fit(wanted, GRID, FitLimits(count=1), RATE).residual_db < 0.05


def test_contradictions_are_refused() -> None:
    with pytest.raises(ValueError, match="contradict"):
        fit(ONES, GRID, FitLimits(least_q=5, most_q=1), RATE)
    with pytest.raises(ValueError, match="contradict"):
        fit(ONES, GRID, FitLimits(low_hz=5000, high_hz=100), RATE)
    with pytest.raises(ValueError, match="no curve to fit"):
        fit(np.full(GRID.size, np.nan), GRID, FitLimits(), RATE)


def x_of(found: Fit) -> np.ndarray:
    """A fit as the problem has it."""
    bands = found.bands
    logs = [*np.log([b.frequency_hz for b in bands]), *np.log([b.q for b in bands])]
    return np.array([found.gain_db, *[b.gain_db for b in bands], *logs])


@pytest.mark.parametrize("seed", [1, 3, 16])
def test_no_start_by_chance_ends_much_better(seed: int) -> None:
    """Many starts anywhere within the limits, each followed to its end: none finds what the fit has overlooked."""
    random = np.random.default_rng(seed)
    octaves = np.log2(GRID)
    places, widths = np.log2(np.geomspace(50, 14_000, 9)), random.uniform(0.1, 0.8, (9, 1))
    bumps = random.uniform(-9, 5, (9, 1)) * np.exp(-((octaves - places[:, None]) ** 2) / (2 * widths**2))
    limits = FitLimits(count=7, low_hz=40, high_hz=16_000)
    for least in (None, bumps.sum(axis=0) - 4 * random.random(GRID.size)):
        problem = FitProblem(bumps.sum(axis=0), GRID, limits, RATE, least)
        own = problem.cost(x_of(fit(bumps.sum(axis=0), GRID, limits, RATE, least, thorough=True)))
        by_chance = min(problem.cost(problem.refine(random.uniform(*problem.bounds(7)), 60)) for _ in range(25))
        assert own < 1.1 * by_chance


def test_over_places_no_start_by_chance_ends_much_better_either() -> None:
    """Five places that differ by much: where one of them stands too high, that has to be seen."""

    def bumps(seed: int, count: int, highest: float) -> np.ndarray:
        random = np.random.default_rng(seed)
        widths, gains = random.uniform(0.08, 0.5, count), random.uniform(-8, highest, count)
        apart = np.log2(GRID) - np.log2(np.geomspace(45, 15_000, count))[:, None]
        return (gains[:, None] * np.exp(-(apart**2) / (2 * widths[:, None] ** 2))).sum(axis=0)

    places = np.array([bumps(4, 14, 3) + bumps(seed, 30, 8) for seed in range(10, 15)])
    middle = -10 * np.log10(np.mean(10 ** (-places / 10), axis=0))
    weights = (Weight(low_hz=200, high_hz=4000, weight=2),)
    limits = FitLimits(count=10, low_hz=40, high_hz=16_000, worst_db=4, weights=weights)
    problem = FitProblem(middle, GRID, limits, RATE, places.min(axis=0))
    own = problem.cost(x_of(fit(middle, GRID, limits, RATE, places.min(axis=0), thorough=True)))
    random = np.random.default_rng(5)
    by_chance = min(problem.cost(problem.refine(random.uniform(*problem.bounds(10)), 60)) for _ in range(40))
    assert own < 1.1 * by_chance
