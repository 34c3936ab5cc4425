"""Headroom against filters run by scipy in another form, and closed forms."""

import numpy as np
import pytest
import scipy.signal

from imbrix.core.predict.headroom import lifted_db, peaks, signals
from imbrix.core.predict.predict import Predictor
from imbrix.core.signal.grid import log_grid
from imbrix.core.system.layouts import ready
from imbrix.core.tune.changes import changes
from imbrix.core.tune.lower import lower
from imbrix.core.tune.tune import Band, Channel, Crossover, Input, Tune, neutral

RATE = 48_000
PREDICTOR = Predictor(log_grid(), RATE)
LAYOUT = ready("front-3-sub", "left")


def with_channel(**values: object) -> Tune:
    plain = neutral(LAYOUT).with_channel("mid-l", high_pass=None)
    return plain.with_channel("mid-l", **values)


def by_transfer_function(samples: np.ndarray, channel: Channel) -> float:
    """The peak in dB, section after section as ratios of polynomials (scipy.signal.lfilter)."""
    for row in lower(channel, (), RATE).sos:
        samples = scipy.signal.lfilter(row[:3], row[3:], samples)
    return float(20 * np.log10(np.abs(samples).max()) + channel.gain_db)


def test_nothing_done_peaks_at_full_scale() -> None:
    found = peaks(with_channel(), "mid-l", PREDICTOR)
    assert found.sine_db == pytest.approx(0, abs=1e-9)
    assert found.sweep_db == pytest.approx(0, abs=1e-3)
    assert found.pink_db == pytest.approx(0, abs=1e-9)


@pytest.mark.parametrize("seed", range(6))
def test_sweep_and_pink_noise_peak_where_scipy_has_them(seed: int) -> None:
    random = np.random.default_rng(seed)
    bands = tuple(
        Band(
            frequency_hz=float(np.exp(random.uniform(np.log(60), np.log(9000)))),
            gain_db=float(random.uniform(-9, 6)),
            q=float(random.uniform(0.6, 6)),
        )
        for _ in range(6)
    )
    cross = Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=float(random.uniform(60, 400)))
    tune = with_channel(gain_db=float(random.uniform(-6, 4)), bands=bands, high_pass=cross)
    found = peaks(tune, "mid-l", PREDICTOR)
    sweep, pink = signals(RATE)
    assert found.sweep_db == pytest.approx(by_transfer_function(sweep, tune.channels["mid-l"]), abs=0.2)
    assert found.pink_db == pytest.approx(by_transfer_function(pink, tune.channels["mid-l"]), abs=0.2)
    # A slow sweep nearly settles: it peaks about where the worst sine does.
    assert found.sweep_db == pytest.approx(found.sine_db, abs=0.7)


def test_the_worst_sine_of_one_bell_is_its_top() -> None:
    tune = with_channel(gain_db=-1.0, bands=(Band(frequency_hz=1000.0, gain_db=5.0, q=2.0),))
    found = peaks(tune, "mid-l", PREDICTOR)
    assert (found.sine_db, found.sine_hz) == pytest.approx((4.0, 1000.0), rel=0.01)


def test_an_all_pass_raises_peaks_that_no_sine_shows() -> None:
    turned = with_channel(bands=tuple(Band(kind="all_pass", frequency_hz=at, q=0.7) for at in (80.0, 300.0, 1200.0)))
    found = peaks(turned, "mid-l", PREDICTOR)
    assert found.sine_db == pytest.approx(0, abs=1e-6)
    assert found.worst_db > 0.05


def test_two_inputs_add_up_to_six_decibels() -> None:
    tune = with_channel().model_copy(update={"routing": {"mid-l": (1.0, 1.0)}})
    assert peaks(tune, "mid-l", PREDICTOR).sine_db == pytest.approx(6.02, abs=0.01)
    halved = tune.model_copy(update={"inputs": (Input(gain_db=-6.0206), Input(gain_db=-6.0206))})
    assert peaks(halved, "mid-l", PREDICTOR).sine_db == pytest.approx(0, abs=0.01)
    assert peaks(halved, "mid-l", PREDICTOR).pink_db == pytest.approx(0, abs=0.01)


def test_a_band_that_is_off_does_nothing_and_is_told() -> None:
    bell = Band(frequency_hz=1000.0, gain_db=5.0, q=2.0)
    off = bell.model_copy(update={"off": True})
    assert lower(Channel(bands=(off,)), (off,), RATE).sos.shape == (0, 6)
    assert peaks(with_channel(bands=(off,)), "mid-l", PREDICTOR).sine_db == pytest.approx(0, abs=1e-9)
    before, after = with_channel(bands=(bell,)), with_channel(bands=(off,))
    (change,) = changes(before, after, LAYOUT)
    assert change.after == "peaking 1000 Hz, +5.0 dB, Q 2.00, off"


def test_what_channels_lift_is_the_most_of_their_bells_where_their_crossovers_let_them_be_heard() -> None:
    heard, beyond = Band(frequency_hz=1000, gain_db=4, q=2), Band(frequency_hz=100, gain_db=5, q=4)
    cut = Band(frequency_hz=5000, gain_db=-6, q=5)
    corner = Crossover(shape="linkwitz-riley", slope_db=24, corner_hz=400)
    tune = with_channel(high_pass=corner, bands=(heard, beyond, cut), gain_db=-7, muted=True)
    tune = tune.with_channel("mid-r", high_pass=None, bands=(heard.model_copy(update={"gain_db": 1.5}),))
    lifted = lifted_db(tune, PREDICTOR)
    at = {hertz: float(np.interp(hertz, PREDICTOR.frequencies, lifted)) for hertz in (100, 1000, 5000)}
    assert at[1000] == pytest.approx(4, abs=0.05)
    assert at[100] < 0.1
    assert 0 <= at[5000] < 0.1
    assert lifted.min() >= 0
