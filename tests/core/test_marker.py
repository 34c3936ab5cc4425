"""The marker against closed forms: known delays and clock ratios, resampled by soxr, which Imbrix did not write."""

import numpy as np
import pytest
import soxr

from imbrix.core.errors import UnusableError
from imbrix.core.measure.marker import MOST_DRIFT, Marker, Timing, find
from imbrix.core.measure.recording import read_repeats
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.sweep import SweepSettings
from imbrix.core.signal.response import arrival

RATE = 48_000
PLAN = Schedule(SweepSettings(length=2**16), marker=Marker(1000, 6000, 8192, RATE, -24.0))


def delayed(samples: np.ndarray, by: float) -> np.ndarray:
    """A delay of a fraction of a sample, by phase."""
    size = 2 * samples.size
    spectrum = np.fft.rfft(samples, size)
    return np.fft.irfft(spectrum * np.exp(-2j * np.pi * np.arange(spectrum.size) / size * by), size)[: samples.size]


def recorded(ppm: float, driver_later: float, seed: int, noise_db: float = -30.0) -> np.ndarray:
    """The schedule heard by a recorder that begins late and runs `ppm` fast: anchor, and a driver `driver_later`."""
    random = np.random.default_rng(seed)
    played = PLAN.samples()
    first, last = PLAN.changes
    anchor, driver = played.copy(), np.zeros_like(played)
    anchor[first:last] = 0
    driver[first:last] = played[first:last]
    heard = delayed(anchor, 300.3) + delayed(driver, 300.3 + driver_later)
    if ppm:
        heard = soxr.resample(heard, 1.0, 1.0 + ppm * 1e-6, quality="VHQ")
    heard = np.concatenate((np.zeros(int(random.integers(0, 6000))), heard))[: played.size + 4000]
    level = np.sqrt(np.mean(played[first:last] ** 2)) * 10 ** (noise_db / 20)
    return heard + level * random.standard_normal(heard.size)


@pytest.mark.parametrize("ppm", [0.0, 50.0, -50.0, 120.0])
def test_delays_come_out_within_ten_microseconds_whatever_the_clock_does(ppm: float) -> None:
    for seed, later in enumerate((-37.2, 12.0, 181.7)):
        shows = read_repeats(recorded(ppm, later, seed), None, PLAN)
        found = arrival(shows.mean) / (1 + ppm * 1e-6)
        assert (found * RATE - later) / RATE * 1e6 == pytest.approx(0, abs=10)
        assert shows.timing.drift * 1e6 == pytest.approx(ppm, abs=0.5)


def test_a_marker_that_is_not_there_is_missed_in_words() -> None:
    silent = recorded(0.0, 10.0, 1)
    first = PLAN.markers[0] + 20_000
    silent[:first] = silent[-first:].std() * 0.1 * np.random.default_rng(0).standard_normal(first)
    silent += 2e-3 * np.random.default_rng(1).standard_normal(silent.size)
    with pytest.raises(UnusableError, match="first marker of the anchor was not found"):
        find(silent, PLAN.marker, PLAN.markers)


def test_a_recording_that_ends_within_the_sweep_is_refused() -> None:
    short = recorded(0.0, 10.0, 2)
    short[PLAN.sweeps[0] + 20_000 : PLAN.markers[1] - 400] = 0  # the second marker is still there
    assert find(short, PLAN.marker, PLAN.markers).drift == pytest.approx(0, abs=1e-6)
    with pytest.raises(UnusableError):
        read_repeats(short[: PLAN.sweeps[0] + 20_000], None, PLAN)


def test_the_schedule_lays_its_parts_one_after_another() -> None:
    twice = Schedule(SweepSettings(length=2**15), repeats=3, quiet_s=0.5)
    samples = twice.samples()
    assert samples.size == twice.size == 24_000 + 3 * (2**15 + 28_800)
    assert not samples[:24_000].any()
    assert samples[twice.sweeps[0] : twice.sweeps[0] + 2**15] == pytest.approx(
        samples[twice.sweeps[2] : twice.sweeps[2] + 2**15]
    )
    assert twice.markers == ()
    assert twice.changes is None
    first, last = PLAN.changes
    assert PLAN.markers[0] + 8192 < first < PLAN.sweeps[0]
    assert PLAN.sweeps[0] + 2**16 < last < PLAN.markers[1]
    # A fifth of a second before the sweep, as a processor fades, and a tenth before the marker: the rest is its decay.
    assert (PLAN.sweeps[0] - first) / RATE == pytest.approx(0.2, abs=1e-4)
    assert (PLAN.markers[1] - last) / RATE == pytest.approx(0.1, abs=1e-4)
    with pytest.raises(ValueError, match="33 repeats"):
        Schedule(SweepSettings(), repeats=33)


def test_repeats_are_averaged_and_noise_falls_three_decibels_with_each_doubling() -> None:
    random = np.random.default_rng(5)
    levels = []
    for repeats in (2, 4, 8):
        plan = Schedule(SweepSettings(length=2**14), repeats=repeats, quiet_s=0.1)
        stimulus = plan.samples()
        powers = []
        for _ in range(12):
            noisy = stimulus + 1e-3 * random.standard_normal(stimulus.size)
            powers.append(np.mean(read_repeats(noisy, stimulus, plan).mean.samples[12_000:28_000] ** 2))
        levels.append(10 * np.log10(np.mean(powers)))
    assert np.diff(levels) == pytest.approx([-3.01, -3.01], abs=0.5)


def test_markers_come_on_an_output_of_their_own_where_they_are_wanted_there() -> None:
    both = PLAN.apart()
    assert both.shape == (PLAN.size, 2)
    assert np.array_equal(both.sum(axis=1), PLAN.samples())
    for start in PLAN.markers:
        piece = slice(start, start + PLAN.marker.length)  # type: ignore[union-attr]
        assert not both[piece, 0].any()
        assert both[piece, 1].any()
    first, last = PLAN.changes
    assert not both[first:last, 1].any()


@pytest.mark.parametrize(("drift", "says"), [(0.0101, "some 101 ms longer"), (-0.0101, "some 101 ms shorter")])
def test_a_drift_that_no_clock_has_is_refused_with_what_was_lost(drift: float, says: str) -> None:
    with pytest.raises(UnusableError, match=says) as found:
        Timing(drift, 1000.0, 30.0).check(10.0)
    assert found.value.kind == "slipped"
    for sign in (1, -1):
        Timing(sign * MOST_DRIFT, 1000.0, 30.0).check(10.0)
        with pytest.raises(UnusableError):
            Timing(sign * MOST_DRIFT * 1.01, 1000.0, 30.0).check(10.0)


def test_a_clock_is_followed_from_the_first_marker_on() -> None:
    timing = Timing(0.001, 5000.0, 30.0)
    assert timing.recorded(1000.0, 1000) == 5000.0
    assert timing.recorded(3000.0, 1000) == pytest.approx(5000 + 2000 * 1.001)
