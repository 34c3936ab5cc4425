"""The stand-in's FIR filter, block by block, against a convolution of the whole."""

import numpy as np
import scipy.signal

from imbrix.core.tune.fir import Taps
from imbrix.core.tune.models import TAPS
from imbrix.core.tune.register import OutputRegister
from imbrix.core.tune.tune import Channel, Crossover
from imbrix.standins.processor import StandinProcessor


def run(channels: list[Channel], signal: np.ndarray, seed: int = 3) -> np.ndarray:
    processor = StandinProcessor(limits=TAPS)
    for n, channel in enumerate(channels, 1):
        processor.write(n, OutputRegister(channel=channel, sources=(1.0,)))
    stream, drawn, at, out = processor.stream(len(channels)), np.random.default_rng(seed), 0, []
    while at < signal.size:
        some = int(drawn.integers(1, 1500))
        out.append(stream.process(signal[at : at + some]))
        at += some
    return np.concatenate(out)


def test_taps_of_any_length_come_out_as_a_convolution_would() -> None:
    drawn = np.random.default_rng(5)
    signal = 0.1 * drawn.normal(size=9000)
    for count in (1, 3, 511, 512, 513, 4096):
        values = drawn.normal(size=count) / np.sqrt(count)
        taps = Taps.of(values, 48_000, 0)
        heard = run([Channel(delay_s=7 / 48_000, taps=taps)], signal)[:, 0]
        wanted = np.convolve(np.concatenate((np.zeros(7), signal)), taps.values)[: signal.size]
        assert np.allclose(heard, np.clip(wanted, -1, 1), atol=1e-12)


def test_a_linear_phase_pair_comes_out_as_a_delayed_pulse() -> None:
    low, high = (
        Channel(**{end: Crossover(shape="linkwitz-riley", slope_db=96, corner_hz=2000, taps=2047)})
        for end in ("low_pass", "high_pass")
    )
    pulse = np.zeros(6000)
    pulse[10] = 0.5
    heard = run([low, high], pulse)
    whole = heard.sum(axis=1)
    whole[10 + 1023] -= 0.5
    assert np.abs(whole).max() < 1e-4 * 0.5
    power = np.abs(scipy.signal.freqz(heard[:, 0], worN=[500.0, 4000.0], fs=48_000)[1])
    assert power[0] > 0.49
    assert power[1] < 1e-4
