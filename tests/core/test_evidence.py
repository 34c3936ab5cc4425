"""What a recording gives away about itself: refusals by their cause, repeatability, intrusions and their places."""

import numpy as np
import pytest
from scipy.signal import butter, sosfilt

from imbrix.core.errors import UnusableError
from imbrix.core.evidence.evidence import frequency_at, gather, hum, intrusions, refuse
from imbrix.core.measure.reading import read_impulse
from imbrix.core.measure.recording import read_repeats, read_schedule, residual
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep
from imbrix.core.signal.grid import log_grid

RATE = 48_000
GRID = log_grid()
PLAN = Schedule(SweepSettings(length=2**16))
ROOM = np.zeros(9000)
ROOM[[0, 400, 1100, 2500]] = [1.0, 0.5, -0.4, 0.3]
BAND = butter(2, [150, 9000], "bandpass", fs=RATE, output="sos")


def heard(plan: Schedule = PLAN, noise: float = 2e-4, seed: int = 1) -> tuple[np.ndarray, np.ndarray]:
    """A band-limited driver in a little room, with noise; and the loopback."""
    played = plan.samples()
    sound = np.convolve(sosfilt(BAND, played), ROOM)[: played.size]
    return 0.3 * sound + noise * np.random.default_rng(seed).standard_normal(played.size), played


def kind_of(microphone: np.ndarray, loopback: np.ndarray) -> str:
    with pytest.raises(UnusableError) as refused:
        refuse(microphone, loopback, PLAN)
    return refused.value.kind


def test_a_sound_recording_passes() -> None:
    refuse(*heard(), PLAN)


def test_each_refusal_has_its_cause() -> None:
    microphone, loopback = heard()
    random = np.random.default_rng(2)
    quiet = 3e-4 * random.standard_normal(microphone.size)
    assert kind_of(microphone[: PLAN.sweeps[0] + 1000], loopback) == "short"
    assert kind_of(np.clip(microphone * 100, -1, 1), loopback) == "clipped"
    assert kind_of(loopback, microphone) == "exchanged"
    assert kind_of(quiet * 1e-2, loopback) == "unplugged"
    assert kind_of(quiet, loopback) == "muted"
    assert kind_of(quiet, np.zeros(quiet.size)) == "muted"


@pytest.mark.parametrize(("noise", "same"), [(1e-9, True), (1e-5, False)])
def test_one_input_shown_twice_is_told_from_two_that_hear_the_same(noise: float, same: bool) -> None:
    """At whatever gain: two converters differ by their noise at least."""
    microphone, _ = heard(noise=0.0)
    twice = 0.5 * microphone
    twice += noise * np.sqrt(np.mean(twice**2)) * np.random.default_rng(3).standard_normal(twice.size)
    try:
        refuse(microphone, twice, PLAN)
        kind = ""
    except UnusableError as refused:
        kind = refused.kind
    assert (kind == "same") == same


def test_the_advice_differs_with_what_the_loopback_tells() -> None:
    microphone, loopback = heard()
    quiet = 3e-4 * np.random.default_rng(2).standard_normal(microphone.size)
    with pytest.raises(UnusableError, match="the loopback shows that the sound card plays"):
        refuse(quiet, loopback, PLAN)
    with pytest.raises(UnusableError, match="the output is muted or turned down"):
        refuse(quiet, np.zeros(quiet.size), PLAN)


def test_what_is_left_without_the_linear_part_is_the_noise() -> None:
    microphone, loopback = heard(noise=1e-3)
    start = PLAN.sweeps[0]
    piece = slice(start, start + PLAN.period)
    impulse = read_repeats(microphone, loopback, PLAN).impulses[0]
    rest = residual(microphone[piece], loopback[piece], impulse, RATE, 0.3)
    middle = rest[5000:-30_000]
    assert np.sqrt(np.mean(middle**2)) == pytest.approx(1e-3, rel=0.15)


@pytest.mark.parametrize("at_s", [1.2, 1.6, 2.0])
def test_a_knock_is_found_when_it_came(at_s: float) -> None:
    microphone, loopback = heard()
    first = round(at_s * RATE)
    microphone[first : first + 4000] += 0.02 * np.random.default_rng(3).standard_normal(4000)
    repeats = read_repeats(microphone, loopback, PLAN)
    found = intrusions(microphone, PLAN, read_impulse(repeats.mean, True), repeats)
    assert len(found) == 1
    assert not found[0].low
    assert found[0].at_s == pytest.approx(at_s, abs=0.06)
    assert found[0].seconds == pytest.approx(4000 / RATE, abs=0.06)


def test_without_a_knock_there_is_none_whatever_the_noise() -> None:
    for seed in range(8):
        microphone, loopback = heard(noise=10 ** np.random.default_rng(seed).uniform(-5, -3), seed=seed)
        repeats = read_repeats(microphone, loopback, PLAN)
        assert intrusions(microphone, PLAN, read_impulse(repeats.mean, True), repeats) == []


