"""Where measured and predicted part ways, and what sides add up to over a place."""

import numpy as np
import pytest

from imbrix.core.predict.parting import SAME_MOVED_DB, Cause, part
from imbrix.core.predict.together import APART_HZ, as_a_place_hears, coherence
from imbrix.core.signal.grid import log_grid

GRID = log_grid()
FLAT = np.zeros(GRID.size)


def bump(hertz: float, db: float) -> np.ndarray:
    return db * np.exp(-(np.log2(GRID / hertz) ** 2))


def test_one_thing_recorded_twice_needs_no_cause() -> None:
    found = part(bump(1000, 0.5), FLAT, (Cause("a cause", bump(1000, 0.5)),), GRID)
    assert found is not None
    assert found.says == ""
    assert found.rms_db < 0.5


def test_a_moving_microphone_is_granted_more() -> None:
    comb = np.where(GRID > 800, 1.9 * np.sin(GRID / 150), 0.0)
    at_a_spot, moved = part(comb, FLAT, (), GRID), part(comb, FLAT, (), GRID, SAME_MOVED_DB)
    assert at_a_spot is not None
    assert moved is not None
    assert at_a_spot.says
    assert not moved.says


def test_a_level_that_was_turned_is_told_with_its_figure() -> None:
    found = part(FLAT - 4.0, FLAT, (Cause("silent", FLAT - 4.2),), GRID)
    assert found is not None
    assert found.rms_db == pytest.approx(4.0)
    assert "-4.0 dB" in found.says


def test_the_cause_that_leaves_least_is_named() -> None:
    silent, turned = bump(2000, -9.0), bump(300, -12.0)
    causes = (Cause("Mid L was silent", silent), Cause("Mid L moved the other way", turned))
    for cause in causes:
        found = part(cause.level_db + bump(8000, 0.6), FLAT, causes, GRID)
        assert found is not None
        assert found.says == cause.says


def test_a_microphone_that_stood_elsewhere_is_told_by_the_bass_that_agrees() -> None:
    comb = np.where(GRID > 500, 4 * np.sin(GRID / 150), 0.0)
    found = part(comb, FLAT, (Cause("Mid L was silent", bump(1000, -8)),), GRID)
    assert found is not None
    assert "microphone stood elsewhere" in found.says
    everywhere = part(4 * np.sin(np.log(GRID) * 9), FLAT, (), GRID)
    assert everywhere is not None
    assert "no single cause" in everywhere.says


@pytest.mark.parametrize(("from_hz", "elsewhere"), [(310.0, True), (260.0, False)])
def test_the_bass_that_has_to_agree_ends_at_300_hz(from_hz: float, elsewhere: bool) -> None:
    """Right below it a dip of 20 dB would be 1.9 dB rms of the bass."""
    off = np.where(GRID > 320, 4 * np.sin(GRID / 150), 0.0) - 20.0 * ((from_hz < GRID) & (from_hz * 1.06 > GRID))
    found = part(off, FLAT, (), GRID)
    assert found is not None
    assert ("microphone stood elsewhere" in found.says) is elsewhere


def test_what_neither_knows_is_not_compared() -> None:
    assert part(np.full(GRID.size, np.nan), FLAT, (), GRID) is None
    found = part(np.where(GRID < 1000, FLAT, np.nan), FLAT + np.where(GRID < 1000, 0.0, 40.0), (), GRID)
    assert found is not None
    assert found.rms_db == 0


def test_coherence_is_the_mean_over_the_differences_of_paths() -> None:
    """Closed form: for a normal distribution the mean of exp(j k d) is exp(-(k s)^2 / 2)."""
    spread_m = 343.0 / (np.sqrt(2) * np.pi * APART_HZ)
    d = np.random.default_rng(1).normal(scale=spread_m, size=200_000)
    for hertz in (100.0, 400.0, 700.0, 1200.0):
        mean = np.mean(np.exp(2j * np.pi * hertz * d / 343.0)).real
        assert coherence(np.array([hertz]))[0] == pytest.approx(mean, abs=0.01)


def test_equal_sides_make_six_decibels_in_the_bass_and_three_in_the_treble() -> None:
    """Common practice, no source: +6 dB in bass and mids, +3 dB in the treble as a moving microphone hears it."""
    one = np.ones(GRID.size)
    heard = 10 * np.log10(as_a_place_hears(4 * one, np.array([one, one]), GRID))
    assert heard[GRID < 60] == pytest.approx(6.02, abs=0.05)
    assert heard[GRID > 2500] == pytest.approx(3.01, abs=0.05)
    # Sides that cancel at the spot still reach the place as power in the treble.
    against = 10 * np.log10(as_a_place_hears(1e-9 * one, np.array([one, one]), GRID))
    assert against[GRID > 2500] == pytest.approx(3.01, abs=0.05)
    assert against[GRID < 60].max() < -15


@pytest.mark.parametrize("wide_m", [0.02, 0.05, 0.09])
def test_several_spots_of_a_head_tell_what_all_of_it_keeps(wide_m: float) -> None:
    """Two sides against each other whose paths part by so much at the ears. Closed form: over evenly spread paths the
    mean of their power is 2 - 2 sin(k d) / (k d)."""
    inside = (GRID > 200) & (GRID < 1300)
    hertz = GRID[inside]
    true = 2 - 2 * np.sinc(2 * hertz * wide_m / 343.0)
    apart = np.array([np.ones(hertz.size), np.ones(hertz.size)])

    def away(parted_m: tuple[float, ...]) -> np.ndarray:
        spots = np.array([1 - np.exp(2j * np.pi * hertz * one / 343.0) for one in parted_m])
        whole = np.mean(np.abs(spots) ** 2, axis=0)
        return as_a_place_hears(whole, apart, hertz, len(parted_m)) - true

    one, three = np.abs(away((1e-4,))), np.abs(away((1e-4, -0.9 * wide_m, 0.9 * wide_m)))
    assert np.sqrt(np.mean(three**2)) < 0.6 * np.sqrt(np.mean(one**2))
    # What the place is known to hear of each side is shared out alike.
    whole = np.full(hertz.size, 0.5)
    louder = as_a_place_hears(whole, apart, hertz, 3, 4 * apart)
    assert louder == pytest.approx(4 * as_a_place_hears(whole, apart, hertz, 3))
