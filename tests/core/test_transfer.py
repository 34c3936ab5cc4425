"""The running transfer function against scipy.signal.csd and the closed form of coherence, S / (S + N)."""

import numpy as np
import pytest
from scipy.signal import coherence as scipy_coherence
from scipy.signal import csd, sosfilt, sosfreqz, welch

from imbrix.core.measure.transfer import Transfer, TransferSettings
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import decibels
from imbrix.core.tune.biquad import peaking

RATE = 48_000
GRID = log_grid()
BELL = np.array([peaking(1000, 9, 2, RATE)])


def run(settings: TransferSettings, microphone: np.ndarray, reference: np.ndarray, block: int = 4096) -> Transfer:
    made = Transfer(settings)
    both = np.stack((microphone, reference), axis=1)
    for first in range(0, both.shape[0], block):
        made.feed(both[first : first + block])
    return made


def test_a_known_filter_comes_back_with_full_coherence() -> None:
    noise = np.random.default_rng(1).standard_normal(RATE * 12)
    shown = run(TransferSettings(2**14, seconds=None), sosfilt(BELL, noise), noise).shown()
    truth = sosfreqz(BELL, worN=GRID, fs=RATE)[1]
    inside = (GRID > 60) & (GRID < 18_000)
    assert decibels(shown.response / truth)[inside] == pytest.approx(0, abs=0.15)
    assert np.degrees(np.angle(shown.response / truth))[inside] == pytest.approx(0, abs=1.5)
    assert shown.coherence[inside].min() > 0.98


def test_it_is_the_estimate_of_scipy() -> None:
    random = np.random.default_rng(2)
    noise = random.standard_normal(RATE * 10)
    heard = sosfilt(BELL, noise) + 0.5 * random.standard_normal(noise.size)
    settings = TransferSettings(2**12, seconds=None, per_second=RATE / 2**11)
    shown = run(settings, heard, noise).shown()
    hertz, cross = csd(noise, heard, RATE, "hann", 2**12, noverlap=2**11, detrend=False)
    _, power = welch(noise, RATE, "hann", 2**12, noverlap=2**11, detrend=False)
    _, agree = scipy_coherence(heard, noise, RATE, "hann", 2**12, noverlap=2**11, detrend=False)
    inside = (GRID > 800) & (GRID < 3000)
    theirs = np.interp(GRID[inside], hertz, np.abs(cross) / power)
    assert np.abs(decibels(np.abs(shown.response[inside]) / theirs)).mean() < 0.2
    assert shown.coherence[inside].mean() == pytest.approx(np.interp(GRID[inside], hertz, agree).mean(), abs=0.05)


@pytest.mark.parametrize("over_noise_db", [0.0, 10.0, -6.0])
def test_coherence_is_signal_over_signal_plus_noise(over_noise_db: float) -> None:
    random = np.random.default_rng(3)
    noise = random.standard_normal(RATE * 30)
    heard = noise + 10 ** (-over_noise_db / 20) * random.standard_normal(noise.size)
    shown = run(TransferSettings(2**11, seconds=None), heard, noise).shown()
    wide = (GRID > 2000) & (GRID < 15_000)
    ratio = 10 ** (over_noise_db / 10)
    assert shown.coherence[wide].mean() == pytest.approx(ratio / (1 + ratio), abs=0.04)


@pytest.mark.parametrize("late", [0, 137, 4321])
def test_the_delay_is_found_in_one_step_and_its_phase_makes_sense_then(late: int) -> None:
    noise = np.random.default_rng(4).standard_normal(RATE * 4)
    heard = np.concatenate((np.zeros(late), sosfilt(BELL, noise)))[: noise.size]
    made = run(TransferSettings(2**14), heard, noise)
    assert made.find_delay() == pytest.approx(late / RATE, abs=1.01 / RATE)
    again = np.stack((heard, noise), axis=1)
    made.feed(again)
    shown = made.shown()
    truth = sosfreqz(BELL, worN=GRID, fs=RATE)[1]
    inside = (GRID > 200) & (GRID < 5000)
    assert np.abs(np.degrees(np.angle(shown.response / truth)))[inside].max() < 40
    assert shown.coherence[inside].mean() > 0.95


