"""Microphone corrections: interpolation, and a plain microphone found against a known one (closed forms)."""

import numpy as np
import pytest

from imbrix.core.measure.microphone import Correction, disagreement, plain_correction
from imbrix.core.signal.grid import log_grid, span_mask
from imbrix.core.signal.signal import decibels

GRID = log_grid()
SHAPE = 6.0 / (1 + (np.log2(GRID / 7000) * 2) ** 2)
LOUD = np.full(GRID.size, 40.0)


def room(seed: int) -> np.ndarray:
    random = np.random.default_rng(seed)
    return 10 ** (np.convolve(random.normal(0, 6, GRID.size), np.ones(12) / 12, "same") / 20).astype(complex)


def test_a_correction_is_read_between_its_points_and_held_beyond_them() -> None:
    kept = Correction(np.array([100.0, 400.0, 10_000.0]), np.array([0.0, 2.0, -4.0]), np.array([170.0, -170.0, -90.0]))
    on = kept.on(np.array([20.0, 200.0, 400.0, 20_000.0]))
    assert decibels(on) == pytest.approx([0.0, 1.0, 2.0, -4.0])
    # 170 to -170 degrees is a step of 20 through 180, not back through zero.
    assert np.degrees(np.angle(on)) % 360 == pytest.approx([170.0, 180.0, 190.0, 270.0])


def test_a_plain_microphone_is_found_within_a_tenth_and_freed_of_its_gain() -> None:
    source = room(1)
    found = plain_correction(source, LOUD, 0.3 * source * 10 ** (SHAPE / 20), LOUD, GRID)
    # Looked at like the correction itself: smoothed, and without its level at 1 kHz.
    truth = SHAPE - np.interp(1000, GRID, SHAPE)
    inside = (GRID > 40) & (GRID < 16_000)
    assert decibels(found.correction.on(GRID))[inside] == pytest.approx(truth[inside], abs=0.12)
    worst, _, rms = disagreement(room(2), 0.3 * room(2) * 10 ** (SHAPE / 20), found.correction, GRID)
    assert worst < 0.3
    assert rms < 0.1


def test_it_is_limited_to_where_both_had_fifteen_decibels() -> None:
    poor = np.where((GRID > 90) & (GRID < 9000), 40.0, 12.0)
    found = plain_correction(room(3), LOUD, room(3), poor, GRID)
    assert found.low_hz == pytest.approx(90 * 2 ** (1 / 3), rel=0.02)
    assert found.high_hz == pytest.approx(9000 / 2 ** (1 / 3), rel=0.02)
    with pytest.raises(ValueError, match="no octave in common"):
        plain_correction(room(3), LOUD, room(3), np.full(GRID.size, 12.0), GRID)


def test_of_two_stretches_the_longer_one_counts_wherever_it_lies() -> None:
    for low, high in ((300, 400), (3000, 4000)):
        poor = np.where(span_mask(GRID, low, high), 12.0, 40.0)
        found = plain_correction(room(5), LOUD, room(5), poor, GRID)
        longer = (found.low_hz, found.high_hz)
        assert longer == pytest.approx(
            (high * 2 ** (1 / 3), GRID[-1]) if low == 300 else (GRID[0], low / 2 ** (1 / 3)), rel=0.02
        )


def test_a_pair_that_does_not_agree_is_told_where() -> None:
    flat = Correction(np.array([50.0, 15_000.0]), np.array([0.0, 0.0]))
    worst, where, _ = disagreement(room(4), room(4) * 10 ** (SHAPE / 20), flat, GRID)
    assert worst > 4
    assert where == pytest.approx(7000, rel=0.1)
