"""Prediction against scipy.signal.sosfreqz and against samples run through scipy.signal.sosfilt."""

import numpy as np
import pytest
from scipy.signal import sosfilt, sosfreqz

from imbrix.core.predict.predict import Predictor, combine
from imbrix.core.signal.grid import log_grid
from imbrix.core.tune.lower import lower
from imbrix.core.tune.tune import Band, Channel, Crossover

RATE = 48_000
GRID = log_grid()
CHANNEL = Channel(
    gain_db=-4.5,
    inverted=True,
    delay_s=0.0021,
    high_pass=Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=320),
    low_pass=Crossover(shape="bessel", slope_db=18, corner_hz=3100),
    bands=(
        Band(frequency_hz=700, gain_db=-5, q=3),
        Band(kind="low_shelf", frequency_hz=400, gain_db=3, q=0.7),
        Band(kind="high_shelf", frequency_hz=2000, gain_db=-2, q=0.7),
        Band(kind="all_pass", frequency_hz=1200, q=1),
    ),
)


def test_the_grid_holds_1_khz_both_ends_and_96_points_to_the_octave() -> None:
    assert 1000.0 in GRID
    assert (GRID[0], GRID[-1]) == (20.0, 20_000.0)
    assert np.diff(np.log2(GRID[1:-1])) == pytest.approx(np.full(GRID.size - 3, 1 / 96))
    with pytest.raises(ValueError, match="read-only"):
        GRID[0] = 1


def test_prediction_equals_sosfreqz() -> None:
    lowered = lower(CHANNEL, (), RATE)
    theirs = sosfreqz(lowered.sos, worN=GRID, fs=RATE)[1] * lowered.factor
    theirs = theirs * np.exp(-2j * np.pi * GRID * lowered.delay / RATE)
    assert np.abs(Predictor(GRID, RATE).channel(CHANNEL) / theirs - 1).max() < 1e-9


def test_prediction_equals_samples_through_sosfilt() -> None:
    """The drawn curve is what the coefficients do to samples, within 1e-6 dB."""
    lowered = lower(CHANNEL, (), RATE)
    impulse = np.zeros(2**17)
    impulse[lowered.delay] = lowered.factor
    spectrum = np.fft.rfft(sosfilt(lowered.sos, impulse))
    hertz = np.fft.rfftfreq(impulse.size, 1 / RATE)
    inside = (hertz >= 20) & (hertz <= 20_000)
    own = Predictor(hertz[inside], RATE).channel(CHANNEL)
    assert np.abs(20 * np.log10(np.abs(own / spectrum[inside]))).max() < 1e-6


def test_common_bands_act_on_every_channel() -> None:
    predictor = Predictor(GRID, RATE)
    band = Band(frequency_hz=1000, gain_db=6, q=1)
    own = predictor.channel(Channel(bands=(band,)))
    assert predictor.channel(Channel(), (band,)) == pytest.approx(own)


def test_only_what_changed_is_computed(monkeypatch: pytest.MonkeyPatch) -> None:
    predictor = Predictor(GRID, RATE)
    channels = [CHANNEL.model_copy(update={"gain_db": float(-n)}) for n in range(5)]
    first = predictor.channels(channels)
    asked: list[int] = []
    compute = predictor._compute
    monkeypatch.setattr(predictor, "_compute", lambda keys: asked.append(len(keys)) or compute(keys))
    channels[2] = channels[2].model_copy(update={"gain_db": -20.0})
    second = predictor.channels(channels)
    assert asked == [1]
    assert np.array_equal(first[[0, 1, 3, 4]], second[[0, 1, 3, 4]])
    assert not np.allclose(first[2], second[2])


def test_memory_is_bounded_and_a_full_memory_changes_nothing() -> None:
    predictor = Predictor(GRID, RATE, remember=4)
    before = predictor.channel(CHANNEL)
    for n in range(20):
        predictor.channel(CHANNEL.model_copy(update={"gain_db": float(n) / 10}))
    assert len(predictor._seen) <= 6
    assert np.array_equal(predictor.channel(CHANNEL), before)


def test_two_equal_sources() -> None:
    """+6.02 dB in phase; a delay gives comb dips at (2k+1)/(2 tau), closed form."""
    predictor = Predictor(GRID, RATE)
    same = combine(predictor.channels([Channel(), Channel()]), [True, True])
    assert 20 * np.log10(np.abs(same)) == pytest.approx(np.full(GRID.size, 6.0206), abs=1e-4)
    tau = 48 / RATE
    dips = np.array([(2 * k + 1) / (2 * tau) for k in range(4)])
    at_dips = Predictor(dips, RATE)
    comb = combine(at_dips.channels([Channel(), Channel(delay_s=tau)]), [True, True])
    assert np.abs(comb).max() < 1e-9


def test_muted_rows_do_not_sum() -> None:
    rows = np.array([np.ones(3), 2 * np.ones(3), 4 * np.ones(3)], dtype=complex)
    assert combine(rows, [True, False, True]).tolist() == [5, 5, 5]


def test_a_channel_without_filters_has_an_empty_stack() -> None:
    lowered = lower(Channel(gain_db=-6.0206, inverted=True, delay_s=0.001), (), RATE)
    assert lowered.sos.shape == (0, 6)
    assert lowered.delay == 48
    assert lowered.factor == pytest.approx(-0.5, abs=1e-5)
