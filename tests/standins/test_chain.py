"""The measuring chain end to end: stand-ins give samples, the core gives curves, and the truth is asked."""

import numpy as np
import pytest
from scipy.signal import sosfilt, sosfreqz

from imbrix.core.errors import UnusableError
from imbrix.core.measure.reading import check_recording, read_recording
from imbrix.core.measure.sweep import SweepSettings, deconvolve, exponential_sweep
from imbrix.core.signal.grid import log_grid
from imbrix.core.signal.response import Gate, arrival, response, time_shift
from imbrix.core.signal.signal import decibels
from imbrix.core.signal.smoothing import smooth_db
from imbrix.core.tune.lower import lower
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Band, Channel, Crossover
from imbrix.standins.cabin import Cabin, DriverModel, Seat
from imbrix.standins.inputs import InterfaceModel
from imbrix.standins.interface import BLOCK, StandinInterface
from imbrix.standins.noise import Noise
from imbrix.standins.paths import ScatteredPath
from imbrix.standins.places.van import cabin as wren_cabin
from imbrix.standins.processor import StandinProcessor
from imbrix.standins.stream import CabinStream

RATE = 48_000
GRID = log_grid()
WIDE = DriverModel(4.0, 0.7, 23_900.0, 1, 100.0, (), 0.0, 0.0)
"""As near to a wire as a driver gets, without harmonics."""


def through(
    channel: Channel, distance: float = 1.0, noise_db_spl: float = -200.0, model: InterfaceModel | None = None
) -> tuple[np.ndarray, Cabin]:
    space = Cabin((Seat(WIDE, ScatteredPath(distance, ())),), (), gain_db=0.0, noise=Noise(noise_db_spl))
    processor = StandinProcessor()
    processor.write(1, OutputRegister(channel=channel))
    interface = StandinInterface(space, processor, model or InterfaceModel(noise_dbfs=-200.0))
    sweep = exponential_sweep(SweepSettings(length=2**17))
    return np.concatenate(list(interface.play_and_record(sweep.samples))), space


CHAIN = Channel(
    gain_db=-3,
    high_pass=Crossover(shape="butterworth", slope_db=12, corner_hz=40),
    low_pass=Crossover(shape="linkwitz-riley", slope_db=12, corner_hz=9000),
    bands=(Band(frequency_hz=120, gain_db=6, q=2), Band(frequency_hz=2500, gain_db=-9, q=4)),
)


def recovered(channel: Channel, noise_db_spl: float) -> np.ndarray:
    """The chain's filters by measurement: a take with them over a take without."""
    with_, _ = through(channel, noise_db_spl=noise_db_spl)
    without, _ = through(Channel(), noise_db_spl=noise_db_spl)
    curves = [response(deconvolve(r[:, 0], r[:, 1], RATE, 2000), GRID, Gate()) for r in (with_, without)]
    return curves[0] / curves[1]


def test_a_known_chain_comes_back_within_a_tenth_db_and_a_degree() -> None:
    lowered = lower(CHAIN, (), RATE)
    truth = lowered.factor * sosfreqz(lowered.sos, worN=GRID, fs=RATE)[1]
    found = recovered(CHAIN, -200.0)
    assert np.abs(decibels(found / truth)).max() < 0.1
    assert np.abs(np.degrees(np.angle(found / truth))).max() < 1.0


def test_at_40_db_over_noise_it_comes_back_within_three_tenths() -> None:
    lowered = lower(CHAIN, (), RATE)
    truth = lowered.factor * sosfreqz(lowered.sos, worN=GRID, fs=RATE)[1]
    # The cabin's noise is not white: judged where the take itself shows 40 dB or more, and hardly more at most places.
    noisy, _ = through(CHAIN, noise_db_spl=40.0)
    shows = read_recording(noisy[:, 0], noisy[:, 1], RATE, timed=True)
    assert np.median(shows.over_noise_db) == pytest.approx(42, abs=4)
    found = recovered(CHAIN, 40.0)
    inside = shows.over_noise_db >= 40
    assert inside.sum() > 300
    assert np.abs(smooth_db(found, GRID, 12) - smooth_db(truth, GRID, 12))[inside].max() < 0.3


@pytest.mark.parametrize("further_m", [0.0004, 0.01, 0.35])
def test_a_change_of_path_is_found_within_two_microseconds(further_m: float) -> None:
    curves = []
    for distance in (1.0, 1.0 + further_m):
        recording, space = through(Channel(), distance, noise_db_spl=20.0)
        curves.append(response(deconvolve(recording[:, 0], recording[:, 1], RATE, 2000), GRID, Gate()))
    band = (GRID > 100) & (GRID < 16_000)
    from imbrix.core.signal.response import speed_of_sound

    truth = further_m / speed_of_sound(space.celsius)
    assert time_shift(curves[0][band], curves[1][band], GRID[band]) == pytest.approx(truth, abs=2e-6)


def test_the_arrival_is_the_distance_over_the_speed_of_sound() -> None:
    recording, space = through(Channel(delay_s=0.002), distance=1.7)
    found = arrival(deconvolve(recording[:, 0], recording[:, 1], RATE, 2000))
    from imbrix.core.signal.response import speed_of_sound

    assert found == pytest.approx(0.002 + 1.7 / speed_of_sound(space.celsius), abs=25e-6)


