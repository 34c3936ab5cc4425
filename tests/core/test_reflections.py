"""The first reflection and what a gate supports: closed forms of two arrivals."""

import numpy as np
import pytest

from imbrix.core.look.reflections import envelope_db, first_reflection, lowest_hz
from imbrix.core.signal.signal import Impulse
from imbrix.standins.paths import arrive

RATE = 48_000


def two(apart_ms: float, level: float) -> Impulse:
    samples = np.zeros(4800)
    arrive(samples, 400.0, 1.0)
    arrive(samples, 400.0 + apart_ms * RATE / 1000, level)
    return Impulse(samples, RATE, 200)


@pytest.mark.parametrize("apart_ms", [0.8, 2.3, 9.7])
def test_the_first_reflection_is_found_where_it_is(apart_ms: float) -> None:
    assert first_reflection(two(apart_ms, -0.4)) == pytest.approx(apart_ms / 1e3, abs=3e-5)


def test_what_is_too_weak_too_early_or_too_late_is_none() -> None:
    assert first_reflection(two(3.0, 0.05)) is None
    assert first_reflection(two(45.0, 0.5)) is None
    alone = np.zeros(4800)
    arrive(alone, 400.0, 1.0)
    assert first_reflection(Impulse(alone, RATE, 0)) is None


def test_the_envelope_peaks_at_nothing_and_a_period_must_fit_the_gate() -> None:
    assert envelope_db(two(3.0, 0.5)).max() == pytest.approx(0.0)
    assert lowest_hz(0.010) == pytest.approx(100)  # common practice: about 10 ms, nothing below about 100 Hz


def test_an_impulse_that_ends_with_the_sound_has_no_reflection() -> None:
    samples = np.zeros(407)
    arrive(samples, 400.0, 1.0)
    assert first_reflection(Impulse(samples, RATE, 0)) is None
