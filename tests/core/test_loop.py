"""The interface check on a chain with a known high-pass, latency, noise and gain."""

from dataclasses import replace

import numpy as np
import pytest
from scipy.signal import butter, sosfilt, sosfreqz

from imbrix.core.measure.loop import LoopCheck, read_loop, verdict
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.signal import decibels

RATE, QUIET = 48_000, 24_000
SETTINGS = SweepSettings(5.0, 23_000, 2**15, -12.0, 0.3, RATE)
STIMULUS = np.concatenate((np.zeros(QUIET), exponential_sweep(SETTINGS).samples))
OWN = butter(1, 12.0, "highpass", fs=RATE, output="sos")


def run(latency: int, sign: float = 1.0, noise: float = 1e-6, seed: int = 0) -> np.ndarray:
    late = np.concatenate((np.zeros(latency), STIMULUS))[: STIMULUS.size]
    microphone = sign * sosfilt(OWN, late) + noise * np.random.default_rng(seed).standard_normal(late.size)
    return np.stack((microphone, late), axis=1)


def test_its_response_latency_and_noise_come_back() -> None:
    found = read_loop([run(700, seed=n) for n in range(5)], STIMULUS, QUIET, RATE)
    grid = log_grid()
    truth = sosfreqz(OWN, worN=grid, fs=RATE)[1]
    truth /= np.abs(truth[np.argmin(np.abs(grid - 1000))])
    inside = (grid > 25) & (grid < 20_000)
    for shown in (found.response, found.against_reference):
        assert decibels(shown)[inside] == pytest.approx(decibels(truth)[inside], abs=0.05)
    assert found.latencies == pytest.approx(np.full(5, 700.0), abs=0.05)
    assert found.latency_spread_s < 1e-7
    assert found.noise_dbfs == pytest.approx(-120, abs=0.5)
    assert found.peak_dbfs == pytest.approx(-12, abs=0.5)
    assert all(line.good for line in verdict(found))


@pytest.mark.parametrize(
    ("runs", "what"),
    [
        ([sosfilt(OWN, sosfilt(OWN, run(700), axis=0), axis=0)], "Response"),
        ([run(700, -1.0, seed=n) for n in range(2)], "Polarity"),
        ([run(700 + 3 * n, seed=n) for n in range(3)], "Latency"),
        ([run(700, noise=2e-4, seed=n) for n in range(2)], "Noise floor"),
        ([2.5 * run(700, seed=n) for n in range(2)], "Clipping margin"),
    ],
)
def test_each_line_of_the_verdict_can_fail(runs: list[np.ndarray], what: str) -> None:
    lines = {line.what: line for line in verdict(read_loop(runs, STIMULUS, QUIET, RATE))}
    assert not lines[what].good
    assert lines[what].tries


@pytest.mark.parametrize(("peak", "carries"), [(0.9e-4, False), (1.1e-4, True)])
def test_an_input_that_carries_nothing_is_no_reference(peak: float, carries: bool) -> None:
    one = run(700)
    one[:, 1] *= peak / np.abs(one[:, 1]).max()
    assert (read_loop([one, run(700)], STIMULUS, QUIET, RATE).against_reference is not None) is carries


@pytest.mark.parametrize(("spread_us", "good"), [(4.0, True), (6.5, False)])
def test_a_latency_that_wanders_by_a_quarter_of_a_sample_is_said(spread_us: float, good: bool) -> None:
    """Five microseconds turn 20 kHz by 36 degrees (common practice, no source)."""
    found = read_loop([run(700, seed=n) for n in range(2)], STIMULUS, QUIET, RATE)
    wanders = replace(found, latencies=np.array([700.0, 700.0 + spread_us * 1e-6 * RATE]))
    line = next(one for one in verdict(wanders) if one.what == "Latency")
    assert wanders.latency_spread_s == pytest.approx(spread_us * 1e-6)
    assert line.good == good
    assert line.tries == ("" if good else "it changes from run to run: keep time by loopback or marker")


def of_levels(top_db: float, turned_degrees: float = 0.0) -> LoopCheck:
    """A flat chain but for a step of so many dB at 1 kHz and a phase that is turned above it."""
    grid = log_grid()
    above = grid > 1000
    response = 10 ** (top_db * above / 20) * np.exp(1j * np.radians(turned_degrees) * above)
    return LoopCheck(response, None, np.array([700.0]), 1.0, -90.0, -12.0, RATE)


def turned(degrees: float) -> LoopCheck:
    """A chain that is wired the wrong way round, and off that by so much above 1 kHz."""
    right = of_levels(0, degrees)
    return replace(right, response=-right.response, polarity=-1.0)


@pytest.mark.parametrize(
    ("what", "good", "bad"),
    [
        ("Response", of_levels(0.9), of_levels(-1.1)),
        ("Phase", of_levels(0, 14.5), of_levels(0, -15.5)),
        ("Phase", turned(14.5), turned(15.5)),
        ("Noise floor", replace(of_levels(0), noise_dbfs=-80.0), replace(of_levels(0), noise_dbfs=-79.5)),
        ("Clipping margin", replace(of_levels(0), peak_dbfs=-6.0), replace(of_levels(0), peak_dbfs=-5.9)),
    ],
)
def test_each_limit_of_the_check_from_both_sides(what: str, good: LoopCheck, bad: LoopCheck) -> None:
    """Common practice, no source."""
    for check, fine in ((good, True), (bad, False)):
        line = next(one for one in verdict(check) if one.what == what)
        assert line.good == fine
        assert bool(line.tries) != fine


def test_the_ends_of_the_range_do_not_count() -> None:
    """A coupling capacitor and an anti-alias filter are no tone control; phase is looked at in the middle."""
    grid, check = log_grid(), of_levels(0)
    ends = np.where((grid < 29.9) | (grid > 18_100), 0.5, 1.0) * np.exp(1j * ((grid < 199) | (grid > 5010)))
    assert all(one.good for one in verdict(replace(check, response=ends.astype(complex))))
    slow = replace(check, rate=32_000, response=np.where(grid > 0.43 * 32_000, 0.5, 1.0).astype(complex))
    assert all(one.good for one in verdict(slow))


def test_noise_and_a_room_are_no_cable() -> None:
    """They would be divided out of every take."""
    random = np.random.default_rng(3)
    noise = np.stack((3e-3 * random.standard_normal(STIMULUS.size), STIMULUS), axis=1)
    with pytest.raises(ValueError, match="noise, no cable"):
        read_loop([noise], STIMULUS, QUIET, RATE)
    echoes = random.standard_normal(9600) * np.exp(-np.arange(9600) / 1500) * 0.3
    echoes[40] = 1.0
    heard = np.convolve(STIMULUS, echoes)[: STIMULUS.size]
    room = np.stack((0.1 * heard, STIMULUS), axis=1)
    with pytest.raises(ValueError, match="room, no cable"):
        read_loop([room], STIMULUS, QUIET, RATE)


def test_a_loop_that_is_not_there_is_said() -> None:
    silent = np.stack((np.zeros(STIMULUS.size), STIMULUS), axis=1)
    with pytest.raises(ValueError, match="plug the loop cable"):
        read_loop([silent], STIMULUS, QUIET, RATE)


def test_without_a_reference_input_only_the_stimulus_is_compared() -> None:
    alone = run(700)
    alone[:, 1] = 0
    assert read_loop([alone], STIMULUS, QUIET, RATE).against_reference is None