def test_all_figures_are_gathered_and_repeats_told_apart() -> None:
    plan = Schedule(SweepSettings(length=2**15), repeats=3)
    microphone, loopback = heard(plan)
    repeats = read_repeats(microphone, loopback, plan)
    shows = read_schedule(microphone, loopback, plan)
    evidence = gather(microphone, loopback, plan, shows, repeats, GRID, shows.response)
    assert evidence.repeat_db < -30
    assert evidence.noise_dbfs == pytest.approx(20 * np.log10(2e-4), abs=0.5)
    assert evidence.loopback_dbfs == pytest.approx(-24, abs=0.1)
    assert 80 < evidence.low_hz < 200
    assert 7000 < evidence.high_hz < 13_000
    assert set(evidence.over_noise_db) >= {"250", "1000", "4000"}
    loose = microphone.copy()
    loose[plan.sweeps[1] : plan.sweeps[2]] *= 0.6  # a microphone that slipped during the second sweep
    again = read_repeats(loose, loopback, plan)
    moved = gather(loose, loopback, plan, shows, again, GRID, shows.response)
    assert moved.repeat_db > -15


@pytest.mark.parametrize("repeats", [2, 4])
def test_how_far_repeats_differ_is_their_variance_over_what_they_share(repeats: int) -> None:
    """Sweeps that are alternately 2 % louder and softer: variance n / (n - 1) times 0.02 squared (closed form)."""
    plan = Schedule(SweepSettings(length=2**14), repeats=repeats)
    microphone, loopback = heard(plan, noise=1e-7)
    for n, start in enumerate(plan.sweeps):
        microphone[start : start + plan.period] *= 1 + 0.02 * (-1) ** n
    shows = read_schedule(microphone, loopback, plan)
    found = gather(microphone, loopback, plan, shows, read_repeats(microphone, loopback, plan), GRID, shows.response)
    assert found.repeat_db == pytest.approx(10 * np.log10(0.02**2 * repeats / (repeats - 1)), abs=0.1)


def test_by_marker_no_intrusion_is_looked_for_but_the_drift_is_told() -> None:
    from imbrix.core.measure.marker import Marker

    plan = Schedule(SweepSettings(length=2**15), marker=Marker(700, 4500, 8192, RATE, -24.0))
    microphone, _ = heard(plan)
    repeats = read_repeats(microphone, None, plan)
    shows = read_impulse(repeats.mean, True)
    evidence = gather(microphone, None, plan, shows, repeats, GRID, shows.response)
    assert evidence.drift_ppm == pytest.approx(0, abs=0.5)
    assert evidence.intrusions == ()
    assert evidence.loopback_dbfs is None


def test_the_frequency_of_a_sweep_over_time_is_that_of_its_samples() -> None:
    settings = SweepSettings(low_hz=20.0, high_hz=20_000.0, length=2**17, rate=48_000)
    samples = exponential_sweep(settings).samples
    for at_s in (0.5, 1.2, 2.0):
        around = samples[round((at_s - 0.05) * 48_000) : round((at_s + 0.05) * 48_000)]
        crossings = np.flatnonzero(np.diff(np.signbit(around)))
        counted = (crossings.size - 1) / 2 / ((crossings[-1] - crossings[0]) / 48_000)
        assert frequency_at(Schedule(settings), np.array([at_s]))[0] == pytest.approx(counted, rel=0.03)
    late = frequency_at(Schedule(settings), np.array([0.0, 100.0]))
    assert late == pytest.approx([20.0, 20_000.0], rel=1e-9)


def lines(at_db: dict[float, float], seconds: float = 1.0) -> np.ndarray:
    """White noise with sines at some hertz, each so many dB over what noise has in the lines about it.

    A Hann window passes half of a sine's amplitude and 3/8 of noise power (F. J. Harris 1978); the median of a
    line's noise power is ln 2 of its mean.
    """
    count = round(seconds * RATE)
    noise = 1e-4 * np.random.default_rng(5).standard_normal(count)
    median = 1e-8 * count * 0.375 * np.log(2)
    at = np.arange(count) / RATE
    for hertz, over_db in at_db.items():
        noise += 4 / count * np.sqrt(median * 10 ** (over_db / 10)) * np.cos(2 * np.pi * hertz * at)
    return noise


@pytest.mark.parametrize(
    ("at_db", "base"),
    [
        ({100: 22}, 50),
        ({100: 17}, None),
        ({60: 15, 180: 15}, 60),
        ({60: 15, 180: 8}, None),
        ({50: 15, 60: 15}, None),  # each is one of its own
        ({400: 25}, 50),
        ({450: 30}, None),  # the ninth
        ({50: 16, 60: 17, 120: 24, 100: 16}, 60),
        ({75: 40}, None),
    ],
)
def test_two_lines_of_a_mains_or_a_strong_one_are_hum(at_db: dict[float, float], base: int | None) -> None:
    found = hum(lines(at_db), RATE)
    assert (found and found.base_hz) == base
    if found is not None:
        assert found.over_db == pytest.approx(max(at_db.values()), abs=4.0)  # noise adds to the line


def test_hum_is_not_looked_for_in_a_moment() -> None:
    assert hum(lines({50: 40, 100: 40}, 0.41), RATE) is not None
    assert hum(lines({50: 40, 100: 40}, 0.39), RATE) is None
