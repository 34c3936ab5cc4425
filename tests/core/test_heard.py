"""A driver and its anchor heard while a source plays the track: against scipy's filters behind drawn head units."""

import numpy as np
import pytest
import scipy.signal

from imbrix.core.errors import UnusableError
from imbrix.core.signal.response import time_shift
from imbrix.core.signal.signal import Impulse
from imbrix.core.source import track
from imbrix.core.source.heard import _without, read_heard
from imbrix.core.source.wires import GRID, read_wires
from imbrix.standins.head_unit import RATE, HeadUnit, drawn

LATER_S, DRIVER_S = 3.37e-3, 1.91e-3
"""How long the anchor's sound is on its way, and the driver's."""
BAND = (GRID > 60) & (GRID < 16_000)


def played(unit: HeadUnit, seed: int, rate: int = 48_000) -> np.ndarray:
    """What the first two wires carry (n, 2), from anywhere of the track on, at a rate of the recorder's."""
    size = round(2.1 * track.schedule(rate).size)
    return unit.play(track.track(RATE), size, rate, (1, 2), np.random.default_rng(seed))


def driver(rate: int) -> np.ndarray:
    return scipy.signal.butter(2, (70, 9000), "band", fs=rate, output="sos")


def late(samples: np.ndarray, seconds: float, rate: int) -> np.ndarray:
    hertz = np.fft.rfftfreq(samples.size, 1 / rate)
    return np.fft.irfft(np.fft.rfft(samples) * np.exp(-2j * np.pi * hertz * seconds), samples.size)


def heard(wires: np.ndarray, noise_db: float = -120.0, rate: int = 48_000) -> np.ndarray:
    """What a microphone hears (n,): the driver of the left wire, an anchor from 300 Hz on of the right one."""
    anchor = scipy.signal.butter(2, 300, "high", fs=rate, output="sos")
    parts = [
        late(scipy.signal.sosfilt(sos, column), seconds, rate)
        for sos, column, seconds in ((driver(rate), wires[:, 0], DRIVER_S), (anchor, wires[:, 1], LATER_S))
    ]
    noise = np.random.default_rng(5).standard_normal(wires.shape[0]) * 10 ** (noise_db / 20)
    return 0.3 * parts[0] - 0.2 * parts[1] + noise


def wrong(shown: np.ndarray, rate: int = 48_000) -> tuple[float, float]:
    """How far a response strays in level, in dB, and how late it is, in seconds, within the band."""
    _, true = scipy.signal.sosfreqz(driver(rate), GRID, fs=rate)
    inside = BAND & np.isfinite(shown)
    off = 20 * np.log10(np.abs(shown[inside] / true[inside]))
    return float(np.abs(off - np.median(off)).max()), time_shift(true[inside], shown[inside], GRID[inside])


@pytest.mark.parametrize("seed", [0, *(pytest.param(one, marks=pytest.mark.walk) for one in (1, 2, 3))])
@pytest.mark.parametrize("rate", [48_000, 44_100])
def test_a_driver_is_read_as_if_no_source_stood_before_it(seed: int, rate: int) -> None:
    """Whatever the unit does to either side, by its own clock: it is as much earlier than its anchor as it was made,
    and its level is right but for the unit's volume."""
    unit = drawn(seed)
    wires = read_wires(played(unit, 1, rate), rate).wires
    found = read_heard(heard(played(unit, 2, rate), rate=rate), rate, wires[0].response, wires[1].response)
    assert found.driver.timed
    off_db, seconds = wrong(found.driver.response, rate)
    assert off_db < 0.03
    assert seconds == pytest.approx(DRIVER_S - LATER_S, abs=5e-6)
    again = read_heard(found.recorded, rate, wires[0].response, wires[1].response)  # as it is when it was kept
    assert again.driver.arrival_s == pytest.approx(found.driver.arrival_s, abs=1e-6)
    assert wrong(again.driver.response, rate)[0] < 0.03
    plain = np.ones(GRID.size, dtype=complex)
    beside = read_heard(heard(played(unit, 2, rate), rate=rate), rate, plain, plain)
    assert wrong(beside.driver.response, rate)[0] > 1  # what would be read without what is known of the source


