"""The band of a driver: closed forms, and drawn places whose truth the stand-ins know."""

import numpy as np
import pytest
from known import GRID, own_band, truth, with_reflections

from imbrix.core.evidence.band import USUAL, DriverBand, _curve, _huber, driver_band, misfits, points, together
from imbrix.core.system.layout import Driver, Kind
from imbrix.core.system.layouts import ready
from imbrix.standins.cabin import DriverModel
from imbrix.standins.places import drawn
from imbrix.standins.places.place import wired

MODELS = {
    Kind.SUB: DriverModel(33, 0.7, 420, 2, 105),
    Kind.MIDBASS: DriverModel(66, 0.7, 2600, 2, 104),
    Kind.MID: DriverModel(170, 0.7, 8200, 2, 102),
    Kind.TWEETER: DriverModel(980, 0.7, 18_000, 2, 104),
    Kind.FULL: DriverModel(100, 0.7, 13_000, 2, 101),
}


@pytest.mark.parametrize("kind", MODELS)
def test_a_driver_in_the_open_ends_where_its_model_does(kind: Kind) -> None:
    shown = points(truth(with_reflections(MODELS[kind])), GRID)
    assert shown is not None
    found = driver_band(shown, kind)
    assert np.abs(np.log2(np.array([found.low_hz, found.high_hz]) / own_band(MODELS[kind]))).max() < 0.25
    assert found.low_octaves < USUAL[kind].low_octaves
    assert found.high_octaves < 0.3


def test_what_is_unusual_is_believed_where_the_curve_is_smooth() -> None:
    """A capsule in a closed tube plays to 20 Hz, whatever midbasses do elsewhere."""
    shown = points(truth(with_reflections(DriverModel(9, 0.6, 1900, 2, 96))), GRID)
    assert shown is not None
    found = driver_band(shown, Kind.MIDBASS)
    assert found.low_hz < 30
    held = driver_band(shown, Kind.MIDBASS, resonance_hz=90.0)
    assert held.misfit > found.misfit + 3


def test_a_resonance_from_the_impedance_decides_where_modes_hide_the_end() -> None:
    seats, (driver, _, _) = drawn_drivers(4), next(one for one in drawn_drivers(4) if one[0].kind == Kind.SUB)
    response = next(response for one, response, _ in seats if one.id == driver.id)
    shown = points(response, GRID)
    assert shown is not None
    for resonance in (25.0, 45.0):
        found = driver_band(shown, Kind.SUB, resonance_hz=resonance)
        assert 0.6 * resonance < max(found.low_hz, 20.0) < 1.25 * resonance


def drawn_drivers(seed: int) -> list[tuple[Driver, np.ndarray, tuple[float, float]]]:
    layout = ready("front-3-sub", "left")
    place = drawn.place(seed, wired(layout.drivers), "left")
    return [
        (one, truth(place.cabin, one.output - 1), own_band(place.cabin.seat(one.output - 1).driver))
        for one in layout.drivers
    ]


def test_in_places_that_nobody_tuned_for_the_ends_are_those_of_the_driver() -> None:
    apart, uppers = [], {kind: [] for kind in Kind}
    for seed in (3, 11, 19, 28, 41, 57, 63, 74):
        for driver, response, (low, high) in drawn_drivers(seed):
            shown = points(response, GRID)
            assert shown is not None
            found = driver_band(shown, driver.kind)
            apart += [np.log2(found.low_hz / low), np.log2(found.high_hz / high)]
            uppers[driver.kind].append(apart[-1])
    for kind in (Kind.SUB, Kind.MIDBASS, Kind.MID, Kind.TWEETER):
        assert np.mean(uppers[kind]) == pytest.approx(0, abs=0.15), kind  # what reflections do in the middle is known
    wrong = np.abs(apart)
    assert np.mean(wrong > 0.5) < 0.04
    assert wrong.max() < 1.1
    assert np.median(wrong) < 0.15