def test_without_a_loopback_the_latency_is_in_the_take() -> None:
    recording, _ = through(Channel(), model=InterfaceModel(loopback_connected=False, noise_dbfs=-200.0))
    assert np.abs(recording[:, 1]).max() < 1e-6
    stimulus = exponential_sweep(SweepSettings(length=2**17)).samples
    with_latency = arrival(deconvolve(recording[:, 0], stimulus, RATE, 2000))
    both, _ = through(Channel())
    assert (with_latency - arrival(deconvolve(both[:, 0], both[:, 1], RATE, 2000))) * RATE == pytest.approx(734, abs=1)


def test_too_loud_clips_at_full_scale_and_is_refused() -> None:
    recording, _ = through(Channel(gain_db=6), model=InterfaceModel(gain_db=40.0))
    assert np.abs(recording[:, 0]).max() == 1.0
    with pytest.raises(UnusableError, match=r"clips, first at \d"):
        check_recording(recording[:, 0], RATE, 2.7)


def test_an_unplugged_microphone_is_refused_as_hearing_nothing() -> None:
    recording, _ = through(Channel(), model=InterfaceModel(microphone_connected=False))
    with pytest.raises(UnusableError, match="hears nothing"):
        check_recording(recording[:, 0], RATE, 2.7)


def test_a_muted_processor_is_refused_as_noise() -> None:
    recording, _ = through(Channel(muted=True), noise_db_spl=60.0)
    with pytest.raises(UnusableError, match="over the noise"):
        read_recording(recording[:, 0], recording[:, 1], RATE, timed=True)


def test_a_short_recording_is_refused() -> None:
    with pytest.raises(UnusableError, match=r"lasts 0\.50 s"):
        check_recording(np.ones(24_000) * 0.1, RATE, 2.7)


def test_everything_recorded_lies_on_24_bit_steps() -> None:
    recording, _ = through(Channel(), noise_db_spl=40.0, model=InterfaceModel())
    steps = recording * 2**23
    assert np.abs(steps - np.round(steps)).max() < 1e-6


def test_the_cabin_is_linear_in_its_sum_of_drivers() -> None:
    """Two that play at once give the sum of each alone, at levels where harmonics do not count."""
    space = wren_cabin()
    drive = np.zeros((3 * BLOCK, 7))
    drive[10, 1] = drive[10, 4] = 1e-4
    alone = []
    for keep in ([1], [4], [1, 4]):
        running = CabinStream(space, BLOCK)
        chosen = np.zeros_like(drive)
        chosen[:, keep] = drive[:, keep]
        alone.append(np.concatenate([running.process(chosen[n : n + BLOCK]) for n in range(0, 3 * BLOCK, BLOCK)])[:, 0])
    assert alone[0] + alone[1] == pytest.approx(alone[2], abs=1e-12)


def test_the_cabin_has_reflections_modes_and_two_different_sides() -> None:
    space = wren_cabin()
    assert all(len(seat.path.reflections) >= 8 for seat in space.seats)
    assert len(space.modes) >= 3
    hertz = np.array([90.0, 400.0, 3000.0])
    left, right = space.truth(3, hertz), space.truth(4, hertz)
    assert np.abs(decibels(left / right)).max() > 1
    assert [seat.wired_backwards for seat in space.seats].count(True) == 1


def test_harmonics_rise_with_level() -> None:
    space = Cabin((Seat(DriverModel(20, 0.7, 20_000, 1, 100, (), 0.05, 0.02), ScatteredPath(1.0, ())),), (), gain_db=0)
    n = np.arange(2**15)
    levels = []
    for amplitude in (0.1, 1.0):
        running = CabinStream(space, 2**15)
        heard = running.process(amplitude * np.sin(2 * np.pi * 1000 * n / RATE)[:, None])[:, 0]
        spectrum = np.abs(np.fft.rfft(heard[8000:32_000] * np.hanning(24_000)))
        levels.append([decibels(spectrum[k * 500]) - decibels(spectrum[500]) for k in (2, 3)])
    second, third = np.array(levels[1]) - np.array(levels[0])
    assert second == pytest.approx(20, abs=1)  # in proportion to the level
    assert third == pytest.approx(40, abs=1)  # to its square


def test_blocks_of_any_size_give_the_same_sound() -> None:
    random = np.random.default_rng(0)
    samples = random.standard_normal(9000) * 0.1
    processor = StandinProcessor()
    processor.write(1, OutputRegister(channel=CHAIN.model_copy(update={"delay_s": 0.0033, "inverted": True})))
    whole = processor.stream(1).process(samples)[:, 0]
    running = processor.stream(1)
    parts = np.concatenate([running.process(part)[:, 0] for part in np.split(samples, [7, 1000, 1001, 5000])])
    assert parts == pytest.approx(whole, abs=1e-12)
    lowered = lower(CHAIN, (), RATE)
    direct = -abs(lowered.factor) * sosfilt(lowered.sos, samples)
    assert whole[158:] == pytest.approx(direct[:-158], abs=1e-12)


def test_the_truth_is_a_direct_sum_over_the_impulse() -> None:
    space = wren_cabin()
    spectrum = np.fft.rfft(space.impulse(2))
    assert space.truth(2, np.array([1000.0]))[0] == pytest.approx(spectrum[1000 * space.taps // RATE], rel=1e-9)