@pytest.mark.walk
def test_the_time_between_takes_is_the_same_from_any_start_and_over_noise() -> None:
    unit = drawn(3)
    wires = read_wires(played(unit, 1), 48_000).wires
    sides = wires[0].response, wires[1].response
    times = []
    for seed in range(2, 7):
        found = read_heard(heard(played(unit, seed), noise_db=-62.0), 48_000, *sides)
        times.append(wrong(found.driver.response)[1])
    assert np.ptp(times) < 4e-6


def test_without_an_anchor_no_time_is_kept() -> None:
    unit = drawn(1)
    wires = read_wires(played(unit, 1), 48_000).wires
    alone = played(unit, 2)
    alone[:, 1] = 0
    found = read_heard(heard(alone), 48_000, wires[0].response, None)
    assert not found.driver.timed
    assert found.anchor is None
    assert wrong(found.driver.response)[0] < 0.1
    # The anchor plays alone too: time is counted from its own sound.
    itself = read_heard(heard(alone), 48_000, wires[0].response, None, is_anchor=True)
    assert itself.driver.timed
    assert itself.anchor is itself.driver
    assert abs(itself.driver.arrival_s) < 20e-6


@pytest.mark.walk
def test_what_the_source_cut_away_is_not_made_up() -> None:
    """Where its wire carried nothing over the noise, nothing is shown of the driver."""
    unit = drawn(2)
    wires = read_wires(played(unit, 1), 48_000).wires
    left = np.where(GRID < 200, np.nan, wires[0].response)
    found = read_heard(heard(played(unit, 2)), 48_000, left, wires[1].response)
    assert not np.isfinite(found.driver.response[GRID < 200]).any()
    assert np.isfinite(found.driver.response[(GRID > 200) & (GRID < 8000)]).all()
    with pytest.raises(UnusableError, match="record its wires once more"):
        read_heard(heard(played(unit, 2)), 48_000, np.full(GRID.size, np.nan + 0j), wires[1].response)


@pytest.mark.walk
def test_what_is_no_take_is_told() -> None:
    unit = drawn(0)
    wires = read_wires(played(unit, 1), 48_000).wires
    sides = wires[0].response, wires[1].response
    mute = played(unit, 2)
    mute[:, 0] = 0
    for samples, says in (
        (np.zeros(200_000), "hears nothing"),
        (np.random.default_rng(1).standard_normal(700_000) * 0.1, "does not hold the track"),
        (heard(mute, noise_db=-60.0), "of the driver: the microphone hears the room"),
        (heard(played(unit, 2)) + chime(), "something else sounded"),
    ):
        with pytest.raises(UnusableError, match=says):
            read_heard(samples, 48_000, *sides)


def chime() -> np.ndarray:
    """A third of a second in the middle of a recording that holds the track from its second on."""
    t = np.arange(round(2.1 * track.schedule(48_000).size)) / 48_000
    return 0.3 * np.sin(2 * np.pi * 880 * t) * np.exp(-((t - 5.0) ** 2) / 0.02)


@pytest.mark.parametrize("seconds", [0.0, 0.004, 0.03])
def test_a_source_that_is_late_is_divided_out_whatever_its_phase_does_between_two_points(seconds: float) -> None:
    """At 30 ms the phase goes round several times from one point of the grid to the next: the delay goes first."""
    rate = 48_000
    pulse = np.zeros(16_384)
    pulse[2400] = 0.5
    through = Impulse(late(pulse, seconds, rate), rate, 2400)
    found = _without(through, 0.5 * np.exp(-2j * np.pi * GRID * seconds))
    assert found.samples[2400] == pytest.approx(1.0, abs=0.01)
    assert np.abs(np.delete(found.samples, 2400)).max() < 0.01
    with pytest.raises(UnusableError, match="nothing is known of what the source does"):
        _without(through, np.full(GRID.size, np.nan, dtype=complex))
