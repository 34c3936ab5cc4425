"""A jig that is watched: what it shows is the path that is there, and one period after a change the new one."""

import numpy as np
import pytest

from imbrix.core.measure.watched import Watched

RATE = 48_000


def fed(watched: Watched, periods: float, across: float, resistor: float, sound: float) -> int:
    """Play the stimulus on through voltages and a microphone without memory; how often the curves were new."""
    count = round(periods * watched.stimulus.size)
    played = np.resize(watched.stimulus, count)[:, None] * [across, resistor, sound]
    return sum(watched.feed(block) for block in np.array_split(played, 10 * round(periods)))


def test_a_ratio_and_a_level_come_back_and_a_change_is_there_after_one_period() -> None:
    watched = Watched(RATE, -20.0)
    assert fed(watched, 2, 0.5, 0.5, 0.1) == 1  # the first period is what rings in
    assert watched.ratio == pytest.approx(np.full(watched.frequencies.size, 0.5), abs=1e-6)
    assert watched.level == pytest.approx(np.full(watched.frequencies.size, 0.04), rel=1e-6)
    fed(watched, 2, 0.5, 0.5, 0.1)
    fed(watched, 1, 0.2, 0.6, 0.4)
    assert watched.ratio == pytest.approx(np.full(watched.frequencies.size, 0.25), abs=1e-6)
    assert watched.level == pytest.approx(np.full(watched.frequencies.size, 4.0), rel=1e-6)
    assert watched.count == 1
    fed(watched, 1, 0.2, 0.6, 0.4)
    assert watched.count == 9


def test_noise_is_averaged_as_long_as_nothing_changes() -> None:
    watched, random = Watched(RATE, -20.0), np.random.default_rng(0)
    errors = []
    for _ in range(12):
        block = np.resize(watched.stimulus, watched.stimulus.size)[:, None] * [0.5, 0.5, 0.1]
        watched.feed(block + 1e-5 * random.standard_normal(block.shape))
        errors.append(float(np.median(np.abs(watched.ratio - 0.5))))
    assert errors[-1] < 0.75 * errors[1]


def test_it_is_played_and_read_from_10_hz_to_22_khz() -> None:
    watched = Watched(RATE, -20.0)
    step = RATE / watched.stimulus.size
    assert watched.frequencies[0] - step < 10.0 <= watched.frequencies[0]
    assert watched.frequencies[-1] <= 22_000.0 < watched.frequencies[-1] + step
    hertz = np.fft.rfftfreq(watched.stimulus.size, 1 / RATE)
    level = np.abs(np.fft.rfft(watched.stimulus))
    inside = np.isin(hertz, watched.frequencies)
    assert level[~inside].max() < 1e-6 * level[inside].min()
