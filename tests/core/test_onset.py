"""The arrival of the direct sound and which way it moves, against what the stand-ins know."""

import numpy as np
import pytest
from known import GRID, own_band, truth, with_reflections

from imbrix.core.evidence.onset import Onset, onset
from imbrix.core.signal.response import speed_of_sound
from imbrix.core.system.layouts import ready
from imbrix.standins.cabin import DriverModel
from imbrix.standins.places import drawn
from imbrix.standins.places.place import wired

OVER = np.full(GRID.size, 60.0)
MID = DriverModel(170, 0.65, 8200, 2, 102, ((1050, -3, 2), (5400, 4, 4.5)))
SPEED = speed_of_sound(20.0)


@pytest.mark.parametrize("backwards", [False, True])
def test_a_driver_in_the_open_arrives_by_its_distance_and_says_how_it_is_wired(backwards: bool) -> None:
    response = truth(with_reflections(MID, distance_m=1.37, backwards=backwards))
    found = onset(response, GRID, OVER, own_band(MID), 1.37 / SPEED + 1e-4)
    assert found is not None
    assert found.sure
    assert found.seconds == pytest.approx(1.37 / SPEED, abs=10e-6)
    assert found.polarity == (-1 if backwards else 1)
    assert found.off_s < 20e-6


@pytest.mark.parametrize("later", [3.1e-6, 5.7e-6, 8.3e-6, 21.9e-6])
def test_what_comes_later_is_found_so_much_later_to_a_hundredth_of_a_period(later: float) -> None:
    response = truth(with_reflections(MID))
    turned = response * np.exp(-2j * np.pi * GRID * later)
    ends = own_band(MID)
    first, second = (onset(one, GRID, OVER, ends, 1 / SPEED) for one in (response, turned))
    assert first is not None
    assert second is not None
    assert second.seconds - first.seconds == pytest.approx(later, abs=0.02 / ends[1])


def test_two_reflections_louder_together_than_the_direct_sound_do_not_move_it() -> None:
    response = truth(with_reflections(MID, (-3.2, 0.80e-3), (-3.2, 0.83e-3)))
    found = onset(response, GRID, OVER, own_band(MID), 1 / SPEED + 0.8e-3)
    assert found is not None
    assert found.seconds == pytest.approx(1 / SPEED, abs=20e-6)
    assert found.polarity == 1


@pytest.mark.parametrize("seed", [3, 8, 21])
def test_in_drawn_places_it_is_within_a_twentieth_of_a_period(seed: int) -> None:
    layout = ready("front-3-sub", "left")
    place = drawn.place(seed, wired(layout.drivers), "left")
    for driver in layout.drivers:
        seat = place.cabin.seat(driver.output - 1)
        ends = own_band(seat.driver)
        true = seat.path.distance_m / speed_of_sound(place.cabin.celsius)
        found = onset(truth(place.cabin, driver.output - 1), GRID, OVER, ends, true + 0.3e-3)
        assert found is not None
        assert found.likely
        assert found.polarity == (-1 if seat.wired_backwards else 1)
        assert abs(found.seconds - true) < max(25e-6, 0.07 / ends[1])


def test_of_too_little_or_of_noise_nothing_is_claimed() -> None:
    response = truth(with_reflections(MID))
    assert onset(np.where(GRID > 9000, response, np.nan), GRID, OVER, own_band(MID), 0.003) is None
    assert onset(response, GRID, np.full(GRID.size, 3.0), own_band(MID), 0.003) is None
    random = np.random.default_rng(1)
    noise = random.standard_normal(GRID.size) + 1j * random.standard_normal(GRID.size)
    found = onset(noise, GRID, OVER, own_band(MID), 0.003)
    assert found is not None
    assert not found.likely


@pytest.mark.parametrize(("clear", "likely", "sure"), [(0.4, False, False), (0.5, True, False), (0.7, True, True)])
def test_an_arrival_is_a_guess_or_likely_or_sure(clear: float, likely: bool, sure: bool) -> None:
    found = Onset(0.01, 1e-5, 1, clear)
    assert (found.likely, found.sure) == (likely, sure)


PULSE = np.exp(-2j * np.pi * GRID * 0.004)


@pytest.mark.parametrize(("hertz", "counts"), [(96.0, False), (104.0, True), (15_500.0, True), (16_600.0, False)])
def test_an_octave_below_its_band_and_two_above_a_phase_is_still_its_own(hertz: float, counts: bool) -> None:
    bent = np.where(np.abs(np.log2(GRID / hertz)) < 0.03, -PULSE, PULSE)
    one, other = (onset(each, GRID, OVER, (200.0, 4000.0), 0.0041) for each in (PULSE, bent))
    assert (one != other) == counts


@pytest.mark.parametrize(("over_db", "counts"), [(9.9, False), (10.1, True)])
def test_what_does_not_stand_out_of_the_noise_has_no_phase(over_db: float, counts: bool) -> None:
    near = np.abs(GRID / 510 - 1) < 0.02
    over = np.where(near, over_db, OVER)
    one, other = (onset(each, GRID, over, (200.0, 4000.0), 0.0041) for each in (PULSE, np.where(near, -PULSE, PULSE)))
    assert (one != other) == counts
