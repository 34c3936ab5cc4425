"""One side turned by an all-pass, against a truth that was turned on purpose."""

import numpy as np
import pytest

from imbrix.core.align.turn import turn
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.system.layout import SIDES
from imbrix.core.tune.lower import band_section
from imbrix.core.tune.tune import Band

GRID = log_grid()
PREDICTOR = Predictor(GRID, 48_000)
BOTH = frozenset(SIDES)
WANTED = np.zeros(GRID.size)


def all_pass(hertz: float, q: float) -> np.ndarray:
    band = Band(kind="all_pass", frequency_hz=hertz, q=q)
    return PREDICTOR.sections(np.array([[band_section(band, 48_000)]]))[0]


@pytest.mark.parametrize(("hertz", "q"), [(110.0, 2.0), (163.0, 4.0), (350.0, 2.0), (500.0, 3.0)])
def test_a_side_that_an_all_pass_has_turned_is_met_by_one_on_the_other(hertz: float, q: float) -> None:
    left, right = np.ones(GRID.size, complex), all_pass(hertz, q)
    found = turn({"left": left[None], "right": right[None]}, WANTED, PREDICTOR, BOTH)
    assert found is not None
    assert found.dip_hz == pytest.approx(hertz, rel=0.1)
    assert found.before_db < -3
    assert found.after_db > found.before_db / 2


@pytest.mark.parametrize("seed", [3, 7, 13])
def test_no_side_is_turned_so_broadly_that_both_fall_apart_below(seed: int) -> None:
    """Sides in phase below 500 Hz and bent above, much alike at three spots: a broad turn fills the whole about as well
    as a narrow one does, and loses 1.5 dB where both were in phase."""
    random = np.random.default_rng(seed)
    bumps = [np.exp(-(((np.log2(GRID / 1000) - at) / 0.25) ** 2)) for at in np.linspace(-0.8, 0.6, 5)]
    bent = random.uniform(-3.5, 3.5, 5)
    phases = [(bent + random.uniform(-0.5, 0.5, 5)) @ np.array(bumps) for _ in range(3)]
    plays = 1 / np.sqrt(1 + (80 / GRID) ** 8)
    left, right = plays * np.ones((3, 1), complex), plays * np.exp(1j * np.array(phases))
    found = turn({"left": left, "right": right}, 20 * np.log10(2 * plays), PREDICTOR, BOTH)
    assert found is not None
    assert found.after_db > found.before_db + 3
    turned = all_pass(found.band.frequency_hz, found.band.q)
    both = left * turned + right if found.side == "left" else left + right * turned
    inside = (GRID >= 80) & (GRID <= 500)
    lost = float(20 * np.log10(2 * plays[inside] / np.abs(both[:, inside])).mean())
    assert lost < 0.5
    assert found.lost_db[1] == pytest.approx(lost, abs=0.1)


def test_a_side_that_may_not_be_turned_stays() -> None:
    sums = {"left": np.ones((1, GRID.size), complex), "right": all_pass(163.0, 4.0)[None]}
    assert turn(sums, WANTED, PREDICTOR, frozenset()) is None
    other = turn(sums, WANTED, PREDICTOR, frozenset({"right"}))
    assert other is None or other.side == "right"


def test_a_dip_that_both_sides_have_is_no_matter_of_timing() -> None:
    dip = 1 - 0.8 * np.exp(-((np.log2(GRID / 200) / 0.3) ** 2))
    assert turn({"left": dip[None] + 0j, "right": dip[None] + 0j}, WANTED, PREDICTOR, BOTH) is None


def test_the_dip_that_is_named_is_the_one_that_is_mended() -> None:
    """A deeper one, of both sides, stays as it is: no matter of timing."""
    dip = 1 - 0.8 * np.exp(-((np.log2(GRID / 900) / 0.2) ** 2))
    found = turn({"left": dip[None] + 0j, "right": (dip * all_pass(163.0, 4.0))[None]}, WANTED, PREDICTOR, BOTH)
    assert found is not None
    assert found.dip_hz == pytest.approx(163, rel=0.1)
    assert found.after_db > found.before_db + 3


def test_sides_in_phase_and_one_side_alone_need_nothing() -> None:
    one = np.ones(GRID.size, complex)
    assert turn({"left": one[None], "right": one[None]}, WANTED, PREDICTOR, BOTH) is None
    assert turn({"left": one[None]}, WANTED, PREDICTOR, BOTH) is None