def test_takes_of_one_driver_are_one_reading_by_how_sure_each_is() -> None:
    own = DriverBand(100.0, 3000.0, 0.2, 0.1, 5.0)
    alike = DriverBand(121.0, 3000.0 * 2**0.1, 0.2, 0.2, 7.0)
    found = together(own, [alike])
    # Means by the inverse of the variance (closed form).
    assert found.low_hz == pytest.approx(110.0)
    assert found.low_octaves == pytest.approx(0.2 / np.sqrt(2))
    assert found.high_hz == pytest.approx(3000.0 * 2 ** (0.1 / 5))
    assert found.misfit == 5.0
    assert together(own, []) == own
    nothing = DriverBand(20.0, 20.0, np.inf, np.inf, np.inf)
    assert together(own, [nothing]) == own
    assert together(nothing, [own]) == nothing
    # What lies further off than both spreads allow is another driver's: each end by itself.
    other = together(own, [DriverBand(180.0, 3000.0, 0.2, 0.1, 5.0)])
    assert (other.low_hz, other.high_hz, other.high_octaves) == pytest.approx((100.0, 3000.0, 0.1 / np.sqrt(2)))


def test_both_sides_together_are_nearer_to_the_driver_than_each() -> None:
    each, both = [], []
    for seed in (3, 11, 19, 28, 41, 57):
        here = {one.id: (one, truth_, own) for one, truth_, own in drawn_drivers(seed) if one.side != "both"}
        for driver, response, own in here.values():
            partner = here[driver.id[:-1] + ("l" if driver.id.endswith("r") else "r")]
            mine, theirs = (driver_band(points(one, GRID), driver.kind) for one in (response, partner[1]))  # type: ignore[arg-type]
            joined = together(mine, [theirs])
            each += list(np.log2(np.array([mine.low_hz, mine.high_hz]) / own))
            both += list(np.log2(np.array([joined.low_hz, joined.high_hz]) / own))
    assert np.mean(np.square(both)) < 0.95 * np.mean(np.square(each))


def test_the_kind_of_driver_is_told_by_what_fits() -> None:
    for seed in (2, 13):
        for driver, response, _ in drawn_drivers(seed):
            shown = points(response, GRID)
            assert shown is not None
            fits = misfits(shown)
            assert fits[driver.kind] - min(fits.values()) < 5
            other = {Kind.SUB: Kind.MID, Kind.MIDBASS: Kind.TWEETER, Kind.MID: Kind.SUB, Kind.TWEETER: Kind.MIDBASS}
            assert fits[other[driver.kind]] - min(fits.values()) > 8


def test_what_is_noise_is_left_out_and_too_little_is_nothing() -> None:
    response = truth(with_reflections(MODELS[Kind.MID]))
    over = np.where(GRID > 300, 50.0, 0.0)
    noisy = np.where(GRID > 300, response, 3.0)
    shown = points(noisy, GRID, over)
    assert shown is not None
    assert 2.0 ** shown.octaves.min() > 290
    assert driver_band(shown, Kind.MID).low_hz < 250
    assert points(np.where(GRID > 15_000, response, np.nan), GRID) is None
    # A third of all points, but nowhere more of them than gaps: there is nothing to go by.
    assert points(np.where(np.arange(GRID.size) % 3 == 0, response, np.nan), GRID) is None


def test_the_slopes_of_the_curve_and_of_the_loss_agree_with_differences() -> None:
    octaves = np.linspace(4.5, 14, 40)
    values = np.array([80.0, 6.0, 1.9, 11.5, 2.2, 7.0, 6.4])
    _, by = _curve(values, octaves)
    for n in range(values.size):
        step = np.zeros(values.size)
        step[n] = 1e-5
        differs = (_curve(values + step, octaves)[0] - _curve(values - step, octaves)[0]) / 2e-5
        assert by[:, n] == pytest.approx(differs, abs=1e-5)
    stray = np.linspace(-3, 3, 61)
    turned, steep = _huber(stray)
    assert steep == pytest.approx((_huber(stray + 1e-6)[0] - _huber(stray - 1e-6)[0]) / 2e-6, abs=1e-4)
    # Huber's loss: half the square within, a straight line beyond.
    assert turned[-1] ** 2 / 2 == pytest.approx(0.5 * 3 - 0.5**2 / 2)