def test_exponential_averages_forget_and_unlimited_ones_do_not() -> None:
    random = np.random.default_rng(5)
    noise = random.standard_normal(RATE * 8)
    heard = np.where(np.arange(noise.size) < noise.size // 2, 1.0, 0.1) * noise
    wide = (GRID > 500) & (GRID < 10_000)
    quick = run(TransferSettings(2**12, seconds=0.3), heard, noise).shown()
    long_ = run(TransferSettings(2**12, seconds=None), heard, noise).shown()
    assert decibels(quick.response[wide]).mean() == pytest.approx(-20, abs=0.3)
    assert decibels(long_.response[wide]).mean() == pytest.approx(20 * np.log10(0.55), abs=0.5)


def test_memory_and_settings() -> None:
    made = Transfer(TransferSettings(2**10))
    assert made.shown() is None
    for bad, says in (({"size": 1000}, "1000 points"), ({"window": "kite"}, "kite"), ({"seconds": 0.0}, "0 s")):
        with pytest.raises(ValueError, match=says):
            TransferSettings(**bad)
    made.feed(np.random.default_rng(0).standard_normal((RATE, 2)))
    assert made.count > 15
    made.reset()
    assert made.shown() is None


def test_several_microphones_show_their_mean_power() -> None:
    """Closed form: gains of 1 and 0.5 have a mean power of 0.625."""
    noise = np.random.default_rng(6).standard_normal(RATE * 5)
    made = Transfer(TransferSettings(2**12, seconds=None), microphones=2)
    made.feed(np.stack((noise, 0.5 * noise, noise), axis=1))
    shown = made.shown()
    wide = (GRID > 200) & (GRID < 15_000)
    assert decibels(shown.response[wide]) == pytest.approx(10 * np.log10(0.625), abs=0.05)
    assert shown.coherence[wide].min() > 0.99


def test_a_moving_delay_is_tracked_without_losing_the_average() -> None:
    noise = np.random.default_rng(7).standard_normal(RATE * 12)
    late = np.where(np.arange(noise.size) < RATE * 4, np.roll(noise, 100), np.roll(noise, 112))
    made = Transfer(TransferSettings(2**13, seconds=0.5))
    both = np.stack((late, noise), axis=1)
    made.feed(both[: 2 * RATE])
    made.find_delay()
    made.feed(both[2 * RATE : 4 * RATE])
    assert made.delay == 100
    assert not made.track_delay()
    counted = made.count
    for n in range(4, 12):
        made.feed(both[n * RATE : (n + 1) * RATE])
        if made.track_delay():
            # At once, before anything new is heard: what was averaged is turned by what the delay moved.
            turned = np.degrees(np.angle(made.shown().response))[(GRID > 200) & (GRID < 10_000)]
            assert np.abs(turned).max() < 5
    assert made.delay == 112
    assert made.count > counted  # nothing began anew
    phase = np.degrees(np.angle(made.shown().response))[(GRID > 200) & (GRID < 10_000)]
    assert np.abs(phase).max() < 5


def test_the_running_impulse_is_the_filters_own() -> None:
    noise = np.random.default_rng(8).standard_normal(RATE * 20)
    made = run(TransferSettings(2**14, seconds=None), sosfilt(BELL, noise), noise)
    seconds, taps = made.impulse(0.001, 0.004)
    truth = sosfilt(BELL, np.concatenate(([1.0], np.zeros(400))))
    assert seconds[np.argmax(np.abs(taps))] == 0
    start = int(np.argmin(np.abs(seconds)))
    assert taps[start : start + 100] == pytest.approx(truth[:100], abs=0.02)


def test_a_count_of_averages_is_held() -> None:
    noise = np.random.default_rng(9).standard_normal((RATE * 4, 2))
    made = Transfer(TransferSettings(2**12, frames=10))
    made.feed(noise)
    assert made.count == 10
    assert made.full
    with pytest.raises(ValueError, match="0 averages"):
        TransferSettings(frames=0)


def test_an_overlap_sets_the_hop() -> None:
    assert TransferSettings(2**14, overlap=0.75).hop == 2**12
    assert TransferSettings(2**14).hop == 2400  # twenty frames a second at 48 kHz
    with pytest.raises(ValueError, match="overlap of 99"):
        TransferSettings(overlap=0.99)


def test_between_its_lines_it_goes_on_steadily() -> None:
    """Where the grid is finer than the lines of the transform: each point is of a line and a half."""
    noise = np.random.default_rng(6).standard_normal(RATE * 4)
    shown = run(TransferSettings(2**12, seconds=None), sosfilt(BELL, noise), noise).shown()
    low = (GRID > 200) & (GRID < 900)
    steps = np.diff(decibels(shown.response[low]))
    assert np.abs(steps).min() > 0
    assert np.abs(steps).max() < 0.3
