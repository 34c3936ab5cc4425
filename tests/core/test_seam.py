"""The seam: closed forms of two sources, and a search that has to find what was set up."""

import numpy as np
import pytest
from scipy.optimize import brute

from imbrix.core.predict.predict import Predictor
from imbrix.core.predict.seam import SeamProblem, distinct, loss, search, sensible_delays, stretch
from imbrix.core.signal.grid import log_grid
from imbrix.core.tune.tune import Channel, Crossover

RATE = 48_000
GRID = log_grid()


def pair(corner: float = 2000, slope: int = 24, shape: str = "linkwitz-riley") -> tuple[np.ndarray, np.ndarray]:
    end = Crossover(shape=shape, slope_db=slope, corner_hz=corner)
    lower, upper = Predictor(GRID, RATE).channels([Channel(low_pass=end), Channel(high_pass=end)])
    return lower, upper


def later(values: np.ndarray, seconds: float) -> np.ndarray:
    return values * np.exp(-2j * np.pi * GRID * seconds)


def test_a_linkwitz_riley_pair_of_24_db_loses_nothing() -> None:
    found = loss(*pair(), GRID)
    assert found is not None
    assert found.mean == pytest.approx(0, abs=1e-2)  # smoothing each level alone leaves 0.005
    assert found.low_hz < 2000 < found.high_hz


def test_a_pair_in_quadrature_loses_3_db_at_the_corner() -> None:
    """Two equal levels 90 degrees apart: 20 log 2 - 10 log 2 = 3.01 dB (Butterworth, odd order)."""
    found = loss(*pair(slope=18, shape="butterworth"), GRID, smoothing=None)
    assert found is not None
    assert found.curve[np.argmin(np.abs(GRID - 2000))] == pytest.approx(3.01, abs=0.02)
    assert np.isnan(found.curve[0])


def test_the_stretch_is_where_both_are_within_10_db() -> None:
    lower, upper = pair(slope=12)
    where = stretch(lower, upper, GRID)
    assert where is not None
    apart = np.abs(20 * np.log10(np.abs(lower / upper)))[where]
    assert apart.max() < 10.6
    assert GRID[where].min() < 2000 < GRID[where].max()


def test_ways_that_do_not_meet_have_no_seam() -> None:
    far = Predictor(GRID, RATE).channels(
        [
            Channel(low_pass=Crossover(shape="linkwitz-riley", slope_db=48, corner_hz=60)),
            Channel(high_pass=Crossover(shape="linkwitz-riley", slope_db=48, corner_hz=9000)),
        ]
    )
    assert loss(far[0], far[1], GRID) is None
    with pytest.raises(ValueError, match="do not overlap"):
        SeamProblem(far[0], far[1], GRID)


@pytest.mark.parametrize("delay_ms", [-0.31, 0.0, 0.148, 0.402])
@pytest.mark.parametrize("inverted", [False, True])
def test_the_search_undoes_a_known_delay_and_polarity(delay_ms: float, inverted: bool) -> None:
    lower, upper = pair()
    wrong = later(upper, delay_ms * 1e-3) * (-1 if inverted else 1)
    best = search(SeamProblem(lower, wrong, GRID))[0]
    assert best.delay_s * 1e3 == pytest.approx(-delay_ms, abs=2e-4)
    assert best.invert is inverted
    assert best.mean < 1e-2


def test_the_search_is_global_and_refined() -> None:
    """No worse than scipy's brute force over the same range with thousands of points and a polish."""
    random = np.random.default_rng(4)
    lower, upper = pair(corner=900)
    ripple = np.exp(0.4 * np.sin(np.log2(GRID) * 9) + 1j * np.cumsum(random.standard_normal(GRID.size)) * 0.06)
    problem = SeamProblem(lower, later(upper * ripple, 0.0011), GRID)
    best = search(problem)[0]
    limit = sensible_delays(problem.centre_hz)
    reference = min(
        float(
            brute(
                lambda x, p=invert: float(problem.means(np.atleast_1d(x)[:1], p)[0]),
                ((-limit, limit),),
                Ns=4000,
                full_output=True,
            )[1]
        )
        for invert in (False, True)
    )
    assert best.mean <= reference + 1e-6


@pytest.mark.parametrize("astray_ms", [-3.1, -1.5, 0.0, 1.5, 4.0])
def test_wherever_the_present_setting_is_astray_the_best_is_found(astray_ms: float) -> None:
    """Within 0.05 dB of brute force on a grid of 1 us over 4 ms about the arrivals, both polarities."""
    random = np.random.default_rng(8)
    lower, upper = pair(corner=2600)
    ripple = np.exp(0.3 * np.sin(np.log2(GRID) * 11) + 1j * np.cumsum(random.standard_normal(GRID.size)) * 0.05)
    problem = SeamProblem(lower, later(upper * ripple, astray_ms * 1e-3), GRID)
    about = np.arange(-0.002, 0.002, 1e-6) - astray_ms * 1e-3
    reference = min(problem.means(about, invert).min() for invert in (False, True))
    assert search(problem, together_s=-astray_ms * 1e-3)[0].mean <= reference + 0.05


def test_offers_lie_on_the_processors_steps() -> None:
    lower, upper = pair()
    for one in search(SeamProblem(lower, later(upper, 0.000123), GRID), step_s=1 / RATE):
        assert one.delay_s * RATE == pytest.approx(round(one.delay_s * RATE), abs=1e-6)


def test_candidates_that_are_alike_are_offered_once() -> None:
    found = distinct(search(SeamProblem(*pair(), GRID)), apart_s=5e-5, most=3)
    assert len(found) == 3
    for n, one in enumerate(found):
        for other in found[n + 1 :]:
            assert one.invert != other.invert or abs(one.delay_s - other.delay_s) > 5e-5


def test_scan_and_single_settings_agree() -> None:
    lower, upper = pair()
    problem = SeamProblem(lower, later(upper, 1e-4), GRID)
    delays = np.linspace(-3e-4, 3e-4, 7)
    plus, minus = problem.both_polarities(delays)
    assert plus == pytest.approx(problem.means(delays, False))
    assert minus == pytest.approx(problem.means(delays, True))
    assert problem.candidate(float(delays[2]), False).mean == pytest.approx(plus[2])


@pytest.mark.parametrize(("centre", "expected"), [(30, 10e-3), (70, 10e-3), (400, 5e-3), (8000, 2e-3)])
def test_the_search_range_is_two_periods_within_two_and_ten_ms(centre: float, expected: float) -> None:
    assert sensible_delays(centre) == pytest.approx(expected)
