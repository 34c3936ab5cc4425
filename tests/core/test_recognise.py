"""Which sweep a recording holds, and where what was played lies in it."""

import numpy as np
import pytest

from imbrix.core.measure.recognise import compactness, recognised
from imbrix.core.measure.recording import LATE_S, aligned, best_match, from_sample, lag_of
from imbrix.core.measure.schedule import Schedule
from imbrix.core.measure.stimuli import faded
from imbrix.core.measure.sweep import SweepSettings, exponential_sweep

RATE = 48_000
SWEEPS = [
    SweepSettings(low_hz=low, high_hz=high, length=length)
    for low, high in ((10.0, 23_000.0), (20.0, 20_000.0))
    for length in (2**15, 2**16)
]


def played(settings: SweepSettings, late: int = 3000, noise: float = 1e-3) -> np.ndarray:
    """A sweep in a place with an echo."""
    sweep = exponential_sweep(settings).samples
    heard = np.zeros(sweep.size + late + 2000)
    for at, amount in ((late, 0.1), (late + 700, 0.05)):
        heard[at : at + sweep.size] += amount * sweep / np.abs(sweep).max()
    return heard + noise * np.random.default_rng(2).standard_normal(heard.size)


@pytest.mark.parametrize("settings", SWEEPS)
def test_a_sweep_is_told_from_those_of_another_length_or_range(settings: SweepSettings) -> None:
    heard = played(settings)
    assert recognised(lambda _rate: heard, SWEEPS) == settings
    assert recognised(lambda _rate: heard, [one for one in SWEEPS if one.length != settings.length]) is None
    assert compactness(heard, settings)[0] > 0.8


def test_what_holds_none_or_is_too_short_is_none() -> None:
    assert recognised(lambda _rate: np.random.default_rng(0).standard_normal(2**17), SWEEPS) is None
    assert recognised(lambda _rate: played(SWEEPS[0])[: 2**15 - 1], SWEEPS[:1]) is None
    assert compactness(np.zeros(2**16), SWEEPS[0]) == (0.0, 0.0)


@pytest.mark.parametrize(("share", "known"), [(0.6, True), (0.42, False)])
def test_half_of_what_a_place_answers_has_to_lie_together(share: float, known: bool) -> None:
    """An answer of which so much comes at once, and the rest, as noise, over a second."""
    sweep = exponential_sweep(SWEEPS[0]).samples
    rest = np.random.default_rng(4).standard_normal(RATE)
    rest *= np.sqrt((1 - share) / share / np.sum(rest**2))
    size = sweep.size + RATE
    answer = np.fft.rfft(np.concatenate(([1.0], rest)), size)
    heard = np.fft.irfft(np.fft.rfft(sweep, size) * answer, size)
    assert compactness(heard, SWEEPS[0])[0] == pytest.approx(share, abs=0.06)
    assert recognised(lambda _rate: heard, SWEEPS[:1]) == (SWEEPS[0] if known else None)


def test_a_sweep_is_looked_for_at_its_own_rate() -> None:
    other = SweepSettings(high_hz=20_000, length=2**15, rate=44_100)
    asked: list[int] = []

    def heard(rate: int) -> np.ndarray:
        asked.append(rate)
        return played(other)

    assert recognised(heard, [other]) == other
    assert asked == [44_100]


def test_of_those_that_fit_alike_it_is_the_first() -> None:
    quieter = SweepSettings(length=2**15, level_db=-30)
    heard = played(SWEEPS[0])
    assert recognised(lambda _rate: heard, [quieter, SWEEPS[0]]) == quieter


@pytest.mark.parametrize("late", [0, 1, 4000, -2500])
def test_the_lag_of_what_was_played(late: int) -> None:
    sweep = exponential_sweep(SWEEPS[0]).samples
    heard = from_sample(sweep[:, None], -late)[:, 0] if late >= 0 else sweep[-late:]
    assert lag_of(heard, sweep) == late


def test_noise_has_no_lag() -> None:
    random = np.random.default_rng(1)
    assert lag_of(random.standard_normal(2**15), random.standard_normal(2**15)) is None


def test_of_what_goes_round_the_place_counts_where_all_of_it_lies_within() -> None:
    noise = np.random.default_rng(3).standard_normal(9000)
    heard = np.concatenate((noise[3000:], noise, noise[:2000]))
    anywhere, whole = best_match(heard, noise), best_match(heard, noise, whole=9000)
    assert whole is not None
    assert anywhere is not None
    assert whole[0] == 6000
    # A part that fits less than half as well is not taken for it.
    assert best_match(np.concatenate((0.2 * noise, noise[:6000])), noise, whole=9000) != (0, anywhere[1])


def test_samples_from_one_on_and_with_silence_before() -> None:
    samples = np.arange(6.0).reshape(3, 2)
    assert np.array_equal(from_sample(samples, 1), samples[1:])
    assert np.array_equal(from_sample(samples, 0), samples)
    assert np.array_equal(from_sample(samples, -2), np.concatenate((np.zeros((2, 2)), samples)))


@pytest.mark.parametrize("seconds", [1.0, -0.3, 0.15])
def test_a_recorder_that_was_started_by_hand_is_brought_in_step(seconds: float) -> None:
    plan = Schedule(SWEEPS[0])
    played = np.stack((0.5 * plan.samples(), plan.samples()), axis=1)
    made = from_sample(played, -round(seconds * RATE))
    found = aligned(made, plan)
    if abs(seconds) <= LATE_S:
        assert found is made
    else:
        assert lag_of(found[:, 1], plan.samples()) == round(0.02 * RATE)
        by_microphone = aligned(made * [1.0, 0.0], plan)
        assert np.array_equal(by_microphone[:, 0], found[:, 0])


def test_ends_are_faded_by_raised_cosines() -> None:
    out = faded(np.ones(4800), RATE, 0.01)
    rise = 0.5 - 0.5 * np.cos(np.pi * np.arange(481) / 479.9)
    assert out[:480] == pytest.approx(rise[:480], abs=1e-3)
    assert out[-480:] == pytest.approx(rise[:480][::-1], abs=1e-3)
    assert np.all(out[481:-481] == 1)
    assert np.abs(faded(np.ones(100), RATE, 0.01)).max() <= 1
