"""A recording laid against what was played."""

import numpy as np
import pytest

from imbrix.core.measure.recording import LATE_S, aligned
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.sweep import SweepSettings

SCHEDULE = Schedule(SweepSettings(length=2**15), 1)
RATE = SCHEDULE.sweep.rate


def recorded(late_s: float) -> np.ndarray:
    """What was played, heard so much late (or early) by the microphone and the reference alike."""
    played = SCHEDULE.samples()
    lag = round(late_s * RATE)
    heard = np.concatenate((np.zeros(lag), played)) if lag > 0 else played[-lag:]
    return np.stack((0.1 * heard, heard), axis=1)


@pytest.mark.parametrize("late_s", [0.0, 0.15, LATE_S, -0.1])
def test_a_lag_such_as_devices_have_is_left_alone(late_s: float) -> None:
    heard = recorded(late_s)
    assert aligned(heard, SCHEDULE) is heard


@pytest.mark.parametrize("late_s", [0.25, 1.5, -0.3])
def test_a_recorder_started_by_hand_is_shifted_to_20_ms_before_playing_began(late_s: float) -> None:
    heard = recorded(late_s)
    found = aligned(heard, SCHEDULE)
    assert found.shape[0] == heard.shape[0] - round(late_s * RATE) + round(0.02 * RATE)
    at = round(0.02 * RATE)
    played = SCHEDULE.samples()
    known = slice(max(0, -round(late_s * RATE)), played.size)
    assert found[at:, 1][known] == pytest.approx(played[known], abs=1e-12)


def test_what_was_not_played_is_left_alone() -> None:
    noise = np.random.default_rng(1).standard_normal((RATE, 2)) * 0.01
    assert aligned(noise, SCHEDULE) is noise
